"""One unit of work: a transaction with the repositories that read and write in it."""

from __future__ import annotations

import random
import time
from collections.abc import Callable, Hashable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path
from threading import Lock
from typing import Any, Protocol, TypeVar

import structlog
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from reedling.errors import Unavailable
from reedling.store.asked_back import QuestionsBack
from reedling.store.catalogues import Catalogues
from reedling.store.changes import Changes
from reedling.store.comments import Comments
from reedling.store.counters import CATALOGUE_WRITES, count_from, count_up, writes_of
from reedling.store.documents import Documents
from reedling.store.evidence_reads import EvidenceReads
from reedling.store.help_threads import HelpThreads
from reedling.store.illustrations import Illustrations
from reedling.store.job_evidence import JobEvidence
from reedling.store.job_figures import JobFigures
from reedling.store.kept import Kept, Mark, Worked, only_reads, timed
from reedling.store.kept_views import KeptViews
from reedling.store.loose_records import LooseRecords
from reedling.store.orders import Orders
from reedling.store.part_asks import KeptPartAsks
from reedling.store.people import People
from reedling.store.pictures import Pictures
from reedling.store.proposals import DecidedProposals
from reedling.store.recorded import Recorded
from reedling.store.register import Register
from reedling.store.routine_visits import RoutineVisits
from reedling.store.rows import rows_together
from reedling.store.settings import SettingsHeld
from reedling.store.site_records import KeptSiteRecords
from reedling.store.sqlite import is_busy, told_plainly
from reedling.store.summaries import Summaries
from reedling.store.trials import Trials
from reedling.store.uploads import Uploads

T = TypeVar("T")

_log = structlog.get_logger("reedling")

Behind = Callable[[Callable[["Unit"], object]], Future[None]]
"""Takes what is to be read once there is time for it; done when that is done or has failed."""


class Apart(Protocol):
    """Works something out in another process; nothing where that process ended over it."""

    def __call__(self, work_out: Callable[[Unit], Any], *, behind: bool = False) -> Worked[Any] | None:
        """What ``work_out`` gives; ``behind`` is said of what nobody waits for, which lets all else go first."""


"""Works something out in another process, from a unit on the same data; nothing where no other process can."""


