"""What is plainly wrong with the lists: codes used twice, entries that refer to nothing, a tree with a loop."""

from __future__ import annotations

import dataclasses
from collections import Counter
from collections.abc import Iterable, Iterator

from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
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


def _references(lists: Catalogue) -> Iterator[Problem]:
    equipment = {c.code for c in lists.equipment}
    skills, parts = {s.code for s in lists.skills}, {p.code for p in lists.parts}
    for cls in lists.equipment:
        yield from _known("equipment", cls.code, "equipment class", [cls.parent], equipment)
    for model in lists.models:
        yield from _known("models", model.code, "equipment class", [model.equipment], equipment)
    for field in lists.fields:
        yield from _known("fields", field.code, "equipment class", [field.equipment], equipment)
    for meter in lists.meters:
        yield from _known("meters", meter.code, "equipment class", [meter.equipment], equipment)
    for part in lists.parts:
        yield from _known("parts", part.code, "part", part.substitutes, parts)
        if part.code in part.substitutes:
            yield _error(
                "catalogue.reference",
                f"/parts/{part.code}",
                f"{part.code} cannot stand in for itself.",
                "Remove it.",
            )
    for holding in lists.roster:
        yield from _known("roster", holding.code, "skill", [holding.skill], skills)
    for stock in lists.van_stock:
        yield from _known("van_stock", stock.code, "part", [stock.part], parts)
        if stock.quantity < 0:
            yield _error("catalogue.quantity", f"/van_stock/{stock.code}", "A quantity cannot be below 0.")


def _known(
    listed: str, code: str, what: str, named: Iterable[str | None], known: set[str]
) -> Iterator[Problem]:
    for name in named:
        if name is not None and name not in known:
            yield _error(
                "catalogue.reference",
                f"/{listed}/{code}",
                f"There is no {what} {name}.",
                "Choose one from the list.",
            )
