"""Costs of a job besides its parts: labour, a ferry, a hired pump, at rates that the office fixed or left open."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from math import isfinite

from reedling.core.guidance.catalogue import CostKind
from reedling.core.logic.conditions import number_text
from reedling.core.runsheet.site_events import LONGEST_WORDS, CostRecorded
from reedling.errors import InvalidInput

MOST_COST = 1e9
"""What a rate or a quantity of a cost stays below."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordedCost:
    """So many units of a kind of cost at a rate, and what they come to (``amount``).

    ``charged`` is the quantity that the customer is charged for.
    """

    cost: str
    quantity: float
    rate: float
    amount: float
    charged: float
    text: str
    at: datetime


def check_cost(kinds: Iterable[CostKind], event: CostRecorded) -> None:
    """Whether the cost may be recorded on an order whose runsheet has these kinds.

    Raises
    ------
    InvalidInput
        ``jobs.cost`` for a kind that the order does not have, and for a rate that is fixed otherwise, missing or no
        number from 0; ``jobs.quantity`` for quantities that cannot be; ``jobs.site_words`` for words too long.
    """
    kind = next((k for k in kinds if k.code == event.cost), None)
    if kind is None:
        raise InvalidInput("jobs.cost", f"this order has no cost {event.cost}.", where="Cost")
    for what, quantity in (("quantity", event.quantity), ("quantity charged", event.charged)):
        if quantity is not None and not (isfinite(quantity) and 0 <= quantity < MOST_COST):
            raise InvalidInput("jobs.quantity", f"the {what} must be 0 or more.", where=kind.name)
    if kind.rate is None and event.quantity > 0 and event.rate is None:
        raise InvalidInput(
            "jobs.cost", f"say what one {kind.unit} was: the rate is left open.", where=kind.name
        )
    if event.rate is not None and not (isfinite(event.rate) and 0 <= event.rate < MOST_COST):
        raise InvalidInput("jobs.cost", "the rate must be 0 or more.", where=kind.name)
    if kind.rate is not None and event.rate not in (None, kind.rate):
        raise InvalidInput(
            "jobs.cost",
            f"the rate of this is fixed at {number_text(kind.rate)}.",
            where=kind.name,
            hint="Leave the rate out. Another one is set in the list of costs, for orders to come.",
        )
    if len(event.text) > LONGEST_WORDS:
        raise InvalidInput(
            "jobs.site_words", f"it has more than {LONGEST_WORDS} characters.", where=kind.name
        )


def with_cost(
    costs: Mapping[str, RecordedCost], kinds: Iterable[CostKind], event: CostRecorded
) -> dict[str, RecordedCost]:
    """The costs after the event, which was checked when it came; of one taken back nothing stays."""
    if event.quantity == 0 and not event.charged:
        return {key: cost for key, cost in costs.items() if key != event.record}
    fixed = next((k.rate for k in kinds if k.code == event.cost), None)
    rate = fixed if fixed is not None else event.rate or 0.0
    made = RecordedCost(
        cost=event.cost,
        quantity=event.quantity,
        rate=rate,
        amount=event.quantity * rate,
        charged=event.quantity if event.charged is None else event.charged,
        text=event.text.strip(),
        at=event.at,
    )
    return {**costs, event.record: made}
