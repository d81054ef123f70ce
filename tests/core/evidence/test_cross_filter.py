"""Filters that cross, against counting each job by itself."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from statistics import median

from hypothesis import given
from hypothesis import strategies as st

from reedling.core.evidence.cross_filter import (
    FACETS,
    Facet,
    JobFacts,
    PhotoCounts,
    columns_of,
    cross_filter,
    strata_of,
)

DAY = datetime(2026, 3, 1, tzinfo=UTC)
JOBS = st.lists(
    st.builds(
        JobFacts,
        order=st.uuids().map(str),
        finished_at=st.integers(0, 90).map(lambda d: DAY + timedelta(days=d)),
        values=st.tuples(*(st.sampled_from(["a", "b", "c"]) for _ in FACETS)),
        fixed=st.booleans(),
        doubtful=st.booleans(),
        minutes=st.none() | st.integers(1, 90).map(float),
        travel_minutes=st.none() | st.integers(0, 60).map(float),
        km=st.none() | st.integers(0, 40).map(float),
        n_visits=st.integers(1, 3),
        n_findings=st.integers(0, 2),
        n_helped=st.integers(0, 1),
        photos=st.builds(
            PhotoCounts,
            n=st.integers(6, 9),
            blurred=st.integers(0, 2),
            dark=st.integers(0, 2),
            same_again=st.integers(0, 2),
            doubtful=st.integers(2, 6),
        ),
    ),
    max_size=30,
    unique_by=lambda job: job.order,
)
CHOSEN = st.dictionaries(
    st.sampled_from(FACETS), st.lists(st.sampled_from(["a", "b", "nobody has it"]), max_size=2), max_size=3
)


@given(JOBS, CHOSEN, st.integers(0, 90))
def test_filters_that_cross_count_what_counting_each_job_counts(
    jobs: list[JobFacts], chosen: dict[Facet, list[str]], young_after: int
) -> None:
    settled_by = DAY + timedelta(days=young_after)

    def meets(job: JobFacts, but: Facet | None = None) -> bool:
        return all(
            job.values[FACETS.index(facet)] in wanted
            for facet, wanted in chosen.items()
            if wanted and facet != but
        )

    def counts(held: list[JobFacts]) -> tuple[int, int]:
        settled = [j for j in held if not j.doubtful and j.finished_at <= settled_by]
        return sum(j.fixed for j in settled), len(settled)

    found = cross_filter(columns_of(jobs), chosen, settled_by=settled_by)
    met = [job for job in jobs if meets(job)]
    assert (found.n, found.n_of) == (len(met), len(jobs))
    assert (found.fixed.n_hits, found.fixed.n_total) == counts(met)
    assert found.n_too_young == sum(not j.doubtful and j.finished_at > settled_by for j in met)
    assert found.repeat_visits.n_hits == sum(j.n_visits > 1 for j in met)
    assert found.with_findings.n_hits == sum(j.n_findings > 0 for j in met)
    assert found.helped.n_hits == sum(j.n_helped > 0 for j in met)
    for name in ("n", "blurred", "dark", "same_again", "doubtful"):
        assert getattr(found.photos, name) == sum(getattr(j.photos, name) for j in met)
    assert (found.doubtful_photos.n_hits, found.doubtful_photos.n_total) == (
        found.photos.doubtful,
        found.photos.n,
    )
    for spread, figures in (
        (found.minutes, [j.minutes for j in met]),
        (found.travel_minutes, [j.travel_minutes for j in met]),
        (found.way_km, [j.km for j in met]),
    ):
        known = [figure for figure in figures if figure is not None]
        assert (spread.median if spread else None) == (median(known) if known else None)
        assert (spread.count if spread else 0) == len(known)
    assert set(found.orders) == {j.order for j in met}
    for facet in found.facets:
        i = FACETS.index(facet.facet)
        among = [job for job in jobs if meets(job, but=facet.facet)]
        assert {bar.value for bar in facet.bars} == {job.values[i] for job in among}
        for bar in facet.bars:
            own = [job for job in among if job.values[i] == bar.value]
            timed = [j.minutes for j in own if j.minutes is not None]
            assert (bar.n, (bar.fixed.n_hits, bar.fixed.n_total)) == (len(own), counts(own))
            assert bar.minutes == (median(timed) if timed else None)


@given(JOBS, st.integers(0, 90))
def test_strata_count_the_settled_jobs_of_both_sides_among_those_alike(
    jobs: list[JobFacts], young_after: int
) -> None:
    settled_by = DAY + timedelta(days=young_after)
    at = FACETS.index("revision"), FACETS.index("model"), FACETS.index("symptom")
    expected = []
    for kind in sorted({(j.values[at[1]], j.values[at[2]]) for j in jobs}):
        sides = [
            [
                j
                for j in jobs
                if (j.values[at[1]], j.values[at[2]]) == kind
                and j.values[at[0]] == side
                and not j.doubtful
                and j.finished_at <= settled_by
            ]
            for side in "ab"
        ]
        expected.append(tuple(n for side in sides for n in (sum(j.fixed for j in side), len(side))))
    if not {"a", "b"} <= {j.values[at[0]] for j in jobs}:
        expected = []
    found = strata_of(
        columns_of(jobs), "revision", "a", "b", alike=("model", "symptom"), settled_by=settled_by
    )
    assert [(s.first_hits, s.first_total, s.second_hits, s.second_total) for s in found] == expected
