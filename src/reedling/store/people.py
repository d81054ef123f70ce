"""People and their sign-ins."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, cast

from sqlalchemy import CursorResult, delete, func, select
from sqlalchemy.orm import Session

from reedling.core.people import FailedSignIns, Person, ProgramToken
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import InvitationRow, PersonRow, ProgramTokenRow, SessionRow

PEOPLE = row_mapping(Person, PersonRow)


@dataclass(frozen=True, slots=True)
class People:
    """Repository of people and sessions."""

    session: Session

    def add(self, person: Person, password_hash: str) -> None:
        """Add a person."""
        self.session.add(PEOPLE.new_row(person, password_hash=password_hash))
        self.session.flush()

    def save(self, person: Person) -> None:
        """Write back everything of a person but the password."""
        row = self._row(person.id)
        row.name, row.role, row.district = person.name, person.role, person.district
        row.administrator, row.removed_at = person.administrator, person.removed_at
        self.session.flush()

    def set_password(self, person_id: str, password_hash: str) -> None:
        """Put another password's hash in place of the one before; an empty one fits no password."""
        self._row(person_id).password_hash = password_hash
        self.session.flush()

    def password_hash(self, person_id: str) -> str:
        """The hash of a person's password; empty where there is none."""
        return self._row(person_id).password_hash

    def note_failed_sign_in(self, person_id: str, at: datetime) -> None:
        """Count a sign-in with a wrong password."""
        row = self._row(person_id)
        row.failed_sign_ins, row.last_failed_at = row.failed_sign_ins + 1, at

    def failed_sign_ins(self, person_id: str) -> FailedSignIns:
        """Sign-ins with a wrong password since the last one that was right."""
        row = self._row(person_id)
        return FailedSignIns(count=row.failed_sign_ins, last_at=row.last_failed_at)

    def forget_failed_sign_ins(self, person_id: str) -> None:
        """Begin to count anew."""
        self._row(person_id).failed_sign_ins = 0

    def _row(self, person_id: str) -> PersonRow:
        row = self.session.get(PersonRow, person_id)
        assert row is not None
        return row

    def n_administrators(self) -> int:
        """How many administrators there are who can sign in."""
        query = select(func.count()).select_from(PersonRow)
        return (
            self.session.scalar(
                query.where(PersonRow.administrator.is_(True), PersonRow.removed_at.is_(None))
            )
            or 0
        )

    def count(self) -> int:
        """How many people there are or were."""
        return self.session.scalar(select(func.count()).select_from(PersonRow)) or 0

    def get(self, person_id: str) -> Person | None:
        """The person, if there is one."""
        row = self.session.get(PersonRow, person_id)
        return PEOPLE.read(row) if row else None

    def all(self) -> tuple[Person, ...]:
        """Everybody, but no program, by name."""
        return tuple(
            PEOPLE.read(r)
            for r in self.session.scalars(
                select(PersonRow).where(PersonRow.program.is_(False)).order_by(PersonRow.name)
            )
        )

    def names(self) -> dict[str, str]:
        """Names by identity, of programs too: what they did keeps theirs."""
        return dict(self.session.execute(select(PersonRow.id, PersonRow.name)).all())

    def by_username(self, username: str) -> tuple[Person, str] | None:
        """The person with this user name, and the hash of their password."""
        row = self.session.scalars(select(PersonRow).where(PersonRow.username == username)).first()
        return (PEOPLE.read(row), row.password_hash) if row else None

    def invite(self, token_hash: str, person_id: str, expires_at: datetime) -> None:
        """Keep an invitation in place of any before."""
        self.withdraw_invitations(person_id)
        self.session.add(InvitationRow(token_hash=token_hash, person_id=person_id, expires_at=expires_at))
        self.session.flush()

    def withdraw_invitations(self, person_id: str) -> None:
        """Make a person's invitations worthless."""
        self.session.execute(delete(InvitationRow).where(InvitationRow.person_id == person_id))

    def invited(self, token_hash: str, now: datetime) -> Person | None:
        """Whom an invitation is for, unless it has run out."""
        row = self.session.get(InvitationRow, token_hash)
        return None if row is None or row.expires_at <= now else self.get(row.person_id)

    def invitations(self) -> dict[str, datetime]:
        """Until when each person who is invited may come, by identity."""
        return {row.person_id: row.expires_at for row in self.session.scalars(select(InvitationRow))}

    def open_session(
        self, token_hash: str, person_id: str, expires_at: datetime, opened_at: datetime
    ) -> None:
        """Keep a new sign-in; those that have ended are forgotten."""
        self.session.execute(delete(SessionRow).where(SessionRow.expires_at <= opened_at))
        self.session.add(
            SessionRow(token_hash=token_hash, person_id=person_id, expires_at=expires_at, opened_at=opened_at)
        )

    def by_session(self, token_hash: str, now: datetime) -> Person | None:
        """Who holds this sign-in, unless it has ended or they were removed."""
        query = (
            select(PersonRow)
            .join(SessionRow, SessionRow.person_id == PersonRow.id)
            .where(
                SessionRow.token_hash == token_hash,
                SessionRow.expires_at > now,
                PersonRow.removed_at.is_(None),
            )
        )
        row = self.session.scalars(query).first()
        return PEOPLE.read(row) if row else None

    def n_sessions(self, now: datetime) -> dict[str, int]:
        """How many sign-ins of each person go on."""
        query = select(SessionRow.person_id, func.count()).where(SessionRow.expires_at > now)
        return dict(self.session.execute(query.group_by(SessionRow.person_id)).all())

    def lengthen_sessions(self, by: timedelta) -> None:
        """Have every sign-in end so much later."""
        for row in self.session.scalars(select(SessionRow)):
            row.expires_at += by

    def close_session(self, token_hash: str) -> None:
        """End a sign-in."""
        self.session.execute(delete(SessionRow).where(SessionRow.token_hash == token_hash))

    def close_sessions(self, person_id: str | None = None, *, but: str = "") -> int:
        """End every sign-in of a person, or of everybody, but one; gives how many."""
        ending = delete(SessionRow).where(SessionRow.token_hash != but)
        if person_id is not None:
            ending = ending.where(SessionRow.person_id == person_id)
        return cast("CursorResult[Any]", self.session.execute(ending)).rowcount

    def add_program_token(
        self, token_hash: str, program: str, *, created_at: datetime, created_by: str | None
    ) -> None:
        """Let a program in by a token, of which only the hash is kept."""
        self.session.add(
            ProgramTokenRow(
                token_hash=token_hash, person_id=program, created_at=created_at, created_by=created_by
            )
        )
        self.session.flush()

    def by_program_token(self, token_hash: str) -> Person | None:
        """The program that a token lets in."""
        query = (
            select(PersonRow)
            .join(ProgramTokenRow, ProgramTokenRow.person_id == PersonRow.id)
            .where(ProgramTokenRow.token_hash == token_hash, PersonRow.removed_at.is_(None))
        )
        row = self.session.scalars(query).one_or_none()
        return PEOPLE.read(row) if row else None

    def program_last_used(self, token_hash: str) -> datetime | None:
        """When a token was used last."""
        query = select(ProgramTokenRow.last_used_at).where(ProgramTokenRow.token_hash == token_hash)
        return self.session.scalar(query)

    def note_program_used(self, token_hash: str, at: datetime) -> None:
        """Keep when a token was used."""
        row = self.session.get(ProgramTokenRow, token_hash)
        if row is not None:
            row.last_used_at = at

    def revoke_program_token(self, program: str) -> None:
        """Let a program in no longer."""
        self.session.execute(delete(ProgramTokenRow).where(ProgramTokenRow.person_id == program))

    def programs(self) -> tuple[ProgramToken, ...]:
        """Every program that has a token, by name."""
        query = (
            select(PersonRow, ProgramTokenRow)
            .join(ProgramTokenRow, ProgramTokenRow.person_id == PersonRow.id)
            .order_by(PersonRow.name, PersonRow.id)
        )
        return tuple(
            ProgramToken(
                program=PEOPLE.read(row),
                created_at=token.created_at,
                created_by=token.created_by,
                last_used_at=token.last_used_at,
            )
            for row, token in self.session.execute(query)
        )
