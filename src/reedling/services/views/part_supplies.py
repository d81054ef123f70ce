"""Parts that come to a job from elsewhere, as they are shown; and what colleagues ask a technician for."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.people import Person
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.part_supplies import PartSupply
from reedling.services.context import Context
from reedling.services.shared.needed import need_order
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class SupplyView:
    """A part supply of a job; ``amount`` in words, ``of_name`` is the colleague it comes from."""

    record: str
    supply: PartSupply
    amount: str
    of_name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedPart:
    """A part that a colleague asks for: in words, who asks, and what for."""

    record: str
    order: str
    amount: str
    person_name: str
    asset: str
    site: str
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class PartHolder:
    """A technician whose van holds so much of a part, in its own unit."""

    part: str
    person: str
    name: str
    district: str
    quantity: float


def supply_views(unit: Unit, job: Job) -> tuple[SupplyView, ...]:
    """The part supplies of a job, as they came."""
    names = unit.people.names()
    return tuple(
        SupplyView(
            record=record,
            supply=supply,
            amount=_amount(unit, supply.part, supply.quantity),
            of_name=names.get(supply.of or "", ""),
        )
        for record, supply in job.supplies.items()
    )


def asked_parts(context: Context, person: Person) -> tuple[AskedPart, ...]:
    """What colleagues ask this technician for and is not answered, the oldest first."""
    with context.reading() as unit:
        names = unit.people.names()
        out = []
        for ask in unit.part_asks.open_of(person.id):
            order = need_order(unit, ask.order)
            out.append(
                AskedPart(
                    record=ask.record,
                    order=ask.order,
                    amount=_amount(unit, ask.part, ask.quantity),
                    person_name=names.get(ask.person, ask.person),
                    asset=order.asset.name,
                    site=order.site.name,
                    at=ask.at,
                )
            )
        return tuple(out)


def part_holders(context: Context, person: Person) -> tuple[PartHolder, ...]:
    """Who else carries which parts: those of the technician's own district first, then who has more."""
    with context.reading() as unit:
        others = {p.name: p for p in unit.people.all() if p.role == "technician" and p.id != person.id}
        found = [
            PartHolder(
                part=held.part,
                person=others[held.technician].id,
                name=held.technician,
                district=others[held.technician].district,
                quantity=held.quantity,
            )
            for held in unit.catalogues.get().van_stock
            if held.technician in others and held.quantity > 0
        ]
        return tuple(sorted(found, key=lambda h: (h.district != person.district, -h.quantity, h.name)))


def _amount(unit: Unit, code: str, quantity: float) -> str:
    part = next((p for p in unit.catalogues.get().parts if p.code == code), None)
    return part.amount(quantity) if part else f"{quantity:g} × {code}"
