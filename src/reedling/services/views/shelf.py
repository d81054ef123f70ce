"""The shelf of incident types, and the page of one."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.evidence.outcomes import settled_by
from reedling.core.guidance.catalogue import EquipmentTree
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import fill_in
from reedling.core.guidance.revisions import PLAN_KINDS, RevisionState
from reedling.core.rollup.plan_totals import PlanTotals, total_plans
from reedling.core.statistics.intervals import Share, wilson_interval
from reedling.services.context import Context
from reedling.services.shared.bundles import bundle
from reedling.services.shared.current import current_revision, document_at_hand
from reedling.services.shared.links import DocumentLink, link_of
from reedling.services.shared.uses import shared_being_written
from reedling.services.views.documents import (
    IncidentTypeView,
    PlanView,
    incident_type_view,
    plan_view,
)
from reedling.store.job_figures import NO_JOBS
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
class SharedRow:
    """A document that others may refer to."""

    link: DocumentLink
    n_used: int
    n_questions: int
    in_force: bool


def shelf(context: Context) -> tuple[ShelfRow, ...]:
    """Every incident type, grouped by equipment."""
    now = context.clock()
    with context.reading() as unit:
        lists = unit.catalogues.get()
        tree = EquipmentTree.of(lists.equipment)
        fixed = unit.job_figures.first_time(settled_by(now))
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
    with context.reading() as unit:
        at_hand = document_at_hand(unit, document, ("incident type",))
        incident = at_hand.revision.content
        assert isinstance(incident, IncidentType)
        plans = tuple(
            plan_view(unit, document_at_hand(unit, plan), context.clock().date())
            for plan in incident.plans
            if unit.documents.kind(plan) == "plan"
        )
        return IncidentTypePage(
            incident_type=incident_type_view(unit, at_hand, context.clock().date()),
            plans=plans,
            totals=total_plans(
                [fill_in(p.content, shared_being_written(unit, p.content)).plan for p in plans]
            ),
            open_states=_open_states(unit, document),
        )


def shared_documents(context: Context) -> tuple[SharedRow, ...]:
    """Every plan, form and standard step with how many documents use it, by kind and title."""
    with context.reading() as unit:
        users = unit.documents.uses()
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
                        n_questions=sum(len(s.questions) for s in content.steps),
                        in_force=revision.state == "Released"
                        or unit.documents.released(document) is not None,
                    )
                )
        return tuple(rows)


def _open_states(unit: Unit, incident_type: str) -> tuple[RevisionState, ...]:
    states = {r.state for d in bundle(unit, incident_type) if (r := unit.documents.open_revision(d))}
    return tuple(sorted(states))
