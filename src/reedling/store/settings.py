"""What somebody set for everybody."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from reedling.core.orders.taking_along import TakingAlong
from reedling.exchange.content import dump_value
from reedling.store.tables import SettingRow

_TAKING_ALONG = "taking along"


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

    def _set(self, name: str, value: dict[str, Any]) -> None:
        self.session.merge(SettingRow(name=name, value=value))
        self.session.flush()
