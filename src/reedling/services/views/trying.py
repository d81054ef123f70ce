"""What an order would get today; nothing is kept."""

from __future__ import annotations

from reedling.services.context import Context
from reedling.services.shared.current import current_revision
from reedling.services.shared.matched import Matched, OrderToMatch, match_asked
from reedling.services.shared.needed import need_order

MAX_TRACES = 400
"""How many rows that did not match are told of: the nearest."""


def try_order(context: Context, order: OrderToMatch, *, draft: str | None = None) -> Matched:
    """What an order would get today; nothing is kept. ``draft`` names a table to try as it is written."""
    with context.reading() as unit:
        drafts = [current_revision(unit, draft, ("decision table",))] if draft else []
        return match_asked(unit, order, context.clock(), drafts=drafts, keep=MAX_TRACES)


def try_again(context: Context, order_id: str, *, draft: str | None = None) -> Matched:
    """What an order that came in would get today, from what it was matched on then; as :func:`try_order`."""
    with context.reading() as unit:
        held = need_order(unit, order_id)
        drafts = [current_revision(unit, draft, ("decision table",))] if draft else []
        asked = OrderToMatch(asset=held.asset.code, symptom=held.symptom, priority=held.priority)
        return match_asked(unit, asked, held.logged_at, drafts=drafts, keep=MAX_TRACES, facts=held.matched_on)
