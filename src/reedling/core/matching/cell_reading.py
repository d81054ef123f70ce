"""Reading a cell as it is typed or pasted: ``not WR 3``, ``stalls or trips``, ``1 Nov to 28 Feb``."""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.decision_tables import (
    ORDERED_KINDS,
    PRIORITIES,
    Cell,
    CellOperator,
    Column,
    ColumnKind,
)
from reedling.core.matching.cells import number_of

MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
ANY_WORDS = ("", "any", "-", "–", "—", "*")
YES_NO = {
    "yes": "yes",
    "no": "no",
    "in warranty": "yes",
    "out of warranty": "no",
    "true": "yes",
    "false": "no",
}
CHOICE = re.compile(r"\s*(?:,|;|\bor\b)\s*", re.I)
QUOTED = re.compile(r"[“\"]([^”\"]*)[”\"]")
DAY = re.compile(r"^(\d{1,2})\.?\s*([a-z]{3})[a-z]*\.?(?:\s+(\d{4}))?$", re.I)
RANGE = re.compile(r"^(?:between\s+)?(.+?)\s+(?:to|and|until|–)\s+(.+)$|^([\d.]+)\s*[-–]\s*([\d.]+)$", re.I)
BOUND = re.compile(r"^(above|over|after|more than|>|below|under|before|less than|<)\s*(.+)$", re.I)
LOWER_WORDS = ("below", "under", "before", "less than", "<")


@dataclass(frozen=True, slots=True, kw_only=True)
class Vocabulary:
    """The values columns know, by what people may call them (in lower case).

    ``open_kinds`` are columns in which a value nobody has listed is taken as it is written.
    """

    values: Mapping[ColumnKind, Mapping[str, str]] = field(default_factory=dict)
    documents: Mapping[str, str] = field(default_factory=dict)
    open_kinds: tuple[ColumnKind, ...] = ("customer", "site tag")


@dataclass(frozen=True, slots=True)
class Unreadable(Exception):
    """A cell that cannot be read: what is expected, and the nearest that would do."""

    message: str
    hint: str = ""


def vocabulary_of(
    lists: Catalogue,
    *,
    documents: Mapping[str, str],
    incident_types: Iterable[str] = (),
    customers: Iterable[str] = (),
    tags: Iterable[str] = (),
) -> Vocabulary:
    """What may be typed, from the catalogue, the documents by title, and what sites have."""
    known = set(incident_types)
    return Vocabulary(
        values={
            "equipment": _named((c.code, c.name) for c in lists.equipment),
            "model": _named((m.code, m.name) for m in lists.models),
            "symptom": {
                **{word.lower(): s.code for s in lists.symptoms for word in s.synonyms},
                **_named((s.code, s.label) for s in lists.symptoms),
            },
            "contract": _named((c.code, c.name) for c in lists.contracts),
            "incident type": _named((d, title) for d, title in documents.items() if d in known),
            "customer": {c.lower(): c for c in customers},
            "site tag": {t.lower(): t for t in tags},
            "warranty": YES_NO,
            "priority": {p.lower(): p for p in PRIORITIES},
        },
        documents=_named(documents.items()),
    )


def read_cell(text: str, column: Column, words: Vocabulary) -> Cell | None:
    """The cell that a text spells; nothing for "any".

    Raises
    ------
    Unreadable
        Naming what the column takes, with the nearest known value as a hint.
    """
    said = " ".join(text.split())
    if said.lower() in ANY_WORDS:
        return None
    if column.kind in ORDERED_KINDS:
        found = _read_bounds(said, column, words)
        if found is not None:
            return found
    operator: CellOperator = "is"
    if said.lower().startswith("not "):
        operator, said = "not", said[4:]
    known = words.values.get(column.kind, {})
    if said.lower() in known:
        return Cell(operator=operator, values=(known[said.lower()],))
    names = _choices(said)
    return Cell(operator=operator, values=tuple(dict.fromkeys(_value(n, column, words) for n in names)))