@dataclass(frozen=True, slots=True)
class Unit:
    """What a service may reach within one transaction; ``behind`` has something read in a later one, and then tells;
    ``apart`` has something worked out in another process, where there is one."""

    session: Session
    people: People
    documents: Documents
    catalogues: Catalogues
    register: Register
    orders: Orders
    recorded: Recorded
    pictures: Pictures
    uploads: Uploads
    loose_records: LooseRecords
    help: HelpThreads
    site_records: KeptSiteRecords
    part_asks: KeptPartAsks
    proposals: DecidedProposals
    evidence_reads: EvidenceReads
    kept_views: KeptViews
    trials: Trials
    questions_back: QuestionsBack
    routine_visits: RoutineVisits
    settings: SettingsHeld
    comments: Comments
    illustrations: Illustrations
    changes: Changes
    summaries: Summaries
    job_figures: JobFigures
    job_evidence: JobEvidence
    behind: Behind | None = None
    apart: Apart | None = None

    @contextmanager
    def together(self) -> Iterator[None]:
        """What is added in here goes to the database at once, at the end; nothing of it can be read before."""
        flush = self.session.flush
        self.session.flush = lambda objects=None: None  # type: ignore[method-assign]
        with rows_together(self.session):
            try:
                with self.session.no_autoflush:
                    yield
            finally:
                self.session.flush = flush  # type: ignore[method-assign]
            self.session.flush()

    def stamp(self) -> tuple[int, ...]:
        """A mark that is another one as soon as guidance, a list, a site or an asset changes."""
        return (*self.documents.stamp(), self.changes.last("list", "draft"))

    def what_decides(self) -> Mark:
        """A mark that is another one as soon as something changes that decides what orders get, or an order does."""
        basis = (*self._guidance_mark(), self.changes.last("list", "draft"))
        return Mark(basis, (*self.orders.mark_of_all(), self.register.last_reading()))

    def kept_answer(self, key: Hashable, work_out: Callable[[Unit], T]) -> T:
        """What ``work_out`` gives, from before where nothing that decides has changed since.

        ``key`` names the question, with the tag of every draft that it takes in. It is worked out in another process,
        and what takes long is given from before while only orders change, as in :meth:`kept_of_jobs`.
        """
        return self._kept(key, Unit.what_decides, work_out, apart=True)

    def kept_of_guidance(self, key: Hashable, work_out: Callable[[Unit], T]) -> T:
        """As :meth:`kept_answer`, for what stays until guidance in force or a list changes, whatever jobs do."""
        return self._kept(key, lambda unit: Mark(unit._guidance_mark()), work_out)

    def _guidance_mark(self) -> tuple[object, ...]:
        return (self.documents.in_force_mark(), writes_of(self.session, CATALOGUE_WRITES))

    def kept_of_jobs(self, key: Hashable, work_out: Callable[[Unit], T], *, apart: bool = False) -> T:
        """As :meth:`kept_answer`, for what rests on finished jobs, guidance in force and lists alone.

        What takes long does not wait for jobs that were finished a moment ago: the answer is then the one from before
        them, and the next is worked out behind it. Within ``work_out`` nothing is from before.

        ``apart`` is said of what takes a processor long: it is worked out in another process where there is one, so
        that others are not held up by it. ``work_out`` is then a function of a module, or a partial of one with
        arguments that can be pickled, and so can its answer.
        """

        def mark(unit: Unit) -> Mark:
            return Mark(unit._guidance_mark(), unit.summaries.n_written())

        return self._kept(key, mark, work_out, apart=apart)

    def _kept(
        self,
        key: Hashable,
        mark: Callable[[Unit], Mark],
        work_out: Callable[[Unit], T],
        *,
        apart: bool = False,
    ) -> T:
        """What ``work_out`` gives, from before where the mark is the same; a unit that writes keeps nothing."""
        if not only_reads(self.session):
            return work_out(self)
        behind = self.behind

        def renew() -> Future[None]:
            assert behind is not None
            return behind(lambda unit: unit._kept(key, mark, work_out, apart=apart))

        return self.documents.kept.answer(
            key,
            mark(self),
            lambda: (self._worked_out_apart if apart else self._worked_out)(work_out),
            None if behind is None else renew,
            queues=apart and self.apart is not None,
        )

    def _worked_out_apart(self, work_out: Callable[[Unit], T]) -> Worked[T]:
        there = None if self.apart is None else self.apart(work_out)
        return self._worked_out(work_out) if there is None else there

    def _worked_out(self, work_out: Callable[[Unit], T]) -> Worked[T]:
        return timed(lambda: work_out(replace(self, behind=None, apart=None)))

    def next_number(self, prefix: str) -> int:
        """The next number for identities with this prefix, never given out before."""
        return count_up(self.session, prefix)

    def reserve_number(self, prefix: str, number: int) -> None:
        """Make sure that this number will not be given out."""
        count_from(self.session, prefix, number)


P = TypeVar("P")
TRIES = 4
"""How often a change is worked out anew because somebody changed what it rests on meanwhile."""
PATIENCE_S = 30.0
"""How long a writer waits for its turn before it says that the store is busy."""


