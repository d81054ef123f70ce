"""Begin fault guides, and put their order of work into a plan."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.faultguide.drafting import write_down
from reedling.core.faultguide.strategies import best_strategy, checks_in_order
from reedling.core.guidance.documents import Content, Revision
from reedling.core.guidance.editing import in_this_order
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.core.people import Person
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.actions.documents import add_draft
from reedling.services.actions.drafts import change_draft
from reedling.services.context import Context
from reedling.services.shared.current import (
    current_revision,
    document_at_hand,
    etag_of,
    incident_type_in_use,
)
from reedling.services.shared.guides import (
    NOT_CAUSES,
    closed_jobs_of,
    guide_at_hand,
    learned_guide,
    links_being_written,
    links_in_force,
)
from reedling.services.views.fault_guides import drafted_guide


def create_guide(context: Context, person: Person, incident_type: str, *, from_jobs: bool) -> str:
    """A new fault guide of an incident type, as a draft: empty, or as its closed jobs have it; its identity.

    Raises
    ------
    Conflict
        ``guides.another`` where the incident type has a fault guide already.
    InvalidInput
        ``guides.too_few_jobs`` where closed jobs do not tell two causes apart.
    """
    with context.reading() as unit:
        incident = incident_type_in_use(unit, incident_type)
        guide = WrittenGuide(title=f"{incident.title}: fault guide", incident_type=incident_type)
        if from_jobs:
            found = drafted_guide(unit, incident_type)
            if found is None:
                raise InvalidInput(
                    "guides.too_few_jobs",
                    "its closed jobs do not tell two causes apart yet.",
                    where=incident_type,
                    hint="Begin with an empty fault guide.",
                )
            jobs = closed_jobs_of(unit, incident_type, links_in_force(unit, incident_type))
            guide = write_down(
                found,
                [job for job in jobs if job.cause not in NOT_CAUSES],
                title=guide.title,
                incident_type=incident_type,
                new_id=context.new_id,
            )
    with context.writing() as unit:
        held = guide_at_hand(unit, incident_type)
        if held is not None:
            raise Conflict(
                "guides.another",
                f"{held.document} is its fault guide.",
                where=incident_type,
                hint="Work on that one.",
            )
        document = f"FG-{unit.next_number('FG'):03d}"
        add_draft(unit, context, person, document, guide, "fault guide")
    return document


@dataclass(frozen=True, slots=True, kw_only=True)
class PutInOrder:
    """The plan whose draft has the order of work now, and how many of its steps moved."""

    document: str
    letter: str
    n_moved: int


def put_order_in_draft(context: Context, person: Person, document: str) -> PutInOrder:
    """Put the checks of the best order of work in that order in the draft of the plan that most of them are linked to.

    The plan gets a draft if it has none and something moves. Steps that hang on others or have a condition stay where they are.

    Raises
    ------
    NotFound
        ``guides.no_order`` where no check of the order is linked to a plan.
    """
    with context.reading() as unit:
        revision = document_at_hand(unit, document, ("fault guide",)).revision
        guide = revision.content
        assert isinstance(guide, WrittenGuide)
        found = learned_guide(unit, revision)
        looks = links_being_written(unit, guide.incident_type).looks
    checks = checks_in_order(best_strategy(found.guide).first) if found is not None else ()
    linked = [looks[look].step.partition(":") for i in checks if (look := guide.checks[i].look) in looks]
    plans = [plan for plan, _, _ in linked]
    if not plans:
        raise NotFound(
            "guides.no_order",
            "none of the checks that the order takes is linked to a plan.",
            where=document,
            hint="Link checks to questions first.",
        )
    plan = max(dict.fromkeys(plans), key=plans.count)
    steps = list(dict.fromkeys(step for of, _, step in linked if of == plan))
    with context.reading() as unit:
        held = current_revision(unit, plan, ("plan",))

    def reorder(old: Content, _revision: Revision) -> Content:
        assert isinstance(old, Plan)
        return in_this_order(old, steps)

    saved = change_draft(context, person, plan, etag_of(held), reorder, begin=True)
    assert isinstance(held.content, Plan)
    assert saved.plan is not None
    before, after = held.content.steps, saved.plan.content.steps
    n_moved = sum(a.id != b.id for a, b in zip(before, after, strict=True))
    return PutInOrder(document=plan, letter=saved.plan.letter, n_moved=n_moved)
