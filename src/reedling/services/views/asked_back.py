"""What the office asked about jobs, as the office and the technician read it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.orders.asked_back import AskedBack
from reedling.core.people import Person
from reedling.services.context import Context
from reedling.services.shared.needed import need_order
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedView:
    """A question about a job with names; ``step`` and ``job`` in words, ``step`` empty for the whole job."""

    id: str
    order: str
    job: str
    step: str
    text: str
    asked_at: datetime
    asked_by_name: str
    answer: str
    answered_at: datetime | None
    technician_name: str


def asked_of(unit: Unit, asked: AskedBack) -> AskedView:
    """A question with its names."""
    order, names = need_order(unit, asked.order), unit.people.names()
    symptoms = {symptom.code: symptom.label for symptom in unit.catalogues.get().symptoms}
    return AskedView(
        id=asked.id,
        order=asked.order,
        job=f"{symptoms.get(order.symptom, order.symptom)}: {order.asset.name}, {order.site.name}",
        step=next((line.text for line in order.runsheet.lines if line.id == asked.line), ""),
        text=asked.text,
        asked_at=asked.asked_at,
        asked_by_name=names.get(asked.asked_by, asked.asked_by),
        answer=asked.answer,
        answered_at=asked.answered_at,
        technician_name=names.get(asked.technician, asked.technician),
    )


def asked_about(unit: Unit, order: str) -> tuple[AskedView, ...]:
    """What was asked about a job, the oldest first."""
    return tuple(asked_of(unit, asked) for asked in unit.questions_back.of_order(order))


def own_questions(context: Context, person: Person) -> tuple[AskedView, ...]:
    """What a technician has not answered yet, the oldest first."""
    with context.reading() as unit:
        return tuple(asked_of(unit, asked) for asked in unit.questions_back.waiting_for(person.id))
