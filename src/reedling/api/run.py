"""Run: the planner's orders."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import Query, Response
from pydantic import BaseModel, Field, JsonValue

from reedling.api.access import Ctx, OfficePerson, Planner, Writer
from reedling.api.guarded import guarded_router
from reedling.api.shapes import TAGGED, IfMatch, Limit, Offset, PlannableInstant
from reedling.core.matching.applicability import MatchTrace
from reedling.core.orders.order_card import OrderCard
from reedling.core.orders.receipts import Decision
from reedling.core.orders.taking_along import MOST_DAYS, TakingAlong
from reedling.core.people import Person
from reedling.core.runsheet.job_state import OrderState
from reedling.core.runsheet.site_events import Settling, TimeOfVisit
from reedling.services.actions import loose_records as loose_actions
from reedling.services.actions import orders as orders_actions
from reedling.services.actions import part_supplies as supply_actions
from reedling.services.actions import settings as settings_actions
from reedling.services.actions import site_records as site_record_actions
from reedling.services.actions import visit_times
from reedling.services.actions.orders_by_hand import HandAct, change_order
from reedling.services.actions.settings import CardSettings, TakingAlongSet
from reedling.services.shared.matched import OrderToMatch
from reedling.services.shared.order_cards import CardShown
from reedling.services.views import loose_records as loose_views
from reedling.services.views import orders as orders_views
from reedling.services.views import past_fixes as past_fix_views
from reedling.services.views import pocket as pocket_views
from reedling.services.views import site_records as site_record_views
from reedling.services.views import time_sheets as time_sheet_views
from reedling.services.views.loose_records import LooseLine
from reedling.services.views.orders import OrderPage, OrdersPage
from reedling.services.views.past_fixes import PastFixView
from reedling.services.views.pocket import Loads
from reedling.services.views.site_records import SiteRecordLine
from reedling.services.views.time_sheets import TechnicianSheet

router = guarded_router("/api/v1", "run")


class NewOrder(BaseModel):
    """An order to log."""

    asset: str
    symptom: str
    report: str = Field(default="", max_length=2000)
    incident_type: str = ""
    priority: str = ""
    without: list[str] = Field(default=[], max_length=50)


class HandChange(BaseModel):
    """A document to put on an order or take off it, and why."""

    act: HandAct
    document: str
    reason: str = Field(max_length=2000)


class VisitPlan(BaseModel):
    """Who goes, and when."""

    technician: str
    planned_for: PlannableInstant


class Reason(BaseModel):
    """Why."""

    reason: str = Field(max_length=2000)


class LooseDecision(BaseModel):
    """What becomes of loose records; setting them aside needs a reason."""

    submissions: list[str] = Field(min_length=1, max_length=1000)
    decision: Decision
    reason: str = Field(default="", max_length=2000)


class LooseDecided(BaseModel):
    """What was decided on a loose record."""

    submission: str
    order: str
    decision: Decision


class SiteRecordSettling(BaseModel):
    """What a site record is: ``target`` is the part, the asset, or the symptom of the order to log.

    ``entry`` enters a new asset under that code; ``remember`` keeps the spelling with the part.
    """

    decision: Settling
    target: str = Field(default="", max_length=100)
    reason: str = Field(default="", max_length=2000)
    remember: bool = True
    entry: dict[str, JsonValue] | None = None


class PartToSend(BaseModel):
    """A part to send ahead, in its own unit, and where it is to be found."""

    part: str = Field(max_length=100)
    quantity: float = Field(gt=0, allow_inf_nan=False)
    text: str = Field(default="", max_length=500)


class TimeToCorrect(BaseModel):
    """A time of a visit, counted from 1, what it was in truth, and why it is corrected."""

    visit: int = Field(ge=1, le=1000)
    time: TimeOfVisit
    to: PlannableInstant
    reason: str = Field(max_length=2000)


class CardPreviewed(BaseModel):
    """A card, and the order on which it is tried."""

    card: OrderCard
    order: str


class OrderIdentity(BaseModel):
    """The identity of an order and its state now."""

    id: str
    state: OrderState


@router.get("/orders")
def orders(
    _person: OfficePerson,
    context: Ctx,
    incident_type: str | None = None,
    state: Annotated[tuple[OrderState, ...], Query(max_length=10)] = (),
    words: Annotated[str, Query(max_length=200)] = "",
    offset: Offset = 0,
    limit: Limit = orders_views.PAGE,
) -> OrdersPage:
    """Orders, newest first: those in the states, with every word in them somewhere; a page at a time."""
    return orders_views.orders_page(
        context, states=state, incident_type=incident_type, words=words, offset=offset, limit=limit
    )


@router.get("/time-sheets")
def time_sheets(_person: OfficePerson, context: Ctx, first: date, last: date) -> list[TechnicianSheet]:
    """The time sheets of all technicians from a day to another, by name."""
    return list(time_sheet_views.time_sheets(context, first, last))


@router.get(
    "/time-sheets.csv",
    response_class=Response,
    responses={200: {"content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def time_sheets_csv(_person: OfficePerson, context: Ctx, first: date, last: date) -> Response:
    """Their visits as a sheet."""
    text = time_sheet_views.time_sheets_csv(context, first, last)
    disposition = f'attachment; filename="time-sheets-{first}-{last}.csv"'
    return Response(text, media_type="text/csv", headers={"Content-Disposition": disposition})


@router.post("/orders/{order_id}/part-supplies", status_code=204)
def send_part(order_id: str, sent: PartToSend, person: Planner, context: Ctx) -> None:
    """Send a part ahead of the visit; the technician confirms that it is there before it is used."""
    supply_actions.send_part(context, person, order_id, sent.part, sent.quantity, sent.text)


@router.post("/orders/{order_id}/time-corrections", status_code=204)
def correct_time(order_id: str, asked: TimeToCorrect, person: Planner, context: Ctx) -> None:
    """Put a time of a visit right, with a reason; also once the job is finished."""
    visit_times.correct_time(context, person, order_id, asked.visit, asked.time, asked.to, asked.reason)


@router.post("/orders", status_code=201)
def log_order(new: NewOrder, person: Planner, context: Ctx) -> OrderIdentity:
    """Log an order; it gets its runsheet at once."""
    asked = OrderToMatch(
        asset=new.asset,
        symptom=new.symptom,
        incident_type=new.incident_type,
        priority=new.priority,
        without=tuple(new.without),
    )
    order = orders_actions.log_order(context, person, asked, new.report)
    return OrderIdentity(id=order.id, state=order.state)


@router.get("/orders/{order_id}")
def order(order_id: str, _person: OfficePerson, context: Ctx) -> OrderPage:
    """An order in full."""
    return orders_views.order_page(context, order_id)


@router.get("/orders/{order_id}/trace")
def trace(order_id: str, _person: OfficePerson, context: Ctx) -> list[MatchTrace]:
    """Which rows the order met when it was logged, and why not the nearest of the others."""
    return list(orders_views.order_trace(context, order_id))


@router.get("/orders/{order_id}/past-fixes")
def past_fixes(order_id: str, _person: OfficePerson, context: Ctx) -> list[PastFixView]:
    """What solved jobs like this order, the likeliest first; none once it is closed."""
    return list(past_fix_views.past_fixes(context, order_id))


@router.post("/orders/{order_id}/documents")
def change_by_hand(order_id: str, body: HandChange, person: OfficePerson, context: Ctx) -> OrderIdentity:
    """Put a document on an order that nobody has begun, or take one off, with the reason."""
    order = change_order(context, person, order_id, body.act, body.document, body.reason)
    return OrderIdentity(id=order.id, state=order.state)


@router.post("/orders/{order_id}/visit")
def plan_visit(order_id: str, body: VisitPlan, person: Planner, context: Ctx) -> OrderIdentity:
    """Give the order to a technician for a time."""
    order = orders_actions.plan_visit(context, person, order_id, body.technician, body.planned_for)
    return OrderIdentity(id=order.id, state=order.state)


@router.post("/orders/{order_id}/cancellation")
def cancel(order_id: str, body: Reason, person: Planner, context: Ctx) -> OrderIdentity:
    """Cancel an order, with a reason."""
    order = orders_actions.cancel_order(context, person, order_id, body.reason)
    return OrderIdentity(id=order.id, state=order.state)


@router.get("/loose-records")
def loose_records(_person: OfficePerson, context: Ctx) -> list[LooseLine]:
    """What devices recorded, jobs could not take in, and nobody has decided on yet; oldest first."""
    return list(loose_views.all_loose(context))


@router.post("/loose-records/decisions")
def decide(body: LooseDecision, person: OfficePerson, context: Ctx) -> list[LooseDecided]:
    """Take loose records in, or set them aside with a reason; all of those named, or none."""
    if body.decision == "taken in":
        decided = loose_actions.take_in(context, person, body.submissions)
    else:
        decided = loose_actions.set_aside(context, person, body.submissions, body.reason)
    return [
        LooseDecided(submission=r.submission, order=r.order, decision=r.decision)
        for r in decided
        if r.decision is not None
    ]


@router.get("/site-records")
def site_records(
    _person: OfficePerson, context: Ctx, order: Annotated[str | None, Query(max_length=50)] = None
) -> list[SiteRecordLine]:
    """What the field recorded beside its steps and waits for the office, the oldest first."""
    return list(site_record_views.waiting_site_records(context, order_id=order))


@router.post("/orders/{order_id}/site-records/{record}/settling", status_code=204)
def settle_site_record(
    order_id: str, record: str, body: SiteRecordSettling, person: OfficePerson, context: Ctx
) -> None:
    """Say what a site record is: a part of the catalogue, an asset of the register, an order; or set it aside."""
    match body.decision:
        case "matched":
            site_record_actions.match_part(
                context, person, order_id, record, body.target, remember=body.remember
            )
        case "entered":
            site_record_actions.enter_equipment(
                context, person, order_id, record, asset=body.target, entry=body.entry
            )
        case "ordered":
            site_record_actions.order_work(context, person, order_id, record, body.target)
        case "set aside":
            site_record_actions.set_record_aside(context, person, order_id, record, body.reason)


@router.get("/settings/taking-along", responses=TAGGED)
def taking_along(response: Response, _person: OfficePerson, context: Ctx) -> TakingAlongSet:
    """Which orders a device takes along."""
    held = settings_actions.taking_along(context)
    response.headers["ETag"] = held.etag
    return held


@router.get("/settings/taking-along/loads")
def loads(
    technician: str,
    _person: OfficePerson,
    context: Ctx,
    days_back: Annotated[int, Query(ge=0, le=MOST_DAYS)] = 1,
    days_ahead: Annotated[int, Query(ge=0, le=MOST_DAYS)] = 7,
    pictures: bool = True,
) -> Loads:
    """What such a rule would have a technician's device take along, and what each order weighs."""
    rule = TakingAlong(days_back=days_back, days_ahead=days_ahead, pictures=pictures)
    return pocket_views.loads(context, rule, technician)


