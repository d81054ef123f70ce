"""What the field records beside its steps: breaks, times put right, what the customer said, what was found on site.

``at`` is an aware UTC instant from the device; ``record`` is the identity that the device gave.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from reedling.core.guidance.phases import Phase

LONGEST_WORDS = 500
"""Characters of what is typed about one thing beside the steps."""
TimeOfVisit = Literal["headed out", "arrived", "left"]
"""A time of a visit that may be put right."""
Settling = Literal["matched", "entered", "ordered", "set aside"]
"""What the office made of a site record: a part of the catalogue, an asset of the register, an order, nothing."""


@dataclass(frozen=True, slots=True, kw_only=True)
class BreakBegan:
    """The technician stopped work for a break; it ends with the next work that is recorded, if not before."""

    at: datetime
    kind: Literal["break began"] = "break began"


@dataclass(frozen=True, slots=True, kw_only=True)
class BreakEnded:
    """The technician went on with the work."""

    at: datetime
    kind: Literal["break ended"] = "break ended"


@dataclass(frozen=True, slots=True, kw_only=True)
class TimeCorrected:
    """A time of the ``visit``, counted from 1, was another than the one recorded, with the reason why.

    ``by_office`` where not whoever made the visit says so.
    """

    at: datetime
    visit: int
    time: TimeOfVisit
    to: datetime
    reason: str
    by_office: bool = False
    kind: Literal["time corrected"] = "time corrected"


@dataclass(frozen=True, slots=True, kw_only=True)
class PartTyped:
    """A part was consumed that was not found in the catalogue, in the technician's words."""

    at: datetime
    record: str
    text: str
    quantity: float
    line: str | None = None
    kind: Literal["part typed"] = "part typed"


@dataclass(frozen=True, slots=True, kw_only=True)
class EquipmentFound:
    """Equipment stands on site that the register does not have, with a picture of its plate where one was taken."""

    at: datetime
    record: str
    name: str
    model: str = ""
    serial: str = ""
    picture: str | None = None
    kind: Literal["equipment found"] = "equipment found"


@dataclass(frozen=True, slots=True, kw_only=True)
class StepAdded:
    """Something was done that no step asked for, with the minutes it took.

    ``standard`` is the standard step that it was, ``asset`` the equipment at the site that it was done on, where it is
    another than the order's.
    """

    at: datetime
    record: str
    phase: Phase
    text: str
    minutes: float
    standard: str = ""
    asset: str = ""
    kind: Literal["step added"] = "step added"


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkRecommended:
    """Further work is recommended to the customer; ``price`` is what was said it would cost, where it was."""

    at: datetime
    record: str
    text: str
    price: float | None = None
    kind: Literal["work recommended"] = "work recommended"


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkAnswered:
    """The customer accepted or declined further work that was recommended; a later answer replaces an earlier one."""

    at: datetime
    record: str
    accepted: bool
    kind: Literal["work answered"] = "work answered"


@dataclass(frozen=True, slots=True, kw_only=True)
class SignedOff:
    """Somebody signed for the visit, with their name and what they are; ``picture`` is the signature."""

    at: datetime
    picture: str
    name: str
    role: str
    kind: Literal["signed off"] = "signed off"


@dataclass(frozen=True, slots=True, kw_only=True)
class CustomerSaid:
    """What the customer said of the work, and a rating from 1 (poor) to 5 (very good); later words replace earlier."""

    at: datetime
    comment: str = ""
    rating: int | None = None
    kind: Literal["customer said"] = "customer said"


@dataclass(frozen=True, slots=True, kw_only=True)
class FixMarked:
    """A past fix was tried: whether it was what solved this, too. A later mark of the same fix replaces an earlier one."""

    at: datetime
    cause: str
    remedy: str
    helped: bool
    kind: Literal["fix marked"] = "fix marked"


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckSeen:
    """A check of the order's fault guide was made, and it is so or not; nothing takes back what was said."""

    at: datetime
    check: str
    seen: bool | None
    kind: Literal["check seen"] = "check seen"


@dataclass(frozen=True, slots=True, kw_only=True)
class RemedyTried:
    """A remedy of the order's fault guide was tried and proved: whether the equipment works."""

    at: datetime
    remedy: str
    helped: bool
    kind: Literal["remedy tried"] = "remedy tried"


@dataclass(frozen=True, slots=True, kw_only=True)
class NoCauseFits:
    """None of the causes of the order's fault guide fits, in the technician's words; empty words take it back."""

    at: datetime
    text: str
    kind: Literal["no cause fits"] = "no cause fits"


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordSettled:
    """The office settled a site record: ``target`` is the part, asset or order; set aside, ``reason`` says why."""

    at: datetime
    record: str
    decision: Settling
    target: str = ""
    reason: str = ""
    kind: Literal["record settled"] = "record settled"


@dataclass(frozen=True, slots=True, kw_only=True)
class CostRecorded:
    """Something besides parts was spent: so many units of a kind of cost. The same ``record`` again replaces it.

    ``rate`` is what one unit was, where the office left that open. ``charged`` is the quantity that the customer is
    charged for, where it is another one. A quantity of 0 takes it back.
    """

    at: datetime
    record: str
    cost: str
    quantity: float
    rate: float | None = None
    charged: float | None = None
    text: str = ""
    kind: Literal["cost recorded"] = "cost recorded"


@dataclass(frozen=True, slots=True, kw_only=True)
class PartAsked:
    """A colleague was asked for a part out of their van; ``of`` is the colleague."""

    at: datetime
    record: str
    part: str
    quantity: float
    of: str
    kind: Literal["part asked"] = "part asked"


@dataclass(frozen=True, slots=True, kw_only=True)
class PartAskAnswered:
    """The colleague lets the part go or not, and may say where and when to meet, or why not."""

    at: datetime
    record: str
    granted: bool
    text: str = ""
    kind: Literal["part ask answered"] = "part ask answered"


@dataclass(frozen=True, slots=True, kw_only=True)
class PartPickedUp:
    """A part that a colleague let go is with the technician now."""

    at: datetime
    record: str
    kind: Literal["part picked up"] = "part picked up"


@dataclass(frozen=True, slots=True, kw_only=True)
class PartSent:
    """The office sent a part ahead of the visit; ``text`` says where it is to be found."""

    at: datetime
    record: str
    part: str
    quantity: float
    text: str = ""
    kind: Literal["part sent"] = "part sent"


@dataclass(frozen=True, slots=True, kw_only=True)
class PartReceived:
    """What was sent ahead is there: so many of them, 0 when none came; with words where it is another number."""

    at: datetime
    record: str
    quantity: float
    text: str = ""
    kind: Literal["part received"] = "part received"


SiteEvent = (
    BreakBegan
    | BreakEnded
    | TimeCorrected
    | PartTyped
    | EquipmentFound
    | StepAdded
    | WorkRecommended
    | WorkAnswered
    | SignedOff
    | CustomerSaid
    | FixMarked
    | CheckSeen
    | RemedyTried
    | NoCauseFits
    | RecordSettled
    | CostRecorded
    | PartAsked
    | PartAskAnswered
    | PartPickedUp
    | PartSent
    | PartReceived
)
"""What is recorded beside the steps."""
