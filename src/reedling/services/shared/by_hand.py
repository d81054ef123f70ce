"""Documents that people keep adding to orders, or taking off them, by hand."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Literal

from reedling.core.orders.orders import OrderInShort
from reedling.core.refining.missing_rows import ByHand
from reedling.store.unit import Unit

Act = Literal["added", "removed"]


def changed_by_hand(unit: Unit, orders: Sequence[OrderInShort]) -> tuple[ByHand, ...]:
    """What was changed by hand on these orders, by kind of order; the most often changed first."""
    changes = unit.orders.changes()
    if not changes:
        return ()
    equipment = {a.asset.code: a.asset.equipment for a in unit.register.assets()}
    kinds = {o.id: (equipment[o.asset], o.symptom) for o in orders}
    found: dict[tuple[Act, str, str, str, str], list[tuple[str, str]]] = {}
    for change in changes:
        if change.order in kinds:
            key = (change.act, change.document, change.title, *kinds[change.order])
            found.setdefault(key, []).append((change.order, change.reason))
    counts = Counter(kinds.values())
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
