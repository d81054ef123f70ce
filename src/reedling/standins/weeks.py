"""Weeks that pass in a demo: calls come in and are carried out with the guidance that is in force by then."""

from __future__ import annotations

import random
import threading
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

from reedling.errors import Conflict, InvalidInput, ReedlingError
from reedling.services.context import Context
from reedling.services.views.orders import assets
from reedling.standins.field import (
    districts_of,
    kinds_of,
    play_call,
    technicians_of,
    working_instants,
)
from reedling.standins.field_habits import habits_of
from reedling.standins.field_offices import OneByOne
from reedling.standins.simulation import Clock, Field
from reedling.standins.wider import WIDER_KINDS
from reedling.wiring import DemoClock

MOST_WEEKS = 26
COUNTED_DAYS = 120
"""Calls come in as often as over so many days before."""
LEARNT_DAYS = 430
"""By now those who were new have learnt."""


@dataclass(frozen=True, slots=True)
class Passed:
    """How far the weeks are: calls carried out, of how many, and those that could not be."""

    n_done: int = 0
    n_calls: int = 0
    n_failed: int = 0


@dataclass(slots=True)
class PassingWeeks:
    """Weeks that are passing now, one lot at a time."""

    _lock: threading.Lock = field(default_factory=threading.Lock)
    _thread: threading.Thread | None = None
    passed: Passed = Passed()
    trouble: str = ""

    @property
    def is_passing(self) -> bool:
        """Whether calls are still being carried out."""
        return self._thread is not None and self._thread.is_alive()

    def begin(self, context: Context, weeks: int) -> None:
        """Put the demo's clock forward, and carry out the calls of these weeks behind this call.

        Raises
        ------
        InvalidInput
            ``weeks.count`` for none or too many; ``weeks.clock`` where this is no demo.
        Conflict
            ``weeks.passing`` while others are passing.
        """
        if not 1 <= weeks <= MOST_WEEKS:
            raise InvalidInput("weeks.count", f"1 to {MOST_WEEKS} weeks pass at a time.", where="Weeks")
        clock = context.clock
        if not isinstance(clock, DemoClock):
            raise InvalidInput("weeks.clock", "time is let pass in a demo only.", where="Weeks")
        with self._lock:
            if self.is_passing:
                raise Conflict(
                    "weeks.passing", "weeks are passing already.", hint="Wait until they have passed."
                )
            start = clock()
            with context.writing() as unit:
                unit.people.lengthen_sessions(timedelta(weeks=weeks))
            clock.let_pass(7 * weeks)
            self.passed, self.trouble = Passed(), ""
            self._thread = threading.Thread(
                target=self._pass, args=(context, start, clock()), name="weeks", daemon=True
            )
            self._thread.start()

    def wait(self) -> None:
        """Until they have passed."""
        if self._thread is not None:
            self._thread.join()

    def _pass(self, context: Context, start: datetime, end: datetime) -> None:
        def told(passed: Passed) -> None:
            self.passed = passed

        try:
            play_weeks(context, start, end, told=told)
        except Exception:
            # What went wrong is logged by the thread's own end; the page must not wait for ever.
            self.trouble = "The field stopped before the weeks were over."
            raise


def play_weeks(
    context: Context,
    start: datetime,
    end: datetime,
    *,
    told: Callable[[Passed], None] = lambda _: None,
) -> Passed:
    """Play the calls from ``start`` to ``end`` as often as they came in before; gives how many.

    A call that cannot be carried out by the guidance in force stays as far as it came, and is counted.
    """
    start, end = (at.replace(second=0, microsecond=0) for at in (start, end))
    clock = Clock(start)
    then = replace(context, clock=clock)
    with then.reading() as unit:
        people = {p.id: p for p in unit.people.all()}
        before = unit.orders.facts()
    placed = assets(context)
    rng = random.Random(f"weeks from {start.isoformat()}")
    days = (end - start) / timedelta(days=1)
    lately = [o for o in before if start - timedelta(days=COUNTED_DAYS) <= o.logged_at < start]
    instants = working_instants(
        rng, end, max(1, round(len(lately) * days / COUNTED_DAYS)), days=days - 1, until=2
    )
    is_wide = {k.equipment for k in WIDER_KINDS} <= {p.asset.equipment for p in placed}
    played = Field(
        context=then,
        office=OneByOne(then),
        clock=clock,
        rng=rng,
        people=people,
        placed=placed,
        districts=districts_of(placed),
        habits=habits_of(technicians_of(people)),
        begun_at=start - timedelta(days=LEARNT_DAYS),
        kinds=kinds_of(is_wide=is_wide),
        last={order.asset: order.logged_at for order in before},
        strays=is_wide,
        seasons=is_wide,
    )
    passed = Passed(n_calls=len(instants))
    told(passed)
    for logged_at in instants:
        try:
            play_call(played, max(logged_at, start), end)
            passed = replace(passed, n_done=passed.n_done + 1)
        except ReedlingError:
            passed = replace(passed, n_failed=passed.n_failed + 1)
        told(passed)
    return passed
