"""Requests have turns: a few at once, in the order they came, and none for long."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from threading import Event, Semaphore

import pytest
from fastapi.testclient import TestClient

from reedling.api import turns
from reedling.api.turns import AT_ONCE, in_turn
from reedling.core.people import Person
from reedling.services.context import Context
from reedling.services.views import desk as desk_views
from reedling.services.views.desk import Desk
from tests.alone import run_alone


def test_few_at_once_and_in_the_order_they_came(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(turns, "LONGEST_S", 60.0)
    order, at_once = list[int](), list[int]()

    async def page(n: int, having: set[int]) -> None:
        async with in_turn():
            order.append(n)
            having.add(n)
            at_once.append(len(having))
            await asyncio.sleep(0)
            having.discard(n)

    async def all_of_them() -> None:
        having: set[int] = set()
        await asyncio.gather(*(page(n, having) for n in range(12)))

    run_alone(all_of_them())
    assert order == list(range(12))
    assert max(at_once) == AT_ONCE


def test_who_takes_long_goes_on_beside_the_others(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(turns, "LONGEST_S", 0.01)

    async def all_of_them() -> list[str]:
        told: list[str] = []
        others_are_done = asyncio.Event()

        async def long(name: str) -> None:
            async with in_turn():
                await others_are_done.wait()
                told.append(name)

        async def short() -> None:
            async with in_turn():
                told.append("short")

        waiting = [asyncio.create_task(long(f"long {n}")) for n in range(AT_ONCE * 3)]
        await asyncio.sleep(0)
        await asyncio.wait_for(short(), timeout=30)
        others_are_done.set()
        await asyncio.gather(*waiting)
        return told

    told = run_alone(all_of_them())
    assert told == ["short", *(f"long {n}" for n in range(AT_ONCE * 3))]


def test_a_refusal_gives_its_turn_on() -> None:
    async def refused() -> None:
        async with in_turn():
            raise ZeroDivisionError

    async def one_after_the_other() -> None:
        for _ in range(AT_ONCE * 4):
            with pytest.raises(ZeroDivisionError):
                await asyncio.wait_for(refused(), timeout=30)

    run_alone(one_after_the_other())


def test_pages_that_wait_for_something_hold_up_nobody(
    sign_in: Callable[[str], TestClient], monkeypatch: pytest.MonkeyPatch
) -> None:
    waiting, go_on = Semaphore(0), Event()
    answer = desk_views.desk

    def waits(context: Context, person: Person) -> Desk:
        waiting.release()
        assert go_on.wait(timeout=60)
        return answer(context, person)

    monkeypatch.setattr(desk_views, "desk", waits)
    # One event loop for all requests, as in the server.
    with sign_in("ines") as ines, ThreadPoolExecutor(AT_ONCE * 2) as pool:
        desks = [pool.submit(ines.get, "/api/v1/desk") for _ in range(AT_ONCE * 2)]
        for _ in desks:
            assert waiting.acquire(timeout=60)
        assert ines.get("/api/v1/orders").status_code == 200
        go_on.set()
        assert [desk.result().status_code for desk in desks] == [200] * len(desks)
