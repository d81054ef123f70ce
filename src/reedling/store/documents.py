"""Authored documents and their revisions."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, cast

from sqlalchemy import (
    ColumnElement,
    Row,
    Select,
    String,
    and_,
    delete,
    func,
    insert,
    literal,
    select,
    type_coerce,
    update,
)
from sqlalchemy.orm import Session

from reedling.core.guidance.documents import (
    LIVE_STATES,
    OPEN_REVISION_STATES,
    Act,
    Content,
    DocumentAtHand,
    Edit,
    Revision,
    RevisionAct,
    RevisionHeading,
    RevisionStanding,
    at_hand,
    documents_named,
)
from reedling.core.guidance.revisions import DocumentKind, RevisionState, letter_rank
from reedling.exchange.content import dump_value, load_content
from reedling.store.kept import Kept, only_reads
from reedling.store.tables import ActRow, DocumentRow, EditRow, PersonRow, RevisionRow, RevisionUseRow

_HEAD = (
    RevisionRow.id,
    RevisionRow.document_id,
    DocumentRow.kind,
    RevisionRow.letter,
    RevisionRow.state,
    RevisionRow.version,
    RevisionRow.created_at,
    RevisionRow.changed_at,
    RevisionRow.sent_by,
    RevisionRow.released_at,
    RevisionRow.released_by,
    RevisionRow.note,
    RevisionRow.effective_on,
    RevisionRow.title,
)
"""All of a revision but what it says."""

FEW = 3
"""Documents that a unit reads one by one before it reads all of them at once."""


@dataclass(frozen=True, slots=True)
class DocumentsNow:
    """Every document's kind, and what is being written or reviewed and what is in force, by document."""

    kinds: Mapping[str, DocumentKind]
    open_revisions: Mapping[str, Revision]
    released: Mapping[str, Revision]


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

    def in_force_mark(self) -> tuple[int, ...]:
        """A mark that is another one as soon as another revision of any document is in force, or none.

        A unit that only reads asks once.
        """
        if only_reads(self.session) and "in force" in self.session.info:
            held: tuple[int, ...] = self.session.info["in force"]
            return held
        states = select(RevisionRow.state, func.count(), func.max(RevisionRow.id)).group_by(RevisionRow.state)
        of_state = sorted(self.session.execute(states).all())
        latest = next((last for state, _, last in of_state if state == "Released"), 0)
        mark = (self.last_act(), *(n for _, n, _ in of_state), latest)
        if only_reads(self.session):
            self.session.info["in force"] = mark
        return mark

    def last_act(self) -> int:
        """A mark that rises when a revision is begun, sent, given back, released or withdrawn."""
        return self.session.scalar(select(func.max(ActRow.id))) or 0

    def kind(self, document: str) -> DocumentKind | None:
        """What kind of document this is; nothing when there is none."""
        now = self._all_now()
        if now is not None:
            return now.kinds.get(document)
        row = self.session.get(DocumentRow, document)
        return cast(DocumentKind, row.kind) if row else None

    def of_kind(self, kind: DocumentKind) -> tuple[str, ...]:
        """The identities of all documents of a kind, in order."""
        query = select(DocumentRow.id).where(DocumentRow.kind == kind).order_by(DocumentRow.id)
        return tuple(self.session.scalars(query))

    def add_revision(self, revision: Revision) -> None:
        """Add a revision as it stands."""
        row = RevisionRow(
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
            title=revision.content.title,
        )
        self.session.add(row)
        self.session.flush()
        self._note_uses(row.id, documents_named(revision.content))

    def revisions(self, document: str) -> tuple[Revision, ...]:
        """All revisions of a document, oldest first."""
        found = self._find(RevisionRow.document_id == document)
        return tuple(sorted(found, key=lambda r: letter_rank(r.letter)))

    def at_hand(self, *documents: str) -> Mapping[str, DocumentAtHand]:
        """These documents, those that are there, each with the revision to work on."""
        return self._at_hand(RevisionRow.document_id.in_(documents), documents)[0]

    def with_users(
        self, document: str, named: Collection[str]
    ) -> tuple[Mapping[str, DocumentAtHand], tuple[RevisionHeading, ...]]:
        """The documents ``named``, and those that refer to ``document``, by the revision to work on."""
        uses_it = RevisionRow.document_id.in_(self._users_of(document))
        found, heads = self._at_hand(RevisionRow.document_id.in_(named) | uses_it, named, uses_it)
        return found, tuple(_heading(head) for head in heads if head.marked)

    def uses(self) -> Mapping[str, tuple[str, ...]]:
        """By document, which others refer to it as they are being written or in force."""
        query = (
            select(RevisionUseRow.document, RevisionRow.document_id)
            .join(RevisionRow, RevisionRow.id == RevisionUseRow.revision_id)
            .where(RevisionRow.state.in_(LIVE_STATES))
            .distinct()
            .order_by(RevisionUseRow.document, RevisionRow.document_id)
        )
        out: dict[str, list[str]] = {}
        for document, user in self.session.execute(query):
            out.setdefault(document, []).append(user)
        return {document: tuple(users) for document, users in out.items()}

    def where_used(self, document: str) -> tuple[str, ...]:
        """The documents that refer to this one as they are being written or in force."""
        return tuple(self.session.scalars(self._users_of(document).order_by(RevisionRow.document_id)))

    def _users_of(self, document: str) -> Select[str]:
        return (
            select(RevisionRow.document_id)
            .join(RevisionUseRow, RevisionRow.id == RevisionUseRow.revision_id)
            .where(RevisionUseRow.document == document, RevisionRow.state.in_(LIVE_STATES))
            .distinct()
        )

    def revision(self, document: str, letter: str) -> Revision | None:
        """One revision by its letter."""
        return self._first(RevisionRow.document_id == document, RevisionRow.letter == letter)

    def open_revision(self, document: str) -> Revision | None:
        """The revision that is being written or reviewed; a document has at most one."""
        now = self._all_now()
        if now is not None:
            return now.open_revisions.get(document)
        return self._first(RevisionRow.document_id == document, RevisionRow.state.in_(OPEN_REVISION_STATES))

    def released(self, document: str) -> Revision | None:
        """The revision in force."""
        now = self._all_now()
        if now is not None:
            return now.released.get(document)
        return self._first(RevisionRow.document_id == document, RevisionRow.state == "Released")

    def all_released(self, kind: DocumentKind) -> tuple[Revision, ...]:
        """The revisions in force of all documents of a kind, by document."""
        now = self._all_now()
        if now is not None:
            return tuple(now.released[d] for d in sorted(now.released) if now.kinds[d] == kind)
        found = self._find(and_(RevisionRow.state == "Released", DocumentRow.kind == kind))
        return tuple(sorted(found, key=lambda r: r.document))

    def headings(self) -> tuple[RevisionHeading, ...]:
        """Every revision of every document by its title, oldest first; contents are not read.

        A unit that only reads asks once.
        """
        if only_reads(self.session) and "headings" in self.session.info:
            held: tuple[RevisionHeading, ...] = self.session.info["headings"]
            return held
        query = (
            select(
                RevisionRow.document_id,
                DocumentRow.kind,
                RevisionRow.letter,
                RevisionRow.state,
                RevisionRow.title,
            )
            .join(DocumentRow, RevisionRow.document_id == DocumentRow.id)
            .order_by(RevisionRow.document_id, RevisionRow.id)
        )
        found = tuple(
            RevisionHeading(
                document=document,
                kind=cast(DocumentKind, kind),
                letter=letter,
                state=cast(RevisionState, state),
                title=title,
            )
            for document, kind, letter, state, title in self.session.execute(query)
        )
        self.session.info["headings"] = found
        return found

    def in_state(self, state: RevisionState) -> tuple[Revision, ...]:
        """All revisions in a state."""
        return self._find(RevisionRow.state == state)

    def in_states(self, states: Sequence[RevisionState]) -> tuple[Revision, ...]:
        """All revisions in one of the states, by document."""
        return self._find(RevisionRow.state.in_(states))

    def save(self, revision: Revision, content: dict[str, Any] | None = None) -> None:
        """Write back a revision that was read here; the database refuses a released one.

        ``content`` is what it says as plain data, where that is known already.
        """
        row = self._row(revision.document, revision.letter)
        if revision.state in OPEN_REVISION_STATES:
            row.content = dump_value(revision.content) if content is None else content
            row.title = revision.content.title
            self._note_uses(row.id, documents_named(revision.content))
        row.state = revision.state
        row.version = revision.version
        row.changed_at = revision.changed_at
        row.sent_by = revision.sent_by
        row.released_at = revision.released_at
        row.released_by = revision.released_by
        row.note = revision.note
        row.effective_on = revision.effective_on
        self.session.flush()

    def save_edit(self, before: Revision, after: Revision, content: str, edit: Edit) -> bool:
        """Write an edit of a draft, if the draft is still as it was read; says whether it was.

        ``content`` is what the draft says after it, as JSON.
        """
        query = (
            update(RevisionRow)
            .where(
                RevisionRow.document_id == before.document,
                RevisionRow.letter == before.letter,
                RevisionRow.version == before.version,
                RevisionRow.changed_at == before.changed_at,
                RevisionRow.state == "Draft",
            )
            .values(
                content=type_coerce(content, String),
                title=after.content.title,
                version=after.version,
                changed_at=after.changed_at,
            )
            .returning(RevisionRow.id)
            .execution_options(synchronize_session=False)
        )
        number = self.session.scalar(query)
        if number is None:
            return False
        named = documents_named(after.content)
        if set(named) != set(documents_named(before.content)):
            self._note_uses(number, named)
        self.session.execute(insert(EditRow).values(**_edit_columns(number, edit)))
        return True

    def _note_uses(self, revision_id: int, named: Collection[str]) -> None:
        self.session.execute(delete(RevisionUseRow).where(RevisionUseRow.revision_id == revision_id))
        if named:
            rows = [{"revision_id": revision_id, "document": d} for d in dict.fromkeys(named)]
            self.session.execute(insert(RevisionUseRow), rows)

    def delete_revision(self, document: str, letter: str) -> None:
        """Remove a draft with its edits, and the document when nothing else is left of it."""
        self.session.delete(self._row(document, letter))
        self.session.flush()
        self.kept.contents.pop((document, letter), None)
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
        self.session.add(EditRow(**_edit_columns(self._row(document, letter).id, edit)))
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

    def contents_of_kind(self, kind: DocumentKind) -> Mapping[str, Content]:
        """As :meth:`content_of`, of every document of a kind that says something now, by document."""
        found = ((document, self.content_of(document)) for document in self.of_kind(kind))
        return {document: content for document, content in found if content is not None}

    def _all_now(self) -> DocumentsNow | None:
        """Every document as it is now, read at once, for a unit that only reads and asks for one after the other.

        The first few are read each by itself; nothing then.
        """
        if not only_reads(self.session):
            return None
        known = self.session.info
        known["documents asked for"] = known.get("documents asked for", 0) + 1
        if known["documents asked for"] <= FEW:
            return None
        if "documents now" not in known:
            kinds = self.session.execute(select(DocumentRow.id, DocumentRow.kind)).all()
            found = self._find(RevisionRow.state.in_(LIVE_STATES))
            known["documents now"] = DocumentsNow(
                kinds={document: cast(DocumentKind, kind) for document, kind in kinds},
                open_revisions={r.document: r for r in found if r.state in OPEN_REVISION_STATES},
                released={r.document: r for r in found if r.state == "Released"},
            )
        now: DocumentsNow = known["documents now"]
        return now

    def _row(self, document: str, letter: str) -> RevisionRow:
        query = select(RevisionRow).where(RevisionRow.document_id == document, RevisionRow.letter == letter)
        return self.session.scalars(query).one()

    def _first(self, *where: ColumnElement[bool]) -> Revision | None:
        return next(iter(self._find(*where)), None)

    def _find(self, *where: ColumnElement[bool]) -> tuple[Revision, ...]:
        heads = self.session.execute(_heads(*where)).all()
        contents = self._contents(heads)
        return tuple(_revision(head, contents[head.id]) for head in heads)

    def _at_hand(
        self, where: ColumnElement[bool], read: Collection[str], mark: ColumnElement[bool] | None = None
    ) -> tuple[Mapping[str, DocumentAtHand], tuple[Row[Any], ...]]:
        """Documents with the revision to work on, by document; and the heads of these revisions.

        Contents are read only of documents in ``read``. Heads say whether they meet ``mark``.
        """
        marked = literal(False) if mark is None else mark
        query = _heads(where).add_columns(PersonRow.name.label("releaser"), marked.label("marked"))
        query = query.outerjoin(PersonRow, PersonRow.id == RevisionRow.released_by)
        of_document: dict[str, list[Row[Any]]] = {}
        for head in self.session.execute(query):
            of_document.setdefault(head.document_id, []).append(head)
        for heads in of_document.values():
            heads.sort(key=lambda head: letter_rank(head.letter))
        chosen = {d: heads[at_hand([h.state for h in heads])] for d, heads in of_document.items()}
        contents = self._contents([head for d, head in chosen.items() if d in read])
        found = {
            d: DocumentAtHand(
                kind=cast(DocumentKind, chosen[d].kind),
                standings=tuple(_standing(head) for head in heads),
                revision=_revision(chosen[d], contents[chosen[d].id]),
            )
            for d, heads in of_document.items()
            if d in read
        }
        return found, tuple(chosen[d] for d in sorted(chosen))

    def _contents(self, heads: Sequence[Row[Any]]) -> Mapping[int, Content]:
        """What these revisions say, by their row: as kept, or read and then kept."""
        found: dict[int, Content] = {}
        for head in heads:
            kept = self.kept.content(head.document_id, head.letter, head.version, head.changed_at)
            if kept is not None:
                found[head.id] = kept
        missing = [head for head in heads if head.id not in found]
        if missing:
            query = select(RevisionRow.id, RevisionRow.content).where(
                RevisionRow.id.in_([head.id for head in missing])
            )
            data: dict[int, Any] = dict(self.session.execute(query).all())
            for head in missing:
                where = f"{head.document_id} {head.letter}"
                content = load_content(cast(DocumentKind, head.kind), data[head.id], where=where)
                found[head.id] = content
                if only_reads(self.session):
                    self.kept.keep_content(_revision(head, content))
        return found


