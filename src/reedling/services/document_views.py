"""A document as its page shows it: the revision to work on, and all that follows from it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from reedling.core.checking.defects import Defect
from reedling.core.checking.draft import plan_defects
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan, depth_of, question_names
from reedling.core.guidance.proofs import proof_line
from reedling.core.guidance.revisions import RevisionState, next_letter
from reedling.core.guidance.soundness import incident_type_problems
from reedling.core.logic.conditions import sentence
from reedling.core.rollup.plan_totals import PlanTotals, total_plans
from reedling.errors import NotFound, Problem
from reedling.exchange.content import DocumentKind
from reedling.store.records import Revision
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionLine:
    """One line of a document's history."""

    letter: str
    state: RevisionState
    changed_at: datetime
    released_at: datetime | None
    released_by: str | None
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StepView:
    """What follows from a step: how deep it hangs, its condition and its proof in words."""

    step: str
    depth: int
    when: str
    proof: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanView:
    """A plan's revision to work on. ``etag`` guards it against unseen overwriting."""

    document: str
    letter: str
    state: RevisionState
    etag: str
    changed_at: datetime
    note: str
    content: Plan
    steps: tuple[StepView, ...]
    totals: PlanTotals
    defects: tuple[Defect, ...]
    in_force: str | None
    next_letter: str
    history: tuple[RevisionLine, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class IncidentTypeView:
    """An incident type's revision to work on; as :class:`PlanView`."""

    document: str
    letter: str
    state: RevisionState
    etag: str
    changed_at: datetime
    note: str
    content: IncidentType
    problems: tuple[Problem, ...]
    in_force: str | None
    history: tuple[RevisionLine, ...]


def etag_of(revision: Revision) -> str:
    """The tag of a revision as it stands; it changes with every saved edit and every move."""
    return f'"{revision.document}-{revision.letter}-{revision.version}-{revision.state.replace(" ", "")}"'


def current_revision(unit: Unit, document: str, kind: DocumentKind | None = None) -> Revision:
    """The open revision if there is one, else the one in force, else the newest."""
    found_kind = unit.documents.kind(document)
    if found_kind is None or (kind is not None and found_kind != kind):
        raise NotFound("documents.unknown", f"there is no {kind or 'document'} {document}.")
    revisions = unit.documents.revisions(document)
    for wanted in (("Draft", "In review"), ("Released",)):
        for revision in revisions:
            if revision.state in wanted:
                return revision
    return revisions[-1]


def _history(unit: Unit, document: str, names: Mapping[str, str]) -> tuple[RevisionLine, ...]:
    return tuple(
        RevisionLine(
            letter=r.letter,
            state=r.state,
            changed_at=r.changed_at,
            released_at=r.released_at,
            released_by=names.get(r.released_by or ""),
            note=r.note,
        )
        for r in unit.documents.revisions(document)
    )


def _in_force(history: tuple[RevisionLine, ...]) -> str | None:
    return next((line.letter for line in history if line.state == "Released"), None)


def step_views(plan: Plan) -> tuple[StepView, ...]:
    """What follows from each step of a plan."""
    names = question_names(plan)
    return tuple(
        StepView(
            step=step.id,
            depth=depth_of(plan, step),
            when=sentence(step.condition, names) if step.condition else "",
            proof=proof_line(step.proofs),
        )
        for step in plan.steps
    )


def plan_view(unit: Unit, revision: Revision) -> PlanView:
    """A plan's revision with all that follows from it."""
    plan = revision.content
    assert isinstance(plan, Plan)
    history = _history(unit, revision.document, unit.people.names())
    return PlanView(
        document=revision.document,
        letter=revision.letter,
        state=revision.state,
        etag=etag_of(revision),
        changed_at=revision.changed_at,
        note=revision.note,
        content=plan,
        steps=step_views(plan),
        totals=total_plans([plan]),
        defects=plan_defects(plan, unit.catalogues.get()),
        in_force=_in_force(history),
        next_letter=next_letter(history[-1].letter),
        history=history,
    )


def incident_type_view(unit: Unit, revision: Revision) -> IncidentTypeView:
    """An incident type's revision with all that follows from it."""
    incident = revision.content
    assert isinstance(incident, IncidentType)
    history = _history(unit, revision.document, unit.people.names())
    return IncidentTypeView(
        document=revision.document,
        letter=revision.letter,
        state=revision.state,
        etag=etag_of(revision),
        changed_at=revision.changed_at,
        note=revision.note,
        content=incident,
        problems=incident_type_problems(incident, frozenset(unit.documents.of_kind("plan"))),
        in_force=_in_force(history),
        history=history,
    )
