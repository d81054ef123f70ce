"""Invite, change, reset, remove; passwords; guessing; who may approve what."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from argon2 import Type, extract_parameters

from reedling.core.people import Person
from reedling.errors import Conflict, InvalidInput, NotAllowed, NotSignedIn, TooMany
from reedling.services.actions import sessions
from reedling.services.actions.documents import copy_document
from reedling.services.actions.drafts import edit_draft, patch_draft
from reedling.services.actions.orders import log_order, plan_visit
from reedling.services.actions.people import (
    PersonFacts,
    change_person,
    end_sessions,
    invite,
    let_in_again,
    remove_person,
    reset_password,
)
from reedling.services.actions.releases import release, send_for_review
from reedling.services.actions.sessions import (
    SignInLimits,
    accept_invitation,
    add_person,
    change_password,
    sign_in,
)
from reedling.services.context import Context
from reedling.services.shared import passwords
from reedling.services.shared.matched import OrderToMatch
from reedling.services.shared.passwords import check_password
from reedling.services.views.changes import changes_of
from reedling.services.views.documents import plan_document
from reedling.services.views.people import people_page, who_is
from reedling.services.views.shelf import incident_type_page
from reedling.standins.field import DEMO_PASSWORD
from reedling.wiring import open_context
from tests.conftest import HASHED_IN_EARNEST, INES, MAREK, ODA, PIA, FakeClock
from tests.plans import rake_plan
from tests.services.test_drafts_and_release import incident
from tests.services.test_drafts_and_release import released as release_it

__all__ = ["incident"]


@pytest.fixture
def released(context: Context, incident: str) -> str:
    """An incident type in force."""
    release_it(context, incident)
    return incident


GOOD = "marsh harrier over reeds"
OTHER = "slow barges at the sluice"
ANN = Person(id="ann", name="Ann Reed", role="engineer", username="ann")
FACTS = PersonFacts(name="Bo Finch", role="technician", district="Saltings")


@pytest.fixture
def admin(context: Context) -> Person:
    """Oda, made an administrator."""
    facts = PersonFacts(name=ODA.name, role=ODA.role, administrator=True)
    return change_person(context, None, "oda", facts)


def test_somebody_invited_chooses_a_password_once(context: Context, admin: Person, clock: FakeClock) -> None:
    invitation = invite(context, admin, "Bo.Finch", FACTS)
    with pytest.raises(NotSignedIn):
        sign_in(context, "bo.finch", "")
    with pytest.raises(InvalidInput, match="it must have 10 to 128 characters, this has 5"):
        accept_invitation(context, invitation.token, "short")
    assert accept_invitation(context, invitation.token, GOOD).name == "Bo Finch"
    assert sign_in(context, "bo.finch", GOOD).person.district == "Saltings"
    with pytest.raises(NotSignedIn, match="was used, or it has run out"):
        accept_invitation(context, invitation.token, OTHER)
    late = invite(context, admin, "late", FACTS)
    clock.forward(days=8)
    with pytest.raises(NotSignedIn, match="run out"):
        accept_invitation(context, late.token, GOOD)


@pytest.mark.parametrize(
    ("password", "words"),
    [
        ("short", "it must have 10 to 128 characters"),
        ("x" * 129, "it must have 10 to 128 characters"),
        ("password12", "it is easy to guess"),
        ("1234567890", "it is easy to guess"),
        ("qwertyuiop", "it is easy to guess"),
        ("reedling12", "it is easy to guess"),
    ],
)
def test_short_common_and_obvious_passwords_are_refused(password: str, words: str) -> None:
    """The commonest passwords are those of published lists (zxcvbn's, after Wheeler, USENIX Security 2016)."""
    with pytest.raises(InvalidInput, match=words):
        check_password(password, ANN)
    check_password(GOOD, ANN)


def test_a_reset_ends_every_sign_in_and_the_old_password(context: Context, admin: Person) -> None:
    add_person(context, ANN, GOOD)
    token = sign_in(context, "ann", GOOD).token
    invitation = reset_password(context, admin, "ann")
    with pytest.raises(NotSignedIn):
        who_is(context, token)
    with pytest.raises(NotSignedIn):
        sign_in(context, "ann", GOOD)
    accept_invitation(context, invitation.token, OTHER)
    assert sign_in(context, "ann", OTHER).person.id == "ann"


def test_changing_ones_own_password_keeps_this_sign_in_and_ends_the_others(context: Context) -> None:
    add_person(context, ANN, GOOD)
    here, there = sign_in(context, "ann", GOOD).token, sign_in(context, "ann", GOOD).token
    with pytest.raises(NotSignedIn, match="is another one"):
        change_password(context, ANN, "wrong", OTHER, token=here)
    change_password(context, ANN, GOOD, OTHER, token=here)
    assert who_is(context, here).id == "ann"
    with pytest.raises(NotSignedIn):
        who_is(context, there)


def test_somebody_removed_is_out_at_once_and_records_keep_the_name(context: Context, admin: Person) -> None:
    add_person(context, ANN, GOOD)
    token = sign_in(context, "ann", GOOD).token
    remove_person(context, admin, "ann")
    with pytest.raises(NotSignedIn):
        who_is(context, token)
    with pytest.raises(NotSignedIn):
        sign_in(context, "ann", GOOD)
    with context.store.reading() as unit:
        assert unit.people.names()["ann"] == "Ann Reed"
    assert people_page(context)[-1].person.id == "ann"
    with pytest.raises(InvalidInput, match="records keep that name"):
        invite(context, admin, "ann", FACTS)
    accept_invitation(context, let_in_again(context, admin, "ann").token, OTHER)
    assert sign_in(context, "ann", OTHER).person.name == "Ann Reed"
    assert [c.act for c in changes_of(context, "person", "ann").changes] == [
        "password",
        "added",
        "removed",
        "added",
    ]


def test_an_order_is_not_given_to_a_technician_who_was_removed(context: Context, admin: Person) -> None:
    remove_person(context, admin, "teo")
    order = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "").id
    with pytest.raises(InvalidInput, match="there is no technician teo"):
        plan_visit(context, MAREK, order, "teo", context.clock())


