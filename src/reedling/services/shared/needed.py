"""The order or asset that is asked for, or an error that names it."""

from __future__ import annotations

from reedling.core.orders.orders import Order
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
