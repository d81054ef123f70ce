"""Two lots of jobs compared: every job counted once on its side, and a change of mix is no difference."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.evidence.compared_jobs import compare_jobs
from reedling.core.evidence.cross_filter import Facet, JobFacts, columns_of, facet_values
from reedling.core.evidence.kept_views import LONGEST_NAME, named_view
from reedling.errors import InvalidInput

T0 = datetime(2026, 1, 5, tzinfo=UTC)
SETTLED = T0 + timedelta(days=20)


def job(
    n: int,
    *,
    model: str = "M",
    cause: str = "c",
    district: str = "north",
    day: int = 0,
    fixed: bool = True,
    minutes: float | None = 60.0,
    n_visits: int = 1,
) -> JobFacts:
    finished = T0 + timedelta(days=day, minutes=n)
    return JobFacts(
        order=f"WO-{n}",
        finished_at=finished,
        values=facet_values(
            model=model,
            district=district,
            symptom="s",
            issued=("W A",),
            cause=cause,
            remedy="r",
            return_reasons=(),
            finished_at=finished,
        ),
        fixed=fixed,
        doubtful=minutes is None,
        minutes=minutes,
        n_visits=n_visits,
        n_findings=n % 3,
        n_helped=n % 2,
        technician=f"t{n % 3}",
    )


JOBS: st.SearchStrategy[list[dict[str, object]]] = st.lists(
    st.builds(
        dict,
        model=st.sampled_from(("A", "B")),
        cause=st.sampled_from(("c", "d")),
        district=st.sampled_from(("north", "south")),
        day=st.integers(0, 40),
        fixed=st.booleans(),
        minutes=st.one_of(st.none(), st.floats(5, 300)),
        n_visits=st.integers(1, 2),
    ),
    max_size=30,
)
CHOICES = st.dictionaries(
    st.sampled_from(("model", "cause", "district")),
    st.lists(st.sampled_from(("A", "B", "c", "d", "north", "south")), max_size=2, unique=True),
    max_size=3,
)
PLACES: dict[Facet, int] = {"model": 0, "district": 1, "cause": 4}


def meets(one: JobFacts, choices: dict[Facet, list[str]]) -> bool:
    return all(not values or one.values[PLACES[facet]] in values for facet, values in choices.items())


@given(JOBS, CHOICES, st.one_of(st.none(), CHOICES))
def test_every_job_is_counted_once_on_its_side(
    held: list[dict[str, object]], first: dict[Facet, list[str]], second: dict[Facet, list[str]] | None
) -> None:
    jobs = [job(n, **facts) for n, facts in enumerate(held)]  # type: ignore[arg-type]
    found = compare_jobs(columns_of(jobs), first, second, settled_by=SETTLED)
    one = [j for j in jobs if meets(j, first)]
    other = [j for j in jobs if j not in one and (second is None or meets(j, second))]
    assert (found.n_first, found.n_second) == (len(one), len(other))
    both = 0 if second is None else sum(meets(j, second) for j in one)
    assert found.n_both == both
    by = {share.measure: share for share in found.shares}
    for side, lot in (("first", one), ("second", other)):
        settled = [j for j in lot if not j.doubtful and j.finished_at <= SETTLED]
        fixed = getattr(by["fixed first time"], side)
        assert (fixed.n_hits, fixed.n_total) == (sum(j.fixed for j in settled), len(settled))
        again = getattr(by["more than one visit"], side)
        assert (again.n_hits, again.n_total) == (sum(j.n_visits > 1 for j in lot), len(lot))
        helped = getattr(by["asked for help"], side)
        assert (helped.n_hits, helped.n_total) == (sum(j.n_helped > 0 for j in lot), len(lot))
    told_apart = {f for choices in (first, second or {}) for f, values in choices.items() if values}
    assert set(found.alike) == {"model", "symptom", "cause"} - told_apart
    if found.minutes is not None:
        assert found.minutes.n_first <= sum(j.minutes is not None for j in one)
        assert found.minutes.low <= found.minutes.value <= found.minutes.high
    for share in found.shares:
        few = (
            share.difference is None or min(share.difference.first_total, share.difference.second_total) < 10
        )
        assert (share.verdict == "too few to say") == few
        assert (share.sentence == "too few to say") == few
        if share.difference is not None and share.verdict in ("higher", "lower"):
            ends = sorted(abs(x) * 100 for x in (share.difference.low, share.difference.high))
            side = "less" if share.verdict == "higher" else "more"
            size = abs(share.difference.difference) * 100
            assert share.sentence == f"{size:.0f} points {side} ({ends[0]:.0f}–{ends[1]:.0f})"


def n_told_of_a_district(n_worlds: int, slower: float) -> tuple[int, int]:
    """In how many worlds the range holds by how much the south is slower, and in how many it is called so: it has the
    long faults more often."""
    held = told = 0
    for seed in range(n_worlds):
        rng = np.random.default_rng(seed)
        jobs = []
        for n in range(160):
            south = n % 2 == 0
            long = rng.random() < (0.7 if south else 0.3)
            minutes = (120 if long else 60) * rng.lognormal(0, 0.2) + (slower if south else 0.0)
            jobs.append(
                job(
                    n,
                    cause="long" if long else "short",
                    district="south" if south else "north",
                    minutes=float(minutes),
                )
            )
        found = compare_jobs(columns_of(jobs), {"district": ("north",)}, None, settled_by=SETTLED)
        assert found.minutes is not None
        held += found.minutes.low <= slower <= found.minutes.high
        told += found.minutes_verdict == "higher"
    return held, told


@pytest.mark.slow
@pytest.mark.parametrize("slower", [0.0, 15.0])
def test_a_district_with_other_faults_is_not_called_slower_for_it(slower: float) -> None:
    held, told = n_told_of_a_district(100, slower)
    assert held >= 89, "a fair 95 % range misses it in more than 11 of 100 with a chance of 0.004"
    assert told >= 90 if slower else told <= 8


@pytest.mark.parametrize(
    ("name", "choices"),
    [
        ("", {"model": ("A",)}),
        ("x" * (LONGEST_NAME + 1), {"model": ("A",)}),
        ("North", {}),
        ("North", {"model": ()}),
    ],
)
def test_a_view_without_a_name_or_a_choice_is_refused(
    name: str, choices: dict[Facet, tuple[str, ...]]
) -> None:
    with pytest.raises(InvalidInput):
        named_view("IT-001", name, choices, "ines", T0)


def test_a_view_keeps_what_is_chosen() -> None:
    view = named_view("IT-001", "  North,  long ", {"model": ("A",), "cause": ()}, "ines", T0)
    assert (view.name, view.choices) == ("North, long", {"model": ("A",)})
