"""Documents that people keep adding to orders, or taking off them, by hand."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from reedling.core.refining.missing_rows import ByHand
from reedling.store.unit import Unit

Act = Literal["added", "removed"]


def changed_by_hand(unit: Unit, since: datetime | None = None) -> tuple[ByHand, ...]:
    """What was changed by hand on orders logged since then, by kind of order; the most often changed first."""
    changes = unit.orders.changes()
    kinds = unit.orders.kinds((change.order for change in changes), since)
    if not kinds:
        return ()
    found: dict[tuple[Act, str, str, str, str], list[tuple[str, str]]] = {}
    for change in changes:
        if change.order in kinds:
            key = (change.act, change.document, change.title, *kinds[change.order])
            found.setdefault(key, []).append((change.order, change.reason))
    counts = unit.orders.n_of_kinds(since)
    made = [
        ByHand(
            act=act,
            document=document,
            title=title,
            equipment=equipment,
            symptom=symptom,
            orders=tuple(dict.fromkeys(order for order, _ in those)),
            reasons=tuple(dict.fromkeys(reason for _, reason in those)),
            n_of=counts[equipment, symptom],
        )
        for (act, document, title, equipment, symptom), those in found.items()
    ]
    return tuple(sorted(made, key=lambda b: (-len(b.orders), b.document)))
