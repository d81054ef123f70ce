"""Lists as sheets: CSV (RFC 4180) with the keys of an entry as its header, for a spreadsheet and back.

Several values in one cell stand apart by semicolons; what is recorded of an asset stands in columns
of its own, ``fields.rated_current``. Links are not in the sheet, and stay as they are on the way back.
"""

from __future__ import annotations

import csv
import io
import typing
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import MISSING, Field, fields
from typing import Any

from pydantic import TypeAdapter

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.references import ListName
from reedling.core.guidance.skills import LEVELS
from reedling.core.register.assets import Asset, RegisterName, Site
from reedling.errors import InvalidInput, Problem
from reedling.exchange.content import dump_value, load_value
from reedling.exchange.csv_cells import cell_of, text_of

AnyListName = ListName | RegisterName

ENTRY_TYPES: Mapping[str, type[Any]] = {
    **{name: typing.get_args(hint)[0] for name, hint in typing.get_type_hints(Catalogue).items()},
    "sites": Site,
    "assets": Asset,
}
"""What an entry of each list is."""

ENTRY_ADAPTERS: Mapping[str, TypeAdapter[Any]] = {n: TypeAdapter(kind) for n, kind in ENTRY_TYPES.items()}

_APART = "; "
_RECORDED = "fields."


def write_sheet(name: AnyListName, entries: Sequence[Mapping[str, Any]]) -> str:
    """The entries of a list as CSV, header first."""
    recorded = sorted({_RECORDED + code for entry in entries for code in entry.get("fields") or {}})
    columns = [f.name for f in _columns(name)] + recorded
    out = io.StringIO()
    writer = csv.DictWriter(out, columns)
    writer.writeheader()
    for entry in entries:
        cells = {f.name: _text(entry[f.name]) for f in _columns(name)}
        of_asset = {_RECORDED + code: _text(value) for code, value in (entry.get("fields") or {}).items()}
        writer.writerow({key: cell_of(text) for key, text in {**cells, **of_asset}.items()})
    return out.getvalue()


def read_sheet(name: AnyListName, text: str) -> list[tuple[int, dict[str, Any]]]:
    """What a sheet says of entries, by line: only the keys whose columns it has.

    Cells are apart by commas, semicolons or tabs, as spreadsheets write them. An empty cell means
    nothing: the value an entry has when nobody gives one. What is recorded of an asset stays text.

    Raises
    ------
    InvalidInput
        ``sheets.header`` when the first line does not name the columns, each once; ``sheets.quotes``
        when a quoted cell is not closed; ``sheets.width`` when a line has more cells than the first;
        ``sheets.encoding`` when letters were lost because the file is not in UTF-8.
    """
    where = name.replace("_", " ")
    if "\ufffd" in text:
        raise InvalidInput(
            "sheets.encoding",
            "the sheet is not in UTF-8, and letters of it would be lost.",
            where=where,
            hint="Save it as CSV in UTF-8.",
        )
    lines = text.removeprefix("\ufeff").strip("\r\n")
    known = {f.name: f for f in _columns(name)}
    header = lines.split("\n", 1)[0]
    delimiter = max(",;\t", key=lambda d: sum(_key(cell) in known for cell in header.split(d)))
    try:
        rows = list(csv.reader(io.StringIO(lines, newline=""), delimiter=delimiter, strict=True))
    except csv.Error as error:
        raise InvalidInput(
            "sheets.quotes", f"the sheet cannot be read: {error}.", hint="Close every quoted cell."
        ) from None
    keys = [_key(cell) for cell in rows[0]] if rows else []
    while keys and not keys[-1]:
        keys.pop()
    strange = [
        key for key in keys if key not in known and not (name == "assets" and key.startswith(_RECORDED))
    ]
    if strange or not keys:
        raise InvalidInput(
            "sheets.header",
            f"the first line names “{strange[0]}”, which is no column here."
            if strange
            else "the sheet is empty.",
            where=where,
            hint=f"Name its columns: {', '.join(known)}.",
        )
    if len(set(keys)) < len(keys):
        twice = next(key for key in keys if keys.count(key) > 1)
        raise InvalidInput(
            "sheets.header", f"the first line names “{twice}” twice.", where=where, hint="Keep one of them."
        )
    for number, cells in enumerate(rows[1:], 2):
        if any(cell.strip() for cell in cells[len(keys) :]):
            raise InvalidInput(
                "sheets.width",
                f"line {number} has {len(cells)} cells, and the first line names {len(keys)} columns.",
                where=where,
                hint="Put a cell that holds the separator in quotes.",
            )
    return [
        (number, _entry(known, dict(zip(keys, map(text_of, cells), strict=False))))
        for number, cells in enumerate(rows[1:], 2)
        if any(cell.strip() for cell in cells)
    ]


