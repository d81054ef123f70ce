"""What was read before and cannot have changed since: kept in memory, filled by units that only read.

A unit that writes may see what is then rolled back, so it takes from here and puts nothing in.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Hashable, Mapping
from concurrent.futures import Future, wait
from dataclasses import dataclass, field
from datetime import date, datetime
from threading import Lock
from typing import Any, Generic, TypeVar, cast

from sqlalchemy.orm import Session

from reedling.core.evidence.steps import StepCounts
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.documents import Content, Revision
from reedling.core.orders.orders import OrderInShort

T = TypeVar("T")

MOST_CONTENTS = 1_000
"""Contents of revisions in memory; beyond it they are read again."""


MOST_ANSWERS = 160
"""Answers in memory; each may name thousands of orders."""
LONG_S = 0.25
"""What took a processor longer than this is given from before, and worked out anew behind the answer."""
OUTDATED_S = 600.0
"""An answer this old is not given from before: who comes in the morning sees what the night brought."""


@dataclass(frozen=True, slots=True)
class KeptContent:
    """What a revision says, at the version and the time it was last changed; also as plain data, if known."""

    version: int
    changed_at: datetime
    content: Content
    data: Mapping[str, Any] | None


@dataclass(frozen=True, slots=True)
class Mark:
    """What an answer rests on: what is asked (another ``basis`` makes it another question), and what has come in so far."""

    basis: object
    so_far: object = None


@dataclass(frozen=True, slots=True)
class KeptAnswer:
    """An answer with the mark of what it rests on, the seconds of a processor that it took, and when it was ready.

    ``ready_at`` is of the clock that never goes back, in seconds.
    """

    mark: Mark
    found: Any
    seconds: float
    ready_at: float

    def may_go_before(self, mark: Mark) -> bool:
        """Whether it is good enough for this mark while a newer one is worked out."""
        return self.mark.basis == mark.basis and time.monotonic() - self.ready_at < OUTDATED_S


@dataclass(frozen=True, slots=True)
class Worked(Generic[T]):
    """What was worked out, with the seconds of a processor that it took."""

    found: T
    seconds: float


def timed(work_out: Callable[[], T]) -> Worked[T]:
    """What ``work_out`` gives, with the seconds of a processor that it took."""
    began = time.thread_time()
    found = work_out()
    return Worked(found, time.thread_time() - began)


@dataclass(slots=True)
class Kept:
    """``catalogue`` with the count of writes it is of; ``contents`` of revisions by document and letter;
    ``in_short`` what matching needs of orders, by order, of which only the state may be another one by now;
    ``step_counts`` by plan, with the count of finished jobs they are of; ``brought_into_force_on`` the day on
    which it was last looked for revisions whose day has come; ``answers`` what was worked out from all
    orders, with the mark of what it rests on; ``working`` holds back those who ask for one that somebody works out;
    ``renewals`` are what works out a question behind its answer, the latest of each question."""

    catalogue: tuple[int, Catalogue] | None = None
    contents: dict[tuple[str, str], KeptContent] = field(default_factory=dict)
    in_short: dict[str, OrderInShort] = field(default_factory=dict)
    step_counts: dict[str, tuple[int, Mapping[str, StepCounts]]] = field(default_factory=dict)
    brought_into_force_on: date | None = None
    answers: dict[Hashable, KeptAnswer] = field(default_factory=dict)
    working: dict[Hashable, Lock] = field(default_factory=dict)
    renewals: dict[Hashable, Future[None]] = field(default_factory=dict)
    renewing: Lock = field(default_factory=Lock)

    def answer(
        self,
        key: Hashable,
        mark: Mark,
        work_out: Callable[[], Worked[T]],
        renew: Callable[[], Future[None]] | None = None,
        *,
        queues: bool = False,
    ) -> T:
        """What ``work_out`` gives, from before where it is of the same mark; of those who ask at once one works it out.

        Where orders or jobs came in and it took long, the answer is the one from before, and ``renew`` is called, once,
        to have it worked out anew. What ``queues`` behind other work may come to take long by that: it is waited for,
        for :data:`LONG_S`, before the answer from before is given.
        """
        held = self.answers.get(key)
        if held is not None and held.mark == mark:
            return cast(T, held.found)
        if held is not None and renew is not None and held.may_go_before(mark):
            takes_long = held.seconds > LONG_S
            if takes_long or queues:
                renewal = self._renewal(key, renew)
                if not takes_long:
                    wait([renewal], timeout=LONG_S)
                return cast(T, self.answers.get(key, held).found)
        with self.working.setdefault(key, Lock()):
            held = self.answers.get(key)
            if held is not None and held.mark == mark:
                return cast(T, held.found)
            worked = work_out()
            self.answers.pop(key, None)
            while len(self.answers) >= MOST_ANSWERS:
                oldest = next(iter(self.answers))
                self.answers.pop(oldest, None)
                self.working.pop(oldest, None)
                self.renewals.pop(oldest, None)
            self.answers[key] = KeptAnswer(mark, worked.found, worked.seconds, time.monotonic())
            return worked.found

    def _renewal(self, key: Hashable, renew: Callable[[], Future[None]]) -> Future[None]:
        with self.renewing:
            running = self.renewals.get(key)
            if running is None or running.done():
                running = self.renewals[key] = renew()
            return running

    def content(self, document: str, letter: str, version: int, changed_at: datetime) -> Content | None:
        """What a revision says at a version, if it was read or written before."""
        held = self.contents.get((document, letter))
        same = held is not None and (held.version, held.changed_at) == (version, changed_at)
        return held.content if held is not None and same else None

    def data_of(self, revision: Revision) -> dict[str, Any] | None:
        """What a revision says as plain data, where it was written lately. It is not to be changed."""
        held = self.contents.get((revision.document, revision.letter))
        if held is None or held.content is not revision.content or held.data is None:
            return None
        return dict(held.data)

    def keep_content(self, revision: Revision, data: Mapping[str, Any] | None = None) -> None:
        """Keep what a revision says; it must have been read, or its write be committed."""
        if len(self.contents) >= MOST_CONTENTS:
            self.contents.clear()
        self.contents[revision.document, revision.letter] = KeptContent(
            revision.version, revision.changed_at, revision.content, data
        )


def only_reads(session: Session) -> bool:
    """Whether the unit of this session writes nothing."""
    return not session.info.get("writes", True)
