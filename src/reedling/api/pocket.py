"""Pocket: what the technician's phone asks for and sends."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import Query, Response, UploadFile
from pydantic import AwareDatetime, BaseModel, Field

from reedling.api.access import Anyone, Ctx, Technician
from reedling.api.error_mapping import ProblemAnswer, problem_of
from reedling.api.guarded import DOCUMENT_BODY, PICTURE_BODY, guarded_router
from reedling.api.page_version import SameVersion
from reedling.core.guidance.catalogue import Cause, Part, Remedy, Tool
from reedling.core.orders.receipts import Picture, Receipt, Upload
from reedling.core.orders.time_sheets import TimeSheetDay
from reedling.core.rollup.carrying import ToCarry
from reedling.core.runsheet.events import FieldEvent
from reedling.errors import ReedlingError
from reedling.services.actions import asking_back
from reedling.services.actions import part_supplies as supply_actions
from reedling.services.actions import pictures as pictures_actions
from reedling.services.actions.submissions import MAX_EVENTS, Sent, submit_events, submit_several
from reedling.services.shared.inspecting import MAX_PICTURE_BYTES
from reedling.services.views import asked_back as asked_back_views
from reedling.services.views import help as help_views
from reedling.services.views import lists as lists_views
from reedling.services.views import part_supplies as supply_views
from reedling.services.views import pictures as pictures_views
from reedling.services.views import pocket as pocket_views
from reedling.services.views import time_sheets as time_sheet_views
from reedling.services.views.asked_back import AskedView
from reedling.services.views.help import HelpView
from reedling.services.views.part_supplies import AskedPart, PartHolder
from reedling.services.views.pocket import PlateFound, PocketDay, PocketOrder, StandardStep

router = guarded_router("/api/v1", "pocket")


class Submission(BaseModel):
    """Events from a device, under an identity the device gave them."""

    id: UUID
    person: str | None = None
    """Who recorded it; one who is signed in on the same device by now does not send it as theirs."""
    sent_at: AwareDatetime | None = None
    checked: bool = True
    """Whether the device held the events against the rules; else what can be mended is refused, to be mended."""
    events: list[FieldEvent] = Field(max_length=MAX_EVENTS)


class PartAskAnswer(BaseModel):
    """Whether a part is let go; where and when to meet, or why not."""

    granted: bool
    text: str = Field(default="", max_length=500)


class AnswerBack(BaseModel):
    """What is answered to the office."""

    text: str = Field(max_length=4000)


MAX_SUBMISSIONS = 100
"""Submissions of one request."""


class OneOfSeveral(BaseModel):
    """A submission among several, with the order it is for."""

    id: UUID
    order: str
    person: str | None = None
    checked: bool = True
    events: list[FieldEvent] = Field(max_length=MAX_EVENTS)


class Submissions(BaseModel):
    """What a device sends at once, in the order it was recorded."""

    sent_at: AwareDatetime | None = None
    submissions: list[OneOfSeveral] = Field(min_length=1, max_length=MAX_SUBMISSIONS)


class SubmissionAnswer(BaseModel):
    """What became of one of several: its receipt, or why it was refused."""

    submission: UUID
    receipt: Receipt | None = None
    refusal: ProblemAnswer | None = None


class PocketLists(BaseModel):
    """What a technician chooses from."""

    parts: list[Part]
    tools: list[Tool]
    causes: list[Cause]
    remedies: list[Remedy]
    standard_steps: list[StandardStep]
    holders: list[PartHolder]


@router.get("/pocket/orders")
def own_orders(person: Technician, context: Ctx) -> PocketDay:
    """The technician's orders, by the time planned, and what of theirs waits for the office."""
    return pocket_views.own_day(context, person)


@router.get("/pocket/plate")
def plate(
    code: Annotated[str, Query(min_length=1, max_length=200)], _person: Technician, context: Ctx
) -> PlateFound:
    """Whose plate was read: the assets of the register that carry it, and in words."""
    return pocket_views.plate(context, code)


@router.get("/pocket/to-carry")
def own_load(person: Technician, context: Ctx) -> ToCarry:
    """The parts and tools that the technician needs to carry for the orders taken along, what is short first."""
    return pocket_views.own_load(context, person)


@router.get("/pocket/time-sheet")
def own_time_sheet(
    person: Technician, context: Ctx, days: Annotated[int, Query(ge=1, le=time_sheet_views.MOST_DAYS)] = 14
) -> list[TimeSheetDay]:
    """The technician's days with the times of each visit and what they come to, the latest first."""
    return list(time_sheet_views.own_time_sheet(context, person, days))


@router.get("/pocket/part-asks")
def part_asks(person: Technician, context: Ctx) -> list[AskedPart]:
    """What colleagues ask the technician for out of the van, and is not answered yet; the oldest first."""
    return list(supply_views.asked_parts(context, person))


@router.put("/pocket/part-asks/{order_id}/{record}", status_code=204)
def answer_part_ask(
    order_id: str, record: str, body: PartAskAnswer, person: Technician, context: Ctx
) -> None:
    """Let the part go that a colleague asks for, or not."""
    supply_actions.answer_part_ask(context, person, order_id, record, granted=body.granted, text=body.text)


