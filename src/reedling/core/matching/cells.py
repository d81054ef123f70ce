"""What a cell means: whether a value meets it, and how it reads in words."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date

from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
from reedling.core.guidance.decision_tables import PRIORITIES, Cell, Column, ColumnKind
from reedling.core.logic.conditions import lower_first
from reedling.core.matching.order_facts import FactValue

AMBIGUOUS = re.compile(r"[,;]|\bor\b")
"""What makes a name look like several in a choice."""

LEAP_YEAR = 2024
"""Days of every year are counted in a year that has all of them."""


def meets(cell: Cell, column: Column, value: FactValue, tree: EquipmentTree) -> bool:
    """Whether a column's value is what the cell wants; one that is not known never is.

    Raises
    ------
    ValueError
        What :func:`number_of` does, for a bound that the check of the table refuses.
    """
    if value is None:
        return False
    if cell.operator in ("is", "not"):
        return _is_one_of(cell, column, value, tree) == (cell.operator == "is")
    bounds = [number_of(column.kind, v) for v in cell.values]
    here = position(column.kind, value, yearly=is_yearly(cell))
    match cell.operator:
        case "above":
            return here > bounds[0]
        case "below":
            return here < bounds[0]
        case _:
            low, high = bounds
            if low > high and is_yearly(cell):
                return here >= low or here <= high
            return low <= here <= high


def _is_one_of(cell: Cell, column: Column, value: FactValue, tree: EquipmentTree) -> bool:
    if column.kind == "equipment":
        return any(tree.is_a(str(value), str(wanted)) for wanted in cell.values)
    if isinstance(value, tuple):
        return any(tag in cell.values for tag in value)
    if isinstance(value, date):
        return any(
            position("day", value, yearly=len(str(v)) == 5) == number_of("day", v) for v in cell.values
        )
    return value in cell.values


def is_yearly(cell: Cell) -> bool:
    """Whether a cell of a day column speaks of days of every year."""
    return all(isinstance(v, str) and len(v) == 5 for v in cell.values)


def number_of(kind: ColumnKind, value: float | str) -> float:
    """A bound of a cell as a number on its column's own scale.

    Raises
    ------
    ValueError
        When it is none: a word for a meter, a day that no year has.
    """
    if kind == "priority":
        return float(PRIORITIES.index(str(value)))
    if kind == "day":
        text = str(value)
        if len(text) == 5:
            month, day = text.split("-")
            return float(date(LEAP_YEAR, int(month), int(day)).timetuple().tm_yday)
        return float(date.fromisoformat(text).toordinal())
    if isinstance(value, str):
        raise ValueError(f"{value!r} is not a number")
    return float(value)


def position(kind: ColumnKind, value: FactValue, *, yearly: bool = False) -> float:
    """Where an order's value stands on its column's scale; ``yearly`` counts days within the year."""
    if isinstance(value, date):
        if yearly:
            return float(date(LEAP_YEAR, value.month, value.day).timetuple().tm_yday)
        return float(value.toordinal())
    if kind == "priority":
        return float(PRIORITIES.index(str(value))) if value in PRIORITIES else -1.0
    assert isinstance(value, float | int)
    return float(value)


@dataclass(frozen=True, slots=True, kw_only=True)
class Naming:
    """How values of columns are spoken of: labels by code, for each kind of column."""

    labels: Mapping[ColumnKind, Mapping[str, str]] = field(default_factory=dict)
    meters: Mapping[str, tuple[str, str]] = field(default_factory=dict)

    def label(self, kind: ColumnKind, code: str) -> str:
        """A code in words; the bare code for one that is unknown."""
        return self.labels.get(kind, {}).get(code, code)

    def heading(self, column: Column) -> str:
        """A column in words, as a sentence uses it."""
        if column.kind == "meter":
            name, unit = self.meters.get(column.meter, (column.meter, ""))
            return f"{lower_first(name)}, {unit}" if unit else lower_first(name)
        return column.kind


def naming_of(lists: Catalogue, *, incident_types: Mapping[str, str] | None = None) -> Naming:
    """How a catalogue's codes are spoken of; ``incident_types`` gives their titles by document."""
    return Naming(
        labels={
            "equipment": {c.code: lower_first(c.name) for c in lists.equipment},
            "model": {m.code: m.name for m in lists.models},
            "symptom": {s.code: lower_first(s.label) for s in lists.symptoms},
            "contract": {c.code: lower_first(c.name) for c in lists.contracts},
            "incident type": dict(incident_types or {}),
        },
        meters={m.code: (m.name, m.unit) for m in lists.meters},
    )


def value_words(column: Column, value: float | str, naming: Naming) -> str:
    """One value of a cell in words."""
    if isinstance(value, float | int):
        return f"{value:g}"
    if column.kind == "day":
        return day_words(value)
    return naming.label(column.kind, value)


def day_words(value: str) -> str:
    """A day of every year, or of one year, in words.

    >>> day_words("11-01"), day_words("2026-11-01")
    ('1 Nov', '1 Nov 2026')
    """
    try:
        if len(value) == 5:
            month, day = value.split("-")
            return f"{date(LEAP_YEAR, int(month), int(day)):%-d %b}"
        return f"{date.fromisoformat(value):%-d %b %Y}"
    except ValueError:
        return value


def cell_words(cell: Cell | None, column: Column, naming: Naming) -> str:
    """A cell in words, such that reading the words gives the cell again."""
    if cell is None:
        return "any"
    words = [value_words(column, v, naming) for v in cell.values]
    if len(words) > 1 or cell.operator == "not":
        words = [f"“{w}”" if AMBIGUOUS.search(w) else w for w in words]
    match cell.operator:
        case "is":
            return " or ".join(words)
        case "not":
            return "not " + " or ".join(words)
        case "between":
            return f"{words[0]} to {words[1]}" if len(words) == 2 else " to ".join(words)
        case "above" | "below":
            if column.kind == "day":
                return ("after " if cell.operator == "above" else "before ") + words[0]
            return f"{cell.operator} {words[0]}"


def fact_words(column: Column, value: FactValue, naming: Naming) -> str:
    """What an order has in a column, in words."""
    if value is None:
        return "not known"
    if isinstance(value, tuple):
        return ", ".join(value) or "none"
    if isinstance(value, date):
        return f"{value:%-d %b %Y}"
    return value_words(column, value, naming)
