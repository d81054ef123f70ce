"""What somebody set for everybody."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy.orm import Session

from reedling.core.orders.order_card import OrderCard
from reedling.core.orders.taking_along import TakingAlong
from reedling.exchange.content import dump_value, load_value
from reedling.store.tables import SettingRow

_TAKING_ALONG = "taking along"
_ORDER_CARD = "order card"
_CARDS = TypeAdapter(OrderCard)


@dataclass(frozen=True, slots=True)
class SettingsHeld:
    """Repository of settings; each is as it comes until somebody sets it."""

    session: Session

    def taking_along(self) -> TakingAlong:
        """What Pocket takes along."""
        row = self.session.get(SettingRow, _TAKING_ALONG)
        return TakingAlong(**row.value) if row else TakingAlong()

    def set_taking_along(self, rule: TakingAlong) -> None:
        """Set what Pocket takes along."""
        self._set(_TAKING_ALONG, dump_value(rule))

    def order_card(self) -> OrderCard:
        """What the order's card shows in Pocket."""
        row = self.session.get(SettingRow, _ORDER_CARD)
        return load_value(_CARDS, row.value, where="The order's card") if row else OrderCard()

    def set_order_card(self, card: OrderCard) -> None:
        """Set what the order's card shows in Pocket."""
        self._set(_ORDER_CARD, dump_value(card))

    def _set(self, name: str, value: dict[str, Any]) -> None:
        self.session.merge(SettingRow(name=name, value=value))
        self.session.flush()