@router.put("/settings/taking-along")
def set_taking_along(body: TakingAlong, if_match: IfMatch, person: Writer, context: Ctx) -> TakingAlongSet:
    """Set which orders a device takes along."""
    return settings_actions.set_taking_along(context, person, body, if_match)


@router.get("/settings/order-card", responses=TAGGED)
def order_card(response: Response, _person: OfficePerson, context: Ctx) -> CardSettings:
    """What the card of an order shows in Pocket, and what it may show."""
    held = settings_actions.order_card(context)
    response.headers["ETag"] = held.etag
    return held


@router.put("/settings/order-card")
def set_order_card(body: OrderCard, if_match: IfMatch, person: Writer, context: Ctx) -> CardSettings:
    """Set what the card of an order shows in Pocket."""
    return settings_actions.set_order_card(context, person, body, if_match)


@router.post("/settings/order-card/previews")
def preview_order_card(body: CardPreviewed, _person: OfficePerson, context: Ctx) -> CardShown:
    """What a card would show of an order; nothing is kept."""
    return settings_actions.preview_order_card(context, body.card, body.order)


@router.get("/technicians")
def technicians(_person: OfficePerson, context: Ctx) -> list[Person]:
    """Everybody an order can be given to."""
    return list(orders_views.technicians(context))
