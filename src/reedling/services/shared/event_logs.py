"""A job as a trace of an event log."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from reedling.core.orders.orders import Order
from reedling.core.runsheet.events import (
    Arrived,
    FieldEvent,
    HeadedOut,
    LeftSite,
    StepDone,
    StepSkipped,
    StepStarted,
)
from reedling.core.runsheet.lines import RunsheetLine
from reedling.exchange.event_log import LoggedEvent, LoggedJob


def logged_job(order: Order, events: Iterable[FieldEvent]) -> LoggedJob:
    """What was recorded on an order: its visits, and its steps as they were begun, done and left out."""
    lines = {line.id: line for line in order.runsheet.lines}
    return LoggedJob(
        order=order.id,
        events=tuple(_logged(events, lines)),
        about={
            "asset": order.asset.code,
            "model": order.asset.model,
            "symptom": order.symptom,
            "incident type": order.incident_type or "",
            "issued with": ", ".join(f"{s.document} {s.revision}" for s in order.runsheet.sources),
        },
    )


def _logged(events: Iterable[FieldEvent], lines: Mapping[str, RunsheetLine]) -> Iterator[LoggedEvent]:
    def of_step(line_id: str) -> tuple[str, str]:
        line = lines.get(line_id)
        return (line.text if line else line_id), line_id

    for event in events:
        match event:
            case HeadedOut():
                yield LoggedEvent(name="Head out", at=event.at, transition="complete")
            case Arrived():
                yield LoggedEvent(name="Arrive on site", at=event.at, transition="complete")
            case StepStarted():
                name, step = of_step(event.line)
                yield LoggedEvent(name=name, at=event.at, transition="start", step=step)
            case StepDone():
                name, step = of_step(event.line)
                yield LoggedEvent(name=name, at=event.at, transition="complete", step=step)
            case StepSkipped():
                name, step = of_step(event.line)
                yield LoggedEvent(name=name, at=event.at, transition="manualskip", step=step)
            case LeftSite():
                name = "Finish the job" if event.outcome == "finished" else "Leave, return needed"
                yield LoggedEvent(name=name, at=event.at, transition="complete")
            case _:
                continue
