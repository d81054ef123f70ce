"""Change and discard drafts. Every saved edit raises the version and can be undone."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Any

from reedling.core.faultguide.guide_differences import compare_guides
from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.differences import Difference, compare_incident_types, compare_plans
from reedling.core.guidance.documents import (
    OPEN_REVISION_STATES,
    Act,
    Content,
    DocumentAtHand,
    Edit,
    Revision,
    RevisionAct,
    RevisionStanding,
)
from reedling.core.guidance.editing import CopySteps, PlanEdit, arranged, edit_plan
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.revisions import PLAN_KINDS, letter_rank, next_letter
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.core.matching.cells import Naming, naming_of
from reedling.core.matching.table_differences import compare_tables
from reedling.core.matching.table_editing import MAX_ROWS, TableEdit, edit_table
from reedling.core.people import Person
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.exchange.content import dump_json, dump_value, load_content
from reedling.services.context import Context
from reedling.services.shared.current import current_revision, document_at_hand, etag_of
from reedling.services.shared.guides import labels_of
from reedling.services.shared.kept_changes import keep_change
from reedling.services.shared.known_documents import incident_type_titles, vocabulary
from reedling.services.shared.patches import Patch, apply_patch, patch_between
from reedling.services.shared.writers import writers_of
from reedling.services.views.documents import IncidentTypeView, PlanView, incident_type_view, plan_view
from reedling.services.views.guides import GuideView, guide_view
from reedling.services.views.tables import TableChange, table_change
from reedling.store.unit import Unit

MAX_CONTENT_BYTES = 4_000_000
"""A document larger than this is refused; a plan of 1,000 steps has about a tenth of it."""

MAX_STEPS = 1_000
"""More in one document are refused; nobody carries out a thousand steps."""

MAX_QUESTIONS = 2_000
"""More on one document are refused: a technician could not answer them, and the checks would take long."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SavedEdit:
    """A draft after an edit, in the view of its kind, with the patch that takes the edit back (empty: nothing changed)."""

    plan: PlanView | None
    incident_type: IncidentTypeView | None
    table: TableChange | None
    guide: GuideView | None
    inverse: Patch
    summary: str


def begin_next(unit: Unit, context: Context, person: Person, document: str) -> Revision:
    """Open the next revision of a document, which says what the one in force says, or else the newest."""
    draft = _next_of(unit, context, document)
    _open_next(unit, person, draft, _base_of(unit, document).letter)
    return draft


def _base_of(unit: Unit, document: str) -> Revision:
    return unit.documents.released(document) or unit.documents.revisions(document)[-1]


def _next_of(unit: Unit, context: Context, document: str) -> Revision:
    """The next revision of a document as it begins; nothing is written."""
    now = context.clock()
    letters = [r.letter for r in unit.documents.revisions(document)]
    return replace(
        _base_of(unit, document),
        letter=next_letter(max(letters, key=letter_rank)),
        state="Draft",
        version=1,
        created_at=now,
        changed_at=now,
        sent_by=None,
        released_at=None,
        released_by=None,
        effective_on=None,
        note="",
    )


def _open_next(unit: Unit, person: Person, draft: Revision, base: str) -> None:
    unit.documents.add_revision(draft)
    log_edit(unit, draft, person, f"began {draft.letter} from {base}", [], [])
    note_act_on(unit, draft, person, draft.created_at, "began", f"from {base}")


def _with_draft(at_hand: DocumentAtHand, draft: Revision) -> DocumentAtHand:
    """The document once the draft is begun."""
    standing = RevisionStanding(
        letter=draft.letter,
        state=draft.state,
        changed_at=draft.changed_at,
        released_at=None,
        released_by=None,
        note="",
        effective_on=None,
    )
    return replace(at_hand, standings=(*at_hand.standings, standing), revision=draft)


