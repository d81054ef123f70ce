"""Authored documents and their revisions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, cast

from sqlalchemy import ColumnElement, and_, func, select
from sqlalchemy.orm import Session, defer, undefer

from reedling.core.guidance.documents import (
    Act,
    Content,
    Edit,
    Revision,
    RevisionAct,
    RevisionHeading,
    RevisionStanding,
)
from reedling.core.guidance.revisions import DocumentKind, RevisionState, letter_rank
from reedling.exchange.content import dump_value, load_content
from reedling.store.kept import Kept
from reedling.store.tables import ActRow, DocumentRow, EditRow, RevisionRow

OPEN_REVISION_STATES: tuple[RevisionState, ...] = ("Draft", "In review")
FINAL_STATES: tuple[RevisionState, ...] = ("Released", "Superseded", "Withdrawn")
"""States in which the database refuses any change of what a revision says."""


@dataclass(frozen=True, slots=True)
class Documents:
    """Repository of documents, revisions and the edits of drafts."""

    session: Session
    kept: Kept

    def add(self, document: str, kind: DocumentKind, at: datetime) -> None:
        """Add a document that has no revisions yet."""
        self.session.add(DocumentRow(id=document, kind=kind, created_at=at))
        self.session.flush()

    def stamp(self) -> tuple[int, int]:
        """A mark that rises with every edit of a draft and everything done to a revision."""
        edits = self.session.scalar(select(func.max(EditRow.id)))
        acts = self.session.scalar(select(func.max(ActRow.id)))
        return (edits or 0, acts or 0)

    def last_act(self) -> int:
        """A mark that rises when a revision is begun, sent, given back, released or withdrawn."""
        return self.session.scalar(select(func.max(ActRow.id))) or 0

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

    def open_mark(self, document: str) -> tuple[str, int, str] | None:
        """Letter, version and state of the revision being written or reviewed; its content is not read."""
        query = select(RevisionRow.letter, RevisionRow.version, RevisionRow.state).where(
            RevisionRow.document_id == document, RevisionRow.state.in_(OPEN_REVISION_STATES)
        )
        found = self.session.execute(query).first()
        return (found.letter, found.version, found.state) if found else None

    def save(self, revision: Revision, content: dict[str, Any] | None = None) -> None:
        """Write back a revision that was read here; the database refuses a released one.

        ``content`` is what it says as plain data, where that is known already.
        """
        row = self._row(revision.document, revision.letter)
        if revision.state in OPEN_REVISION_STATES:
            row.content = dump_value(revision.content) if content is None else content
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

    def rests_on(self, document: str, letter: str) -> frozenset[str]:
        """People whose unreleased work was copied into a revision."""
        return frozenset(self._row(document, letter).rests_on)

    def let_rest_on(self, document: str, letter: str, people: frozenset[str]) -> None:
        """Note that unreleased work of these people was copied into a revision."""
        row = self._row(document, letter)
        row.rests_on = sorted({*row.rests_on, *people})
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

    def n_in_state(self, state: RevisionState, *, first_letters: bool = True) -> int:
        """How many revisions are in a state; without ``first_letters``, those that follow another."""
        query = select(func.count()).select_from(RevisionRow).where(RevisionRow.state == state)
        if not first_letters:
            query = query.where(RevisionRow.letter != "A")
        return self.session.scalar(query) or 0

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
            .options(defer(RevisionRow.content))
            .where(*where)
            .order_by(RevisionRow.document_id, RevisionRow.id)
        )
        rows = self.session.execute(query).all()
        self._read_contents([row for row, _ in rows if not self._kept_content(row)])
        return tuple(self._revision(row, cast(DocumentKind, kind)) for row, kind in rows)

    def _kept_content(self, row: RevisionRow) -> Content | None:
        """What a final revision says, if it was read before."""
        return self.kept.contents.get((row.document_id, row.letter)) if row.state in FINAL_STATES else None

    def _read_contents(self, rows: Sequence[RevisionRow]) -> None:
        """Read the contents of these rows at once."""
        if rows:
            wanted = select(RevisionRow).where(RevisionRow.id.in_([row.id for row in rows]))
            self.session.scalars(
                wanted.options(undefer(RevisionRow.content)).execution_options(populate_existing=True)
            ).all()

    def _revision(self, row: RevisionRow, kind: DocumentKind) -> Revision:
        content = self._kept_content(row)
        if content is None:
            content = load_content(kind, row.content, where=f"{row.document_id} {row.letter}")
            if row.state in FINAL_STATES:
                self.kept.keep_content(self.session, row.document_id, row.letter, content)
        return Revision(
            document=row.document_id,
            kind=kind,
            letter=row.letter,
            state=cast(RevisionState, row.state),
            version=row.version,
            content=content,
            created_at=row.created_at,
            changed_at=row.changed_at,
            sent_by=row.sent_by,
            released_at=row.released_at,
            released_by=row.released_by,
            note=row.note,
            effective_on=row.effective_on,
        )
