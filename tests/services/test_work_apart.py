"""Long work in a process of its own comes to the same, refuses the same, and outlives that process, never its own parent."""

from __future__ import annotations

import os
import pickle
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import closing
from dataclasses import replace
from functools import partial
from pathlib import Path
from threading import Event

import pytest

from reedling.errors import Conflict, NotFound, Problem, ReedlingError
from reedling.services.actions.documents import begin_draft
from reedling.services.context import Context
from reedling.services.views.coverage import coverage, map_cell, who_would_notice
from reedling.services.views.fault_guides import fault_guide
from reedling.services.views.gains import changes_done
from reedling.services.views.past_fixes import past_fixes
from reedling.services.views.proposals import proposals_page
from reedling.services.views.replays import replay_draft
from reedling.store.unit import Unit
from reedling.wiring import open_context
from reedling.work_apart import WorkApart
from tests.conftest import INES

ROOT = Path(__file__).parents[2]
pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def folder(played_demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A copy of the demo for the tests of this file: starting the process takes seconds, and none minds the others."""
    return Path(shutil.copytree(played_demo, tmp_path_factory.mktemp("apart") / "demo"))


@pytest.fixture(scope="module")
def work(folder: Path) -> Iterator[WorkApart]:
    with pytest.MonkeyPatch.context() as patch, closing(WorkApart(folder)) as made:
        patch.syspath_prepend(ROOT)  # The other process is to find the functions of this file.
        yield made


@pytest.fixture
def apart(folder: Path, work: WorkApart) -> Context:
    context = open_context(folder)
    return replace(context, store=replace(context.store, apart=work))


def who_works(_unit: Unit) -> int:
    return os.getpid()


def refuses(_unit: Unit, *, code: str) -> int:
    raise NotFound(code, "it is not there.", where="Here", hint="Look.")


def breaks(_unit: Unit, *, anywhere_but: int) -> int:
    if os.getpid() != anywhere_but:
        os.kill(os.getpid(), signal.SIGKILL)
    return os.getpid()


def first_planned(context: Context) -> str:
    with context.reading() as unit:
        return next(o.id for o in unit.orders.facts() if o.state == "Planned")


def worked_out(context: Context, work_out: Callable[[Unit], int]) -> int:
    """What is worked out anew, apart."""
    with context.reading() as unit:
        return unit.kept_of_jobs(object(), work_out, apart=True)


def test_a_replay_is_the_same_in_another_process(apart: Context, folder: Path) -> None:
    begin_draft(apart, INES, "WP-001")
    assert worked_out(apart, who_works) != os.getpid()
    there, here = replay_draft(apart, "WP-001"), replay_draft(open_context(folder), "WP-001")
    assert there.replayed is not None
    assert there == here


def test_all_that_is_worked_out_apart_is_the_same_in_another_process(apart: Context, folder: Path) -> None:
    here = open_context(folder)
    open_order = first_planned(here)
    asked: tuple[Callable[[Context], object], ...] = (
        proposals_page,
        lambda c: fault_guide(c, "IT-001", {}),
        changes_done,
        lambda c: past_fixes(c, open_order),
        lambda c: coverage(c, "symptom", draft="DT-001"),
        lambda c: map_cell(c, "screen-rake", "symptom", "stalls"),
        lambda c: who_would_notice(c, "DT-001"),
    )
    at = here.clock()
    here, there = (replace(context, clock=lambda: at) for context in (here, apart))
    for ask in asked:
        assert ask(there) == ask(here)


def test_a_refusal_comes_back_whole(apart: Context) -> None:
    with pytest.raises(NotFound) as refusal:
        worked_out(apart, partial(refuses, code="things.gone"))
    assert (refusal.value.code, refusal.value.where, refusal.value.hint) == ("things.gone", "Here", "Look.")
    problem = Problem(code="a", path="/b", message="c.")
    for error in (ReedlingError("x.y", "Wrong."), Conflict("a.b", "Said.", where="W", problems=(problem,))):
        again = pickle.loads(pickle.dumps(error))
        assert type(again) is type(error)
        assert (str(again), again.code, again.problems) == (str(error), error.code, error.problems)


def test_where_the_process_ends_the_work_is_done_here_and_the_next_in_a_new_one(apart: Context) -> None:
    first = worked_out(apart, who_works)
    assert worked_out(apart, partial(breaks, anywhere_but=os.getpid())) == os.getpid()
    second = worked_out(apart, who_works)
    assert second not in (first, os.getpid())


def asleep(_unit: Unit, *, seconds: float, told: str) -> str:
    time.sleep(seconds)
    return told


def test_what_nobody_waits_for_lets_all_else_go_first(work: WorkApart) -> None:
    told: list[str] = []
    with ThreadPoolExecutor(8) as threads:
        work(partial(asleep, seconds=0, told=""))
        begun = Event()

        def ask(name: str, behind: bool, seconds: float) -> None:
            begun.set()
            found = work(partial(asleep, seconds=seconds, told=name), behind=behind)
            assert found is not None
            told.append(found.found)

        def begin(name: str, *, behind: bool, seconds: float = 0.0) -> Future[None]:
            begun.clear()
            future = threads.submit(ask, name, behind, seconds)
            assert begun.wait(10)
            time.sleep(0.05)  # By then it stands in the queue.
            return future

        asked = [begin("first", behind=True, seconds=1.5)]
        for n in range(3):
            asked.append(begin(f"behind {n}", behind=True))
            asked.append(begin(f"waited for {n}", behind=False))
        for future in asked:
            future.result()
    assert told == [
        "first",
        *(f"waited for {n}" for n in range(3)),
        *(f"behind {n}" for n in range(3)),
    ]


def test_the_process_ends_with_the_one_that_began_it(demo_dir: Path) -> None:
    script = (
        "from pathlib import Path\nfrom reedling.work_apart import WorkApart\n"
        "from tests.services.test_work_apart import who_works\n"
        "if __name__ == '__main__':\n"
        f"    print(WorkApart(Path({str(demo_dir)!r}))(who_works).found, flush=True)\n"
        "    import time; time.sleep(60)\n"
    )
    began = demo_dir.parent / "began.py"
    began.write_text(script, "utf-8")
    with subprocess.Popen(
        [sys.executable, str(began)],
        stdout=subprocess.PIPE,
        text=True,
        env={**os.environ, "PYTHONPATH": str(ROOT)},
    ) as parent:
        assert parent.stdout is not None
        child = int(parent.stdout.readline())
        parent.send_signal(signal.SIGKILL)
        parent.wait()
        until = time.monotonic() + 30
        while Path(f"/proc/{child}").exists() and time.monotonic() < until:
            time.sleep(0.1)
        assert not Path(f"/proc/{child}").exists()
