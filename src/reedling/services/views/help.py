"""Help threads as both sides read them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.orders.help import HelpMessage, help_messages
from reedling.core.orders.orders import Order
from reedling.core.people import Person
from reedling.core.register.assets import asset_words
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.errors import NotFound
from reedling.services.context import Context
from reedling.services.shared.needed import need_field_order, need_order
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpLine:
    """A help thread in a list: where it was asked, by whom, since when, and whether it waits for the office."""

    thread: str
    order: str
    asset: str
    technician: str
    step: str
    asked_at: datetime
    waits_for_office: bool
    ended_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpView:
    """A help thread in full: its step in words, its picture, and all that was said on it by both sides."""

    thread: str
    order: str
    asset: str
    technician: str
    line: str
    step: str
    step_document: str
    step_identity: str
    picture: str | None
    messages: tuple[HelpMessage, ...]
    ended_at: datetime | None
    kept: bool | None


def open_help(context: Context) -> tuple[HelpLine, ...]:
    """Every thread that nobody has ended: those that wait for the office first, the longest asked first."""
    with context.reading() as unit:
        names = unit.people.names()
        found = unit.help.find(open_only=True)
        orders = {o: need_order(unit, o) for o in dict.fromkeys(s.order for s in found)}
        lines = [
            HelpLine(
                thread=s.thread,
                order=s.order,
                asset=asset_words(orders[s.order].asset, orders[s.order].site),
                technician=names.get(s.person, s.person),
                step=_step(orders[s.order], s.line),
                asked_at=s.asked_at,
                waits_for_office=s.waits_for_office,
                ended_at=s.ended_at,
            )
            for s in found
        ]
        return tuple(sorted(lines, key=lambda line: (not line.waits_for_office, line.asked_at)))


def help_thread(context: Context, thread: str) -> HelpView:
    """One thread in full.

    Raises
    ------
    NotFound
        ``help.unknown``.
    """
    with context.reading() as unit:
        held = unit.help.get(thread)
        if held is None:
            raise NotFound("help.unknown", "there is no such question from site.", where=thread)
        order = need_order(unit, held.order)
        job = replay(order.runsheet, unit.recorded.events(order.id))
        return next(view for view in help_views(unit, order, job) if view.thread == thread)


def own_help(context: Context, order_id: str, person: Person) -> tuple[HelpView, ...]:
    """The threads of one of a technician's orders."""
    with context.reading() as unit:
        order = need_field_order(unit, order_id, person)
        return help_views(unit, order, replay(order.runsheet, unit.recorded.events(order.id)))


def help_views(unit: Unit, order: Order, job: Job) -> tuple[HelpView, ...]:
    """The threads of an order as they stand, in the order in which they were asked."""
    if not job.help:
        return ()
    names = unit.people.names()
    replies = unit.help.replies(order.id)
    askers = {s.thread: s.person for s in unit.help.find(order=order.id)}
    lines = {line.id: line for line in job_run(order.runsheet, job).lines_ever}
    out = []
    for held in job.help.values():
        line = lines.get(held.line or "")
        out.append(
            HelpView(
                thread=held.id,
                order=order.id,
                asset=asset_words(order.asset, order.site),
                technician=names.get(askers.get(held.id, ""), ""),
                line=held.line or "",
                step=line.text if line else "",
                step_document=line.document if line else "",
                step_identity=line.step if line else "",
                picture=held.picture,
                messages=tuple(
                    HelpMessage(
                        side=m.side,
                        person=names.get(m.person or askers.get(held.id, ""), ""),
                        at=m.at,
                        text=m.text,
                        marks=m.marks,
                    )
                    for m in help_messages(held, replies)
                ),
                ended_at=held.ended_at,
                kept=held.kept,
            )
        )
    return tuple(out)


def _step(order: Order, line: str) -> str:
    plain = line.split("@", 1)[0]
    return next((one.text for one in order.runsheet.lines if one.id == plain), "")
