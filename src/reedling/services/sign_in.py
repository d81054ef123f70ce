"""Sign in and out, and choose a password. Hashing is done outside any transaction."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass, field, replace
from datetime import timedelta
from functools import cache

from limits import parse
from limits.storage import MemoryStorage
from limits.strategies import MovingWindowRateLimiter
from pwdlib import PasswordHash
from pwdlib.exceptions import PwdlibError
from zxcvbn import zxcvbn

from reedling.core.people import FailedSignIns, Person
from reedling.errors import InvalidInput, NotSignedIn, TooMany
from reedling.services.context import Context
from reedling.services.keep_changes import keep_change

SESSION_DAYS = 30
INVITATION_DAYS = 7
SHORTEST_PASSWORD = 10
LONGEST_PASSWORD = 128
WEAKEST_PASSWORD = 3
"""Of zxcvbn's scores 0 to 4: 3 is safely beyond lists of common passwords and simple changes of them."""
BY_NAME_AND_ADDRESS = parse("10/5 minutes")
BY_ADDRESS = parse("40/5 minutes")
BY_NAME = parse("100/15 minutes")

_PASSWORDS = PasswordHash.recommended()


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


def hash_password(password: str) -> str:
    """The password as it is kept: hashed with Argon2."""
    return _PASSWORDS.hash(password)


def check_password(password: str, person: Person) -> None:
    """Refuse a password that is too short, too long, or easy to guess.

    Raises
    ------
    InvalidInput
        ``people.password`` with what is wrong with it.
    """
    length = len(password)
    if not SHORTEST_PASSWORD <= length <= LONGEST_PASSWORD:
        raise InvalidInput(
            "people.password",
            f"it must have {SHORTEST_PASSWORD} to {LONGEST_PASSWORD} characters, this has {length}.",
            where="Password",
            hint="Several words that do not belong together are easy to keep in mind.",
        )
    found = zxcvbn(password[:72], user_inputs=[person.username, *person.name.split(), "reedling"])
    if found["score"] < WEAKEST_PASSWORD:
        said = found["feedback"]["warning"].rstrip(".")
        raise InvalidInput(
            "people.password",
            f"it is easy to guess{f': {said[:1].lower()}{said[1:]}' if said else ''}.",
            where="Password",
            hint="Several words that do not belong together are easy to keep in mind.",
        )


def add_person(context: Context, person: Person, password: str) -> None:
    """Add somebody who can sign in; the first one is an administrator.

    Raises
    ------
    InvalidInput
        ``people.username`` when the name is taken; as :func:`check_password`.
    """
    check_password(password, person)
    hashed = hash_password(password)
    with context.store.writing() as unit:
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
    with context.store.reading() as unit:
        found = unit.people.by_username(username)
    fits = _fits(password, found[1] if found else "")
    person = found[0] if found and fits and password not in dead and found[0].removed_at is None else None
    now = context.clock()
    if person is None:
        if limits is not None:
            limits.note_failure(address)
        with context.store.writing() as unit:
            unit.next_number("failed sign-ins")
            if found:
                unit.people.note_failed_sign_in(found[0].id, now)
        raise NotSignedIn("sign_in.refused", "That name and password do not go together.")
    token = secrets.token_urlsafe(32)
    with context.store.writing() as unit:
        failed = unit.people.failed_sign_ins(person.id)
        unit.people.forget_failed_sign_ins(person.id)
        unit.people.open_session(token_hash(token), person.id, now + timedelta(days=SESSION_DAYS), now)
    if limits is not None:
        limits.forgive(username, address)
    return SignedIn(person=person, token=token, failed=failed)


def who_is(context: Context, token: str | None) -> Person:
    """Who holds a session's token."""
    if token:
        with context.store.reading() as unit:
            person = unit.people.by_session(token_hash(token), context.clock())
            if person:
                return person
    raise NotSignedIn("sign_in.needed", "Sign in to go on.", hint="What is on this page stays.")


def sign_out(context: Context, token: str | None) -> None:
    """End a session."""
    if token:
        with context.store.writing() as unit:
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
    with context.store.reading() as unit:
        held = unit.people.password_hash(person.id)
    if not _fits(old, held):
        if limits is not None:
            limits.note_failure(address)
        raise NotSignedIn("sign_in.refused", "The password you have now is another one.")
    check_password(new, person)
    hashed = hash_password(new)
    with context.store.writing() as unit:
        unit.people.set_password(person.id, hashed)
        unit.people.close_sessions(person.id, but=token_hash(token))
        keep_change(context, unit, person, "person", person.id, "password", note="by themselves")


def invited_person(context: Context, token: str) -> Person:
    """Whom an invitation is for.

    Raises
    ------
    NotSignedIn
        ``people.invitation`` when it was used, has run out or never was.
    """
    with context.store.reading() as unit:
        person = unit.people.invited(token_hash(token), context.clock())
    if person is None or person.removed_at is not None:
        raise NotSignedIn(
            "people.invitation",
            "This invitation was used, or it has run out.",
            hint="Ask an administrator for another one.",
        )
    return person


def accept_invitation(context: Context, token: str, password: str) -> Person:
    """Choose a password with an invitation, which is used up; errors as its parts."""
    person = invited_person(context, token)
    check_password(password, person)
    hashed = hash_password(password)
    with context.store.writing() as unit:
        if unit.people.invited(token_hash(token), context.clock()) is None:
            raise NotSignedIn("people.invitation", "This invitation was used.")
        unit.people.set_password(person.id, hashed)
        unit.people.withdraw_invitations(person.id)
        keep_change(context, unit, person, "person", person.id, "password", note="by invitation")
    return person


def offered_people(context: Context) -> tuple[Person, ...]:
    """The people a demo offers on its sign-in page."""
    with context.store.reading() as unit:
        return tuple(p for p in unit.people.all() if p.offered and p.removed_at is None)


def end_all_sessions(context: Context) -> int:
    """End every sign-in; gives how many."""
    with context.store.writing() as unit:
        return unit.people.close_sessions()


def token_hash(token: str) -> str:
    """What of a token is kept."""
    return hashlib.sha256(token.encode("utf-8", "replace")).hexdigest()


@cache
def _nobody() -> str:
    """A hash to verify against for names that are not known, so that these take as long as known ones."""
    return _PASSWORDS.hash("the password of nobody")


def _fits(password: str, held: str) -> bool:
    """Whether a password fits the hash kept; where there is none, it takes as long and fits not."""
    try:
        return _PASSWORDS.verify(password, held or _nobody()) and bool(held)
    except PwdlibError:
        return False
