"""What every service is handed: the store, the clock and the source of identities."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from typing import TypeVar

from reedling.services.effective import bring_into_force
from reedling.store.unit import Store, Unit

P = TypeVar("P")
T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Context:
    """``clock`` gives the aware UTC instant; ``new_id`` a short identity never given before.

    Whoever reads or writes through it finds in force what was approved for today or earlier.
    """

    store: Store
    clock: Callable[[], datetime]
    new_id: Callable[[], str]

    @contextmanager
    def reading(self) -> Iterator[Unit]:
        """A consistent view that writes nothing."""
        bring_into_force(self.store, self.clock())
        with self.store.reading() as unit:
            yield unit

    @contextmanager
    def writing(self) -> Iterator[Unit]:
        """All or nothing, while others wait; as :meth:`reedling.store.unit.Store.writing`."""
        bring_into_force(self.store, self.clock())
        with self.store.writing() as unit:
            yield unit

    def change(
        self,
        prepare: Callable[[Unit], P],
        write: Callable[[Unit, P], T],
        *,
        on: Callable[[Unit], object] = Unit.stamp,
    ) -> T:
        """Work out a change, then write it in a moment; as :meth:`reedling.store.unit.Store.change`."""
        bring_into_force(self.store, self.clock())
        return self.store.change(prepare, write, on=on)