@dataclass(frozen=True, slots=True)
class Store:
    """The database and the folder of pictures beside it. One writer at a time; the others wait outside the database.

    ``apart`` works out in another process what takes a processor long, where there is one.
    """

    engine: Engine
    pictures_dir: Path
    turn: Lock = field(default_factory=Lock)
    kept: Kept = field(default_factory=Kept)
    worker: ThreadPoolExecutor = field(default_factory=lambda: ThreadPoolExecutor(1, "behind"))
    apart: Apart | None = None

    @contextmanager
    def reading(self) -> Iterator[Unit]:
        """A consistent view that writes nothing."""
        with self._unit(writes=False) as unit:
            yield replace(unit, behind=self._behind, apart=self.apart)

    def _behind(self, read: Callable[[Unit], object]) -> Future[None]:
        def work() -> None:
            try:
                with self._unit(writes=False) as unit:
                    read(replace(unit, apart=self.apart and partial(self.apart, behind=True)))
            except Exception as error:
                _log.error("not worked out behind an answer", exc_info=error)

        return self.worker.submit(work)

    @contextmanager
    def writing(self) -> Iterator[Unit]:
        """All or nothing: committed at the end, rolled back on any error.

        Nothing is worked out in here: others wait. :meth:`change` works out beforehand.
        """
        if not self.turn.acquire(timeout=PATIENCE_S):
            raise Unavailable(
                "store.busy", "too many are writing at once.", where="Database", hint="Try again."
            )
        try:
            with self._unit(writes=True) as unit:
                yield unit
        finally:
            self.turn.release()

    def change(
        self,
        prepare: Callable[[Unit], P],
        write: Callable[[Unit, P], T],
        *,
        on: Callable[[Unit], object] = Unit.stamp,
    ) -> T:
        """Work out a change while others read and write, then write it in a moment.

        ``prepare`` reads and computes; ``write`` puts down what it gave. When what ``on`` tells (a mark
        of what the change rests on) is another one by then, it is worked out again; after
        :data:`TRIES` times it is worked out while nobody else may write, so that it comes to an end.
        """
        for _ in range(TRIES):
            with self.reading() as unit:
                mark = on(unit)
                prepared = prepare(unit)
            with self.writing() as unit:
                if on(unit) == mark:
                    return write(unit, prepared)
        with self.writing() as unit:
            return write(unit, prepare(unit))

    def check(self) -> None:
        """Read something; raises :class:`~reedling.errors.Unavailable` when that cannot be done."""
        with self.reading() as unit:
            unit.session.execute(text("SELECT count(*) FROM counters"))

    @contextmanager
    def _unit(self, *, writes: bool) -> Iterator[Unit]:
        engine = self.engine.execution_options(writes=writes)
        with plain_errors(), Session(engine, expire_on_commit=False, info={"writes": writes}) as session:
            _begin(session)
            yield Unit(
                session=session,
                people=People(session),
                documents=Documents(session, self.kept),
                catalogues=Catalogues(session, self.kept),
                register=Register(session),
                orders=Orders(session, self.kept),
                recorded=Recorded(session),
                pictures=Pictures(session, self.pictures_dir),
                uploads=Uploads(session, self.pictures_dir),
                loose_records=LooseRecords(session),
                help=HelpThreads(session),
                site_records=KeptSiteRecords(session),
                part_asks=KeptPartAsks(session),
                proposals=DecidedProposals(session),
                evidence_reads=EvidenceReads(session),
                kept_views=KeptViews(session),
                trials=Trials(session),
                questions_back=QuestionsBack(session),
                routine_visits=RoutineVisits(session),
                settings=SettingsHeld(session),
                comments=Comments(session),
                illustrations=Illustrations(session, self.pictures_dir),
                changes=Changes(session),
                summaries=Summaries(session),
                job_figures=JobFigures(session, self.kept),
                job_evidence=JobEvidence(session),
            )
            session.commit()


def _begin(session: Session) -> None:
    """Take the transaction's lock; where another process holds it for long, ask again a few times."""
    for n in range(TRIES):
        try:
            session.connection()
            return
        except DBAPIError as error:
            session.rollback()
            if n == TRIES - 1 or not is_busy(error):
                raise
            time.sleep(random.uniform(0.05, 0.2) * (n + 1))


@contextmanager
def plain_errors() -> Iterator[None]:
    """Turn what the database says is wrong with itself into a sentence with the way out."""
    try:
        yield
    except DBAPIError as error:
        plain = told_plainly(error)
        if plain is None:
            raise
        raise plain from error
