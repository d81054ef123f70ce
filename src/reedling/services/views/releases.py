"""What a release would touch."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.register.assets import asset_words
from reedling.core.runsheet.job_state import OPEN_STATES
from reedling.services.context import Context
from reedling.services.shared.bundles import open_revisions
from reedling.services.shared.links import DocumentLink, link_to


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptOrder:
    """An open order that keeps the revision it was issued with."""

    order: str
    asset: str
    state: str
    revision: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ReleaseEffect:
    """What a release would touch: documents that go together, plans and orders that refer to them."""

    documents: tuple[DocumentLink, ...]
    used_in: tuple[DocumentLink, ...]
    incident_types: tuple[DocumentLink, ...]
    open_orders: tuple[KeptOrder, ...]


def effect_of_release(context: Context, document: str) -> ReleaseEffect:
    """What releasing the drafts that go with a document would touch."""
    with context.reading() as unit:
        going = [r.document for r in open_revisions(unit, document)] or [document]
        using = unit.documents.uses()
        direct = {
            d
            for g in going
            for d in using.get(g, ())
            # A table says when and a guide in which order, not what: they stay as it is when what it names changes.
            if unit.documents.kind(d) not in ("decision table", "fault guide")
        } - set(going)
        plans = {d for d in (*going, *direct) if unit.documents.kind(d) != "incident type"}
        above = {d for p in plans for d in using.get(p, ())}
        incidents = sorted(d for d in above | set(going) if unit.documents.kind(d) == "incident type")
        users = sorted(direct - set(incidents))
        orders = [
            KeptOrder(
                order=o.id,
                asset=asset_words(o.asset, o.site),
                state=o.state,
                revision=", ".join(f"{s.document} {s.revision}" for s in o.sources if s.document in going),
            )
            for o in unit.orders.headings(states=OPEN_STATES)
            if any(s.document in going for s in o.sources)
        ]
        return ReleaseEffect(
            documents=tuple(link_to(unit, d) for d in going),
            used_in=tuple(link_to(unit, d) for d in users),
            incident_types=tuple(link_to(unit, d) for d in incidents),
            open_orders=tuple(orders),
        )