def discard_draft(context: Context, person: Person, document: str, etag: str) -> None:
    """Throw a draft away, and keep who did and what it said. What was released stays."""
    with context.writing() as unit:
        revision = _draft(unit, document, etag)
        kind = revision.kind
        users = unit.documents.where_used(document)
        if len(unit.documents.revisions(document)) == 1 and users:
            raise Conflict(
                "drafts.only_one",
                f"this {kind} has no other revision, and {', '.join(users[:3])} uses it.",
                where=document,
                hint="Take it out there first.",
            )
        unit.documents.delete_revision(document, revision.letter)
        keep_change(
            context,
            unit,
            person,
            "draft",
            document,
            "thrown away",
            before=dump_value(revision.content),
            note=f"{kind} {document} {revision.letter}, “{revision.content.title}”",
        )


def patch_draft(
    context: Context, person: Person, document: str, patch: Patch, etag: str, *, begin: bool = False
) -> SavedEdit:
    """Apply a JSON Patch (RFC 6902) to a draft; with ``begin`` to the next revision, where there is no draft.

    Raises
    ------
    Conflict
        ``drafts.stale`` when somebody saved since the tag was read. Nothing is changed.
    InvalidInput
        ``content.invalid`` for a result that is not a document of this kind; what
        :func:`~reedling.services.shared.patches.apply_patch` raises.
    """

    def apply(old: Content, revision: Revision) -> Content:
        patched = apply_patch(dump_value(old), patch, where=document)
        return load_content(revision.kind, patched, where=f"{document}, after the patch")

    return change_draft(context, person, document, etag, apply, begin=begin)


def edit_draft(
    context: Context, person: Person, document: str, edit: PlanEdit, etag: str, *, begin: bool = False
) -> SavedEdit:
    """Make one structural edit to a plan's draft; ``begin`` and errors as :func:`patch_draft`."""

    source: Plan | None = None
    rests_on: frozenset[str] = frozenset()
    if isinstance(edit, CopySteps) and edit.source != document:
        with context.reading() as unit:
            revision = current_revision(unit, edit.source, PLAN_KINDS)
            source = revision.content if isinstance(revision.content, Plan) else None
            rests_on = writers_of(unit, revision)

    def apply(old: Content, revision: Revision) -> Content:
        if not isinstance(old, Plan):
            raise InvalidInput("drafts.kind", "only a plan has steps.", where=document)
        return edit_plan(
            old,
            edit,
            new_id=f"s-{context.new_id()}",
            new_question_id=f"q-{context.new_id()}",
            source=source,
            kind=revision.kind,
        )

    return change_draft(context, person, document, etag, apply, rests_on=rests_on, begin=begin)


def edit_table_draft(
    context: Context, person: Person, document: str, edit: TableEdit, etag: str, *, begin: bool = False
) -> SavedEdit:
    """Make one edit to a decision table's draft, as on a sheet; ``begin`` and errors as :func:`patch_draft`."""
    with context.reading() as unit:
        words = vocabulary(unit)

    def apply(old: Content, _revision: Revision) -> Content:
        if not isinstance(old, DecisionTable):
            raise InvalidInput("drafts.kind", "only a decision table has rows.", where=document)
        return edit_table(old, edit, words, new_id=f"r-{context.new_id()}")

    return change_draft(context, person, document, etag, apply, begin=begin)


def draft_return(context: Context, person: Person, document: str, letter: str) -> Revision:
    """Draft what an earlier revision said as the next one.

    Raises
    ------
    NotFound
        ``revisions.unknown`` where there is no such revision.
    Conflict
        ``drafts.open`` where a revision is being written or reviewed already.
    """
    with context.writing() as unit:
        earlier = unit.documents.revision(document, letter)
        if earlier is None:
            raise NotFound("revisions.unknown", f"{document} has no revision {letter}.")
        if unit.documents.open_revision(document) is not None:
            raise Conflict(
                "drafts.open", "there is already a draft.", where=document, hint="Work on that one."
            )
        draft = begin_next(unit, context, person, document)
        edit = work_out(unit, context, draft, earlier.content)
        write_edit(unit, person, edit)
        return edit.revision


@dataclass(frozen=True, slots=True, kw_only=True)
class _WorkedOut:
    """An edit of a draft, ready to be written: the revision after, as data and as JSON, and both patches."""

    revision: Revision
    data: dict[str, Any]
    text: str
    patch: Patch
    inverse: Patch
    summary: str