def load_entries(name: AnyListName, given: Iterable[tuple[int, Mapping[str, Any]]]) -> list[dict[str, Any]]:
    """Entries as plain data, every value of its kind.

    Raises
    ------
    InvalidInput
        ``sheets.cells`` with every cell that does not fit; paths are the line and the column.
    """
    wanted = {f.name: _wanted(str(f.type)) for f in fields(ENTRY_TYPES[name])}
    out, problems = [], []
    for number, entry in given:
        try:
            out.append(dump_value(load_value(ENTRY_ADAPTERS[name], dict(entry), where=f"line {number}")))
        except InvalidInput as refused:
            keys = dict.fromkeys(p.path.split("/")[1] for p in refused.problems)
            problems += [
                Problem(
                    code="sheets.cells",
                    path=f"/{number}/{key}",
                    message=f"Line {number}, {key}: {_got(entry.get(key))}, and it wants {wanted[key]}.",
                )
                for key in keys
            ]
    if problems:
        raise InvalidInput(
            "sheets.cells",
            f"{len(problems)} cell{'s do' if len(problems) > 1 else ' does'} not fit; nothing was written.",
            where=name.replace("_", " "),
            problems=tuple(problems),
        )
    return out


def refuse_twice(name: AnyListName, codes: Sequence[str]) -> None:
    """Refuse a sheet that gives an entry more than once."""
    twice = [code for code, n in Counter(codes).items() if n > 1]
    if twice:
        raise InvalidInput(
            "sheets.twice",
            f"{twice[0]} stands {codes.count(twice[0])} times in the sheet.",
            where=name.replace("_", " "),
            hint="Keep one of them.",
        )


def _got(value: Any) -> str:
    return "it is empty" if value in (None, "") else f"it says “{value}”"


def _wanted(kind: str) -> str:
    """What a cell of a column is to hold, in words."""
    words = {
        "float": "a number",
        "int": "a whole number",
        "date | None": "a day such as 2027-03-31",
        "bool": "yes or no",
        "Level": " or ".join((", ".join(LEVELS[:-1]), LEVELS[-1])),
    }
    return words.get(kind, "words")


def _columns(name: AnyListName) -> list[Field[Any]]:
    return [f for f in fields(ENTRY_TYPES[name]) if f.name not in ("links", "fields")]


def _key(cell: str) -> str:
    """The key that a cell of the first line names; the code of an asset field is kept as it is spelled."""
    plain = cell.strip().strip('"')
    if plain.lower().startswith(_RECORDED):
        return _RECORDED + plain[len(_RECORDED) :]
    return plain.lower()


def _text(value: Any) -> str:
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case float() if value.is_integer():
            return str(int(value))
        case list() | tuple():
            return _APART.join(map(str, value))
        case _:
            return str(value)


def _entry(known: Mapping[str, Field[Any]], cells: Mapping[str, str]) -> dict[str, Any]:
    recorded = {
        key.removeprefix(_RECORDED): text.strip() for key, text in cells.items() if key.startswith(_RECORDED)
    }
    out = {key: _value(known[key], text.strip()) for key, text in cells.items() if key in known}
    if recorded:
        out["fields"] = recorded
    return out


def _value(column: Field[Any], text: str) -> Any:
    if not text:
        nothing = "" if column.type == "str" else None
        return nothing if column.default is MISSING else column.default
    if "tuple" in str(column.type):
        return [part.strip() for part in text.split(_APART.strip()) if part.strip()]
    return text
