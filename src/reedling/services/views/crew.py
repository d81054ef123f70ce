"""Who can do what: the roster against the needs of an incident type, now and on a day to come."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import fill_in
from reedling.core.guidance.skills import SkillNeed
from reedling.core.rollup.plan_totals import total_plans
from reedling.core.rollup.roster_crew import RosterCrew, roster_crew
from reedling.errors import NotFound
from reedling.services.context import Context
from reedling.services.shared.current import current_revision
from reedling.services.shared.uses import shared_being_written
from reedling.store.unit import Unit

LATER_DAYS = 120
"""How far ahead the second day is unless another is asked for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SometimesNeeded:
    """A skill that only some jobs need, in this share of them."""

    need: SkillNeed
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CrewPage:
    """Who can carry out a document as it is being written, now and later, by district.

    ``sometimes`` are the needs of branches; with ``with_branches`` they are asked for as well.
    """

    document: str
    title: str
    letter: str
    crew: RosterCrew
    sometimes: tuple[SometimesNeeded, ...]
    with_branches: bool


def crew_page(
    context: Context, document: str, *, on: date | None = None, with_branches: bool = False
) -> CrewPage:
    """The crew of an incident type, plan, form or standard step, as it is being written or in force."""
    today = context.clock().date()
    with context.reading() as unit:
        revision = current_revision(unit, document)
        if isinstance(revision.content, IncidentType):
            plans = [_plan(unit, d) for d in (*revision.content.plans, *revision.content.forms)]
            extra = revision.content.skills
        elif isinstance(revision.content, Plan):
            plans, extra = [revision.content], ()
        else:
            raise NotFound("documents.unknown", f"{document} is a table, and asks for no skill.")
        totals = total_plans([fill_in(p, shared_being_written(unit, p)).plan for p in plans if p is not None])
        needs = [SkillNeed(skill=s.skill, level=s.level) for s in totals.skills if s.always]
        sometimes = [
            SometimesNeeded(need=SkillNeed(skill=s.skill, level=s.level), share=s.share)
            for s in totals.skills
            if not s.always
        ]
        asked = (*needs, *extra, *((s.need for s in sometimes) if with_branches else ()))
        technicians = {p.name: p.district for p in unit.people.all() if p.role == "technician"}
        return CrewPage(
            document=document,
            title=revision.content.title,
            letter=revision.letter,
            crew=roster_crew(
                unit.catalogues.get().roster,
                asked,
                today,
                on or today + timedelta(days=LATER_DAYS),
                technicians=technicians,
            ),
            sometimes=tuple(sometimes),
            with_branches=with_branches,
        )


def _plan(unit: Unit, document: str) -> Plan | None:
    content = unit.documents.content_of(document)
    return content if isinstance(content, Plan) else None
