"""A document as its page shows it: the revision to work on, and all that follows from it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime

from reedling.core.checking.defects import Defect
from reedling.core.checking.draft import draft_defects
from reedling.core.guidance.comparing import first_clause
from reedling.core.guidance.documents import DocumentAtHand, Revision, RevisionStanding
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan, Step, depth_of, names_in, sections_of
from reedling.core.guidance.question_editing import TextPlace, find_text, question_depths
from reedling.core.guidance.questions import formula_name, question_line
from reedling.core.guidance.reuse import Shared, SharedPlans, fill_in, references
from reedling.core.guidance.revisions import PLAN_KINDS, DocumentKind, RevisionState, next_letter
from reedling.core.logic.conditions import Comparison, QuestionName, fact_label, sentence
from reedling.core.rollup.plan_totals import PlanTotals, total_plans
from reedling.errors import Problem
from reedling.services.context import Context
from reedling.services.shared.branch_evidence import branch_chances
from reedling.services.shared.current import current_revision, document_at_hand, etag_of
from reedling.services.shared.findings import incident_type_findings
from reedling.services.shared.links import DocumentLink, link_by
from reedling.services.shared.uses import shared_of
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class StepView:
    """What follows from a step: how deep it hangs, its condition and its proof in words.

    ``text`` is what it says where it reuses a standard step; ``reuses`` names that, ``fills_in`` the
    form that goes with it, ``repeats`` what it is done for each of. ``minutes`` are the likely ones
    with those of its form. ``questions`` gives, for each of its own questions, its condition in words,
    ``depths`` how deep it hangs, ``first_clauses`` what a condition on it begins with, ``formula_names`` what formulas call it. ``section`` is the step whose
    section it repeats with, once for each ``per``; empty where it does not repeat.
    """

    step: str
    depth: int
    when: str
    proof: str
    text: str
    minutes: float
    reuses: str
    fills_in: str
    repeats: str
    questions: Mapping[str, str]
    depths: Mapping[str, int]
    first_clauses: Mapping[str, Comparison]
    formula_names: Mapping[str, str]
    section: str
    per: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanView:
    """A revision to work on of a plan, form or standard step.

    ``etag`` guards it against unseen overwriting. ``used_in`` are the documents that refer to it.
    """

    document: str
    kind: DocumentKind
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
    history: tuple[RevisionStanding, ...]
    used_in: tuple[DocumentLink, ...]


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
    history: tuple[RevisionStanding, ...]


def letter_in_force(history: tuple[RevisionStanding, ...]) -> str | None:
    """The letter of the revision in force, if there is one."""
    return next((line.letter for line in history if line.state == "Released"), None)


def step_views(plan: Plan, shared: SharedPlans, facts: Mapping[str, QuestionName]) -> tuple[StepView, ...]:
    """What follows from each step of a plan."""
    filled = fill_in(plan, shared)
    own = {s.id: s for s in filled.plan.steps if not filled.origins[s.id].document}
    names = names_in(filled.plan, facts)
    heads = sections_of(filled.plan)
    added: dict[int, float] = {}
    for step in filled.plan.steps:
        origin = filled.origins[step.id]
        if origin.document:
            added[origin.index] = added.get(origin.index, 0) + step.minutes.likely
    return tuple(
        StepView(
            step=step.id,
            depth=depth_of(plan, step),
            when=sentence(step.condition, names(step.id)) if step.condition else "",
            proof=question_line(own[step.id].questions),
            text=own[step.id].text,
            minutes=own[step.id].minutes.likely + added.get(index, 0),
            reuses=_shared_words(shared.standards, step.standard, "standard step"),
            fills_in=_shared_words(shared.forms, step.form, "form"),
            repeats=_repeat_words(own[step.id]),
            questions={q.id: sentence(q.condition, names(step.id)) for q in step.questions if q.condition},
            depths=question_depths(step),
            first_clauses={q.id: first_clause(q) for q in step.questions},
            formula_names={q.id: formula_name(q) for q in own[step.id].questions},
            section=heads[step.id].id if step.id in heads else "",
            per=_per(heads.get(step.id)),
        )
        for index, step in enumerate(plan.steps)
    )


def _per(head: Step | None) -> str:
    return head.repeat.per if head is not None and head.repeat is not None else ""


def _shared_words(shelf: Mapping[str, Shared], document: str | None, what: str) -> str:
    if document is None:
        return ""
    shared = shelf.get(document)
    return (
        f"{shared.plan.title}, {document} {shared.revision}"
        if shared
        else f"{document}, a {what} that is gone"
    )


def _repeat_words(step: Step) -> str:
    repeat = step.repeat
    if repeat is None:
        return ""
    if repeat.over == "named":
        return f"once per {repeat.per}: " + (", ".join(repeat.names) or "none named yet")
    if repeat.over == "asset field":
        return f"once per {repeat.per}, by {fact_label(repeat.field) if '.' in repeat.field else '…'}"
    return f"once per {repeat.per} found on site"


def plan_view(
    unit: Unit, at_hand: DocumentAtHand, today: date, *, instead: Revision | None = None
) -> PlanView:
    """A plan, form or standard step with all that follows from it; ``instead`` is how it is about to be."""
    revision = instead or at_hand.revision
    plan = revision.content
    assert isinstance(plan, Plan)
    named, users = unit.documents.with_users(revision.document, tuple(references(plan)))
    shared, lists = shared_of(named), unit.catalogues.get()
    return PlanView(
        document=revision.document,
        kind=revision.kind,
        letter=revision.letter,
        state=revision.state,
        etag=etag_of(revision),
        changed_at=revision.changed_at,
        note=revision.note,
        content=plan,
        steps=step_views(plan, shared, fact_names(lists)),
        totals=total_plans([fill_in(plan, shared).plan], branch_chances(unit, revision.document)),
        defects=draft_defects(plan, lists, kind=revision.kind, shared=shared, today=today),
        in_force=letter_in_force(at_hand.standings),
        next_letter=next_letter(at_hand.standings[-1].letter),
        history=history_with(at_hand.standings, revision),
        used_in=tuple(link_by(heading) for heading in users),
    )


def history_with(standings: tuple[RevisionStanding, ...], revision: Revision) -> tuple[RevisionStanding, ...]:
    """The revisions of a document, oldest first, one of them as it is about to be."""
    return tuple(
        replace(s, changed_at=revision.changed_at) if s.letter == revision.letter else s for s in standings
    )


def incident_type_view(
    unit: Unit, at_hand: DocumentAtHand, today: date, *, instead: Revision | None = None
) -> IncidentTypeView:
    """An incident type with all that follows from it; ``instead`` is how it is about to be."""
    revision = instead or at_hand.revision
    incident = revision.content
    assert isinstance(incident, IncidentType)
    return IncidentTypeView(
        document=revision.document,
        letter=revision.letter,
        state=revision.state,
        etag=etag_of(revision),
        changed_at=revision.changed_at,
        note=revision.note,
        content=incident,
        problems=incident_type_findings(unit, incident, today),
        in_force=letter_in_force(at_hand.standings),
        history=history_with(at_hand.standings, revision),
    )


def plan_document(context: Context, document: str) -> PlanView:
    """A plan, form or standard step at the revision to work on."""
    with context.reading() as unit:
        return plan_view(unit, document_at_hand(unit, document, PLAN_KINDS), context.clock().date())


def find_in_document(context: Context, document: str, words: str, match_case: bool) -> tuple[TextPlace, ...]:
    """Where a document has these words."""
    with context.reading() as unit:
        content = current_revision(unit, document, PLAN_KINDS).content
        assert isinstance(content, Plan)
        return find_text(content, words, match_case=match_case)
