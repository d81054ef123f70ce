"""Authored documents and their revisions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import cast

from sqlalchemy import ColumnElement, and_, select
from sqlalchemy.orm import Session

from reedling.core.guidance.revisions import DocumentKind, RevisionState, letter_rank
from reedling.exchange.content import Content, dump_value, load_content
from reedling.store.records import Act, Edit, Revision, RevisionAct, RevisionHeading, RevisionStanding
from reedling.store.tables import ActRow, DocumentRow, EditRow, RevisionRow

OPEN_REVISION_STATES: tuple[RevisionState, ...] = ("Draft", "In review")


def _revision(row: RevisionRow, kind: DocumentKind) -> Revision:
    return Revision(
        document=row.document_id,
        kind=kind,
        letter=row.letter,
        state=cast(RevisionState, row.state),
        version=row.version,
        content=load_content(kind, row.content, where=f"{row.document_id} {row.letter}"),
        created_at=row.created_at,
        changed_at=row.changed_at,
        sent_by=row.sent_by,
        released_at=row.released_at,
        released_by=row.released_by,
        note=row.note,
        effective_on=row.effective_on,
    )


@dataclass(frozen=True, slots=True)
class Documents:
    """Repository of documents, revisions and the edits of drafts."""

    session: Session

    def add(self, document: str, kind: DocumentKind, at: datetime) -> None:
        """Add a document that has no revisions yet."""
        self.session.add(DocumentRow(id=document, kind=kind, created_at=at))
        self.session.flush()

    def kind(self, document: str) -> DocumentKind | None:
        """What kind of document this is; nothing when there is none."""
        row = self.session.get(DocumentRow, document)
        return cast(DocumentKind, row.kind) if row else None

    def of_kind(self, kind: DocumentKind) -> tuple[str, ...]:
        """The identities of all documents of a kind, in order."""
        query = select(DocumentRow.id).where(DocumentRow.kind == kind).order_by(DocumentRow.id)
        return tuple(self.session.scalars(query))

    def add_revision(self, revision: Revision) -> None:
        """Add a revision as it stands."""
        self.session.add(
            RevisionRow(
                document_id=revision.document,
                letter=revision.letter,
                state=revision.state,
                version=revision.version,
                content=dump_value(revision.content),
                created_at=revision.created_at,
                changed_at=revision.changed_at,
                sent_by=revision.sent_by,
                released_at=revision.released_at,
                released_by=revision.released_by,
                note=revision.note,
                effective_on=revision.effective_on,
            )
        )
        self.session.flush()

    def revisions(self, document: str) -> tuple[Revision, ...]:
        """All revisions of a document, oldest first."""
        found = self._find(RevisionRow.document_id == document)
        return tuple(sorted(found, key=lambda r: letter_rank(r.letter)))

    def standings(self, document: str) -> tuple[RevisionStanding, ...]:
        """How all revisions of a document stand, oldest first; contents are not read."""
        query = select(
            RevisionRow.letter,
            RevisionRow.state,
            RevisionRow.changed_at,
            RevisionRow.released_at,
            RevisionRow.released_by,
            RevisionRow.note,
            RevisionRow.effective_on,
        ).where(RevisionRow.document_id == document)
        found = (
            RevisionStanding(
                letter=row.letter,
                state=cast(RevisionState, row.state),
                changed_at=row.changed_at,
                released_at=row.released_at,
                released_by=row.released_by,
                note=row.note,
                effective_on=row.effective_on,
            )
            for row in self.session.execute(query)
        )
        return tuple(sorted(found, key=lambda r: letter_rank(r.letter)))

    def revision(self, document: str, letter: str) -> Revision | None:
        """One revision by its letter."""
        return self._first(RevisionRow.document_id == document, RevisionRow.letter == letter)

    def open_revision(self, document: str) -> Revision | None:
        """The revision that is being written or reviewed; a document has at most one."""
        return self._first(RevisionRow.document_id == document, RevisionRow.state.in_(OPEN_REVISION_STATES))

    def released(self, document: str) -> Revision | None:
        """The revision in force."""
        return self._first(RevisionRow.document_id == document, RevisionRow.state == "Released")

    def all_released(self, kind: DocumentKind) -> tuple[Revision, ...]:
        """The revisions in force of all documents of a kind, by document."""
        found = self._find(and_(RevisionRow.state == "Released", DocumentRow.kind == kind))
        return tuple(sorted(found, key=lambda r: r.document))

    def headings(self) -> tuple[RevisionHeading, ...]:
        """Every revision of every document by its title, oldest first; contents are not read."""
        query = (
            select(
                RevisionRow.document_id,
                DocumentRow.kind,
                RevisionRow.letter,
                RevisionRow.state,
                RevisionRow.content["title"].as_string(),
            )
            .join(DocumentRow, RevisionRow.document_id == DocumentRow.id)
            .order_by(RevisionRow.document_id, RevisionRow.id)
        )
        return tuple(
            RevisionHeading(
                document=document,
                kind=cast(DocumentKind, kind),
                letter=letter,
                state=cast(RevisionState, state),
                title=title or "",
            )
            for document, kind, letter, state, title in self.session.execute(query)
        )

    def in_state(self, state: RevisionState) -> tuple[Revision, ...]:
        """All revisions in a state."""
        return self._find(RevisionRow.state == state)

    def in_states(self, states: Sequence[RevisionState]) -> tuple[Revision, ...]:
        """All revisions in one of the states, by document."""
        return self._find(RevisionRow.state.in_(states))

    def save(self, revision: Revision) -> None:
        """Write back a revision that was read here; the database refuses a released one."""
        row = self._row(revision.document, revision.letter)
        if revision.state in OPEN_REVISION_STATES:
            row.content = dump_value(revision.content)
        row.state = revision.state
        row.version = revision.version
        row.changed_at = revision.changed_at
        row.sent_by = revision.sent_by
        row.released_at = revision.released_at
        row.released_by = revision.released_by
        row.note = revision.note
        row.effective_on = revision.effective_on
        self.session.flush()

    def delete_revision(self, document: str, letter: str) -> None:
        """Remove a draft with its edits, and the document when nothing else is left of it."""
        self.session.delete(self._row(document, letter))
        self.session.flush()
        if not self.revisions(document):
            self.session.delete(self.session.get(DocumentRow, document))
            self.session.flush()

    def add_edit(self, document: str, letter: str, edit: Edit) -> None:
        """Keep an edit of a draft."""
        self.session.add(
            EditRow(
                revision_id=self._row(document, letter).id,
                version=edit.version,
                at=edit.at,
                person_id=edit.person,
                summary=edit.summary,
                patch=edit.patch,
                inverse=edit.inverse,
            )
        )
        self.session.flush()

    def edits(self, document: str, letter: str) -> tuple[Edit, ...]:
        """The edits of a revision, oldest first."""
        revision_id = self._row(document, letter).id
        rows = self.session.scalars(
            select(EditRow).where(EditRow.revision_id == revision_id).order_by(EditRow.version)
        )
        return tuple(
            Edit(
                version=r.version,
                at=r.at,
                person=r.person_id,
                summary=r.summary,
                patch=r.patch,
                inverse=r.inverse,
            )
            for r in rows
        )

    def add_act(self, document: str, act: RevisionAct) -> None:
        """Keep what was done to a revision as a whole."""
        self.session.add(
            ActRow(
                revision_id=self._row(document, act.letter).id,
                at=act.at,
                person_id=act.person,
                act=act.act,
                note=act.note,
            )
        )
        self.session.flush()

    def acts(self, document: str) -> tuple[RevisionAct, ...]:
        """What was done to the revisions of a document as wholes, oldest first."""
        query = (
            select(ActRow, RevisionRow.letter)
            .join(RevisionRow, ActRow.revision_id == RevisionRow.id)
            .where(RevisionRow.document_id == document)
            .order_by(ActRow.at, ActRow.id)
        )
        return tuple(
            RevisionAct(letter=letter, at=row.at, person=row.person_id, act=cast(Act, row.act), note=row.note)
            for row, letter in self.session.execute(query)
        )

    def content_of(self, document: str) -> Content | None:
        """What the document says now: the open revision if there is one, else the one in force."""
        revision = self.open_revision(document) or self.released(document)
        return revision.content if revision else None

    def _row(self, document: str, letter: str) -> RevisionRow:
        query = select(RevisionRow).where(RevisionRow.document_id == document, RevisionRow.letter == letter)
        return self.session.scalars(query).one()

    def _first(self, *where: ColumnElement[bool]) -> Revision | None:
        return next(iter(self._find(*where)), None)

    def _find(self, *where: ColumnElement[bool]) -> tuple[Revision, ...]:
        query = (
            select(RevisionRow, DocumentRow.kind)
            .join(DocumentRow, RevisionRow.document_id == DocumentRow.id)
            .where(*where)
            .order_by(RevisionRow.document_id, RevisionRow.id)
        )
        rows = self.session.execute(query).all()
        return tuple(_revision(row, cast(DocumentKind, kind)) for row, kind in rows)
