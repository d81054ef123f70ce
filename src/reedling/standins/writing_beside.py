"""Another process that writes the history of the simulated field, while the field is played on: two cores serve both."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

from reedling.services.actions.past_jobs import PastJob, take_in_past_jobs
from reedling.wiring import open_context


@dataclass(slots=True)
class WritesBeside:
    """Writes in another process, one history after the other."""

    data_dir: Path
    under_way: multiprocessing.process.BaseProcess | None = None

    def write(self, now: datetime, jobs: Sequence[PastJob], numbers: Mapping[str, int]) -> None:
        """As :class:`PastJobWriter`."""
        self.finish()
        # A forked process has the history in its memory; to hand it over would take longer than to write it.
        fork = multiprocessing.get_context("fork")
        self.under_way = fork.Process(target=_write, args=(self.data_dir, now, jobs, numbers))
        self.under_way.start()

    def finish(self) -> None:
        """As :class:`PastJobWriter`."""
        if self.under_way is not None:
            process, self.under_way = self.under_way, None
            process.join()
            if process.exitcode:
                raise RuntimeError("the history could not be written; what was wrong stands above")


def writer_beside(data_dir: Path) -> WritesBeside | None:
    """A writer in a process of its own; none where there is no second core, or a process cannot be forked."""
    can_fork = "fork" in multiprocessing.get_all_start_methods()
    return WritesBeside(data_dir) if can_fork and (os.cpu_count() or 1) > 1 else None


def _write(data_dir: Path, now: datetime, jobs: Sequence[PastJob], numbers: Mapping[str, int]) -> None:
    context = replace(open_context(data_dir, is_ready=True), clock=lambda: now)
    take_in_past_jobs(context, jobs, numbers)
    context.store.engine.dispose()
