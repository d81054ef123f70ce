"""The event log: well-formed XES (IEEE Std 1849-2016), whole, in the order recorded, and with nobody named."""

from __future__ import annotations

import xml.etree.ElementTree as ET
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.runsheet.events import StepDone, StepSkipped, StepStarted
from reedling.exchange.event_log import LoggedEvent, LoggedJob, Transition, xes_of
from reedling.exchange.text import clean_text
from reedling.wiring import open_context

XES = "{http://www.xes-standard.org/}"
STANDARD_TRANSITIONS = {
    "schedule", "assign", "withdraw", "reassign", "start", "suspend", "resume", "pi_abort", "ate_abort",
    "complete", "autoskip", "manualskip", "unknown",
}  # fmt: skip
"""IEEE Std 1849-2016, the standard lifecycle model; from memory."""

TEXTS = st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"]), max_size=20).map(clean_text)
EVENTS = st.builds(
    LoggedEvent,
    name=TEXTS,
    at=st.datetimes(timezones=st.just(UTC)),
    transition=st.sampled_from(("start", "complete", "manualskip")),
    step=TEXTS,
)
JOBS = st.lists(
    st.builds(
        LoggedJob,
        order=TEXTS,
        events=st.lists(EVENTS, max_size=5).map(tuple),
        about=st.dictionaries(st.sampled_from(("model", "asset")), TEXTS),
    ),
    max_size=4,
)


def value_of(of: ET.Element, key: str) -> str:
    """What an element says under a key; empty where it does not say it."""
    return next((e.attrib["value"] for e in of if e.attrib.get("key") == key), "")


def as_kept(text: str) -> str:
    return text.replace("\ufffe", "\ufffd").replace("\uffff", "\ufffd")


@given(TEXTS, JOBS)
def test_whatever_was_written_reads_back_from_the_log(title: str, jobs: list[LoggedJob]) -> None:
    log = ET.fromstring("".join(xes_of(title, jobs)))
    assert log.tag == f"{XES}log"
    assert value_of(log, "concept:name") == as_kept(title)
    traces = log.findall(f"{XES}trace")
    assert [value_of(t, "concept:name") for t in traces] == [as_kept(job.order) for job in jobs]
    for trace, job in zip(traces, jobs, strict=True):
        assert value_of(trace, "model") == as_kept(job.about.get("model", ""))
        events = trace.findall(f"{XES}event")
        assert [
            (value_of(e, "concept:name"), value_of(e, "lifecycle:transition"), value_of(e, "step"))
            for e in events
        ] == [(as_kept(e.name), e.transition, as_kept(e.step)) for e in job.events]
        read = [datetime.fromisoformat(value_of(e, "time:timestamp")) for e in events]
        assert read == [e.at for e in job.events]


def test_the_log_of_the_demo_has_every_step_of_every_job_and_names_nobody(
    sign_in: Callable[[str], TestClient], demo_dir: Path
) -> None:
    ines = sign_in("ines")
    answer = ines.get("/api/v1/incident-types/IT-001/jobs-together.xes?model=WR3")
    assert answer.headers["content-type"].startswith("application/xml")
    assert 'filename="IT-001-jobs.xes"' in answer.headers["content-disposition"]
    log = ET.fromstring(answer.text)
    wanted = ines.get("/api/v1/incident-types/IT-001/jobs-together?model=WR3").json()["found"]
    traces = log.findall(f"{XES}trace")
    assert len(traces) == wanted["n"] > 5
    context = open_context(demo_dir)
    with context.reading() as unit:
        names = unit.people.names()
        for trace in traces:
            order = value_of(trace, "concept:name")
            recorded = unit.recorded.events(order)
            steps = [e for e in recorded if isinstance(e, StepStarted | StepDone | StepSkipped)]
            told = [e for e in trace.findall(f"{XES}event") if value_of(e, "step")]
            assert [value_of(e, "step") for e in told] == [e.line for e in steps]
            times = [datetime.fromisoformat(value_of(e, "time:timestamp")) for e in told]
            assert max(abs(a - b.at) for a, b in zip(times, steps, strict=True)) < timedelta(seconds=1)
            transitions = {value_of(e, "lifecycle:transition") for e in trace.findall(f"{XES}event")}
            assert transitions <= STANDARD_TRANSITIONS
    assert not [name for person, name in names.items() if name in answer.text or f'"{person}"' in answer.text]
    assert sign_in("runa").get("/api/v1/incident-types/IT-001/jobs-together.xes").status_code == 403


def test_every_transition_written_is_one_of_the_standard() -> None:
    assert set(Transition.__args__) <= STANDARD_TRANSITIONS  # type: ignore[attr-defined]
