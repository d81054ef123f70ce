"""What a device is told of what it sent, and the pictures taken on site."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.runsheet.job import OrderState


@dataclass(frozen=True, slots=True, kw_only=True)
class Receipt:
    """What a device is told of its submission: the first time, and at every repeat."""

    submission: str
    order: str
    n_events: int
    state: OrderState
    received_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class HeldReceipt:
    """A submission that was applied: who made it, the digest of its content (none of old ones), its receipt."""

    person: str
    digest: str
    receipt: Receipt


@dataclass(frozen=True, slots=True, kw_only=True)
class Picture:
    """A picture taken on site."""

    id: str
    sha256: str
    media_type: str
    width: int
    height: int
    taken_at: datetime
    person: str
    order: str
