"""Find anything by a few letters: incident types, forms, standard steps, orders, assets."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from reedling.core.orders.orders import WantedOrders
from reedling.core.people import Person
from reedling.core.register.assets import asset_words
from reedling.services.context import Context

FoundDocument = Literal["incident type", "form", "standard step", "decision table", "fault guide"]

FoundKind = FoundDocument | Literal["order", "asset"]

MAX_FOUND = 12

KINDS: tuple[FoundDocument, ...] = get_args(FoundDocument)
"""Documents that are found by themselves; a plan is found by its incident type."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """One thing found; ``id`` is enough to open it."""

    kind: FoundKind
    id: str
    title: str
    detail: str


def find_anything(context: Context, person: Person, text: str) -> tuple[Found, ...]:
    """Things whose identity or words hold every word of the text, incident types first.

    No kind crowds out another: each that has hits gets its share of the places. A technician finds
    only their own orders.
    """
    words = text.lower().split()
    if not words:
        return ()
    with context.reading() as unit:
        own = person.id if person.role == "technician" else None
        found: list[Found] = []
        if own is None:
            for kind in KINDS:
                found += [
                    Found(kind=kind, id=document, title=content.title, detail=content.summary)
                    for document, content in unit.documents.contents_of_kind(kind).items()
                ]
        labels = {s.code: s.label for s in unit.catalogues.get().symptoms}
        wanted = WantedOrders(technician=own, words=tuple(words), symptoms=labels)
        orders: list[Found] = []
        for order in unit.orders.page(wanted, offset=0, limit=MAX_FOUND)[1]:
            detail = f"{asset_words(order.asset, order.site)}, {order.state}"
            title = f"{order.id} {labels.get(order.symptom, order.symptom)}"
            orders.append(Found(kind="order", id=order.id, title=title, detail=detail))
        if own is None:
            for placed in unit.register.assets():
                asset = placed.asset
                where = f"{placed.site.name}, {asset.model}, {asset.serial}"
                found.append(Found(kind="asset", id=asset.code, title=asset.name, detail=where))
    hits = [f for f in found if all(w in f"{f.id} {f.title} {f.detail}".lower() for w in words)]
    n_documents = sum(f.kind != "asset" for f in hits)
    hits = [*hits[:n_documents], *orders, *hits[n_documents:]]
    of_kind: dict[FoundKind, list[Found]] = {}
    for hit in hits:
        of_kind.setdefault(hit.kind, []).append(hit)
    share = MAX_FOUND // max(1, len(of_kind))
    chosen = {hit for held in of_kind.values() for hit in held[:share]}
    more = [hit for hit in hits if hit not in chosen][: MAX_FOUND - len(chosen)]
    return tuple(hit for hit in hits if hit in chosen or hit in more)
