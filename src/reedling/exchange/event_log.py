"""Jobs as an event log in XES, the open format of process mining (IEEE Std 1849-2016).

A trace is an order, an event is something recorded on it, in the order recorded. Nobody is named in it.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal
from xml.sax.saxutils import quoteattr

EXTENSIONS = (
    ("Concept", "concept", "http://www.xes-standard.org/concept.xesext"),
    ("Time", "time", "http://www.xes-standard.org/time.xesext"),
    ("Lifecycle", "lifecycle", "http://www.xes-standard.org/lifecycle.xesext"),
)
Transition = Literal["start", "complete", "manualskip"]
"""Transitions of the standard lifecycle model that are used here."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LoggedEvent:
    """Something that happened: what, when, whether it began, ended or was left out, and the step it belongs to."""

    name: str
    at: datetime
    transition: Transition
    step: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class LoggedJob:
    """One order with what was recorded on it; ``about`` are further texts, by name."""

    order: str
    events: tuple[LoggedEvent, ...]
    about: Mapping[str, str] = field(default_factory=dict)


def xes_of(title: str, jobs: Iterable[LoggedJob]) -> Iterator[str]:
    """The log as text, piece by piece."""
    yield '<?xml version="1.0" encoding="UTF-8"?>\n'
    yield '<log xes.version="1849.2016" xes.features="" xmlns="http://www.xes-standard.org/">\n'
    for name, prefix, uri in EXTENSIONS:
        yield f'<extension name="{name}" prefix="{prefix}" uri="{uri}"/>\n'
    yield f'<global scope="trace">{_text("concept:name", "")}</global>\n'
    yield (
        f'<global scope="event">{_text("concept:name", "")}{_text("lifecycle:transition", "complete")}'
        '<date key="time:timestamp" value="1970-01-01T00:00:00+00:00"/></global>\n'
    )
    yield '<classifier name="Step" keys="concept:name"/>\n'
    yield _text("concept:name", title) + _text("lifecycle:model", "standard") + "\n"
    for job in jobs:
        about = "".join(_text(key, value) for key, value in job.about.items() if value)
        yield f"<trace>{_text('concept:name', job.order)}{about}\n"
        for event in job.events:
            step = _text("step", event.step) if event.step else ""
            yield (
                f"<event>{_text('concept:name', event.name)}{_text('lifecycle:transition', event.transition)}"
                f'<date key="time:timestamp" value="{event.at.isoformat()}"/>{step}</event>\n'
            )
        yield "</trace>\n"
    yield "</log>\n"


NOT_IN_XML = {0xFFFE: "\ufffd", 0xFFFF: "\ufffd"}
"""The two characters that texts may hold and XML may not."""


def _text(key: str, value: str) -> str:
    value = value.translate(NOT_IN_XML)
    return f'<string key="{key}" value={quoteattr(value)}/>'
