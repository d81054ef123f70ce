"""Invite people, change what they may, end their sessions, remove them."""

from __future__ import annotations

import secrets
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from reedling.core.people import Person, Role
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.actions.sessions import INVITATION_DAYS
from reedling.services.context import Context
from reedling.services.shared.kept_changes import keep_change
from reedling.services.shared.passwords import token_hash
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class Invitation:
    """With this token somebody chooses a password, once, until it runs out."""

    person: str
    token: str
    expires_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonFacts:
    """What an administrator says of a person."""

    name: str
    role: Role
    district: str = ""
    administrator: bool = False


def invite(context: Context, by: Person | None, username: str, facts: PersonFacts) -> Invitation:
    """Add somebody, who chooses a password with the invitation.

    Raises
    ------
    InvalidInput
        ``people.name`` without a name, ``people.username`` when the user name cannot be used.
    """
    name = username.strip().lower()
    if not name.isascii() or not name.replace("-", "").replace(".", "").isalnum() or len(name) > 40:
        raise InvalidInput(
            "people.username",
            "a user name has letters, digits, dots and hyphens, at most 40.",
            where="User name",
        )
    _check(facts)
    with context.writing() as unit:
        if unit.people.by_username(name) or unit.people.get(name):
            raise InvalidInput(
                "people.username",
                f"there is or was somebody called {name}, and records keep that name.",
                where="User name",
                hint="Choose another one, or let that person in again.",
            )
        person = Person(
            id=name,
            username=name,
            name=facts.name.strip(),
            role=facts.role,
            district=facts.district.strip(),
            administrator=facts.administrator,
        )
        unit.people.add(person, "")
        keep_change(context, unit, by, "person", name, "added", after=_told(person))
        return _invitation(context, unit, person)


def change_person(context: Context, by: Person | None, person_id: str, facts: PersonFacts) -> Person:
    """Say anew what somebody is called, does, and where; it holds from their next request on.

    Raises
    ------
    Conflict
        ``people.last_administrator`` when nobody would be left to do this.
    """
    _check(facts)
    with context.writing() as unit:
        person = _need(unit, person_id)
        if person.administrator and not facts.administrator:
            _keep_one_administrator(unit)
        changed = replace(
            person,
            name=facts.name.strip(),
            role=facts.role,
            district=facts.district.strip(),
            administrator=facts.administrator,
        )
        unit.people.save(changed)
        keep_change(
            context, unit, by, "person", person_id, "changed", before=_told(person), after=_told(changed)
        )
        return changed


def reset_password(context: Context, by: Person | None, person_id: str) -> Invitation:
    """Take somebody's password away and end their sign-ins; they choose another with the invitation."""
    with context.writing() as unit:
        person = _need(unit, person_id)
        if person.removed_at is not None:
            raise Conflict(
                "people.removed", "they were removed.", where=person.name, hint="Let them in again."
            )
        unit.people.set_password(person_id, "")
        unit.people.close_sessions(person_id)
        keep_change(context, unit, by, "person", person_id, "password", note="reset")
        return _invitation(context, unit, person)


def end_sessions(context: Context, by: Person | None, person_id: str) -> int:
    """End somebody's sign-ins on every device; gives how many."""
    with context.writing() as unit:
        _need(unit, person_id)
        n_ended = unit.people.close_sessions(person_id)
        keep_change(context, unit, by, "person", person_id, "sessions ended", note=f"{n_ended}")
        return n_ended


def remove_person(context: Context, by: Person | None, person_id: str) -> Person:
    """Let somebody in no longer; what they did keeps their name.

    Raises
    ------
    Conflict
        ``people.last_administrator`` for the last one.
    """
    with context.writing() as unit:
        person = _need(unit, person_id)
        if person.removed_at is not None:
            return person
        if person.administrator:
            _keep_one_administrator(unit)
        removed = replace(person, removed_at=context.clock())
        unit.people.save(removed)
        unit.people.set_password(person_id, "")
        unit.people.close_sessions(person_id)
        unit.people.withdraw_invitations(person_id)
        keep_change(context, unit, by, "person", person_id, "removed", before=_told(person))
        return removed


def let_in_again(context: Context, by: Person | None, person_id: str) -> Invitation:
    """Let somebody in again who was removed; they choose a password with the invitation."""
    with context.writing() as unit:
        person = replace(_need(unit, person_id), removed_at=None)
        unit.people.save(person)
        keep_change(context, unit, by, "person", person_id, "added", after=_told(person), note="again")
        return _invitation(context, unit, person)


def _invitation(context: Context, unit: Unit, person: Person) -> Invitation:
    token = secrets.token_urlsafe(24)
    expires_at = context.clock() + timedelta(days=INVITATION_DAYS)
    unit.people.invite(token_hash(token), person.id, expires_at)
    return Invitation(person=person.id, token=token, expires_at=expires_at)


def _check(facts: PersonFacts) -> None:
    if not facts.name.strip():
        raise InvalidInput("people.name", "a person has a name.", where="Name")


def _need(unit: Unit, person_id: str) -> Person:
    person = unit.people.get(person_id)
    if person is None or person.program:
        raise NotFound("people.unknown", f"there is nobody called {person_id}.")
    return person


def _keep_one_administrator(unit: Unit) -> None:
    if unit.people.n_administrators() <= 1:
        raise Conflict(
            "people.last_administrator",
            "this is the last administrator.",
            where="People",
            hint="Make somebody else an administrator first.",
        )


def _told(person: Person) -> dict[str, object]:
    return {
        "name": person.name,
        "role": person.role,
        "district": person.district,
        "administrator": person.administrator,
    }
