"""One unit of work: a transaction with the repositories that read and write in it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from reedling.store.catalogues import Catalogues
from reedling.store.comments import Comments
from reedling.store.documents import Documents
from reedling.store.illustrations import Illustrations
from reedling.store.orders import Orders
from reedling.store.people import People
from reedling.store.pictures import Pictures
from reedling.store.places import Places
from reedling.store.tables import CounterRow


@dataclass(frozen=True, slots=True)
class Unit:
    """What a service may reach within one transaction."""

    session: Session
    people: People
    documents: Documents
    catalogues: Catalogues
    places: Places
    orders: Orders
    pictures: Pictures
    comments: Comments
    illustrations: Illustrations

    def next_number(self, prefix: str) -> int:
        """The next number for identities with this prefix, never given out before."""
        row = self.session.get(CounterRow, prefix) or CounterRow(prefix=prefix, last=0)
        row.last += 1
        self.session.add(row)
        return row.last

    def reserve_number(self, prefix: str, number: int) -> None:
        """Make sure that this number will not be given out."""
        row = self.session.get(CounterRow, prefix) or CounterRow(prefix=prefix, last=0)
        row.last = max(row.last, number)
        self.session.add(row)


@dataclass(frozen=True, slots=True)
class Store:
    """The database and the folder of pictures beside it."""

    engine: Engine
    pictures_dir: Path

    @contextmanager
    def reading(self) -> Iterator[Unit]:
        """A consistent view that writes nothing."""
        with self._unit(writes=False) as unit:
            yield unit

    @contextmanager
    def writing(self) -> Iterator[Unit]:
        """All or nothing: committed at the end, rolled back on any error."""
        with self._unit(writes=True) as unit:
            yield unit

    @contextmanager
    def _unit(self, *, writes: bool) -> Iterator[Unit]:
        engine = self.engine.execution_options(writes=writes)
        with Session(engine, expire_on_commit=False) as session, session.begin():
            yield Unit(
                session=session,
                people=People(session),
                documents=Documents(session),
                catalogues=Catalogues(session),
                places=Places(session),
                orders=Orders(session),
                pictures=Pictures(session, self.pictures_dir),
                comments=Comments(session),
                illustrations=Illustrations(session, self.pictures_dir),
            )