def test_the_last_administrator_stays_one(context: Context, admin: Person) -> None:
    facts = PersonFacts(name=ODA.name, role=ODA.role, administrator=False)
    with pytest.raises(Conflict, match="this is the last administrator"):
        remove_person(context, admin, "oda")
    with pytest.raises(Conflict, match="this is the last administrator"):
        change_person(context, admin, "oda", facts)
    change_person(context, admin, "ines", PersonFacts(name=INES.name, role=INES.role, administrator=True))
    change_person(context, admin, "oda", facts)
    assert end_sessions(context, admin, "ines") == 0


def test_the_first_person_of_an_installation_is_an_administrator(tmp_path: Path) -> None:
    made = open_context(tmp_path / "own")
    add_person(made, ANN, GOOD)
    add_person(made, Person(id="bo", name="Bo", role="planner", username="bo"), OTHER)
    assert [line.person.administrator for line in people_page(made)] == [True, False]


@pytest.mark.slow
def test_guessing_is_slowed_by_name_and_by_address_and_told_afterwards(context: Context) -> None:
    add_person(context, ANN, GOOD)
    limits = SignInLimits()

    def guess(name: str, address: str) -> str:
        try:
            sign_in(context, name, "wrong wrong wrong", limits=limits, address=address)
        except TooMany as error:
            return "slow" if error.wait_s > 0 else "at once"
        except NotSignedIn:
            return "wrong"
        return "in"

    assert [guess("ann", "10.0.0.1") for _ in range(12)] == ["wrong"] * 10 + ["slow"] * 2
    assert guess("ann", "10.0.0.2") == "wrong", "Ann herself, elsewhere, is not locked out"
    many = [guess(f"nobody{n}", "10.0.0.3") for n in range(45)]
    assert (many.count("wrong"), many.count("slow")) == (40, 5)
    with pytest.raises(TooMany):
        sign_in(context, "ann", GOOD, limits=limits, address="10.0.0.3")
    found = sign_in(context, "ann", GOOD, limits=limits, address="10.0.0.9")
    assert (found.failed.count, found.failed.last_at) == (11, context.clock())
    assert sign_in(context, "ann", GOOD, limits=limits, address="10.0.0.9").failed.count == 0


