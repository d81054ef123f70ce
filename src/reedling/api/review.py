"""Review and refine: completions to read, and what the field made of an incident type."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import Depends, Query, Response
from pydantic import BaseModel, ConfigDict, Field

from reedling.api.access import Ctx, OfficePerson, Writer
from reedling.api.guarded import guarded_router
from reedling.api.shapes import Identity, Limit, Offset, ReviewNote
from reedling.core.evidence.compared_jobs import JobsCompared
from reedling.core.evidence.cross_filter import Facet
from reedling.core.evidence.customers_said import CustomersSaid
from reedling.core.evidence.kept_views import LONGEST_NAME, KeptView
from reedling.core.evidence.order_kept import OutOfTurn
from reedling.core.evidence.routine_work import RoutineChoices, RoutineFacet, WorkState
from reedling.core.runsheet.events import PictureMark
from reedling.core.runsheet.job_checks import MOST_MARKS
from reedling.services.actions import asking_back
from reedling.services.actions import help as help_actions
from reedling.services.actions import kept_views as kept_view_actions
from reedling.services.actions import reviews as reviews_actions
from reedling.services.views import completions as completions_views
from reedling.services.views import desk as desk_views
from reedling.services.views import evidence as evidence_views
from reedling.services.views import exploring
from reedling.services.views import help as help_views
from reedling.services.views import routine_work as routine_views
from reedling.services.views.completions import CompletionPage, InboxPage
from reedling.services.views.desk import Desk
from reedling.services.views.evidence import Evidence, JobsPage, RevisionOutcomes
from reedling.services.views.exploring import (
    AskedOfCrew,
    BackAgain,
    JobsTogether,
    KeptViewLine,
    ReadingsChart,
)
from reedling.services.views.help import HelpLine, HelpView
from reedling.services.views.order_kept import OrderKeptPage, order_kept_page
from reedling.services.views.routine_work import PieceLines, RoutinePage
from reedling.services.views.search import Found, find_anything

router = guarded_router("/api/v1", "review")


class QuestionBack(BaseModel):
    """A question to who carried a job out; ``line`` is empty for the whole job."""

    line: str = Field("", max_length=200)
    text: str = Field(max_length=4000)


@router.get("/completions")
def inbox(
    _person: OfficePerson, context: Ctx, offset: Offset = 0, limit: Limit = completions_views.PAGE
) -> InboxPage:
    """Finished jobs that nobody has read yet, the most unusual first; a page at a time."""
    return completions_views.inbox(context, offset=offset, limit=limit)


@router.get("/incident-types/{document}/jobs")
def jobs(
    document: str,
    _person: OfficePerson,
    context: Ctx,
    revision: str | None = None,
    plan: str | None = None,
    step: str | None = None,
    line: Annotated[str, Query(max_length=200, description="A line that was done out of turn.")] = "",
    other: Annotated[str, Query(max_length=200, description="What it was done before or after.")] = "",
    early: Annotated[bool, Query(description="Whether it was done before the other.")] = True,
    offset: Offset = 0,
    limit: Limit = completions_views.PAGE,
) -> JobsPage:
    """The jobs behind the figures: all, those of a revision, that wanted a step of a plan, or did a line out of turn."""
    wanted = (plan, step) if plan and step else None
    way = OutOfTurn(line=line, other=other, is_early=early) if line and other else None
    return evidence_views.jobs_behind(
        context, document, revision=revision, step=wanted, out_of_turn=way, offset=offset, limit=limit
    )


@router.get("/incident-types/{document}/order-kept")
def order_kept(
    document: str, _person: OfficePerson, context: Ctx, revision: str | None = None
) -> OrderKeptPage:
    """How far the jobs of an incident type kept to the order of their runsheets, and where they went astray most often."""
    return order_kept_page(context, document, revision=revision)


@router.put("/incident-types/{document}/evidence/reading", status_code=204)
def note_evidence_read(document: str, person: Writer, context: Ctx) -> None:
    """Note that what the field made of an incident type was read."""
    reviews_actions.note_evidence_read(context, person, document)


@router.get("/desk")
def desk(person: Writer, context: Ctx) -> Desk:
    """What waits for an engineer or approver today, the dearest to wait first."""
    return desk_views.desk(context, person)


class PlainCompletions(BaseModel):
    """Completions with nothing unusual about them."""

    orders: list[str] = Field(min_length=1, max_length=500)


class Marked(BaseModel):
    """How many were marked as read."""

    n: int


@router.post("/completions/readings")
def mark_plain(body: PlainCompletions, person: Writer, context: Ctx) -> Marked:
    """Note that several completions with nothing unusual about them were read."""
    return Marked(n=reviews_actions.mark_plain_reviewed(context, person, body.orders))


@router.get("/completions/{order_id}")
def completion(order_id: str, _person: OfficePerson, context: Ctx) -> CompletionPage:
    """A completion in full, with what differed from the plan."""
    return completions_views.completion(context, order_id)


@router.post("/completions/{order_id}/questions", status_code=201)
def ask_technician(order_id: str, body: QuestionBack, person: Writer, context: Ctx) -> Identity:
    """Ask who carried a job out about it, or about one of its steps; it reaches their phone."""
    return Identity(id=asking_back.ask_technician(context, person, order_id, body.line, body.text).id)


@router.post("/completions/{order_id}/reading", status_code=204)
def mark_reviewed(order_id: str, body: ReviewNote, person: Writer, context: Ctx) -> None:
    """Note that the completion was read."""
    reviews_actions.mark_reviewed(context, person, order_id, body.note)


@router.get("/incident-types/{document}/evidence")
def evidence(document: str, _person: OfficePerson, context: Ctx, revision: str | None = None) -> Evidence:
    """What the field made of an incident type, or of one revision of its plans."""
    return evidence_views.evidence(context, document, revision=revision)


@router.get("/incident-types/{document}/outcomes")
def outcomes(
    document: str, plan: str, older: str, newer: str, _person: OfficePerson, context: Ctx
) -> RevisionOutcomes:
    """The outcomes of the jobs of two revisions of a plan."""
    return evidence_views.compare_outcomes(context, document, plan, older, newer)


@router.get(
    "/incident-types/{document}/evidence/steps.csv",
    response_class=Response,
    responses={200: {"content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def steps_csv(document: str, _person: OfficePerson, context: Ctx) -> Response:
    """The step evidence as a sheet."""
    text = evidence_views.evidence_csv(context, document)
    disposition = f'attachment; filename="{document}-steps.csv"'
    return Response(text, media_type="text/csv", headers={"Content-Disposition": disposition})


Choice = Annotated[tuple[str, ...], Query(max_length=100)]


def chosen(
    model: Choice = (),
    district: Choice = (),
    symptom: Choice = (),
    revision: Choice = (),
    cause: Choice = (),
    remedy: Choice = (),
    return_reason: Choice = (),
    month: Choice = (),
) -> dict[Facet, tuple[str, ...]]:
    """What is chosen in each facet; several values of one mean any of them."""
    return {
        "model": model,
        "district": district,
        "symptom": symptom,
        "revision": revision,
        "cause": cause,
        "remedy": remedy,
        "return reason": return_reason,
        "month": month,
    }


Chosen = Annotated[dict[Facet, tuple[str, ...]], Depends(chosen)]


@router.get("/incident-types/{document}/jobs-together")
def jobs_together(document: str, _person: OfficePerson, context: Ctx, choices: Chosen) -> JobsTogether:
    """All finished jobs of an incident type, narrowed by choices that cross."""
    return exploring.jobs_together(context, document, choices)


@router.get("/incident-types/{document}/jobs-together/customers")
def said_by_customers(document: str, _person: OfficePerson, context: Ctx, choices: Chosen) -> CustomersSaid:
    """What the customers of the jobs that meet the choices said: ratings, and comments with their tone."""
    return exploring.said_by_customers(context, document, choices)


@router.get("/incident-types/{document}/jobs-together/compared")
def jobs_compared(
    document: str,
    _person: OfficePerson,
    context: Ctx,
    choices: Chosen,
    against: Annotated[str, Query(max_length=LONGEST_NAME)] = "",
) -> JobsCompared:
    """The jobs that meet the choices against those of a kept view, or against all others."""
    return exploring.jobs_compared(context, document, choices, against)


def chosen_routine_work(
    incident_type: Annotated[str, Query(max_length=40)] = "",
    district: Annotated[str, Query(max_length=200)] = "",
    month: Annotated[str, Query(max_length=7, description="When it was due, as 2026-03.")] = "",
    work: Annotated[str, Query(max_length=200, description="A kind of work: document, colon, step.")] = "",
) -> RoutineChoices:
    """What is looked at of routine work; what is left empty is not narrowed."""
    given: dict[RoutineFacet, str] = {
        "incident_type": incident_type,
        "district": district,
        "month": month,
        "work": work,
    }
    return {facet: value for facet, value in given.items() if value}


RoutineChosen = Annotated[RoutineChoices, Depends(chosen_routine_work)]


@router.get("/routine-work")
def routine_page(_person: OfficePerson, context: Ctx, choices: RoutineChosen) -> RoutinePage:
    """What was to be done on routine visits and what became of it, by kind of work, visit, district and month."""
    return routine_views.routine_page(context, choices)


@router.get("/routine-work/pieces")
def routine_pieces(
    _person: OfficePerson,
    context: Ctx,
    choices: RoutineChosen,
    state: WorkState | None = None,
    offset: Offset = 0,
    limit: Limit = 50,
) -> PieceLines:
    """The pieces of routine work that meet the choices and are in a state, the latest last day first."""
    return routine_views.piece_lines(context, choices, state, offset=offset, limit=limit)


@router.get(
    "/routine-work.csv",
    response_class=Response,
    responses={200: {"content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def routine_csv(_person: OfficePerson, context: Ctx, choices: RoutineChosen) -> Response:
    """The pieces of routine work that meet the choices as a sheet."""
    text = routine_views.routine_csv(context, choices)
    disposition = 'attachment; filename="routine-work.csv"'
    return Response(text, media_type="text/csv", headers={"Content-Disposition": disposition})


@router.get("/incident-types/{document}/kept-views")
def kept_views(document: str, person: OfficePerson, context: Ctx) -> tuple[KeptViewLine, ...]:
    """The views that are kept of an incident type's jobs."""
    return exploring.kept_views(context, person, document)


