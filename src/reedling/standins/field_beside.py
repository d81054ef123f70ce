"""What the simulated field records beside its steps. It has dice of its own, so that no story changes with it."""

from __future__ import annotations

import random
from collections.abc import Iterator, Mapping
from datetime import datetime
from math import ceil

from reedling.core.orders.orders import Order
from reedling.core.runsheet.events import FieldEvent
from reedling.core.runsheet.site_events import CostRecorded, CustomerSaid, StepAdded
from reedling.standins.field_truth import Trouble

SAID_BY_CUSTOMERS: Mapping[int, tuple[str, ...]] = {
    1: ("We were annoyed that nobody told us they would have to come again.",),
    2: ("It took two visits, and we pumped by hand meanwhile.", "Late, and in a hurry."),
    3: ("Works again, but we worry for how long.", "Works again, for how long we shall see."),
    4: ("Done well, arrived later than said.", "Explained what it was."),
    5: ("Quick, clean, and showed us what to watch.", "Thank you for coming so soon."),
}
"""What keepers say to a technician, by how they rate the work."""
WEEDY = ("screen-rake", "conveyor")
"""Equipment that leaves weed to be taken away."""


def beside_the_steps(order: Order, trouble: Trouble, now: datetime, *, is_late: bool) -> Iterator[FieldEvent]:
    """What no step asks for: the customer's word, and what is done all the same."""
    dice = random.Random(f"{order.id} beside")
    if trouble.also_done and dice.random() < 0.35:
        yield StepAdded(
            at=now,
            record=f"{order.id} also",
            phase="Put right",
            text=dice.choice((trouble.also_done, f"{trouble.also_done} as well", trouble.also_done.lower())),
            minutes=float(dice.randint(6, 14)),
        )
    yield from _costs(order, now)
    if dice.random() < 0.4:
        rating = dice.choices((1, 2, 3, 4, 5), (3, 6, 14, 40, 37) if is_late else (1, 2, 10, 42, 45))[0]
        words = SAID_BY_CUSTOMERS[rating] if dice.random() < 0.5 else ("",)
        yield CustomerSaid(at=now, comment=dice.choice(words), rating=rating)


def _costs(order: Order, now: datetime) -> Iterator[FieldEvent]:
    """What one job in eight costs besides its parts; of the weed taken away half a load is charged as a whole one."""
    dice = random.Random(f"{order.id} costs")
    if not order.runsheet.cost_kinds or dice.random() >= 0.125:
        return
    record = f"{order.id} cost"
    kind = dice.randrange(4)
    match kind if kind or order.asset.equipment in WEEDY else 2:
        case 0:
            loads = dice.choice((0.5, 1.0, 1.5))
            yield CostRecorded(
                at=now, record=record, cost="WEED-TIP", quantity=loads, charged=float(ceil(loads))
            )
        case 1:
            yield CostRecorded(at=now, record=record, cost="FERRY", quantity=2, rate=dice.choice((4.5, 6.0)))
        case 2:
            yield CostRecorded(at=now, record=record, cost="DRIVING", quantity=float(dice.randint(12, 60)))
        case 3:
            yield CostRecorded(at=now, record=record, cost="LABOUR-NIGHT", quantity=dice.choice((1.0, 1.5)))
