"""A process of its own for what takes a processor long, so that nobody waits for it who did not ask for it."""

from __future__ import annotations

import logging
import multiprocessing
import os
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from dataclasses import replace
from heapq import heappop, heappush
from itertools import count
from pathlib import Path
from threading import Condition, Lock, Thread
from typing import Any

from reedling.services.context import Context
from reedling.store.kept import Worked, timed
from reedling.store.unit import Unit
from reedling.wiring import open_context

_log = logging.getLogger(__name__)


class WorkApart:
    """Works out one thing after the other in another process on the same data."""

    def __init__(self, data_dir: Path) -> None:
        self._data_dir = data_dir
        self._lock = Lock()
        self._turns = _Turns()
        self._pool: ProcessPoolExecutor | None = None

    def __call__(self, work_out: Callable[[Unit], Any], *, behind: bool = False) -> Worked[Any] | None:
        """What ``work_out`` gives of a unit that only reads; nothing where the process ended over it.

        What nobody waits for, ``behind``, lets all else go first.
        """
        try:
            with self._turns.turn(behind):
                return self._running().submit(_do, work_out).result()
        except BrokenProcessPool as error:
            _log.error("the process for long work ended", exc_info=error)
            self.close()
            return None

    def begin(self) -> None:
        """Begin the process now, so that the first who want something of it need not wait for it to start."""
        self._running().submit(_ready)

    def close(self) -> None:
        """End the process."""
        with self._lock:
            if self._pool is not None:
                self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None

    def _running(self) -> ProcessPoolExecutor:
        with self._lock:
            if self._pool is None:
                self._pool = ProcessPoolExecutor(
                    1,
                    mp_context=multiprocessing.get_context("spawn"),
                    initializer=_open,
                    initargs=(self._data_dir, os.getpid()),
                )
            return self._pool


class _Turns:
    """One at a time, in the order they came; those behind after all others."""

    def __init__(self) -> None:
        self._waiting: list[tuple[bool, int]] = []
        self._numbers = count()
        self._changed = Condition()
        self._is_taken = False

    @contextmanager
    def turn(self, behind: bool) -> Iterator[None]:
        mine = (behind, next(self._numbers))
        with self._changed:
            heappush(self._waiting, mine)
            self._changed.wait_for(lambda: not self._is_taken and self._waiting[0] == mine)
            heappop(self._waiting)
            self._is_taken = True
        try:
            yield
        finally:
            with self._changed:
                self._is_taken = False
                self._changed.notify_all()


ASKED_AGAIN_S = 1.0
LESS_URGENT = 10
"""How much later than the pages this process gets a processor that both want: steps of niceness, of 19."""
_opened: Context | None = None


def _open(data_dir: Path, parent: int) -> None:
    global _opened
    os.nice(LESS_URGENT)
    Thread(target=_end_with, args=(parent,), daemon=True).start()
    _opened = open_context(data_dir, is_ready=True)


def _end_with(parent: int) -> None:
    """End this process once the one that began it is gone, however it went."""
    while os.getppid() == parent:
        time.sleep(ASKED_AGAIN_S)
    os._exit(0)


def _ready() -> None:
    """Nothing is to be done: the process has started by then."""


def _do(work_out: Callable[[Unit], Any]) -> Worked[Any]:
    assert _opened is not None
    with _opened.store.reading() as unit:
        return timed(lambda: work_out(replace(unit, behind=None, apart=None)))
