"""Read what is authored: the shelf, an incident type's page, revisions and what changed."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.evidence.outcomes import settled_by
from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.differences import Difference, compare_incident_types, compare_plans
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.question_editing import TextPlace, find_text
from reedling.core.guidance.reuse import fill_in
from reedling.core.guidance.revisions import PLAN_KINDS, RevisionState
from reedling.core.matching.cells import naming_of
from reedling.core.matching.table_differences import compare_tables
from reedling.core.rollup.plan_totals import PlanTotals, total_plans
from reedling.core.statistics.intervals import Share, wilson_interval
from reedling.errors import InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.current import current_revision
from reedling.services.document_views import (
    DocumentLink,
    IncidentTypeView,
    PlanView,
    StepView,
    incident_type_view,
    link_of,
    plan_view,
    step_views,
)
from reedling.services.release_revisions import bring_into_force, bundle
from reedling.services.shared_library import library_being_written, uses
from reedling.services.table_views import known_to_tables
from reedling.store.summaries import NO_JOBS
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class ShelfRow:
    """One incident type on the shelf, with one telling figure."""

    document: str
    title: str
    group: str
    states: tuple[RevisionState, ...]
    fixed_first_time: Share


@dataclass(frozen=True, slots=True, kw_only=True)
class IncidentTypePage:
    """All an engineer sees of an incident type on its page, but what the field made of it."""

    incident_type: IncidentTypeView
    plans: tuple[PlanView, ...]
    totals: PlanTotals
    open_states: tuple[RevisionState, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanRevision:
    """One revision of a plan, to read."""

    document: str
    letter: str
    state: RevisionState
    note: str
    content: Plan
    steps: tuple[StepView, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionComparison:
    """What changed between two revisions; for a plan with both side by side."""

    document: str
    older: str
    newer: str
    differences: tuple[Difference, ...]
    older_plan: PlanRevision | None
    newer_plan: PlanRevision | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedRow:
    """A document that others may refer to."""

    link: DocumentLink
    n_used: int
    n_questions: int
    in_force: bool


def catalogue(context: Context) -> Catalogue:
    """The lists that guidance refers to."""
    with context.store.reading() as unit:
        return unit.catalogues.get()


def shelf(context: Context) -> tuple[ShelfRow, ...]:
    """Every incident type, grouped by equipment."""
    bring_into_force(context)
    now = context.clock()
    with context.store.reading() as unit:
        lists = unit.catalogues.get()
        tree = EquipmentTree.of(lists.equipment)
        fixed = unit.summaries.first_time(settled_by(now))
        rows = []
        for document in unit.documents.of_kind("incident type"):
            view = current_revision(unit, document)
            incident = view.content
            assert isinstance(incident, IncidentType)
            counts = fixed.get(document, NO_JOBS)
            rows.append(
                ShelfRow(
                    document=document,
                    title=incident.title,
                    group=tree.name(incident.equipment),
                    states=_open_states(unit, document),
                    fixed_first_time=wilson_interval(counts.n_fixed, counts.n_settled),
                )
            )
    return tuple(sorted(rows, key=lambda r: (r.group, r.document)))


def incident_type_page(context: Context, document: str) -> IncidentTypePage:
    """The page of an incident type, with each of its plans at the revision to work on."""
    with context.store.reading() as unit:
        revision = current_revision(unit, document, ("incident type",))
        incident = revision.content
        assert isinstance(incident, IncidentType)
        plans = tuple(
            plan_view(unit, current_revision(unit, plan), context.clock().date())
            for plan in incident.plans
            if unit.documents.kind(plan) == "plan"
        )
        return IncidentTypePage(
            incident_type=incident_type_view(unit, revision, context.clock().date()),
            plans=plans,
            totals=total_plans(
                [fill_in(p.content, library_being_written(unit, p.content)).plan for p in plans]
            ),
            open_states=_open_states(unit, document),
        )


def plan_document(context: Context, document: str) -> PlanView:
    """A plan, form or standard step at the revision to work on."""
    with context.store.reading() as unit:
        return plan_view(unit, current_revision(unit, document, PLAN_KINDS), context.clock().date())


def shared_documents(context: Context) -> tuple[SharedRow, ...]:
    """Every plan, form and standard step with how many documents use it, by kind and title."""
    with context.store.reading() as unit:
        users = uses(unit)
        rows = []
        for kind in PLAN_KINDS:
            for document in unit.documents.of_kind(kind):
                revision = current_revision(unit, document)
                content = revision.content
                assert isinstance(content, Plan)
                rows.append(
                    SharedRow(
                        link=link_of(revision),
                        n_used=len(users.get(document, ())),
                        n_questions=sum(len(s.proofs) for s in content.steps),
                        in_force=revision.state == "Released"
                        or unit.documents.released(document) is not None,
                    )
                )
        return tuple(rows)


def find_in_document(context: Context, document: str, words: str, match_case: bool) -> tuple[TextPlace, ...]:
    """Where a document has these words."""
    with context.store.reading() as unit:
        content = current_revision(unit, document, PLAN_KINDS).content
        assert isinstance(content, Plan)
        return find_text(content, words, match_case=match_case)


def compare_revisions(context: Context, document: str, older: str, newer: str) -> RevisionComparison:
    """What changed between two revisions of a document, in words."""
    with context.store.reading() as unit:
        first, second = (unit.documents.revision(document, letter) for letter in (older, newer))
        if first is None or second is None:
            missing = older if first is None else newer
            raise NotFound("revisions.unknown", f"{document} has no revision {missing}.")
        if isinstance(first.content, Plan) and isinstance(second.content, Plan):
            differences = compare_plans(first.content, second.content)
        elif isinstance(first.content, IncidentType) and isinstance(second.content, IncidentType):
            differences = compare_incident_types(first.content, second.content)
        elif isinstance(first.content, DecisionTable) and isinstance(second.content, DecisionTable):
            naming = naming_of(unit.catalogues.get(), incident_types=known_to_tables(unit).incident_types)
            differences = compare_tables(first.content, second.content, naming)
        else:
            raise InvalidInput("revisions.kind", "only revisions of one document compare.", where=document)
        facts = fact_names(unit.catalogues.get())
        plans = [
            PlanRevision(
                document=document,
                letter=r.letter,
                state=r.state,
                note=r.note,
                content=r.content,
                steps=step_views(r.content, library_being_written(unit, r.content), facts),
            )
            for r in (first, second)
            if isinstance(r.content, Plan)
        ]
        return RevisionComparison(
            document=document,
            older=older,
            newer=newer,
            differences=differences,
            older_plan=plans[0] if plans else None,
            newer_plan=plans[1] if plans else None,
        )


def _open_states(unit: Unit, incident_type: str) -> tuple[RevisionState, ...]:
    states = {r.state for d in bundle(unit, incident_type) if (r := unit.documents.open_revision(d))}
    return tuple(sorted(states))