def change_draft(
    context: Context,
    person: Person,
    document: str,
    etag: str,
    change: Callable[[Content, Revision], Content],
    *,
    rests_on: frozenset[str] = frozenset(),
    begin: bool = False,
    also: Callable[[Unit, Revision], None] = lambda _unit, _draft: None,
) -> SavedEdit:
    """Work an edit out, write it if the draft is still the one read, and tell all that follows from it.

    ``also`` is handed the draft after the edit, and writes what is to be there with it or not at all.
    """
    today = context.clock().date()
    with context.reading() as unit:
        at_hand = document_at_hand(unit, document)
        begins = begin and at_hand.revision.state not in OPEN_REVISION_STATES
        check = _check_tag if begins else _check_draft
        revision = check(unit, at_hand.revision, etag)
        old = revision.content
        new = change(old, revision)
        if isinstance(new, Plan):
            new = replace(new, steps=arranged(new.steps))
        if new == old:
            return _saved(unit, at_hand, revision, [], "", today)
        if begins:
            revision = _next_of(unit, context, document)
            at_hand = _with_draft(at_hand, revision)
        edit = work_out(unit, context, revision, new)
        saved = _saved(unit, at_hand, edit.revision, edit.inverse, edit.summary, today)
    with context.writing() as unit:
        if begins:
            _check_tag(unit, current_revision(unit, document), etag)
            _open_next(unit, person, revision, _base_of(unit, document).letter)
        kept = _edit_of(edit.revision, person, edit.summary, edit.patch, edit.inverse)
        if not unit.documents.save_edit(revision, edit.revision, edit.text, kept):
            _check_draft(unit, current_revision(unit, document), etag)
            raise Conflict("drafts.stale", "this draft has changed since you read it.", where=document)
        if rests_on - {person.id}:
            unit.documents.let_rest_on(document, revision.letter, rests_on)
        also(unit, edit.revision)
    context.store.kept.keep_content(edit.revision, edit.data)
    return saved


def work_out(unit: Unit, context: Context, revision: Revision, new: Content) -> _WorkedOut:
    """A draft's new content as one edit, within bounds."""
    _check_size(revision.document, new)
    before = context.store.kept.data_of(revision) or dump_value(revision.content)
    after, text = dump_value(new), dump_json(new)
    if len(text) > MAX_CONTENT_BYTES:
        raise InvalidInput(
            "drafts.too_large",
            f"a document may have {MAX_CONTENT_BYTES:,} characters.",
            where=revision.document,
            hint="Split it in two.",
        )
    naming = _naming(unit) if isinstance(new, DecisionTable) else Naming()
    labels = labels_of(unit.catalogues.get()) if isinstance(new, WrittenGuide) else {}
    return _WorkedOut(
        revision=replace(revision, content=new, version=revision.version + 1, changed_at=context.clock()),
        data=after,
        text=text,
        patch=patch_between(before, after),
        inverse=patch_between(after, before),
        summary=_summary(revision.content, new, naming, labels),
    )


def _check_size(document: str, new: Content) -> None:
    if isinstance(new, DecisionTable):
        if len(new.rows) > MAX_ROWS:
            raise InvalidInput(
                "tables.too_long",
                f"a table may have {MAX_ROWS:,} rows, this would have {len(new.rows):,}.",
                where=document,
                hint="Write a second table: all tables in force are matched together.",
            )
    if not isinstance(new, Plan):
        return
    counts = {
        "steps": (len(new.steps), MAX_STEPS),
        "questions": (sum(len(s.questions) for s in new.steps), MAX_QUESTIONS),
    }
    for what, (count, most) in counts.items():
        if count > most:
            raise InvalidInput(
                "drafts.too_large",
                f"a document may have {most:,} {what}, this would have {count:,}.",
                where=document,
                hint="Split it into several.",
            )


def write_edit(unit: Unit, person: Person, edit: _WorkedOut) -> None:
    """Write an edit that was worked out, whatever the draft is by now."""
    unit.documents.save(edit.revision, edit.data)
    log_edit(unit, edit.revision, person, edit.summary, edit.patch, edit.inverse)


