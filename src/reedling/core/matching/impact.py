"""What a change of the tables would do to orders: those that would get something different."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from reedling.core.matching.applicability import Guidance, Match, NamedDocument, match_order, what_speaks
from reedling.core.matching.order_facts import OrderFacts


@dataclass(frozen=True, slots=True, kw_only=True)
class ImpactGroup:
    """Orders for which the same would change: documents gained and lost, and whether they clash."""

    gained: tuple[NamedDocument, ...]
    lost: tuple[NamedDocument, ...]
    incident_type_before: str | None
    incident_type_after: str | None
    refused: bool
    orders: tuple[str, ...]
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Impact:
    """The groups with the most orders first, out of ``n_orders`` looked at."""

    groups: tuple[ImpactGroup, ...]
    n_orders: int
    n_changed: int


def impact_of(before: Guidance, after: Guidance, orders: Mapping[str, OrderFacts]) -> Impact:
    """Which orders would get something different, grouped by what changes."""
    groups: dict[tuple[object, ...], list[str]] = {}
    told: dict[tuple[object, ...], tuple[object, ...] | None] = {}
    for order, facts in orders.items():
        alike = (*what_speaks(before, facts), *what_speaks(after, facts))
        if alike not in told:
            told[alike] = _change(match_order(before, facts), match_order(after, facts))
        key = told[alike]
        if key is not None:
            groups.setdefault(key, []).append(order)
    titles = {**before.titles, **after.titles}
    found = [_group(key, those, titles) for key, those in groups.items()]
    return Impact(
        groups=tuple(sorted(found, key=lambda g: (-len(g.orders), g.sentence))),
        n_orders=len(orders),
        n_changed=sum(len(g.orders) for g in found),
    )


def _change(old: Match, new: Match) -> tuple[object, ...] | None:
    """What is gained and lost, the types before and after, whether it is refused; nothing where all is the same."""
    was, now = {t.document for t in old.taken}, {t.document for t in new.taken}
    types = (old.incident_type, new.incident_type)
    refused = bool(new.refused) and not old.refused
    if was == now and types[0] == types[1] and not refused:
        return None
    return (tuple(sorted(now - was)), tuple(sorted(was - now)), *types, refused)


def _group(key: tuple[object, ...], orders: list[str], titles: Mapping[str, str]) -> ImpactGroup:
    gained, lost, type_before, type_after, refused = key
    assert isinstance(gained, tuple)
    assert isinstance(lost, tuple)
    gains, losses = (
        tuple(NamedDocument(document=d, title=titles.get(d, d)) for d in ds) for ds in (gained, lost)
    )
    told = []
    if gains:
        told.append("would get " + ", ".join(n.title for n in gains))
    if losses:
        told.append("would no longer get " + ", ".join(n.title for n in losses))
    if type_before != type_after:
        told.append(f"would be of {type_after or 'no incident type'} instead of {type_before or 'none'}")
    if refused:
        told.append("would be refused for a pair that never goes together")
    return ImpactGroup(
        gained=gains,
        lost=losses,
        incident_type_before=type_before if isinstance(type_before, str) else None,
        incident_type_after=type_after if isinstance(type_after, str) else None,
        refused=bool(refused),
        orders=tuple(sorted(orders)),
        sentence=" and ".join(told),
    )
