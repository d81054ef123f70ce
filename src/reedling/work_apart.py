"""A process of its own for what takes a processor long, so that nobody waits for it who did not ask for it."""

from __future__ import annotations

import logging
import multiprocessing
import os
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from threading import Lock, Thread
from typing import Any

from reedling.services.context import Context
from reedling.wiring import open_context

_log = logging.getLogger(__name__)


class WorkApart:
    """Does one piece of work after the other in another process on the same data; where that ends, right here."""

    def __init__(self, data_dir: Path) -> None:
        self._data_dir = data_dir
        self._lock = Lock()
        self._pool: ProcessPoolExecutor | None = None

    def __call__(self, work: Callable[..., Any], context: Context, args: tuple[Any, ...]) -> Any:
        """What ``work`` gives of a context on the data and of ``args``."""
        try:
            return self._running().submit(_do, work, args).result()
        except BrokenProcessPool as error:
            _log.error("the process for long work ended", exc_info=error)
            self.close()
            return work(context, *args)

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


ASKED_AGAIN_S = 1.0
_opened: Context | None = None


def _open(data_dir: Path, parent: int) -> None:
    global _opened
    Thread(target=_end_with, args=(parent,), daemon=True).start()
    _opened = open_context(data_dir)


def _end_with(parent: int) -> None:
    """End this process once the one that began it is gone, however it went."""
    while os.getppid() == parent:
        time.sleep(ASKED_AGAIN_S)
    os._exit(0)


def _do(work: Callable[..., Any], args: tuple[Any, ...]) -> Any:
    assert _opened is not None
    return work(_opened, *args)