def read_documents(text: str, words: Vocabulary) -> tuple[str, ...]:
    """The documents that a text names by identity or title, each once, in the order they are named.

    Raises
    ------
    Unreadable
        Where a name is no document's, with the nearest one there is.
    """
    said = " ".join(text.split())
    if not said:
        return ()
    if said.lower() in words.documents:
        return (words.documents[said.lower()],)
    return tuple(
        dict.fromkeys(
            _known(name, words.documents, "document") for name in re.split(r"\s*[,;]\s*", said) if name
        )
    )


def _choices(said: str) -> list[str]:
    """The names in a choice; what stands in quotation marks is one name, whatever it holds."""
    quoted = QUOTED.findall(said)
    bare = QUOTED.sub("\0", said)
    names = [name for name in CHOICE.split(bare) if name]
    return [quoted.pop(0) if name == "\0" else name for name in names]


def _named(pairs: Iterable[tuple[str, str]]) -> dict[str, str]:
    """Codes by their code and by their name."""
    listed = list(pairs)
    return {**{name.lower(): code for code, name in listed}, **{code.lower(): code for code, _ in listed}}


def _read_bounds(said: str, column: Column, words: Vocabulary) -> Cell | None:
    bound = BOUND.match(said)
    if bound:
        operator: CellOperator = "below" if bound[1].lower() in LOWER_WORDS else "above"
        value = _value(bound[2], column, words)
        if column.kind == "day" and len(str(value)) == 5:
            raise Unreadable(
                f"“{said}” needs a year.", "Write 1 Nov 2026, or 1 Nov to 28 Feb for every year."
            )
        return Cell(operator=operator, values=(value,))
    span = RANGE.match(said)
    if span is None:
        return None
    low, high = (_value(v, column, words) for v in (span[1] or span[3], span[2] or span[4]))
    if column.kind == "day" and len(str(low)) != len(str(high)):
        raise Unreadable(f"“{said}” has a year on one side only.", "Write both days with a year, or neither.")
    turned = column.kind == "day" and len(str(low)) == 5
    if not turned and number_of(column.kind, low) > number_of(column.kind, high):
        raise Unreadable(f"“{said}” runs backwards.", "Write the lower bound first.")
    return Cell(operator="between", values=(low, high))


def _value(said: str, column: Column, words: Vocabulary) -> float | str:
    if column.kind == "meter":
        try:
            return float(said.replace(" ", "").replace("\u202f", ""))
        except ValueError:
            raise Unreadable(
                f"“{said}” is not a number.", "Write 4000, above 4000 or 2000 to 4000."
            ) from None
    if column.kind == "day":
        return _day(said)
    known = words.values.get(column.kind, {})
    if said.lower() not in known and column.kind in words.open_kinds:
        return said
    return _known(said, known, column.kind)


def _known(said: str, known: Mapping[str, str], what: str) -> str:
    found = known.get(said.lower())
    if found is not None:
        return found
    near = difflib.get_close_matches(said.lower(), known, n=1, cutoff=0.5)
    article = "an" if what[0] in "aeiou" else "a"
    nearest = next((known[n] if known[n].lower() == n else n for n in near), "")
    hint = f"Did you mean “{nearest}”?" if near else f"Choose {article} {what} from the list."
    raise Unreadable(f"“{said}” is not {article} {what} here.", hint)


def _day(said: str) -> str:
    expected = "Write 1 Nov, 1 Nov 2026 or 2026-11-01."
    written = DAY.match(said)
    try:
        if written is None:
            return date.fromisoformat(said).isoformat() if len(said) == 10 else _month_day(said)
        month = MONTHS.index(written[2].lower()) + 1
        if written[3]:
            return date(int(written[3]), month, int(written[1])).isoformat()
        return _month_day(f"{month:02d}-{int(written[1]):02d}")
    except ValueError:
        raise Unreadable(f"“{said}” is not a day.", expected) from None


def _month_day(said: str) -> str:
    """A day of every year as it is written in cells; raises ``ValueError`` for one that no year has."""
    if not re.fullmatch(r"\d\d-\d\d", said):
        raise ValueError(said)
    number_of("day", said)
    return said
