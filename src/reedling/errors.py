"""The errors Reedling raises on purpose: each carries facts and writes its own sentence.

A failed inspection or an unsound draft is a *result*, not an error; an error means that what
was asked cannot be done. The sentence is always *where: what was expected, got what. What to do.*
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """One thing wrong with an authored text or a file, beside its place.

    ``path`` is a JSON pointer into the document (or a file path before a ``#``);
    ``severity`` is ``"error"`` (cannot be released), ``"warning"`` (worth a look) or ``"note"`` (not proved).
    """

    code: str
    path: str
    message: str
    severity: str = "error"
    hint: str = ""


class ReedlingError(Exception):
    """Root of the tree. ``code`` is stable; the sentence may be reworded."""

    title = "Something went wrong"

    def __init__(
        self,
        code: str,
        message: str,
        *,
        where: str = "",
        hint: str = "",
        problems: Sequence[Problem] = (),
    ) -> None:
        self.code = code
        self.where = where
        self.message = message
        self.hint = hint
        self.problems = tuple(problems)
        self._made_of = (code, message, where, hint, self.problems)
        sentence = f"{where}: {message}" if where else message
        super().__init__(f"{sentence} {hint}".strip())

    def __reduce__(self) -> tuple[object, ...]:
        """So that it travels whole from one process to another."""
        return _made_again, (type(self), *self._made_of)


def _made_again(
    kind: type[ReedlingError], code: str, message: str, where: str, hint: str, problems: tuple[Problem, ...]
) -> ReedlingError:
    return kind(code, message, where=where, hint=hint, problems=problems)


class InvalidInput(ReedlingError):
    """The request is malformed or breaks a rule that the sender can mend."""

    title = "This cannot be taken as it stands"


class NotFound(ReedlingError):
    """The thing named does not exist, or not for this person."""

    title = "Not found"


class Conflict(ReedlingError):
    """The thing has moved on since the sender last looked."""

    title = "This has changed meanwhile"


class NotSignedIn(ReedlingError):
    """Nobody is signed in, or the session has ended."""

    title = "Please sign in"


class NotAllowed(ReedlingError):
    """The person signed in may not do this."""

    title = "Not for this role"


class TooMany(ReedlingError):
    """Too many attempts in a short time; ``wait_s`` are the seconds after which the next is taken."""

    title = "Too many attempts"
    wait_s: int = 60


class Unavailable(ReedlingError):
    """The store cannot be used now: busy, full, read only, damaged, or of another version."""

    title = "Not possible right now"
