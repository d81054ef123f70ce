"""A draft replayed on closed jobs: of a plan, of a form or standard step in all that uses it, of a decision table, of a
fault guide."""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Sequence
from dataclasses import dataclass, replace
from functools import partial

from reedling.core.evidence.doubtful_times import step_doubt
from reedling.core.faultguide.links import GuideLinks
from reedling.core.faultguide.strategies import best_strategy
from reedling.core.guidance.decision_tables import DecisionTable, earlier_of
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import SharedPlans, references
from reedling.core.guidance.revisions import DocumentKind
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.core.matching.applicability import Match, match_order
from reedling.core.orders.orders import Order
from reedling.core.refining.guide_replay import GuideToWalk, replay_guides
from reedling.core.refining.part_proposals import FOR_A_PART
from reedling.core.refining.past_work import PastWork
from reedling.core.refining.replay import replay_jobs
from reedling.core.refining.replayed import Replayed
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.lines import Runsheet, Source, within
from reedling.errors import InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.shared.guidance_in_force import Readied, facts_of_orders, guidance_in_force
from reedling.services.shared.guides import NOT_CAUSES, closed_jobs_of, learned_guide, links_in_force
from reedling.services.shared.needed import need_order
from reedling.services.shared.uses import shared_among, shared_being_written, shared_in_force
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
    kind: DocumentKind
    title: str
    before: str
    draft: str
    n_jobs: int
    fewest: int
    replayed: Replayed | None
    part_names: dict[str, str]


def replay_draft(context: Context, document: str) -> ReplayView:
    """What a draft would have changed over the latest closed jobs.

    Of a plan they are walked through the plan, all that were issued with it. Of a form or standard step they are those
    that had it, walked through all that an order of theirs gets now; of a decision table they are the latest of all,
    and those that would get the same change by nothing. Of a fault guide the latest jobs of its incident type are
    walked that have a cause.

    Raises
    ------
    NotFound
        ``replays.no_draft`` when nothing is being written, or nothing is in force to hold it against.
    InvalidInput
        ``replays.kind`` for an incident type; ``replays.guide`` for a fault guide that says nothing of two causes yet.
    """
    with context.reading() as unit:
        draft, before = unit.documents.open_revision(document), unit.documents.released(document)
        if draft is None or before is None:
            missing = "no draft of it" if draft is None else "no revision of it in force"
            raise NotFound(
                "replays.no_draft",
                f"there is {missing}.",
                where=document,
                hint="Begin a draft of a document that is in force.",
            )
        if not isinstance(draft.content, Plan | DecisionTable | WrittenGuide):
            raise InvalidInput(
                "replays.kind", "no job is walked through this kind of document.", where=document
            )
        orders = _orders(unit, draft)
        replayed = None
        if draft.kind == "fault guide":
            replayed = _guides_replayed(unit, before, draft)
        elif len(orders) >= FEWEST_JOBS:
            key: tuple[Hashable, ...]
            if draft.kind == "plan" and isinstance(draft.content, Plan):
                written = [
                    one.revision for one in unit.documents.at_hand(*references(draft.content)).values()
                ]
                others = tuple((r.document, r.letter, r.version) for r in (before, *written))
                key = ("replay", draft.document, draft.letter, walked_by(draft.content), others)
                replayed = unit.kept_of_jobs(key, partial(_replayed, draft=draft), apart=True)
            else:
                key = ("replay", draft.document, draft.letter, draft.version, unit.documents.in_force_mark())
                replayed = unit.kept_of_jobs(key, partial(_replayed_whole, draft=draft), apart=True)
        names = {part.code: part.name for part in unit.catalogues.get().parts}
        return ReplayView(
            document=document,
            kind=draft.kind,
            title=draft.content.title,
            before=before.letter,
            draft=draft.letter,
            n_jobs=replayed.n_jobs if replayed else len(orders),
            fewest=FEWEST_JOBS,
            replayed=replayed,
            part_names={p.part: names.get(p.part, p.part) for p in replayed.parts} if replayed else {},
        )


def _guides_replayed(unit: Unit, before: Revision, draft: Revision) -> Replayed:
    """A draft of a fault guide replayed; of too few jobs no minutes are told."""
    key = (
        "replay",
        draft.document,
        draft.letter,
        draft.version,
        before.letter,
        unit.documents.in_force_mark(),
    )
    found = unit.kept_of_jobs(key, partial(_replayed_guide, before=before, draft=draft), apart=True)
    if found is None:
        raise InvalidInput(
            "replays.guide",
            "there is no order of work to walk by yet.",
            where=draft.document,
            hint="Give the draft a cause with a chance above 0, and a check or a remedy.",
        )
    return found


