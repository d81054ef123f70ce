"""Counters: the last number given out for identities, and how often something was written."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.store.kept import only_reads
from reedling.store.tables import CounterRow

CATALOGUE_WRITES = "catalogue"
"""Rises whenever a list of the catalogue is written."""
JOB_WRITES = "jobs"
"""Rises whenever a summary of a finished job is written, or all are forgotten."""

_MARKS = (CATALOGUE_WRITES, JOB_WRITES)


def writes_of(session: Session, name: str) -> int:
    """How often something was written; a unit that only reads asks once for all that is counted so."""
    if not only_reads(session):
        row = session.get(CounterRow, name)
        return row.last if row else 0
    if "writes of" not in session.info:
        query = select(CounterRow.prefix, CounterRow.last).where(CounterRow.prefix.in_(_MARKS))
        session.info["writes of"] = dict(session.execute(query).all())
    marks: dict[str, int] = session.info["writes of"]
    return marks.get(name, 0)


def count_up(session: Session, name: str) -> int:
    """The next number of a counter, never given before."""
    row = session.get(CounterRow, name) or CounterRow(prefix=name, last=0)
    row.last += 1
    session.add(row)
    session.flush()
    return row.last


def count_from(session: Session, name: str, number: int) -> None:
    """Make sure that a counter will not give this number."""
    row = session.get(CounterRow, name) or CounterRow(prefix=name, last=0)
    row.last = max(row.last, number)
    session.add(row)
    session.flush()
