"""Let programs in by a token, and let them in no longer."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import timedelta

from reedling.core.people import PROGRAM_ROLES, Person, Role
from reedling.errors import InvalidInput, NotFound, NotSignedIn
from reedling.services.context import Context
from reedling.services.shared.kept_changes import keep_change
from reedling.services.shared.passwords import token_hash

PREFIX = "reedling_"
"""What a token begins with, so that one that leaked can be found."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewProgram:
    """A program with its token, which is told this once."""

    program: Person
    token: str


def add_program(context: Context, by: Person, name: str, role: Role) -> NewProgram:
    """Let a program in, to do what people of a role may; what it does is kept under its name.

    Raises
    ------
    InvalidInput
        ``programs.name`` without a name, or with that of another program; ``programs.role`` for a role that
        takes a person.
    """
    name = name.strip()
    if not name:
        raise InvalidInput("programs.name", "the program needs a name.", where="New program")
    if role not in PROGRAM_ROLES:
        raise InvalidInput(
            "programs.role",
            f"a program cannot be {role}: that takes a person.",
            where="New program",
            hint=f"Choose {' or '.join(PROGRAM_ROLES)}.",
        )
    token = PREFIX + secrets.token_urlsafe(32)
    with context.writing() as unit:
        if name in {p.program.name for p in unit.people.programs()}:
            raise InvalidInput("programs.name", f"there is a program {name} already.", where="New program")
        identity = f"program-{unit.next_number('program')}"
        program = Person(id=identity, username=identity, name=name, role=role, program=True)
        unit.people.add(program, "")
        unit.people.add_program_token(
            token_hash(token), identity, created_at=context.clock(), created_by=by.id
        )
        keep_change(
            context, unit, by, "person", identity, "added", after={"name": name, "role": role}, note="program"
        )
    return NewProgram(program=program, token=token)


def revoke_program(context: Context, by: Person, program: str) -> None:
    """Let a program in no longer; what it did keeps its name."""
    with context.writing() as unit:
        if program not in {p.program.id for p in unit.people.programs()}:
            raise NotFound("programs.unknown", f"there is no program {program}.")
        unit.people.revoke_program_token(program)
        keep_change(context, unit, by, "person", program, "removed", note="program")


USED_NOTED_EVERY = timedelta(minutes=10)
"""The time of a program's last request is kept this exactly: a request that only reads writes nothing else."""


def admit_program(context: Context, token: str) -> Person:
    """The program that a token lets in; that it was used is kept.

    Raises
    ------
    NotSignedIn
        ``programs.token`` when there is none, or it was revoked.
    """
    now, hashed = context.clock(), token_hash(token)
    with context.reading() as unit:
        program = unit.people.by_program_token(hashed)
        last = unit.people.program_last_used(hashed) if program else None
    if program is None:
        raise NotSignedIn("programs.token", "This token lets nobody in.")
    if last is None or now - last > USED_NOTED_EVERY:
        with context.writing() as unit:
            unit.people.note_program_used(hashed, now)
    return program
