"""Rows that are only added: they go to the database at once, without an object of the session for each."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from sqlalchemy import insert
from sqlalchemy.orm import DeclarativeBase, Session

MOST_NAMED = 500
"""More rows than this are not asked for by name: all are read."""


def add_rows(session: Session, table: type[DeclarativeBase], rows: Iterable[Mapping[str, Any]]) -> None:
    """Insert rows, each by the names of its columns; none is fine. What they refer to must be there already."""
    listed = list(rows)
    if listed:
        session.execute(insert(table), listed)
