"""A fault guide as its page shows it: what is written, what closed jobs make of it, and the order of work."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from reedling.core.faultguide.guide_soundness import guide_problems
from reedling.core.faultguide.guides import DoingKind, bits
from reedling.core.faultguide.learning import Learned
from reedling.core.faultguide.links import GuideLinks
from reedling.core.faultguide.turning_points import TurnOf, turning_points
from reedling.core.faultguide.written_learning import check_label, check_minutes, remedy_minutes
from reedling.core.guidance.documents import DocumentAtHand, Revision, RevisionStanding
from reedling.core.guidance.revisions import DocumentKind, RevisionState, next_letter
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.errors import Problem
from reedling.services.context import Context
from reedling.services.shared.current import document_at_hand, etag_of
from reedling.services.shared.guides import guide_at_hand, known_to_guides, labels_of, learned_guide
from reedling.services.views.documents import history_with, letter_in_force
from reedling.services.views.fault_guides import OrderOfWork, order_of_work
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class OfferedLink:
    """A look or a step that a check or a remedy may be linked to, in words."""

    link: str
    words: str
    phase: str
    minutes: float


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideView:
    """A fault guide's revision to work on.

    ``labels`` are of its causes and remedies by code, ``checks`` what its checks look for, ``check_minutes`` and
    ``remedy_minutes`` what they take; ``looks`` and ``steps`` are what plans offer to link to.
    """

    document: str
    kind: DocumentKind
    letter: str
    state: RevisionState
    etag: str
    changed_at: datetime
    note: str
    content: WrittenGuide
    problems: tuple[Problem, ...]
    labels: Mapping[str, str]
    checks: Mapping[str, str]
    check_minutes: Mapping[str, float]
    remedy_minutes: Mapping[str, float]
    looks: tuple[OfferedLink, ...]
    steps: tuple[OfferedLink, ...]
    in_force: str | None
    next_letter: str
    history: tuple[RevisionStanding, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class CauseFigures:
    """A cause as learned, and its chance after what was said to be seen."""

    cause: str
    learned: Learned
    now: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckFigures:
    """A check as learned, cause by cause, and how much it tells in bits; ``said`` is what was said to be seen."""

    check: str
    bits: float
    cells: tuple[Learned, ...]
    said: bool | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RemedyFigures:
    """A remedy as learned, cause by cause; nothing where it is said not to help."""

    remedy: str
    cells: tuple[Learned | None, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideFigures:
    """What follows from a fault guide and the closed jobs."""

    causes: tuple[CauseFigures, ...]
    checks: tuple[CheckFigures, ...]
    remedies: tuple[RemedyFigures, ...]
    work: OrderOfWork


@dataclass(frozen=True, slots=True, kw_only=True)
class TurnLine:
    """Minutes of a check or remedy, or the price of its parts, at which the order would begin otherwise, with what
    would come first then."""

    what: str
    of: TurnOf
    minutes: float
    turns_at: float
    then: str


MOST_TURNS = 8
"""The nearest turning points that are told."""


def guide_turns(context: Context, document: str) -> tuple[TurnLine, ...]:
    """Where the order of work of a fault guide would begin otherwise, the nearest first."""
    with context.reading() as unit:
        revision = document_at_hand(unit, document, ("fault guide",)).revision
        found = learned_guide(unit, revision)
    if found is None:
        return ()
    guide = found.guide

    def label(act: DoingKind, place: int) -> str:
        if act == "last resort":
            return "Send for a specialist"
        return guide.checks[place].label if act == "check" else guide.repairs[place].label

    return tuple(
        TurnLine(
            what=label(turn.act, turn.place),
            of=turn.of,
            minutes=turn.minutes,
            turns_at=turn.turns_at,
            then=label(turn.then_act, turn.then_place),
        )
        for turn in turning_points(guide)[:MOST_TURNS]
    )


def guide_view(unit: Unit, at_hand: DocumentAtHand, *, instead: Revision | None = None) -> GuideView:
    """A fault guide with what stands against it; ``instead`` is how it is about to be."""
    revision = instead or at_hand.revision
    guide = revision.content
    assert isinstance(guide, WrittenGuide)
    known = known_to_guides(unit, guide, revision.document)
    links = known.links
    labels = labels_of(unit.catalogues.get())
    named = {c.cause for c in guide.causes} | {r.remedy for r in guide.remedies}
    return GuideView(
        document=revision.document,
        kind=revision.kind,
        letter=revision.letter,
        state=revision.state,
        etag=etag_of(revision),
        changed_at=revision.changed_at,
        note=revision.note,
        content=guide,
        problems=guide_problems(guide, known),
        labels={code: labels.get(code, code) for code in sorted(named)},
        checks={c.id: check_label(c, links) for c in guide.checks},
        check_minutes={c.id: check_minutes(c, links) for c in guide.checks},
        remedy_minutes={r.id: remedy_minutes(r, links) for r in guide.remedies},
        looks=_offered_looks(links),
        steps=tuple(
            OfferedLink(link=key, words=step.text, phase=step.phase, minutes=step.minutes)
            for key, step in links.steps.items()
            if step.phase == "Put right"
        ),
        in_force=letter_in_force(at_hand.standings),
        next_letter=next_letter(at_hand.standings[-1].letter),
        history=history_with(at_hand.standings, revision),
    )


def _offered_looks(links: GuideLinks) -> tuple[OfferedLink, ...]:
    """The looks of the steps that look for a cause first, then the others."""
    looks = sorted(links.looks.items(), key=lambda pair: pair[1].phase != "Diagnose")
    return tuple(
        OfferedLink(link=key, words=look.label, phase=look.phase, minutes=look.minutes) for key, look in looks
    )


def guide_document(context: Context, document: str) -> GuideView:
    """A fault guide at the revision to work on."""
    with context.reading() as unit:
        return guide_view(unit, document_at_hand(unit, document, ("fault guide",)))


def guide_of(context: Context, incident_type: str) -> str:
    """The fault guide of an incident type: in force, else being written; empty where there is none."""
    with context.reading() as unit:
        held = guide_at_hand(unit, incident_type)
        return held.document if held is not None else ""


def guide_figures(context: Context, document: str, said: Mapping[str, bool]) -> GuideFigures | None:
    """What follows from the guide at the revision to work on, with what was said of its checks, by their identity."""
    with context.reading() as unit:
        revision = document_at_hand(unit, document, ("fault guide",)).revision
        found = learned_guide(unit, revision)
    if found is None:
        return None
    guide = found.guide
    places = {check.id: i for i, check in enumerate(guide.checks)}
    answers = {places[check]: value for check, value in said.items() if check in places}
    work, at = order_of_work(found, answers)
    telling = bits(guide, at)
    return GuideFigures(
        causes=tuple(
            CauseFigures(cause=cause, learned=found.chances[i], now=at[i])
            for i, cause in enumerate(guide.causes)
        ),
        checks=tuple(
            CheckFigures(check=check.id, bits=telling[i], cells=found.cells[i], said=answers.get(i))
            for i, check in enumerate(guide.checks)
        ),
        remedies=tuple(
            RemedyFigures(remedy=repair.id, cells=found.repair_cells[i])
            for i, repair in enumerate(guide.repairs)
        ),
        work=work,
    )
