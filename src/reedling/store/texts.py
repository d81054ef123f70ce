"""Texts in the database that no edge would take in today: found, and mended in place."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Connection, Engine, Table, select, update

from reedling.exchange.text import mended_text
from reedling.store.job_tables import EVERY_TABLE
from reedling.store.sqlite import guards_lifted


@dataclass(frozen=True, slots=True, kw_only=True)
class BadText:
    """Where a text stands that cannot be read by everybody; ``row`` is the row's identity."""

    table: str
    column: str
    row: str


def find_bad_texts(engine: Engine) -> tuple[BadText, ...]:
    """Every text that holds half a character, NUL or a control character."""
    with engine.connect() as connection:
        return tuple(found for found, _ in _bad_texts(connection))


def mend_texts(engine: Engine) -> tuple[BadText, ...]:
    """Put U+FFFD in place of what cannot be read, in recorded and released texts too; gives the places."""
    with engine.execution_options(writes=True).begin() as connection, guards_lifted(connection):
        found = list(_bad_texts(connection))
        for _, mend in found:
            mend(connection)
        return tuple(place for place, _ in found)


def _bad_texts(connection: Connection) -> Iterator[tuple[BadText, Callable[[Connection], None]]]:
    for table in EVERY_TABLE.sorted_tables:
        keys = list(table.primary_key.columns)
        for row in connection.execute(select(table)).mappings().all():
            for column in table.columns:
                value = row[column.name]
                if not isinstance(value, str | dict | list):
                    continue
                mended = mended_data(value)
                if mended != value:
                    place = "/".join(ascii(row[k.name]).strip("'") for k in keys)
                    yield (
                        BadText(table=table.name, column=column.name, row=place),
                        _mend(table, {k.name: row[k.name] for k in keys}, column.name, mended),
                    )


def _mend(table: Table, key: dict[str, Any], column: str, value: Any) -> Callable[[Connection], None]:
    def mend(connection: Connection) -> None:
        where = [table.c[name] == held for name, held in key.items()]
        connection.execute(update(table).where(*where).values({column: value}))

    return mend


def mended_data(value: Any) -> Any:
    """Plain data with every text in it mended; see :func:`reedling.exchange.text.mended_text`."""
    if isinstance(value, str):
        return mended_text(value)
    if isinstance(value, dict):
        return {mended_text(k): mended_data(v) for k, v in value.items()}
    if isinstance(value, list):
        return [mended_data(v) for v in value]
    return value
