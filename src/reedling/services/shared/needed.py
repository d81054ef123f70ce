"""The order or asset that is asked for, or an error that names it."""

from __future__ import annotations

from collections.abc import Mapping

from reedling.core.orders.orders import Order
from reedling.core.people import Person
from reedling.core.register.assets import PlacedAsset
from reedling.errors import NotFound
from reedling.store.unit import Unit


def need_order(unit: Unit, order_id: str) -> Order:
    """The order, or an error that names it."""
    order = unit.orders.get(order_id)
    if order is None:
        raise NotFound("orders.unknown", f"there is no order {order_id}.")
    return order


def need_asset(unit: Unit, asset_id: str) -> PlacedAsset:
    """The asset with its site, or an error that names it."""
    asset = unit.register.asset(asset_id)
    if asset is None:
        raise NotFound("assets.unknown", f"there is no asset {asset_id}.", hint="Choose one from the list.")
    return asset


def was_of(unit: Unit, order_id: str, person: Person) -> bool:
    """Whether an order is or ever was somebody's to do, or has something of theirs recorded."""
    if unit.recorded.was_worked_on_by(order_id, person.id):
        return True
    if unit.loose_records.find(order=order_id, person=person.id):
        return True
    changes = unit.changes.newest("order", key=order_id)
    return any(
        isinstance(side, Mapping) and side.get("technician") == person.id
        for change in changes
        for side in (change.before, change.after)
    )


def need_field_order(unit: Unit, order_id: str, person: Person) -> Order:
    """An order that is this technician's, or was while they may have recorded something.

    Raises
    ------
    NotFound
        ``orders.unknown`` when it never was.
    """
    order = need_order(unit, order_id)
    if order.technician != person.id and not was_of(unit, order_id, person):
        raise NotFound("orders.unknown", f"there is no order {order_id} for you.")
    return order
