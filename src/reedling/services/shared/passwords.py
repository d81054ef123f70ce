"""Passwords: whether one will do, and its hash; hashes of session tokens."""

from __future__ import annotations

import hashlib
from functools import cache

from pwdlib import PasswordHash
from pwdlib.exceptions import PwdlibError

from reedling.core.people import Person
from reedling.errors import InvalidInput

_PASSWORDS = PasswordHash.recommended()

LONGEST_PASSWORD = 128

SHORTEST_PASSWORD = 10

WEAKEST_PASSWORD = 3
"""Of zxcvbn's scores 0 to 4: 3 is safely beyond lists of common passwords and simple changes of them."""


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
    # Its lists of words take twelve megabytes of each process, and are wanted when somebody chooses a password.
    from zxcvbn import zxcvbn

    found = zxcvbn(password[:72], user_inputs=[person.username, *person.name.split(), "reedling"])
    if found["score"] < WEAKEST_PASSWORD:
        said = found["feedback"]["warning"].rstrip(".")
        raise InvalidInput(
            "people.password",
            f"it is easy to guess{f': {said[:1].lower()}{said[1:]}' if said else ''}.",
            where="Password",
            hint="Several words that do not belong together are easy to keep in mind.",
        )


def token_hash(token: str) -> str:
    """What of a token is kept."""
    return hashlib.sha256(token.encode("utf-8", "replace")).hexdigest()


def fits(password: str, held: str) -> bool:
    """Whether a password fits the hash kept; where there is none, it takes as long and fits not."""
    try:
        return _PASSWORDS.verify(password, held or _nobody()) and bool(held)
    except PwdlibError:
        return False


@cache
def _nobody() -> str:
    """A hash to verify against for names that are not known, so that these take as long as known ones."""
    return _PASSWORDS.hash("the password of nobody")