def _heads(*where: ColumnElement[bool]) -> Select[Any]:
    columns: list[Any] = list(_HEAD)
    return (
        select(*columns)
        .join(DocumentRow, RevisionRow.document_id == DocumentRow.id)
        .where(*where)
        .order_by(RevisionRow.document_id, RevisionRow.id)
    )


def _edit_columns(revision_id: int, edit: Edit) -> dict[str, Any]:
    return {
        "revision_id": revision_id,
        "version": edit.version,
        "at": edit.at,
        "person_id": edit.person,
        "summary": edit.summary,
        "patch": edit.patch,
        "inverse": edit.inverse,
    }


def _revision(head: Row[Any], content: Content) -> Revision:
    return Revision(
        document=head.document_id,
        kind=cast(DocumentKind, head.kind),
        letter=head.letter,
        state=cast(RevisionState, head.state),
        version=head.version,
        content=content,
        created_at=head.created_at,
        changed_at=head.changed_at,
        sent_by=head.sent_by,
        released_at=head.released_at,
        released_by=head.released_by,
        note=head.note,
        effective_on=head.effective_on,
    )


def _heading(head: Row[Any]) -> RevisionHeading:
    return RevisionHeading(
        document=head.document_id,
        kind=cast(DocumentKind, head.kind),
        letter=head.letter,
        state=cast(RevisionState, head.state),
        title=head.title,
    )


def _standing(head: Row[Any]) -> RevisionStanding:
    return RevisionStanding(
        letter=head.letter,
        state=cast(RevisionState, head.state),
        changed_at=head.changed_at,
        released_at=head.released_at,
        released_by=head.releaser,
        note=head.note,
        effective_on=head.effective_on,
    )