def _saved(
    unit: Unit, at_hand: DocumentAtHand, revision: Revision, inverse: Patch, summary: str, today: date
) -> SavedEdit:
    kind = revision.kind
    return SavedEdit(
        plan=plan_view(unit, at_hand, today, instead=revision) if kind in PLAN_KINDS else None,
        incident_type=incident_type_view(unit, at_hand, today, instead=revision)
        if kind == "incident type"
        else None,
        table=table_change(unit, at_hand, revision) if kind == "decision table" else None,
        guide=guide_view(unit, at_hand, instead=revision) if kind == "fault guide" else None,
        inverse=inverse,
        summary=summary,
    )


def _draft(unit: Unit, document: str, etag: str) -> Revision:
    """The draft, if nobody has saved since the tag was read."""
    return _check_draft(unit, current_revision(unit, document), etag)


def _check_draft(unit: Unit, revision: Revision, etag: str) -> Revision:
    if revision.state != "Draft":
        raise Conflict(
            "drafts.none",
            f"revision {revision.letter} is {revision.state.lower()}, and there is no draft.",
            where=revision.document,
            hint="End its trial first."
            if revision.state == "On trial"
            else "Begin the next revision to change something.",
        )
    return _check_tag(unit, revision, etag)


def _check_tag(unit: Unit, revision: Revision, etag: str) -> Revision:
    if etag != etag_of(revision):
        raise Conflict(
            "drafts.stale",
            _who_was_first(unit, revision, etag),
            where=revision.document,
            hint="Your change is not saved yet; look at theirs, then make it again.",
        )
    return revision


def _who_was_first(unit: Unit, revision: Revision, etag: str) -> str:
    names = unit.people.names()
    edits = unit.documents.edits(revision.document, revision.letter)
    seen = re.search(r"-(\d+)-\w+\"$", etag)
    since = [e for e in edits if seen is None or e.version > int(seen.group(1))]
    if not since:
        return "this draft has changed since you read it."
    last = since[-1]
    more = f" and {len(since) - 1} more" if len(since) > 1 else ""
    return f"{names.get(last.person, last.person)} saved meanwhile: {last.summary}{more}."


def _naming(unit: Unit) -> Naming:
    return naming_of(unit.catalogues.get(), incident_types=incident_type_titles(unit))


def _summary(old: Content, new: Content, naming: Naming, labels: Mapping[str, str]) -> str:
    """What an edit did, in a few words."""
    differences: Sequence[Difference] = ()
    if isinstance(old, Plan) and isinstance(new, Plan):
        differences = compare_plans(old, new)
    elif isinstance(old, IncidentType) and isinstance(new, IncidentType):
        differences = compare_incident_types(old, new)
    elif isinstance(old, DecisionTable) and isinstance(new, DecisionTable):
        differences = compare_tables(old, new, naming)
    elif isinstance(old, WrittenGuide) and isinstance(new, WrittenGuide):
        differences = compare_guides(old, new, labels)
    if not differences:
        return "changed the draft"
    first = differences[0]
    aspect = f"{first.aspect} of " if first.aspect else ""
    quoted = first.title.startswith("“") or not first.place
    title = first.title if quoted else f"“{first.title}”"
    more = f" and {len(differences) - 1} more" if len(differences) > 1 else ""
    return f"{first.change} {aspect}{title if first.title else 'a step'}{more}"


def log_edit(
    unit: Unit, revision: Revision, person: Person, summary: str, patch: Patch, inverse: Patch
) -> None:
    """Keep an edit with the patch that takes it back."""
    edit = _edit_of(revision, person, summary, patch, inverse)
    unit.documents.add_edit(revision.document, revision.letter, edit)


def _edit_of(revision: Revision, person: Person, summary: str, patch: Patch, inverse: Patch) -> Edit:
    return Edit(
        version=revision.version,
        at=revision.changed_at,
        person=person.id,
        summary=summary,
        patch=patch,
        inverse=inverse,
    )


def note_act_on(unit: Unit, revision: Revision, person: Person, now: datetime, act: Act, note: str) -> None:
    """Keep what somebody did to a revision as a whole."""
    kept = RevisionAct(letter=revision.letter, at=now, person=person.id, act=act, note=note)
    unit.documents.add_act(revision.document, kept)
