"""A fault guide on a job, against the rule written out plainly over the whole record."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.evidence.job_summary import summarise_job
from reedling.core.faultguide.order_guides import OrderGuide, rounded
from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.questions import Limits, OneOf, Option, Reading, YesNo
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.events import Answered, Arrived, FieldEvent, HeadedOut
from reedling.core.runsheet.job import record
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Source
from reedling.core.runsheet.run_view import job_view
from reedling.core.runsheet.site_events import CheckSeen, NoCauseFits, RemedyTried
from reedling.errors import InvalidInput
from tests.core.faultguide.test_faultguide import a_guide
from tests.examples import examples

T0 = datetime(2026, 3, 2, 8, tzinfo=UTC)
PLAN = Plan(
    title="Stalls",
    steps=(
        Step(
            id="look",
            phase="Diagnose",
            text="Look",
            minutes=Minutes(likely=7),
            questions=(
                OneOf(
                    id="seat",
                    label="Seat",
                    options=(Option(id="scored", label="Scored"), Option(id="sound", label="Sound")),
                ),
                YesNo(id="leak", label="Leak"),
                Reading(id="bar", label="Pressure", unit="bar", limits=Limits(low=90)),
            ),
        ),
    ),
)
SOURCE = Source(document="WP-1", revision="A", title="Stalls")
LOOKS = ("WP-1:seat=scored", "WP-1:leak=yes", "WP-1:bar!", "")


def an_order(seed: int) -> OrderGuide:
    guide = rounded(a_guide(seed, 4, 4, 3))
    return OrderGuide(
        document="FG-1",
        revision="A",
        title="Stalls",
        n_jobs=40,
        guide=guide,
        labels=tuple(f"Cause {c}" for c in guide.causes),
        looks=LOOKS,
        lines=("WP-1:look", "WP-1:look", "WP-1:look", ""),
        remedies=("x", "y", "z"),
        remedy_lines=("", "WP-1:gone", ""),
    )


EVENTS = st.one_of(
    st.builds(lambda v: ("seat", v), st.sampled_from(("scored", "sound"))),
    st.builds(lambda v: ("leak", v), st.booleans()),
    st.builds(lambda v: ("bar", v), st.sampled_from((70.0, 95.0))),
    st.builds(lambda k, v: ("check", f"k{k}", v), st.integers(0, 3), st.sampled_from((True, False, None))),
    st.builds(lambda r, v: ("remedy", f"r{r}", v), st.integers(0, 2), st.booleans()),
    st.builds(lambda w: ("none", w), st.sampled_from(("", "The motor smells burnt"))),
)


def as_events(told: list[tuple[object, ...]]) -> Iterator[FieldEvent]:
    for n, one in enumerate(told):
        at = T0 + timedelta(minutes=n + 1)
        match one:
            case ("check", str(check), bool() | None as seen):
                yield CheckSeen(at=at, check=check, seen=seen)
            case ("remedy", str(remedy), bool(helped)):
                yield RemedyTried(at=at, remedy=remedy, helped=helped)
            case ("none", str(text)):
                yield NoCauseFits(at=at, text=text)
            case (str(question), value):
                yield Answered(at=at, question=f"WP-1:{question}", value=value)  # type: ignore[arg-type]


@settings(max_examples=examples(200), deadline=None)
@given(st.integers(0, 10_000), st.lists(EVENTS, max_size=12))
def test_a_guide_on_a_job_follows_from_all_that_was_recorded(
    seed: int, told: list[tuple[object, ...]]
) -> None:
    order = an_order(seed)
    sheet = replace(compile_runsheet([(SOURCE, PLAN)]), guide=order)
    job = Job()
    for event in (HeadedOut(at=T0), Arrived(at=T0), *as_events(told)):
        job = record(sheet, job, event)
    found = job_view(sheet, job).guide
    assert found is not None

    # Plainly: the last word on each thing, each cause weighed by all of it.
    answers: dict[str, object] = {}
    seen: dict[str, bool] = {}
    tried: dict[str, bool] = {}
    none = ""
    for one in told:
        match one:
            case ("check", str(check), None):
                seen.pop(check, None)
            case ("check", str(check), bool(value)):
                seen[check] = value
            case ("remedy", str(remedy), bool(value)):
                tried[remedy] = value
            case ("none", str(text)):
                none = text
            case (str(question), value):
                answers[question] = value
    looked = {
        "k0": answers["seat"] == "scored" if "seat" in answers else None,
        "k1": answers.get("leak"),
        "k2": answers["bar"] == 70.0 if "bar" in answers else None,
    } | seen
    weights = []
    for i in range(4):
        weight = order.guide.chances[i]
        for told_by in order.guide.checks:
            if looked.get(told_by.id) is not None:
                weight *= told_by.yes[i] if looked[told_by.id] else 1 - told_by.yes[i]
        for repair in order.guide.repairs:
            if tried.get(repair.id) is False:
                weight *= 1 - repair.fixes[i]
        weights.append(weight)
    total = sum(weights)
    assert found.is_impossible == (total == 0)
    if total > 0:
        expected = {f"c{i}": w / total for i, w in enumerate(weights)}
        assert {c.cause: c.now for c in found.causes} == pytest.approx(expected)
        assert [c.now for c in found.causes] == sorted((c.now for c in found.causes), reverse=True)
    state = {None: "open", True: "so", False: "not so"}
    assert [c.state for c in found.checks] == [state[looked.get(f"k{i}")] for i in range(4)]  # type: ignore[index]
    helped = {None: "open", True: "helped", False: "did not help"}
    assert [r.state for r in found.remedies] == [helped[tried.get(f"r{i}")] for i in range(3)]
    ended = total == 0 or bool(none) or True in tried.values()
    assert (found.next is None) == ended
    if found.next is not None:
        assert found.next.state == "open"
        assert found.why
    assert (found.none_of_these or "") == none
    assert (found.found != "") == (True in tried.values())
    assert [r.line for r in found.remedies] == ["", "", ""], "a line that is not there is not named"

    summary = summarise_job(
        sheet,
        replace(job, visits=tuple(replace(v, left_at=v.arrived_at, outcome="finished") for v in job.visits)),
        [],
        order="o",
        incident_type="IT-1",
        asset="a",
        symptom="s",
    )
    kept = {q.removeprefix("FG-1:"): v for q, v in summary.choices if q.startswith("FG-1:")}
    assert kept == {k: "yes" if v else "no" for k, v in seen.items()}
    assert {r: did for _, r, did in summary.tried} == tried


def test_what_the_guide_does_not_have_is_refused_and_so_is_all_of_it_without_a_guide() -> None:
    order = an_order(1)
    sheet = replace(compile_runsheet([(SOURCE, PLAN)]), guide=order)
    job = record(sheet, record(sheet, Job(), HeadedOut(at=T0)), Arrived(at=T0))
    for event in (CheckSeen(at=T0, check="k9", seen=True), RemedyTried(at=T0, remedy="k1", helped=False)):
        with pytest.raises(InvalidInput, match="has no"):
            record(sheet, job, event)
    bare = replace(sheet, guide=None)
    with pytest.raises(InvalidInput, match="Fault guide"):
        record(bare, job, NoCauseFits(at=T0, text="x"))
    assert job_view(bare, job).guide is None
