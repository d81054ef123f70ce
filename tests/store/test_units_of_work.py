"""Units of work: all or nothing, writers in a queue, instants with their zone."""

from __future__ import annotations

import threading
from dataclasses import replace
from datetime import UTC, datetime, timedelta, timezone

import pytest

from reedling.core.people import Person
from reedling.core.register.assets import PlacedAsset
from reedling.errors import NotSignedIn
from reedling.services.actions.sessions import add_person, sign_in, sign_out
from reedling.services.context import Context
from reedling.services.views.people import offered_people, who_is
from tests.conftest import INES, LODE, RAKE, FakeClock
from tests.lists import LISTS

ANN = Person(id="ann", name="Ann Sedge", role="engineer", username="ann", offered=True)


def test_a_unit_that_fails_leaves_nothing_behind(context: Context) -> None:
    def half_way() -> None:
        with context.store.writing() as unit:
            unit.people.add(ANN, "hash")
            raise RuntimeError("half way")

    with pytest.raises(RuntimeError, match="half way"):
        half_way()
    with context.store.reading() as unit:
        assert unit.people.get("ann") is None


def test_numbers_are_never_given_out_twice(context: Context) -> None:
    given: list[int] = []

    def take() -> None:
        for _ in range(10):
            with context.store.writing() as unit:
                given.append(unit.next_number("WO"))

    threads = [threading.Thread(target=take) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(given) == list(range(1, 41))


def test_a_reserved_number_is_passed_over(context: Context) -> None:
    with context.store.writing() as unit:
        unit.reserve_number("IT", 7)
        unit.reserve_number("IT", 3)
        assert unit.next_number("IT") == 8


def test_an_instant_comes_back_in_utc_whatever_its_zone_was(context: Context) -> None:
    local = datetime(2026, 6, 1, 14, 0, tzinfo=timezone(timedelta(hours=2)))
    with context.store.writing() as unit:
        unit.people.open_session("hash", INES.id, local, local)
    with context.store.reading() as unit:
        noon = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)
        assert unit.people.by_session("hash", noon - timedelta(seconds=1)) == INES
        assert unit.people.by_session("hash", noon) is None


def test_a_reader_keeps_its_view_while_somebody_writes(context: Context) -> None:
    with context.store.reading() as before:
        assert before.people.get("ann") is None
        with context.store.writing() as unit:
            unit.people.add(ANN, "hash")
        assert before.people.get("ann") is None
    with context.store.reading() as after:
        assert after.people.get("ann") == ANN


def test_assets_and_lists_come_back_as_they_went_in(context: Context) -> None:
    with context.store.reading() as unit:
        assert unit.register.assets() == (PlacedAsset(asset=RAKE, site=LODE),)
        assert unit.register.asset("nowhere") is None
        assert unit.catalogues.get() == LISTS
    with context.store.writing() as unit:
        unit.catalogues.replace(replace(LISTS, parts=()))
    with context.store.reading() as unit:
        assert unit.catalogues.get().parts == ()


def test_a_session_ends_after_its_days_and_when_signed_out(context: Context, clock: FakeClock) -> None:
    add_person(context, ANN, "marsh harrier over reeds")
    first = sign_in(context, "ann", "marsh harrier over reeds")
    person, token = first.person, first.token
    assert who_is(context, token) == person == ANN
    clock.forward(days=29)
    assert who_is(context, token) == ANN
    clock.forward(days=2)
    with pytest.raises(NotSignedIn, match="Sign in to go on"):
        who_is(context, token)
    again = sign_in(context, "ann", "marsh harrier over reeds").token
    sign_out(context, again)
    with pytest.raises(NotSignedIn):
        who_is(context, again)
    assert [p.id for p in offered_people(context)] == ["ann"]


def test_a_password_is_kept_hashed(context: Context) -> None:
    add_person(context, ANN, "marsh harrier over reeds")
    with context.store.reading() as unit:
        found = unit.people.by_username("ann")
    assert found is not None
    assert "marsh" not in found[1]
    assert found[1].startswith("$argon2")