class ViewToKeep(BaseModel):
    """A name for the choices that the address names."""

    model_config = ConfigDict(extra="forbid")
    name: str = Field(max_length=2 * LONGEST_NAME)


@router.post("/incident-types/{document}/kept-views", status_code=201)
def keep_view(
    document: str, view: ViewToKeep, person: OfficePerson, context: Ctx, choices: Chosen
) -> KeptView:
    """Keep the choices by name, for everybody in the office."""
    return kept_view_actions.keep_view(context, person, document, view.name, choices)


@router.delete("/incident-types/{document}/kept-views", status_code=204)
def let_view_go(
    document: str,
    name: Annotated[str, Query(max_length=LONGEST_NAME)],
    person: OfficePerson,
    context: Ctx,
) -> None:
    """Keep a view no longer."""
    kept_view_actions.let_view_go(context, person, document, name)


@router.get(
    "/incident-types/{document}/jobs-together.csv",
    response_class=Response,
    responses={200: {"content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def jobs_together_csv(document: str, _person: OfficePerson, context: Ctx, choices: Chosen) -> Response:
    """The jobs that meet the choices as a sheet."""
    text = exploring.jobs_together_csv(context, document, choices)
    disposition = f'attachment; filename="{document}-jobs.csv"'
    return Response(text, media_type="text/csv", headers={"Content-Disposition": disposition})


@router.get(
    "/incident-types/{document}/jobs-together.xes",
    response_class=Response,
    responses={200: {"content": {"application/xml": {"schema": {"type": "string"}}}}},
)
def jobs_together_log(document: str, _person: OfficePerson, context: Ctx, choices: Chosen) -> Response:
    """What was recorded on the jobs that meet the choices as an event log (XES, IEEE Std 1849-2016); nobody is named."""
    text = exploring.jobs_together_log(context, document, choices)
    disposition = f'attachment; filename="{document}-jobs.xes"'
    return Response(text, media_type="application/xml", headers={"Content-Disposition": disposition})


@router.get("/incident-types/{document}/readings")
def readings(
    document: str,
    _person: OfficePerson,
    context: Ctx,
    question: str = "",
    model: str = "",
    asset: str = "",
) -> ReadingsChart:
    """The readings of a question in time, with their chart."""
    return exploring.readings_chart(context, document, question=question, model=model, asset=asset)


@router.get("/incident-types/{document}/back-again")
def back_again(document: str, _person: OfficePerson, context: Ctx) -> BackAgain:
    """How soon a further order follows a finished job on the same asset."""
    return exploring.back_again(context, document)


@router.get("/incident-types/{document}/asked-of-crews")
def asked_of_crews(document: str, person: OfficePerson, context: Ctx) -> list[AskedOfCrew]:
    """What is worth asking about readings; nothing for those who do not write guidance."""
    return list(exploring.asked_of_crews(context, document, person))


@router.get("/help-threads")
def open_help(_person: OfficePerson, context: Ctx) -> list[HelpLine]:
    """Every help thread that nobody has ended; those that wait for an answer first."""
    return list(help_views.open_help(context))


@router.get("/help-threads/{thread}")
def help_thread(thread: str, _person: OfficePerson, context: Ctx) -> HelpView:
    """A question from site with all that was said and marked on it."""
    return help_views.help_thread(context, thread)


class NewHelpReply(BaseModel):
    """What is said or marked on a help thread, under an identity of its own."""

    id: UUID
    text: str = Field(default="", max_length=2000)
    marks: list[PictureMark] = Field(default=[], max_length=MOST_MARKS)


@router.post("/help-threads/{thread}/replies", status_code=204)
def reply_to_help(thread: str, body: NewHelpReply, person: Writer, context: Ctx) -> None:
    """Answer a question from site, in words and with marks on its picture."""
    help_actions.reply_to_help(context, person, thread, body.text, body.marks, identity=str(body.id))


@router.get("/search")
def find(q: Annotated[str, Query(max_length=200)], person: OfficePerson, context: Ctx) -> list[Found]:
    """Anything whose words hold every word asked for."""
    return list(find_anything(context, person, q))
