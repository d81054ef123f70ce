"""What is plainly wrong with the lists: codes used twice, entries that refer to nothing, a tree with a loop."""

from __future__ import annotations

import dataclasses
from collections import Counter
from collections.abc import Iterator
from math import inf

from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
from reedling.core.guidance.references import entries_between
from reedling.errors import Problem


def catalogue_problems(lists: Catalogue) -> tuple[Problem, ...]:
    """Every problem of the lists; the path is the list and the code of the entry."""
    return (*_codes(lists), *_tree(lists), *_references(lists))


def _error(code: str, path: str, message: str, hint: str = "") -> Problem:
    return Problem(code=code, path=path, message=message, hint=hint)


def _codes(lists: Catalogue) -> Iterator[Problem]:
    for field in dataclasses.fields(Catalogue):
        codes = Counter(entry.code for entry in getattr(lists, field.name))
        for code, count in codes.items():
            if not code.strip():
                yield _error("catalogue.code", f"/{field.name}", "An entry has no code.", "Give it one.")
            elif count > 1:
                yield _error(
                    "catalogue.code",
                    f"/{field.name}/{code}",
                    f"{code} stands {count} times.",
                    "Keep one of them.",
                )


def _tree(lists: Catalogue) -> Iterator[Problem]:
    names = {c.code: c.name for c in lists.equipment}
    loop = EquipmentTree.of(lists.equipment).loop()
    if loop:
        told = " below ".join(names[c] for c in (*loop, loop[0]))
        yield _error(
            "catalogue.loop",
            f"/equipment/{loop[0]}",
            f"The equipment tree has a loop: {told}.",
            "Put one of these classes below another, or below none.",
        )


_ENTRY_WORDS = {"equipment": "equipment class", "skills": "skill", "parts": "part", "tools": "tool"}


def _references(lists: Catalogue) -> Iterator[Problem]:
    known = {f.name: {e.code for e in getattr(lists, f.name)} for f in dataclasses.fields(Catalogue)}
    for entry, other in entries_between(lists):
        at = f"/{entry.listed}/{entry.code}"
        if other.code not in known[other.listed]:
            yield _error(
                "catalogue.reference",
                at,
                f"There is no {_ENTRY_WORDS[other.listed]} {other.code}.",
                "Choose one from the list.",
            )
        if entry == other and entry.listed == "parts":
            yield _error("catalogue.reference", at, f"{entry.code} cannot stand in for itself.", "Remove it.")
    for held in lists.van_tools:
        if held.quantity < 0:
            at = f"/van_tools/{held.code}"
            yield _error("catalogue.quantity", at, "A quantity is a number from 0 up.", "Write how many.")
    for stock in lists.van_stock:
        if not 0 <= stock.quantity < inf:
            at = f"/van_stock/{stock.code}"
            yield _error(
                "catalogue.quantity", at, "A quantity is a number from 0 up.", "Write how much it is."
            )
