"""Sign in and out, and add people."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta

from pwdlib import PasswordHash

from reedling.errors import NotSignedIn
from reedling.services.context import Context
from reedling.store.records import Person

SESSION_DAYS = 30
_PASSWORDS = PasswordHash.recommended()


def hash_password(password: str) -> str:
    """The password as it is kept: hashed with Argon2."""
    return _PASSWORDS.hash(password)


def add_person(context: Context, person: Person, password: str) -> None:
    """Add somebody who can sign in."""
    hashed = hash_password(password)
    with context.store.writing() as unit:
        unit.people.add(person, hashed)


def sign_in(context: Context, username: str, password: str) -> tuple[Person, str]:
    """Check a password and open a session; gives the person and the session's token.

    Raises
    ------
    NotSignedIn
        ``sign_in.refused``, in the same words whether the name or the password is wrong.
    """
    with context.store.writing() as unit:
        found = unit.people.by_username(username)
        if found is None or not _PASSWORDS.verify(password, found[1]):
            raise NotSignedIn("sign_in.refused", "That name and password do not go together.")
        token = secrets.token_urlsafe(32)
        unit.people.open_session(
            _token_hash(token), found[0].id, context.clock() + timedelta(days=SESSION_DAYS)
        )
        return found[0], token


def who_is(context: Context, token: str | None) -> Person:
    """Who holds a session's token."""
    if token:
        with context.store.reading() as unit:
            person = unit.people.by_session(_token_hash(token), context.clock())
            if person:
                return person
    raise NotSignedIn("sign_in.needed", "Sign in to go on.", hint="Your work is kept.")


def sign_out(context: Context, token: str | None) -> None:
    """End a session."""
    if token:
        with context.store.writing() as unit:
            unit.people.close_session(_token_hash(token))


def offered_people(context: Context) -> tuple[Person, ...]:
    """The people a demo offers on its sign-in page."""
    with context.store.reading() as unit:
        return tuple(p for p in unit.people.all() if p.offered)


def _token_hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
