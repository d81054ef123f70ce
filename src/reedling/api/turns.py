"""Requests in the order they came, a few at a time, so that one page is not slowed by all the others at once.

Eight pages that share one interpreter from beginning to end all take eight times as long, and a page that asks the
database often takes longer still, for after each answer it waits until it is let in again. One after the other each
waits for those before it and then takes what it takes alone.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from anyio import CapacityLimiter
from anyio.lowlevel import RunVar

AT_ONCE = 2
"""Requests that have a turn at the same time: one may wait for the database while the other computes."""
LONGEST_S = 0.25
"""A turn is given on after so long, and who had it goes on beside the others: what waits for another process, or takes
long, holds up nobody."""

_limiter: RunVar[CapacityLimiter] = RunVar("turns of requests")


@asynccontextmanager
async def in_turn() -> AsyncIterator[None]:
    """Wait for a turn, and have it within."""
    try:
        limiter = _limiter.get()
    except LookupError:
        limiter = CapacityLimiter(AT_ONCE)
        _limiter.set(limiter)
    this = object()
    has_turn = False

    def give_on() -> None:
        nonlocal has_turn
        if has_turn:
            has_turn = False
            limiter.release_on_behalf_of(this)

    await limiter.acquire_on_behalf_of(this)
    has_turn = True
    at_latest = asyncio.get_running_loop().call_later(LONGEST_S, give_on)
    try:
        yield
    finally:
        at_latest.cancel()
        give_on()
