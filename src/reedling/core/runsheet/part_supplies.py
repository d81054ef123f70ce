"""Parts that come from elsewhere than the technician's own van: out of a colleague's, or sent ahead by the office."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from math import isfinite
from typing import Literal

from reedling.core.logic.conditions import number_text
from reedling.core.runsheet.site_events import (
    LONGEST_WORDS,
    PartAskAnswered,
    PartAsked,
    PartPickedUp,
    PartReceived,
    PartSent,
)
from reedling.errors import Conflict, InvalidInput

SupplyState = Literal["asked", "granted", "not granted", "sent", "here"]
"""A colleague was asked, lets it go or does not; the office sent it; it is with the technician."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PartSupply:
    """A part on its way to a job, in its own unit.

    ``of`` is the colleague it comes from, nobody where the office sent it. ``here`` is how many of them the technician
    has, as confirmed; ``said`` are the last words about it.
    """

    part: str
    quantity: float
    of: str | None
    at: datetime
    state: SupplyState
    here: float = 0.0
    said: str = ""


SupplyEvent = PartAsked | PartAskAnswered | PartPickedUp | PartSent | PartReceived
"""The events that part supplies are made of. They are no work on the order: its runsheet may still change after them."""
SUPPLY_KINDS = ("part asked", "part ask answered", "part picked up", "part sent", "part received")
"""Their kinds."""


def check_supply(supplies: Mapping[str, PartSupply], event: SupplyEvent) -> None:
    """Whether the event may be recorded.

    Raises
    ------
    InvalidInput
        ``jobs.quantity`` for a quantity that cannot be, ``jobs.site_words`` for words that are missing or too long.
    Conflict
        ``jobs.supply`` where the part supply is there already, is not there, or stands otherwise.
    """
    where = event.kind.capitalize()
    if not isinstance(event, PartAsked | PartPickedUp) and len(event.text) > LONGEST_WORDS:
        raise InvalidInput("jobs.site_words", f"it has more than {LONGEST_WORDS} characters.", where=where)
    held = supplies.get(event.record)
    match event:
        case PartAsked() | PartSent():
            if held is not None:
                raise Conflict("jobs.supply", "this is recorded already.", where=where)
            if not 0 < event.quantity < float("inf"):
                raise InvalidInput("jobs.quantity", "the quantity must be above 0.", where=where)
        case PartAskAnswered():
            _need(held, "asked", "nobody asks for this part any more.", where)
        case PartPickedUp():
            _need(held, "granted", "there is no such part that a colleague lets go.", where)
        case PartReceived():
            found = _need(held, "sent", "there is no such part on its way.", where)
            if not (isfinite(event.quantity) and event.quantity >= 0):
                raise InvalidInput("jobs.quantity", "the quantity must be 0 or more.", where=where)
            if event.quantity != found.quantity and not event.text.strip():
                raise InvalidInput(
                    "jobs.site_words",
                    f"{number_text(found.quantity)} were sent; say why it is another number.",
                    where=where,
                )


def _need(held: PartSupply | None, state: SupplyState, otherwise: str, where: str) -> PartSupply:
    if held is None or held.state != state:
        raise Conflict("jobs.supply", otherwise, where=where)
    return held


def with_supply(supplies: Mapping[str, PartSupply], event: SupplyEvent) -> dict[str, PartSupply]:
    """The part supplies after the event, which was checked when it came."""
    return {**supplies, event.record: _after(supplies.get(event.record), event)}


def _after(held: PartSupply | None, event: SupplyEvent) -> PartSupply:
    match event:
        case PartAsked():
            return PartSupply(
                part=event.part, quantity=event.quantity, of=event.of, at=event.at, state="asked"
            )
        case PartSent():
            return PartSupply(
                part=event.part,
                quantity=event.quantity,
                of=None,
                at=event.at,
                state="sent",
                said=event.text.strip(),
            )
    assert held is not None
    match event:
        case PartAskAnswered():
            return replace(held, state="granted" if event.granted else "not granted", said=event.text.strip())
        case PartPickedUp():
            return replace(held, state="here", here=held.quantity)
        case PartReceived():
            return replace(held, state="here", here=event.quantity, said=event.text.strip() or held.said)


def check_taken_from(
    supplies: Mapping[str, PartSupply],
    used: Iterable[tuple[str | None, float]],
    supply: str,
    part: str,
    quantity: float,
) -> None:
    """Whether so much of a part can be taken from a part supply; ``used`` are those used so far, by their supply.

    Raises
    ------
    Conflict
        ``jobs.supply`` while it is not here, or not so many of it are left.
    """
    where = f"Part {part}"
    held = supplies.get(supply)
    if held is None or held.part != part:
        raise Conflict("jobs.supply", "there is no such supply of this part.", where=where)
    if held.state != "here":
        raise Conflict(
            "jobs.supply",
            "it is not confirmed yet that this part is here.",
            where=where,
            hint="Say that it was received or picked up, then use it.",
        )
    left = held.here - sum(amount for taken_from, amount in used if taken_from == supply)
    if quantity > left + 1e-9:
        raise Conflict("jobs.supply", f"{number_text(max(left, 0.0))} of it are left.", where=where)
