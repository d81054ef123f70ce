"""What every service is handed: the store, the clock and the source of identities."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from typing import Any, TypeVar, cast

from reedling.services.effective import bring_into_force
from reedling.store.unit import Store, Unit

P = TypeVar("P")
T = TypeVar("T")

Apart = Callable[[Callable[..., Any], "Context", tuple[Any, ...]], Any]
"""Does a piece of work, given what it takes, where it holds nobody else up."""


def _here(work: Callable[..., Any], context: Context, args: tuple[Any, ...]) -> Any:
    return work(context, *args)


@dataclass(frozen=True, slots=True)
class Context:
    """``clock`` gives the aware UTC instant; ``new_id`` a short identity never given before; ``apart`` does what takes a
    processor long, by itself right here.

    Whoever reads or writes through it finds in force what was approved for today or earlier.
    """

    store: Store
    clock: Callable[[], datetime]
    new_id: Callable[[], str]
    apart: Apart = _here

    def work_apart(self, work: Callable[..., T], *args: object) -> T:
        """What ``work`` gives of a context on the same data and of ``args``; both can be pickled, and so can its answer.

        It takes a processor long and only reads; where there is a process for that, others are not held up by it.
        """
        return cast(T, self.apart(work, self, args))

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
