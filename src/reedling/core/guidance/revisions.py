"""Revisions of an authored document: their letters, their states, and who may move them on."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from reedling.errors import Conflict, InvalidInput, NotAllowed

DocumentKind = Literal["incident type", "plan", "form", "standard step", "decision table", "fault guide"]
PLAN_KINDS: tuple[DocumentKind, ...] = ("plan", "form", "standard step")
"""Kinds whose content is a plan."""

RevisionState = Literal["Draft", "In review", "On trial", "Released", "Superseded", "Withdrawn"]
RevisionMove = Literal["send", "give back", "try", "release", "supersede", "withdraw"]

MOVES: Mapping[RevisionMove, tuple[tuple[RevisionState, ...], RevisionState]] = {
    "send": (("Draft",), "In review"),
    "give back": (("In review",), "Draft"),
    "try": (("In review",), "On trial"),
    "release": (("In review", "On trial"), "Released"),
    "supersede": (("Released",), "Superseded"),
    "withdraw": (("Released", "On trial"), "Withdrawn"),
}
"""Each move with the states it starts from and the state it leads to."""


def next_letter(letter: str | None) -> str:
    """The revision letter after this one: A first, then B … Z, AA, AB …

    Raises
    ------
    InvalidInput
        ``revisions.letter`` where it is none: something other than capitals A to Z.

    >>> next_letter(None), next_letter("A"), next_letter("Z"), next_letter("AZ")
    ('A', 'B', 'AA', 'BA')
    """
    if letter is None:
        return "A"
    digits = [ord(c) - ord("A") for c in letter]
    if not digits or any(not 0 <= d < 26 for d in digits):
        raise InvalidInput(
            "revisions.letter", f"a revision letter is A to Z, got {letter!r}.", hint="Use capitals."
        )
    for i in reversed(range(len(digits))):
        if digits[i] < 25:
            digits[i] += 1
            return "".join(chr(d + ord("A")) for d in digits)
        digits[i] = 0
    return "A" * (len(digits) + 1)


def letter_rank(letter: str) -> tuple[int, str]:
    """Sort key that puts Z before AA."""
    return len(letter), letter


def move_revision(state: RevisionState, move: RevisionMove, *, where: str) -> RevisionState:
    """The state after a move.

    Raises
    ------
    Conflict
        ``revisions.state`` where the revision, named by ``where``, is in no state that the move starts from.
    """
    starts, end = MOVES[move]
    if state not in starts:
        raise Conflict(
            "revisions.state",
            f"to {move} it, the revision must be {' or '.join(starts)}, and it is {state}.",
            where=where,
            hint="Reload the page to see where it stands.",
        )
    return end


def require_second_person(releaser: str, writers: frozenset[str], *, where: str) -> None:
    """Four eyes: who releases a revision has neither written in it nor sent it for review.

    Raises
    ------
    NotAllowed
        ``revisions.four_eyes`` where the releaser is one of the writers.
    """
    if releaser in writers:
        raise NotAllowed(
            "revisions.four_eyes",
            "a revision is released by a second person, and you wrote in this one or sent it.",
            where=where,
            hint="Ask another approver to read and release it.",
        )