def test_a_hash_costs_what_is_recommended() -> None:
    """At least the second choice of RFC 9106, section 4: Argon2id, 3 passes over 64 MiB, 4 lanes."""
    found = extract_parameters(HASHED_IN_EARNEST.hash(GOOD))
    assert found.type is Type.ID
    assert (found.time_cost, found.memory_cost, found.parallelism) == (3, 65_536, 4)


@pytest.fixture
def in_earnest(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Passwords hashed as outside tests."""
    monkeypatch.setattr(passwords, "_PASSWORDS", HASHED_IN_EARNEST)
    passwords._nobody.cache_clear()
    yield
    passwords._nobody.cache_clear()


@pytest.mark.slow
def test_a_name_that_is_not_known_takes_as_long_as_one_that_is(context: Context, in_earnest: None) -> None:
    add_person(context, ANN, GOOD)

    def seconds(name: str) -> float:
        """Of the processor, since what else the machine does is no part of it."""
        began = time.process_time()
        with pytest.raises(NotSignedIn):
            sign_in(context, name, "wrong wrong wrong")
        return time.process_time() - began

    seconds("nobody")
    pairs = [(seconds("ann"), seconds("nobody")) for _ in range(9)]
    known, unknown = (statistics.median(times) for times in zip(*pairs, strict=True))
    assert 0.6 < known / unknown < 1.6


def test_passwords_are_hashed_while_nobody_waits_for_the_database(
    context: Context, monkeypatch: pytest.MonkeyPatch
) -> None:
    add_person(context, ANN, GOOD)
    held: list[bool] = []
    fits = passwords.fits

    def looked(password: str, hashed: str) -> bool:
        held.append(context.store.turn.locked())
        return fits(password, hashed)

    monkeypatch.setattr(sessions, "fits", looked)
    sign_in(context, "ann", GOOD)
    with pytest.raises(NotSignedIn):
        sign_in(context, "nobody", GOOD)
    assert held == [False, False]


def test_the_demo_s_password_opens_nothing_outside_the_demo(demo_dir: Path) -> None:
    demo = open_context(demo_dir)
    assert sign_in(demo, "ines", DEMO_PASSWORD).person.id == "ines"
    with pytest.raises(NotSignedIn):
        sign_in(demo, "ines", DEMO_PASSWORD, dead=frozenset({DEMO_PASSWORD}))


def test_ones_own_work_is_not_approved_through_a_copy(context: Context, released: str) -> None:
    """Oda writes in a draft; Ines copies it; Oda may not release the copy, and Pia's copy of that neither."""
    from reedling.services.actions.documents import begin_draft

    begin_draft(context, ODA, "WP-001")
    patch = [{"op": "replace", "path": "/summary", "value": "Oda's own words"}]
    patch_draft(context, ODA, "WP-001", patch, plan_document(context, "WP-001").etag)
    copy = copy_document(context, INES, "WP-001")
    second = copy_document(context, PIA, copy)
    for document in (copy, second):
        send_for_review(context, PIA, document, "")
        with pytest.raises(NotAllowed):
            release(context, ODA, document)


def test_ones_own_steps_copied_by_another_are_not_approved_either(context: Context, released: str) -> None:
    from reedling.core.guidance.editing import CopySteps
    from reedling.services.actions.documents import begin_draft, create_document

    begin_draft(context, ODA, "WP-001")
    patch = [{"op": "replace", "path": "/steps/0/text", "value": "Lock as Oda says"}]
    patch_draft(context, ODA, "WP-001", patch, plan_document(context, "WP-001").etag)
    other = create_document(context, INES, "plan", "Another plan")
    steps = tuple(s.id for s in rake_plan().steps)
    edit_draft(
        context,
        INES,
        other,
        CopySteps(source="WP-001", steps=steps, after=None),
        plan_document(context, other).etag,
    )
    send_for_review(context, INES, other, "")
    with pytest.raises(NotAllowed):
        release(context, ODA, other)


def test_a_copy_of_what_was_released_is_anybodys_to_approve(context: Context, released: str) -> None:
    copy = copy_document(context, INES, "WP-001")
    send_for_review(context, INES, copy, "")
    release(context, ODA, copy)
    assert incident_type_page(context, "IT-001")
