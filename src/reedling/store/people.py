"""People and their sign-ins."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import cast

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from reedling.store.records import Person, Role
from reedling.store.tables import PersonRow, SessionRow


def _person(row: PersonRow) -> Person:
    return Person(
        id=row.id,
        name=row.name,
        role=cast(Role, row.role),
        username=row.username,
        district=row.district,
        offered=row.offered,
    )


@dataclass(frozen=True, slots=True)
class People:
    """Repository of people and sessions."""

    session: Session

    def add(self, person: Person, password_hash: str) -> None:
        """Add a person."""
        self.session.add(
            PersonRow(
                id=person.id,
                name=person.name,
                role=person.role,
                username=person.username,
                password_hash=password_hash,
                district=person.district,
                offered=person.offered,
            )
        )
        self.session.flush()

    def get(self, person_id: str) -> Person | None:
        """The person, if there is one."""
        row = self.session.get(PersonRow, person_id)
        return _person(row) if row else None

    def all(self) -> tuple[Person, ...]:
        """Everybody, by name."""
        return tuple(_person(r) for r in self.session.scalars(select(PersonRow).order_by(PersonRow.name)))

    def names(self) -> dict[str, str]:
        """Names by identity."""
        return {p.id: p.name for p in self.all()}

    def by_username(self, username: str) -> tuple[Person, str] | None:
        """The person with this user name, and the hash of their password."""
        row = self.session.scalars(select(PersonRow).where(PersonRow.username == username)).first()
        return (_person(row), row.password_hash) if row else None

    def open_session(self, token_hash: str, person_id: str, expires_at: datetime) -> None:
        """Keep a new sign-in."""
        self.session.add(SessionRow(token_hash=token_hash, person_id=person_id, expires_at=expires_at))

    def by_session(self, token_hash: str, now: datetime) -> Person | None:
        """Who holds this sign-in, unless it has ended."""
        row = self.session.get(SessionRow, token_hash)
        if row is None or row.expires_at <= now:
            return None
        return self.get(row.person_id)

    def close_session(self, token_hash: str) -> None:
        """End a sign-in."""
        self.session.execute(delete(SessionRow).where(SessionRow.token_hash == token_hash))
