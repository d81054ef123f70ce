"""Run a draft as a technician would meet it, without recording anything."""

from __future__ import annotations

from collections.abc import Sequence

from reedling.core.checking.tours import Tour, tours
from reedling.core.guidance.plans import Plan
from reedling.core.logic.conditions import Answers
from reedling.core.runsheet.lines import Source, compile_runsheet, within
from reedling.core.runsheet.progress import follow, refused_answers
from reedling.errors import InvalidInput
from reedling.services.context import Context
from reedling.services.document_views import current_revision
from reedling.services.run_views import RunView, run_view


def preview_tours(context: Context, documents: Sequence[str]) -> tuple[Tour, ...]:
    """Runs that between them meet every step of the plans, with the runsheet's own questions."""
    with context.store.reading() as unit:
        joined: list[Tour] = []
        for document in documents:
            content = current_revision(unit, document, "plan").content
            assert isinstance(content, Plan)
            for i, tour in enumerate(tours(content)):
                run = {within(document, question): answer for question, answer in tour.items()}
                if i < len(joined):
                    joined[i] |= run
                else:
                    joined.append({**(joined[-1] if joined else {}), **run})
    return tuple(joined)


def preview(context: Context, documents: Sequence[str], answers: Answers, done: Sequence[str]) -> RunView:
    """The plans at the revision to work on, as one runsheet, under these answers.

    Answers to questions that the draft no longer has are dropped; an answer that does not fit
    its question is refused.
    """
    with context.store.reading() as unit:
        plans = []
        for document in documents:
            revision = current_revision(unit, document, "plan")
            assert isinstance(revision.content, Plan)
            source = Source(document=document, revision=revision.letter, title=revision.content.title)
            plans.append((source, revision.content))
    runsheet = compile_runsheet(plans)
    asked = {proof.id for line in runsheet.lines for proof in line.proofs}
    kept = {question: answer for question, answer in answers.items() if question in asked}
    refused = refused_answers(runsheet, kept)
    if refused:
        raise InvalidInput("preview.answer", refused[0], where="Preview")
    return run_view(runsheet, follow(runsheet, kept, done=done), kept)
