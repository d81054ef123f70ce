"""What was proved before, so that an edit of a plan is checked again only in the part that it touches."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from threading import Lock
from typing import Any, TypeVar

from cachetools import LRUCache

T = TypeVar("T")
MOST_PROOFS = 4_000
"""Proofs in memory; beyond it those that were not asked for lately go."""


class KeptProofs:
    """Proofs by all that they rest on. Several threads may ask at once; each works out what it lacks."""

    def __init__(self) -> None:
        self._held: LRUCache[Hashable, Any] = LRUCache(MOST_PROOFS)
        self._turn = Lock()

    def get(self, key: Hashable, prove: Callable[[], T], *, lasts: Callable[[T], bool]) -> T:
        """What is kept under the key, else what ``prove`` gives, kept if it ``lasts``.

        What ran out of time does not last: with more of it, it may be proved.
        """
        with self._turn:
            if key in self._held:
                return self._held[key]  # type: ignore[no-any-return]
        found = prove()
        if lasts(found):
            with self._turn:
                self._held[key] = found
        return found

    def forget(self) -> None:
        """Let go of everything."""
        with self._turn:
            self._held.clear()


PROOFS = KeptProofs()
