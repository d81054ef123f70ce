"""Who signs in here."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.people import FailedSignIns, Person, ProgramToken
from reedling.errors import NotSignedIn
from reedling.services.context import Context
from reedling.services.shared.passwords import token_hash


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonLine:
    """One person as an administrator sees them; ``invited_until`` while they have yet to choose a password."""

    person: Person
    n_sessions: int
    invited_until: datetime | None
    failed: FailedSignIns
    has_password: bool


def people_page(context: Context) -> tuple[PersonLine, ...]:
    """Everybody by name, those removed last."""
    now = context.clock()
    with context.reading() as unit:
        sessions, invited = unit.people.n_sessions(now), unit.people.invitations()
        lines = [
            PersonLine(
                person=person,
                n_sessions=sessions.get(person.id, 0),
                invited_until=invited.get(person.id),
                failed=unit.people.failed_sign_ins(person.id),
                has_password=bool(unit.people.password_hash(person.id)),
            )
            for person in unit.people.all()
        ]
        return tuple(sorted(lines, key=lambda line: line.person.removed_at is not None))


def who_is(context: Context, token: str | None) -> Person:
    """Who holds a session's token."""
    if token:
        with context.reading() as unit:
            person = unit.people.by_session(token_hash(token), context.clock())
            if person:
                return person
    raise NotSignedIn("sign_in.needed", "Sign in to go on.", hint="What is on this page stays.")


def invited_person(context: Context, token: str) -> Person:
    """Whom an invitation is for.

    Raises
    ------
    NotSignedIn
        ``people.invitation`` when it was used, has run out or never was.
    """
    with context.reading() as unit:
        person = unit.people.invited(token_hash(token), context.clock())
    if person is None or person.removed_at is not None:
        raise NotSignedIn(
            "people.invitation",
            "This invitation was used, or it has run out.",
            hint="Ask an administrator for another one.",
        )
    return person


def offered_people(context: Context) -> tuple[Person, ...]:
    """The people a demo offers on its sign-in page."""
    with context.reading() as unit:
        return tuple(p for p in unit.people.all() if p.offered and p.removed_at is None)


def programs(context: Context) -> tuple[ProgramToken, ...]:
    """Every program that is let in, by name."""
    with context.reading() as unit:
        return unit.people.programs()
