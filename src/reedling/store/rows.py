"""Rows that are only added: they go to the database at once, without an object of the session for each."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from sqlalchemy import insert
from sqlalchemy.orm import DeclarativeBase, Session

MOST_NAMED = 500
"""More rows than this are not asked for by name: all are read."""


HELD = "rows held back"


def add_rows(session: Session, table: type[DeclarativeBase], rows: Iterable[Mapping[str, Any]]) -> None:
    """Insert rows, each by the names of its columns; none is fine. What they refer to must be there already.

    Within :func:`rows_together` they wait for its end.
    """
    listed = list(rows)
    held: dict[type[DeclarativeBase], list[Mapping[str, Any]]] | None = session.info.get(HELD)
    if held is not None:
        held.setdefault(table, []).extend(listed)
    elif listed:
        session.execute(insert(table), listed)


@contextmanager
def rows_together(session: Session) -> Iterator[None]:
    """The rows that are added in here go to the database at the end, those of a table at once."""
    session.info[HELD] = held = dict[type[DeclarativeBase], list[Mapping[str, Any]]]()
    try:
        yield
    finally:
        del session.info[HELD]
    for table, rows in held.items():
        add_rows(session, table, rows)
