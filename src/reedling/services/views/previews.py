"""Run a draft as a technician would meet it, without recording anything."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from reedling.core.checking.tours import Tour, tours
from reedling.core.checking.witnesses import run_answers
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import SharedPlans, fill_in
from reedling.core.guidance.revisions import PLAN_KINDS
from reedling.core.logic.conditions import Answer, Answers, is_fact
from reedling.core.matching.order_facts import facts_by_name
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Source
from reedling.core.runsheet.progress import NO_REASONS, refused_answers, take_up
from reedling.core.runsheet.run_view import RunView, run_view
from reedling.core.runsheet.standing import rules_of
from reedling.errors import InvalidInput
from reedling.services.context import Context
from reedling.services.shared.current import current_revision
from reedling.services.shared.guidance_in_force import facts_now
from reedling.services.shared.needed import need_asset
from reedling.services.shared.uses import shared_being_written
from reedling.store.unit import Unit


def preview_tours(context: Context, documents: Sequence[str], asset: str | None = None) -> tuple[Tour, ...]:
    """Runs that between them meet every step of the plans, with the runsheet's own questions.

    With an ``asset`` they are runs for it: its pumps, and its meters as they stand.
    """
    with context.reading() as unit:
        known = _facts_of_asset(context, unit, asset) if asset is not None else {}
        joined: list[Tour] = []
        for document in documents:
            plan = _filled(unit, document)
            for i, tour in enumerate(tours(plan, known)):
                run = run_answers(plan, tour, document=document, known=known)
                if i < len(joined):
                    joined[i] |= run
                else:
                    joined.append({**(joined[-1] if joined else {}), **run})
    return tuple(joined)


def witness_answers(context: Context, document: str, witness: Mapping[str, Answer]) -> dict[str, Answer]:
    """A defect's witness as answers on the preview's runsheet."""
    with context.reading() as unit:
        return run_answers(_filled(unit, document), witness, document=document)


def preview(
    context: Context,
    documents: Sequence[str],
    answers: Answers,
    done: Sequence[str],
    *,
    reasons: Mapping[str, str] = NO_REASONS,
    asset: str | None = None,
) -> RunView:
    """The plans at the revision to work on, as one runsheet, under these answers.

    With an ``asset`` the facts are its own; facts among the answers stand in for those of an order.
    Answers to questions that the draft no longer has are dropped; an answer that does not fit its
    question is refused.
    """
    facts = {name: value for name, value in answers.items() if is_fact(name)}
    with context.reading() as unit:
        plans, shared = [], SharedPlans()
        for document in documents:
            revision = current_revision(unit, document, PLAN_KINDS)
            assert isinstance(revision.content, Plan)
            source = Source(document=document, revision=revision.letter, title=revision.content.title)
            plans.append((source, revision.content))
            own = shared_being_written(unit, revision.content)
            shared = SharedPlans(
                standards={**shared.standards, **own.standards}, forms={**shared.forms, **own.forms}
            )
        last: Mapping[str, Answer] = {}
        if asset is not None:
            facts = {**_facts_of_asset(context, unit, asset), **facts}
            last = unit.job_figures.last_answers(asset)
        names = fact_names(unit.catalogues.get())
    runsheet = compile_runsheet(plans, shared=shared, facts=facts, last=last, names=names)
    asked = {q.id for line in rules_of(runsheet, answers).laid.lines for q in line.questions}
    kept = {question: answer for question, answer in answers.items() if question in asked}
    refused = refused_answers(runsheet, kept)
    if refused:
        raise InvalidInput("preview.answer", refused[0], where="Preview")
    job = Job(answers=kept, done=tuple(done), reasons=dict(reasons))
    return run_view(take_up(runsheet, kept, done=done, reasons=reasons), job)


def _facts_of_asset(context: Context, unit: Unit, asset: str) -> dict[str, Answer]:
    placed = need_asset(unit, asset)
    return facts_by_name(facts_now(unit, placed, "", at=context.clock()), placed)


def _filled(unit: Unit, document: str) -> Plan:
    content = current_revision(unit, document, PLAN_KINDS).content
    assert isinstance(content, Plan)
    return fill_in(content, shared_being_written(unit, content)).plan
