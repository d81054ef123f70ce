"""Programs come in by a token: told once, limited to a role, let in no longer when revoked."""

from __future__ import annotations

import pytest

from reedling.core.people import Role
from reedling.errors import InvalidInput, NotFound, NotSignedIn
from reedling.services.actions.people import reset_password
from reedling.services.actions.programs import (
    PREFIX,
    USED_NOTED_EVERY,
    add_program,
    admit_program,
    revoke_program,
)
from reedling.services.actions.sessions import sign_in
from reedling.services.context import Context
from reedling.services.views.people import people_page, programs
from tests.conftest import INES, FakeClock


def test_a_token_is_told_once_and_only_its_hash_is_kept(context: Context) -> None:
    made = add_program(context, INES, "Asset register", "planner")
    assert made.token.startswith(PREFIX)
    assert admit_program(context, made.token) == made.program
    with context.store.engine.connect() as connection:
        dump = "\n".join(connection.connection.dbapi_connection.iterdump())  # type: ignore[union-attr]
    assert made.program.id in dump
    assert made.token not in dump
    assert made.token.removeprefix(PREFIX) not in dump


def test_a_revoked_token_lets_nobody_in_and_another_program_stays(context: Context) -> None:
    one, other = (add_program(context, INES, name, "engineer") for name in ("One", "Other"))
    revoke_program(context, INES, one.program.id)
    with pytest.raises(NotSignedIn):
        admit_program(context, one.token)
    assert admit_program(context, other.token) == other.program
    assert [p.program.name for p in programs(context)] == ["Other"]
    with pytest.raises(NotFound):
        revoke_program(context, INES, one.program.id)
    with pytest.raises(NotFound):
        revoke_program(context, INES, INES.id)


def test_what_takes_a_person_is_for_no_program(context: Context) -> None:
    roles: tuple[Role, ...] = ("approver", "technician")
    for role in roles:
        with pytest.raises(InvalidInput, match="that takes a person"):
            add_program(context, INES, "One", role)
    made = add_program(context, INES, "One", "engineer")
    for name in ("", "  ", "One", " One "):
        with pytest.raises(InvalidInput):
            add_program(context, INES, name, "engineer")
    assert made.program.id not in {line.person.id for line in people_page(context)}
    with pytest.raises(NotFound):
        reset_password(context, INES, made.program.id)
    for password in ("", made.token):
        with pytest.raises(NotSignedIn):
            sign_in(context, made.program.username, password)


def test_the_last_use_is_kept_to_some_minutes(context: Context, clock: FakeClock) -> None:
    made = add_program(context, INES, "One", "engineer")
    assert programs(context)[0].last_used_at is None
    admit_program(context, made.token)
    first = programs(context)[0].last_used_at
    clock.forward(minutes=1)
    admit_program(context, made.token)
    assert programs(context)[0].last_used_at == first
    clock.forward(minutes=USED_NOTED_EVERY.total_seconds() / 60)
    admit_program(context, made.token)
    assert programs(context)[0].last_used_at == clock.now
