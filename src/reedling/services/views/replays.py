"""A draft of a plan replayed on closed jobs."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial

from reedling.core.evidence.doubtful_times import step_doubt
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import SharedPlans, references
from reedling.core.orders.orders import Order
from reedling.core.refining.part_proposals import FOR_A_PART
from reedling.core.refining.replay import PastWork, Replayed, replay_jobs
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.lines import Runsheet, Source, within
from reedling.errors import InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.shared.needed import need_order
from reedling.services.shared.uses import shared_being_written, shared_in_force
from reedling.store.unit import Unit

FEWEST_JOBS = 10
"""Fewer closed jobs than this say too little."""
MOST_JOBS = 200
"""The latest so many closed jobs are replayed."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ReplayView:
    """A draft replayed on closed jobs, against the revision in force; ``part_names`` in words, by code.

    With fewer than ``fewest`` jobs nothing is worked out, and ``replayed`` is nothing.
    """

    document: str
    title: str
    before: str
    draft: str
    n_jobs: int
    fewest: int
    replayed: Replayed | None
    part_names: dict[str, str]


def replay_draft(context: Context, document: str) -> ReplayView:
    """What the draft of a plan would have changed over the latest jobs that were issued with the plan.

    Raises
    ------
    NotFound
        ``replays.no_draft`` when nothing is being written, or nothing is in force to hold it against.
    InvalidInput
        ``replays.kind`` for a document that is no work plan.
    """
    with context.reading() as unit:
        draft, before = unit.documents.open_revision(document), unit.documents.released(document)
        if draft is None or before is None:
            missing = "no draft of it" if draft is None else "no revision of it in force"
            raise NotFound(
                "replays.no_draft",
                f"there is {missing}.",
                where=document,
                hint="Begin a draft of a plan that is in force.",
            )
        if draft.kind != "plan" or not isinstance(draft.content, Plan):
            raise InvalidInput("replays.kind", "only work plans are replayed.", where=document)
        orders = unit.job_evidence.issued_with(document, most=MOST_JOBS)
        replayed = None
        if len(orders) >= FEWEST_JOBS:
            written = [one.revision for one in unit.documents.at_hand(*references(draft.content)).values()]
            others = tuple((r.document, r.letter, r.version) for r in (before, *written))
            key = ("replay", draft.document, draft.letter, walked_by(draft.content), others)
            replayed = unit.kept_of_jobs(key, partial(_replayed, draft=draft), apart=True)
        names = {part.code: part.name for part in unit.catalogues.get().parts}
        return ReplayView(
            document=document,
            title=draft.content.title,
            before=before.letter,
            draft=draft.letter,
            n_jobs=replayed.n_jobs if replayed else len(orders),
            fewest=FEWEST_JOBS,
            replayed=replayed,
            part_names={p.part: names.get(p.part, p.part) for p in replayed.parts} if replayed else {},
        )


def walked_by(plan: Plan) -> Plan:
    """What jobs are walked by: the plan without words that the replay neither goes by nor shows.

    Rewording them replays nothing anew.
    """
    steps = tuple(replace(s, detail="", links=(), pictures=()) for s in plan.steps)
    return replace(plan, title="", summary="", phrases=(), links=(), steps=steps)


def _replayed(unit: Unit, *, draft: Revision) -> Replayed | None:
    """A draft of a plan replayed as it stood when it was asked for; nothing where what was in force is gone meanwhile."""
    before = unit.documents.released(draft.document)
    if before is None:
        return None
    assert isinstance(draft.content, Plan)
    jobs = unit.kept_of_jobs(("past work", draft.document), lambda at: _past_works(at, draft.document))
    chances = {
        within(draft.document, step.id): step.chance
        for step in draft.content.steps
        if step.chance is not None
    }
    return replay_jobs(
        _sheet(unit, before, shared_in_force(unit)),
        _sheet(unit, draft, shared_being_written(unit, draft.content)),
        jobs,
        chances=chances,
    )


def _sheet(unit: Unit, revision: Revision, shared: SharedPlans) -> Runsheet:
    assert isinstance(revision.content, Plan)
    source = Source(document=revision.document, revision=revision.letter, title=revision.content.title)
    return compile_runsheet(
        [(source, revision.content)], shared=shared, names=fact_names(unit.catalogues.get())
    )


def _past_works(unit: Unit, document: str) -> list[PastWork]:
    orders = unit.job_evidence.issued_with(document, most=MOST_JOBS)
    return [_past_work(unit, need_order(unit, order)) for order in orders]


def _past_work(unit: Unit, order: Order) -> PastWork:
    job = replay(order.runsheet, unit.recorded.events(order.id))
    done = {*job.done, *job.past.done}
    return PastWork(
        order=order.id,
        model=order.asset.model,
        cause=job.cause or "",
        answers={**job.past.answers, **job.answers},
        minutes={
            line: times.minutes for line, times in job.times.items() if line in done and not step_doubt(times)
        },
        facts=order.runsheet.facts,
        last=order.runsheet.last,
        parts=frozenset(used.part for used in job.parts),
        n_fetches=sum(visit.reason in FOR_A_PART for visit in job.visits),
    )
