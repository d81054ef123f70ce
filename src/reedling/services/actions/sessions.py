"""Sign in and out, change a password, accept an invitation."""

from __future__ import annotations

import secrets
from dataclasses import dataclass, field, replace
from datetime import timedelta

from limits import parse
from limits.storage import MemoryStorage
from limits.strategies import MovingWindowRateLimiter

from reedling.core.people import FailedSignIns, Person
from reedling.errors import InvalidInput, NotSignedIn, TooMany
from reedling.services.context import Context
from reedling.services.shared.kept_changes import keep_change
from reedling.services.shared.passwords import check_password, fits, hash_password, token_hash
from reedling.services.views.people import invited_person

SESSION_DAYS = 30

INVITATION_DAYS = 7


BY_NAME_AND_ADDRESS = parse("10/5 minutes")

BY_ADDRESS = parse("40/5 minutes")

BY_NAME = parse("100/15 minutes")


@dataclass(frozen=True, slots=True)
class SignInLimits:
    """Slows guessing down: by name and address, by address, and by name from anywhere."""

    limiter: MovingWindowRateLimiter = field(default_factory=lambda: MovingWindowRateLimiter(MemoryStorage()))

    def take(self, username: str, address: str) -> None:
        """Count an attempt by its name; refuse it where there were too many lately.

        Raises
        ------
        TooMany
            ``sign_in.slow``.
        """
        names = ((BY_NAME_AND_ADDRESS, (username, address)), (BY_NAME, (username,)))
        slow = [limit for limit, key in names if not self.limiter.hit(limit, *key)]
        if not self.limiter.test(BY_ADDRESS, address):
            slow.append(BY_ADDRESS)
        if slow:
            error = TooMany(
                "sign_in.slow",
                "There were too many attempts to sign in.",
                hint="Wait a few minutes, then try again.",
            )
            error.wait_s = max(limit.get_expiry() for limit in slow)
            raise error

    def note_failure(self, address: str) -> None:
        """Count a wrong attempt by its address; right ones from there do not make up for it."""
        self.limiter.hit(BY_ADDRESS, address)

    def forgive(self, username: str, address: str) -> None:
        """Forget a person's attempts: the last one was right."""
        self.limiter.clear(BY_NAME_AND_ADDRESS, username, address)
        self.limiter.clear(BY_NAME, username)


@dataclass(frozen=True, slots=True, kw_only=True)
class SignedIn:
    """Who signed in, the token of their session, and wrong attempts since they did so last."""

    person: Person
    token: str
    failed: FailedSignIns


def add_person(context: Context, person: Person, password: str) -> None:
    """Add somebody who can sign in; the first one is an administrator.

    Raises
    ------
    InvalidInput
        ``people.username`` when the name is taken; as :func:`check_password`.
    """
    check_password(password, person)
    hashed = hash_password(password)
    with context.writing() as unit:
        if unit.people.by_username(person.username) or unit.people.get(person.id):
            raise InvalidInput(
                "people.username", f"there is somebody called {person.username}.", where="User name"
            )
        first = unit.people.count() == 0
        unit.people.add(replace(person, administrator=True) if first else person, hashed)
        keep_change(context, unit, None, "person", person.id, "added", after={"role": person.role})


def sign_in(
    context: Context,
    username: str,
    password: str,
    *,
    limits: SignInLimits | None = None,
    address: str = "",
    dead: frozenset[str] = frozenset(),
) -> SignedIn:
    """Check a password and open a session; ``dead`` are passwords that open nothing here.

    Raises
    ------
    NotSignedIn
        ``sign_in.refused``, in the same words and the same time whether the name or the password is wrong.
    TooMany
        ``sign_in.slow`` after too many attempts.
    """
    if limits is not None:
        limits.take(username, address)
    with context.reading() as unit:
        found = unit.people.by_username(username)
    right = fits(password, found[1] if found else "")
    person = found[0] if found and right and password not in dead and found[0].removed_at is None else None
    now = context.clock()
    if person is None:
        if limits is not None:
            limits.note_failure(address)
        with context.writing() as unit:
            unit.next_number("failed sign-ins")
            if found:
                unit.people.note_failed_sign_in(found[0].id, now)
        raise NotSignedIn("sign_in.refused", "That name and password do not go together.")
    token = secrets.token_urlsafe(32)
    with context.writing() as unit:
        failed = unit.people.failed_sign_ins(person.id)
        unit.people.forget_failed_sign_ins(person.id)
        unit.people.open_session(token_hash(token), person.id, now + timedelta(days=SESSION_DAYS), now)
    if limits is not None:
        limits.forgive(username, address)
    return SignedIn(person=person, token=token, failed=failed)


def sign_out(context: Context, token: str | None) -> None:
    """End a session."""
    if token:
        with context.writing() as unit:
            unit.people.close_session(token_hash(token))


def change_password(
    context: Context,
    person: Person,
    old: str,
    new: str,
    *,
    token: str,
    limits: SignInLimits | None = None,
    address: str = "",
) -> None:
    """Put another password in place of one's own; every other sign-in of this person ends.

    Raises
    ------
    NotSignedIn
        ``sign_in.refused`` when the old password is not the one.
    """
    if limits is not None:
        limits.take(person.username, address)
    with context.reading() as unit:
        held = unit.people.password_hash(person.id)
    if not fits(old, held):
        if limits is not None:
            limits.note_failure(address)
        raise NotSignedIn("sign_in.refused", "The password you have now is another one.")
    check_password(new, person)
    hashed = hash_password(new)
    with context.writing() as unit:
        unit.people.set_password(person.id, hashed)
        unit.people.close_sessions(person.id, but=token_hash(token))
        keep_change(context, unit, person, "person", person.id, "password", note="by themselves")


def accept_invitation(context: Context, token: str, password: str) -> Person:
    """Choose a password with an invitation, which is used up; errors as its parts."""
    person = invited_person(context, token)
    check_password(password, person)
    hashed = hash_password(password)
    with context.writing() as unit:
        if unit.people.invited(token_hash(token), context.clock()) is None:
            raise NotSignedIn("people.invitation", "This invitation was used.")
        unit.people.set_password(person.id, hashed)
        unit.people.withdraw_invitations(person.id)
        keep_change(context, unit, person, "person", person.id, "password", note="by invitation")
    return person


def end_all_sessions(context: Context) -> int:
    """End every sign-in; gives how many."""
    with context.writing() as unit:
        return unit.people.close_sessions()