def _replayed_guide(unit: Unit, *, before: Revision, draft: Revision) -> Replayed | None:
    assert isinstance(draft.content, WrittenGuide)
    links = links_in_force(unit, draft.content.incident_type)
    both = _to_walk(unit, before, links), _to_walk(unit, draft, links)
    if both[0] is None or both[1] is None:
        return None
    closed = [
        job
        for job in closed_jobs_of(unit, draft.content.incident_type, links)
        if job.cause and job.cause not in NOT_CAUSES
    ][:MOST_JOBS]
    if len(closed) < FEWEST_JOBS:
        return replace(replay_guides(both[0], both[1], (), ()), n_jobs=len(closed))
    return replay_guides(both[0], both[1], closed, _past_works(unit, [job.order for job in closed]))


def _to_walk(unit: Unit, revision: Revision, links: GuideLinks) -> GuideToWalk | None:
    found = learned_guide(unit, revision)
    written = revision.content
    if found is None or not isinstance(written, WrittenGuide):
        return None
    return GuideToWalk(
        found=found,
        first=best_strategy(found.guide).first,
        checks=found.looks,
        check_lines=tuple(links.looks[c.look].step if c.look in links.looks else "" for c in written.checks),
        remedies=tuple(f"{revision.document}:{remedy.id}" for remedy in written.remedies),
        remedy_lines=tuple(remedy.step for remedy in written.remedies),
        codes=tuple(remedy.remedy for remedy in written.remedies),
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
    jobs = unit.kept_of_jobs(("past work", draft.document), lambda at: _past_works(at, _orders(at, draft)))
    chances = {
        within(draft.document, step.id): step.chance
        for step in draft.content.steps
        if step.chance is not None
    }
    pair = (
        _sheet(unit, before, shared_in_force(unit)),
        _sheet(unit, draft, shared_being_written(unit, draft.content)),
    )
    return replay_jobs([pair] * len(jobs), jobs, chances=chances)


def _replayed_whole(unit: Unit, *, draft: Revision) -> Replayed | None:
    """Jobs walked through all that their orders would get now, and would get by the draft.

    An order that would be refused under either is left out: nobody would carry it out like that.
    """
    ready = guidance_in_force(unit)
    tried = _with_draft(unit, ready, draft)
    wanted = set(_orders(unit, draft))
    facts = facts_of_orders(unit, [one for one in unit.orders.facts() if one.id in wanted])
    sheets: dict[tuple[bool, tuple[str, ...]], Runsheet] = {}

    def sheet(under: Readied, match: Match) -> Runsheet:
        taken = tuple(found.document for found in match.taken)
        # What neither takes nor holds anything of the draft is one and the same sheet.
        key = (under is tried and draft.kind != "decision table", taken)
        if key not in sheets:
            sheets[key] = _sheet_of(under, taken)
        return sheets[key]

    pairs: dict[str, tuple[Runsheet, Runsheet]] = {}
    for order, known in facts.items():
        old, new = match_order(ready.guidance, known), match_order(tried.guidance, known)
        if not old.refused and not new.refused:
            pairs[order] = (sheet(ready, old), sheet(tried, new))
    jobs = _past_works(unit, list(pairs))
    return replay_jobs([pairs[job.order] for job in jobs], jobs)


def _with_draft(unit: Unit, ready: Readied, draft: Revision) -> Readied:
    """What is in force, with a draft in place of its document."""
    if draft.kind == "decision table":
        return guidance_in_force(unit, instead=[draft])
    own, held = shared_among([draft]), ready.shared
    return replace(
        ready,
        revisions={**ready.revisions, draft.document: draft},
        shared=SharedPlans(standards={**held.standards, **own.standards}, forms={**held.forms, **own.forms}),
    )


def _sheet_of(ready: Readied, documents: Sequence[str]) -> Runsheet:
    plans = ((ready.revisions[d], ready.revisions[d].content) for d in documents)
    return compile_runsheet(
        (
            (Source(document=r.document, revision=r.letter, title=plan.title), plan)
            for r, plan in plans
            if isinstance(plan, Plan)
        ),
        shared=ready.shared,
        names=fact_names(ready.lists),
        after=earlier_of(ready.guidance.after),
    )


def _orders(unit: Unit, draft: Revision) -> tuple[str, ...]:
    """The closed jobs that a draft is replayed on, the latest first."""
    if draft.kind == "fault guide":
        return ()
    if draft.kind == "decision table":
        return unit.job_evidence.latest(most=MOST_JOBS)
    return unit.job_evidence.issued_with(draft.document, most=MOST_JOBS)


def _sheet(unit: Unit, revision: Revision, shared: SharedPlans) -> Runsheet:
    assert isinstance(revision.content, Plan)
    source = Source(document=revision.document, revision=revision.letter, title=revision.content.title)
    return compile_runsheet(
        [(source, revision.content)], shared=shared, names=fact_names(unit.catalogues.get())
    )


def _past_works(unit: Unit, orders: Iterable[str]) -> list[PastWork]:
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
