"""What takes long is given from before while jobs are added, and worked out anew behind the answer."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import Future
from contextlib import contextmanager
from threading import Event, Thread

import pytest

from reedling.services.actions.orders import log_order
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.store import kept
from reedling.store.kept import Kept, Mark, Worked, timed
from reedling.store.unit import Unit
from tests.conftest import MAREK


@pytest.fixture(autouse=True)
def _all_is_long(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(kept, "LONG_S", -1.0)


def gives(answer: int) -> Callable[[], Worked[int]]:
    """Works out this answer."""
    return lambda: timed(lambda: answer)


def never() -> Future[None]:
    """A renewal that is not asked for, or does not come to its end."""
    return Future()


def test_an_answer_from_before_is_renewed_once_while_only_jobs_are_added() -> None:
    answers, running = Kept(), list[Future[None]]()

    def renew() -> Future[None]:
        running.append(never())
        return running[-1]

    assert answers.answer("q", Mark("a", 1), gives(1)) == 1
    for _ in range(3):
        assert answers.answer("q", Mark("a", 2), gives(2), renew) == 1
    assert len(running) == 1
    running[0].set_result(None)
    assert answers.answer("q", Mark("a", 2), gives(2), renew) == 1
    assert len(running) == 2


def test_what_queues_is_waited_for_a_little_and_then_given_from_before(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(kept, "LONG_S", 0.05)
    answers, slow, at_once = Kept(), list[bool](), list[bool]()

    def renew_later() -> Future[None]:
        slow.append(True)
        return never()

    def renew_now() -> Future[None]:
        at_once.append(True)
        answers.answer("q", Mark("a", 3), gives(3))
        done = never()
        done.set_result(None)
        return done

    answers.answer("q", Mark("a", 1), gives(1))
    assert answers.answer("q", Mark("a", 2), gives(2), renew_later, queues=True) == 1
    answers.renewals.clear()
    assert answers.answer("q", Mark("a", 3), gives(2), renew_now, queues=True) == 3
    assert (slow, at_once) == ([True], [True])


def test_another_basis_is_another_question() -> None:
    answers = Kept()
    answers.answer("q", Mark("a", 1), gives(1))
    assert answers.answer("q", Mark("b", 1), gives(2), never) == 2


def test_what_is_ten_minutes_old_is_not_given_from_before(monkeypatch: pytest.MonkeyPatch) -> None:
    answers = Kept()
    answers.answer("q", Mark("a", 1), gives(1))
    ready_at = answers.answers["q"].ready_at
    monkeypatch.setattr("reedling.store.kept.time.monotonic", lambda: ready_at + 599)
    assert answers.answer("q", Mark("a", 2), gives(2), never) == 1
    monkeypatch.setattr("reedling.store.kept.time.monotonic", lambda: ready_at + 601)
    assert answers.answer("q", Mark("a", 2), gives(2), never) == 2


def test_what_is_quick_is_never_from_before(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(kept, "LONG_S", 60.0)
    answers = Kept()
    answers.answer("q", Mark("a", 1), gives(1))
    assert answers.answer("q", Mark("a", 2), gives(2), never) == 2


@contextmanager
def _worker_busy(context: Context) -> Iterator[None]:
    """What works out behind the answers has something else to do, so that nothing is renewed meanwhile."""
    over = Event()
    context.store.worker.submit(over.wait, 30)
    try:
        yield
    finally:
        over.set()


def _jobs(context: Context, n: list[int], inner: list[int]) -> tuple[int, int]:
    """What a question and one within it give; both count how often they are worked out."""

    def within(unit: Unit) -> int:
        inner.append(1)
        return len(inner)

    def outer(unit: Unit) -> tuple[int, int]:
        n.append(1)
        return len(n), unit.kept_of_jobs("inner", within)

    with context.reading() as unit:
        return unit.kept_of_jobs("outer", outer)


def test_what_an_answer_rests_on_is_never_older_than_the_answer(
    context: Context, monkeypatch: pytest.MonkeyPatch
) -> None:
    jobs, outer, inner = [1], list[int](), list[int]()
    monkeypatch.setattr("reedling.store.summaries.Summaries.n_written", lambda self: len(jobs))
    assert _jobs(context, outer, inner) == (1, 1)
    jobs.append(1)
    with _worker_busy(context):
        assert _jobs(context, outer, inner) == (1, 1)
    context.store.worker.submit(lambda: None).result(timeout=30)
    assert _jobs(context, outer, inner) == (2, 2)


def test_what_orders_decide_is_from_before_while_orders_come_in(context: Context) -> None:
    worked: list[int] = []

    def work_out(unit: Unit) -> int:
        worked.append(1)
        return unit.orders.n_not_cancelled()

    def ask() -> int:
        with context.reading() as unit:
            return unit.kept_answer("orders", work_out)

    assert ask() == 0
    log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "")
    with _worker_busy(context):
        assert ask() == 0
    context.store.worker.submit(lambda: None).result(timeout=30)
    assert ask() == 1
    assert len(worked) == 2


def test_what_fails_behind_an_answer_is_tried_again(
    context: Context, monkeypatch: pytest.MonkeyPatch
) -> None:
    jobs, fails = [1], [False]
    monkeypatch.setattr("reedling.store.summaries.Summaries.n_written", lambda self: len(jobs))

    def work_out(unit: Unit) -> int:
        if fails[0]:
            raise ZeroDivisionError
        return len(jobs)

    def ask() -> int:
        with context.reading() as unit:
            found = unit.kept_of_jobs("q", work_out)
        context.store.worker.submit(lambda: None).result(timeout=30)
        return found

    assert ask() == 1
    jobs.append(1)
    fails[0] = True
    assert ask() == 1
    fails[0] = False
    assert ask() == 1
    assert ask() == 2


def test_nobody_waits_while_it_is_worked_out(context: Context, monkeypatch: pytest.MonkeyPatch) -> None:
    jobs, go_on = [1], Event()
    go_on.set()
    monkeypatch.setattr("reedling.store.summaries.Summaries.n_written", lambda self: len(jobs))

    def work_out(unit: Unit) -> int:
        go_on.wait(timeout=30)
        return len(jobs)

    found: list[int] = []

    def ask() -> None:
        with context.reading() as unit:
            found.append(unit.kept_of_jobs("q", work_out))

    ask()
    jobs.append(1)
    go_on.clear()
    askers = [Thread(target=ask) for _ in range(4)]
    for asker in askers:
        asker.start()
    for asker in askers:
        asker.join(timeout=30)
    assert found == [1] * 5
    go_on.set()
    context.store.worker.submit(lambda: None).result(timeout=30)
    ask()
    assert found[-1] == 2
