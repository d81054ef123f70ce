"""The runsheet: the frozen result of matching and expanding for one order."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from reedling.core.faultguide.order_guides import OrderGuide
from reedling.core.guidance.catalogue import CostKind
from reedling.core.guidance.finish_rules import FinishRule
from reedling.core.guidance.phases import Phase
from reedling.core.guidance.plans import Link, Minutes, Repeat
from reedling.core.guidance.questions import Instruction, Question
from reedling.core.guidance.skills import PartNeed, SkillNeed, ToolNeed
from reedling.core.logic.conditions import Answer, Condition


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """A document revision that a runsheet was made from."""

    document: str
    revision: str
    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RunsheetLine:
    """One step as issued. ``(document, revision, step)`` says where it was written.

    ``id`` and the identities of its questions are unique within the runsheet: the document, a
    colon, and the identity within the document. ``when`` is the condition in words. ``standard``
    names the standard step, with its revision, that the step reuses. Formulas see the questions of
    their own ``scope`` by name. ``each`` is the pump, phase or door that a repeated line is for.
    ``asked_by`` gives the titles of all who asked for a standard step that is done once for them.
    """

    id: str
    document: str
    revision: str
    step: str
    phase: Phase
    text: str
    detail: str
    minutes: Minutes
    questions: tuple[Question, ...]
    skills: tuple[SkillNeed, ...]
    parts: tuple[PartNeed, ...]
    under: str | None
    condition: Condition | None
    when: str
    safety: str = ""
    links: tuple[Link, ...] = ()
    pictures: tuple[str, ...] = ()
    standard: str = ""
    scope: str = ""
    repeat: Repeat | None = None
    each: str = ""
    asked_by: tuple[str, ...] = ()
    tools: tuple[ToolNeed, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Runsheet:
    """What one order is to be carried out by. It never changes under a technician's feet.

    ``facts`` are what is known of the order, its asset, site and customer when it is issued;
    ``last`` are the answers of the asset's last visit, by question. ``phrases`` are ready for notes,
    ``finish`` are the rules for finishing, ``guide`` is the fault guide of its incident type, if there is one.
    ``cost_kinds`` are the costs that may be recorded, at the rates of the day it was issued.
    """

    sources: tuple[Source, ...]
    lines: tuple[RunsheetLine, ...]
    facts: Mapping[str, Answer] = field(default_factory=dict)
    last: Mapping[str, Answer] = field(default_factory=dict)
    phrases: tuple[str, ...] = ()
    finish: tuple[FinishRule, ...] = ()
    links: tuple[Link, ...] = ()
    guide: OrderGuide | None = None
    cost_kinds: tuple[CostKind, ...] = ()


def within(document: str, identity: str) -> str:
    """An identity of a document as the runsheet speaks of it.

    >>> within("WP-014", "pressure")
    'WP-014:pressure'
    """
    return f"{document}:{identity}"


def may_be_skipped(line: RunsheetLine) -> bool:
    """Whether a technician may leave a line out, with a reason: never what makes the work safe."""
    return line.phase != "Make safe"


def pictures_of(line: RunsheetLine) -> frozenset[str]:
    """The pictures that a line shows: its own, and those of its instructions."""
    return frozenset(line.pictures).union(
        *(question.pictures for question in line.questions if isinstance(question, Instruction))
    )


def always_minutes(runsheet: Runsheet) -> float:
    """Likely minutes of the lines that are wanted whatever is answered."""
    conditional: set[str] = set()
    for line in runsheet.lines:
        if line.condition is not None or line.under in conditional:
            conditional.add(line.id)
    return sum(line.minutes.likely for line in runsheet.lines if line.id not in conditional)
