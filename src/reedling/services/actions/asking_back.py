"""Ask the technician of a job something about it, and take in the answer."""

from __future__ import annotations

from reedling.core.orders.asked_back import MOST_WAITING, AskedBack, answer_back
from reedling.core.people import Person
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.shared.needed import need_order


def ask_technician(context: Context, person: Person, order_id: str, line: str, text: str) -> AskedBack:
    """Ask who carried a job out about it, or about one of its lines.

    Raises
    ------
    InvalidInput
        ``asked_back.empty`` without words.
    NotFound
        ``asked_back.line`` for a line that is not on its runsheet.
    Conflict
        ``asked_back.nobody`` when nobody carried it out, or they are gone; ``asked_back.many`` when
        :data:`~reedling.core.orders.asked_back.MOST_WAITING` wait for an answer.
    """
    if not text.strip():
        raise InvalidInput("asked_back.empty", "there are no words in it.", where="Question")
    with context.writing() as unit:
        order = need_order(unit, order_id)
        if line and all(one.id != line for one in order.runsheet.lines):
            raise NotFound("asked_back.line", f"there is no step {line} on {order_id}.", where="Question")
        technician = unit.people.get(order.technician or "")
        was_there = technician is not None and unit.recorded.was_worked_on_by(order_id, technician.id)
        if technician is None or technician.removed_at is not None or not was_there:
            raise Conflict(
                "asked_back.nobody",
                "there is nobody to ask: no technician who signs in has worked on it.",
                where=order_id,
                hint="Ask once somebody has.",
            )
        if sum(one.answered_at is None for one in unit.questions_back.of_order(order_id)) >= MOST_WAITING:
            raise Conflict(
                "asked_back.many",
                f"{MOST_WAITING} questions about it wait for an answer.",
                where=order_id,
                hint="Wait for some of them.",
            )
        asked = AskedBack(
            id=context.new_id(),
            order=order_id,
            line=line,
            text=text.strip(),
            asked_at=context.clock(),
            asked_by=person.id,
            technician=technician.id,
        )
        unit.questions_back.put(asked)
        return asked


def answer_office(context: Context, person: Person, identity: str, text: str) -> AskedBack:
    """Answer what the office asked; only who was asked answers.

    Raises
    ------
    NotFound
        ``asked_back.unknown`` when it is not theirs to answer.
    """
    with context.writing() as unit:
        asked = unit.questions_back.get(identity)
        if asked is None or asked.technician != person.id:
            raise NotFound("asked_back.unknown", "nobody asked you this.", where="Answer")
        answered = answer_back(asked, text, context.clock())
        unit.questions_back.put(answered)
        return answered
