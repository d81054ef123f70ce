"""Kleene's strong three-valued logic: true, false and unknown.

References
----------
.. [1] Kleene, S. C. (1952). Introduction to Metamathematics, section 64. Tables from memory;
   the tests check them against the min/max reading of the same logic.
"""

from __future__ import annotations

from collections.abc import Iterable

Truth = bool | None
"""``True``, ``False`` or ``None`` for unknown."""


def negate(truth: Truth) -> Truth:
    """Not: unknown stays unknown.

    >>> negate(True), negate(None)
    (False, None)
    """
    return None if truth is None else not truth


def conjoin(truths: Iterable[Truth]) -> Truth:
    """All of them: one false settles it, else one unknown leaves it open; of none, true.

    >>> conjoin([True, None]), conjoin([False, None])
    (None, False)
    """
    unknown = False
    for truth in truths:
        if truth is False:
            return False
        unknown = unknown or truth is None
    return None if unknown else True


def disjoin(truths: Iterable[Truth]) -> Truth:
    """Any of them: one true settles it, else one unknown leaves it open; of none, false.

    >>> disjoin([True, None]), disjoin([False, None])
    (True, None)
    """
    unknown = False
    for truth in truths:
        if truth is True:
            return True
        unknown = unknown or truth is None
    return None if unknown else False