@router.get("/pocket/questions")
def own_questions(person: Technician, context: Ctx) -> list[AskedView]:
    """What the office asks about jobs that are over, and is not answered yet; the oldest first."""
    return list(asked_back_views.own_questions(context, person))


@router.put("/pocket/questions/{question}/answer", status_code=204)
def answer_office(question: str, body: AnswerBack, person: Technician, context: Ctx) -> None:
    """Answer what the office asks; the same answer again changes nothing."""
    asking_back.answer_office(context, person, question, body.text)


@router.get("/pocket/lists")
def lists(person: Technician, context: Ctx) -> PocketLists:
    """Parts, causes, remedies and standard steps to choose from, and who else carries which parts."""
    found = lists_views.catalogue(context)
    return PocketLists(
        parts=list(found.parts),
        tools=list(found.tools),
        causes=list(found.causes),
        remedies=list(found.remedies),
        standard_steps=list(pocket_views.standard_steps(context)),
        holders=list(supply_views.part_holders(context, person)),
    )


@router.get("/pocket/orders/{order_id}", dependencies=[SameVersion])
def own_order(order_id: str, person: Technician, context: Ctx) -> PocketOrder:
    """One of the technician's orders, with all that is needed to carry it out."""
    return pocket_views.own_order(context, order_id, person)


@router.get("/pocket/orders/{order_id}/help-threads")
def own_help(order_id: str, person: Technician, context: Ctx) -> list[HelpView]:
    """The help threads of one of the technician's orders, with what the office said on them."""
    return list(help_views.own_help(context, order_id, person))


@router.post("/pocket/orders/{order_id}/submissions", max_body_size=DOCUMENT_BODY)
def submit(order_id: str, body: Submission, person: Technician, context: Ctx) -> Receipt:
    """Take in what the device recorded, once; a repeat is answered with the first receipt.

    What the job cannot take in any more is kept beside the order, and the receipt says why.
    """
    return submit_events(
        context,
        person,
        order_id,
        str(body.id),
        body.events,
        recorded_by=body.person,
        sent_at=body.sent_at,
        checked=body.checked,
    )


@router.post("/pocket/submissions", max_body_size=DOCUMENT_BODY)
def submit_many(body: Submissions, person: Technician, context: Ctx) -> list[SubmissionAnswer]:
    """Take in several submissions, each by itself and in their order; one refused holds up none behind it.

    What is not answered, because the server could not go on, is still to be sent.
    """
    sent = [
        Sent(
            order=one.order,
            submission=str(one.id),
            events=tuple(one.events),
            recorded_by=one.person,
            checked=one.checked,
        )
        for one in body.submissions
    ]
    found = submit_several(context, person, sent, sent_at=body.sent_at)
    return [
        SubmissionAnswer(
            submission=one.id,
            receipt=None if isinstance(answer, ReedlingError) else answer,
            refusal=problem_of(answer) if isinstance(answer, ReedlingError) else None,
        )
        for one, answer in zip(body.submissions, found, strict=False)
    ]


@router.post("/pocket/orders/{order_id}/pictures/{picture_id}", max_body_size=PICTURE_BODY)
def keep_picture(
    order_id: str,
    picture_id: UUID,
    file: UploadFile,
    person: Technician,
    context: Ctx,
    question: str = "",
) -> Picture:
    """Keep a picture; a repeat changes nothing. Where it was taken is kept only if its question says so."""
    data = file.file.read(MAX_PICTURE_BYTES + 1)
    return pictures_actions.keep_picture(context, person, order_id, str(picture_id), data, question=question)


class ComingPicture(BaseModel):
    """A picture that is to come in pieces; ``size`` in bytes, ``sha256`` of the whole."""

    order: str
    question: str = ""
    size: int
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


@router.put("/pocket/pictures/{picture_id}")
def begin_picture(picture_id: UUID, body: ComingPicture, person: Technician, context: Ctx) -> Upload:
    """Announce a picture; told again, how many of its bytes are here."""
    return pictures_actions.begin_picture(
        context,
        person,
        body.order,
        str(picture_id),
        size=body.size,
        sha256=body.sha256,
        question=body.question,
    )


@router.post("/pocket/pictures/{picture_id}/pieces", max_body_size=PICTURE_BODY)
def add_piece(
    picture_id: UUID, file: UploadFile, at: int, sha256: str, person: Technician, context: Ctx
) -> Upload:
    """Add the piece that begins at byte ``at``, checked by its hash; with the last the picture is kept."""
    piece = file.file.read(pictures_actions.MAX_PIECE_BYTES + 1)
    return pictures_actions.add_piece(context, person, str(picture_id), at=at, piece=piece, sha256=sha256)


@router.get(
    "/pictures/{picture_id}",
    response_class=Response,
    responses={200: {"content": {"image/*": {"schema": {"type": "string", "format": "binary"}}}}},
)
def picture(picture_id: str, person: Anyone, context: Ctx) -> Response:
    """A picture's file."""
    found, data = pictures_views.picture_data(context, person, picture_id)
    return Response(
        data, media_type=found.media_type, headers={"Cache-Control": "private, max-age=31536000, immutable"}
    )
