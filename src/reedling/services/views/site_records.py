"""What the field recorded beside its steps, as the office settles it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime

from reedling.core.guidance.likeness import MeantPart, PartNames, meant_parts
from reedling.core.orders.lookalikes import Lookalike, lookalikes
from reedling.core.orders.orders import Order
from reedling.core.orders.site_records import SiteRecord, SiteRecordKind
from reedling.core.register.assets import PlacedAsset, asset_words
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.site_records import FoundEquipment, FurtherWork, Settled, TypedPart
from reedling.services.context import Context
from reedling.services.shared.needed import need_order


@dataclass(frozen=True, slots=True, kw_only=True)
class SiteRecordLine:
    """A site record that waits: what it is, whose, and what it may be: parts or assets, likeliest first."""

    record: str
    order: str
    symptom: str
    site: str
    asset: str
    technician: str
    kind: SiteRecordKind
    text: str
    at: datetime
    typed: TypedPart | None = None
    equipment: FoundEquipment | None = None
    work: FurtherWork | None = None
    parts: tuple[MeantPart, ...] = ()
    assets: tuple[Lookalike, ...] = ()
    settled: Settled | None = None


def waiting_site_records(context: Context, *, order_id: str | None = None) -> tuple[SiteRecordLine, ...]:
    """Every site record that waits for the office, the oldest first; of one order where it is named."""
    with context.reading() as unit:
        found = unit.site_records.find(waiting=True, order=order_id)
        if not found:
            return ()
        names = unit.people.names()
        parts = PartNames.of(unit.catalogues.get().parts)
        orders = {o: need_order(unit, o) for o in dict.fromkeys(record.order for record in found)}
        beside = {o: replay(order.runsheet, unit.recorded.events(o)).beside for o, order in orders.items()}
        assets = unit.register.assets() if any(r.kind == "equipment found" for r in found) else ()
        return tuple(
            _line(
                record,
                orders[record.order],
                names,
                typed=beside[record.order].parts.get(record.record),
                equipment=beside[record.order].equipment.get(record.record),
                work=beside[record.order].work.get(record.record),
                parts=parts,
                assets=assets,
            )
            for record in found
        )


def _line(
    record: SiteRecord,
    order: Order,
    names: Mapping[str, str],
    *,
    typed: TypedPart | None,
    equipment: FoundEquipment | None,
    work: FurtherWork | None,
    parts: PartNames,
    assets: Iterable[PlacedAsset],
) -> SiteRecordLine:
    return SiteRecordLine(
        record=record.record,
        order=record.order,
        symptom=order.symptom,
        site=order.site.code,
        asset=asset_words(order.asset, order.site),
        technician=names.get(record.person, record.person),
        kind=record.kind,
        text=record.text,
        at=record.at,
        typed=typed,
        equipment=equipment,
        work=work,
        parts=meant_parts(typed.text, parts) if typed else (),
        assets=lookalikes(equipment, order.site.code, assets) if equipment else (),
    )
