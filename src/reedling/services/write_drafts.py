"""Begin, change and discard drafts. Every saved edit raises the version and can be undone."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Any

from reedling.core.guidance.decision_tables import Column, DecisionTable
from reedling.core.guidance.differences import Difference, compare_incident_types, compare_plans
from reedling.core.guidance.documents import Act, Content, Edit, Revision, RevisionAct
from reedling.core.guidance.editing import CopySteps, PlanEdit, arranged, edit_plan
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.questions import Tick
from reedling.core.guidance.revisions import PLAN_KINDS, DocumentKind, letter_rank, next_letter
from reedling.core.matching.cells import Naming, naming_of
from reedling.core.matching.table_differences import compare_tables
from reedling.core.matching.table_editing import MAX_ROWS, TableEdit, edit_table
from reedling.core.people import Person
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.exchange.content import dump_value, load_content
from reedling.services.context import Context
from reedling.services.current import current_revision, etag_of
from reedling.services.document_views import IncidentTypeView, PlanView, incident_type_view, plan_view
from reedling.services.keep_changes import keep_change
from reedling.services.patches import Patch, apply_patch, patch_between
from reedling.services.shared_library import where_used
from reedling.services.table_views import TableView, known_to_tables, table_view, vocabulary
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
    table: TableView | None
    inverse: Patch
    summary: str


def create_incident_type(context: Context, person: Person, title: str, equipment: str | None) -> str:
    """A new incident type with an empty work plan of the same title, both drafts; its identity."""
    if not title.strip():
        raise InvalidInput(
            "incident_types.title", "the incident type needs a title.", where="New incident type"
        )
    with context.store.writing() as unit:
        if equipment is not None and equipment not in {c.code for c in unit.catalogues.get().equipment}:
            raise InvalidInput("incident_types.equipment", f"there is no equipment class {equipment}.")
        plan_id = f"WP-{unit.next_number('WP'):03d}"
        incident_id = f"IT-{unit.next_number('IT'):03d}"
        _add_draft(unit, context, person, plan_id, Plan(title=title.strip()), "plan")
        incident = IncidentType(title=title.strip(), equipment=equipment, plans=(plan_id,))
        _add_draft(unit, context, person, incident_id, incident, "incident type")
    return incident_id


PREFIXES: Mapping[DocumentKind, str] = {
    "plan": "WP",
    "form": "FM",
    "standard step": "SS",
    "incident type": "IT",
    "decision table": "DT",
}
"""What the identities of documents of a kind begin with."""


FIRST_COLUMNS = (Column(kind="equipment"), Column(kind="model"), Column(kind="symptom"))
"""What a new table asks about."""


def create_document(context: Context, person: Person, kind: DocumentKind, title: str) -> str:
    """A new form, standard step, plan or decision table, as a draft; its identity.

    A form begins with one section, a standard step with the one step it is, a table with columns for
    equipment, model and symptom.
    """
    if not title.strip():
        raise InvalidInput("plans.title", f"the {kind} needs a title.", where=f"New {kind}")
    if kind == "decision table":
        table = DecisionTable(title=title.strip(), columns=FIRST_COLUMNS)
        with context.store.writing() as unit:
            document = f"DT-{unit.next_number('DT'):03d}"
            _add_draft(unit, context, person, document, table, kind)
        return document
    if kind not in PLAN_KINDS:
        raise InvalidInput("drafts.kind", f"an {kind} is begun with its plan.", where=f"New {kind}")
    first = Step(
        id=f"s-{context.new_id()}",
        phase="Diagnose",
        text=title.strip() if kind == "standard step" else "First section",
        minutes=Minutes(likely=5),
        proofs=(Tick(id=f"q-{context.new_id()}"),) if kind == "standard step" else (),
    )
    steps = () if kind == "plan" else (first,)
    with context.store.writing() as unit:
        document = f"{PREFIXES[kind]}-{unit.next_number(PREFIXES[kind]):03d}"
        _add_draft(unit, context, person, document, Plan(title=title.strip(), steps=steps), kind)
    return document


def copy_document(context: Context, person: Person, document: str) -> str:
    """A new document that starts from this one as it stands; the copy's identity.

    A copy of an incident type uses the same plans.
    """
    now = context.clock()
    with context.store.reading() as unit:
        source = current_revision(unit, document)
        rests_on = writers_of(unit, source)
    with context.store.writing() as unit:
        prefix = PREFIXES[source.kind]
        copy = f"{prefix}-{unit.next_number(prefix):03d}"
        title = f"{source.content.title}, copy"
        _add_draft(unit, context, person, copy, replace(source.content, title=title), source.kind)
        unit.documents.let_rest_on(copy, "A", rests_on)
        act = RevisionAct(
            letter="A", at=now, person=person.id, act="copied", note=f"from {document} {source.letter}"
        )
        unit.documents.add_act(copy, act)
    return copy


def add_plan(context: Context, person: Person, incident_type: str, plan: str | None, title: str) -> str:
    """Let an incident type use one more plan: one that is there, or a new one; the plan's identity.

    The incident type gets a draft if it has none.
    """
    with context.store.writing() as unit:
        current = current_revision(unit, incident_type, ("incident type",))
        assert isinstance(current.content, IncidentType)
        if current.state == "In review":
            raise Conflict("drafts.none", "it is in review.", where=incident_type, hint="Give it back first.")
        if plan is not None and unit.documents.kind(plan) != "plan":
            raise NotFound("documents.unknown", f"there is no plan {plan}.")
        if plan is not None and plan in current.content.plans:
            raise Conflict("incident_types.plan", f"it uses {plan} already.", where=incident_type)
        if plan is None:
            if not title.strip():
                raise InvalidInput("plans.title", "the plan needs a title.", where="New plan")
            plan = f"WP-{unit.next_number('WP'):03d}"
            _add_draft(unit, context, person, plan, Plan(title=title.strip()), "plan")
        draft = current if current.state == "Draft" else _begin(unit, context, person, incident_type)
        content = replace(current.content, plans=(*current.content.plans, plan))
        _write_edit(unit, person, _work_out(unit, context, draft, content))
        return plan


def begin_draft(context: Context, person: Person, document: str) -> str:
    """Open the next revision of a document, starting from the one in force; its letter."""
    with context.store.writing() as unit:
        revisions = unit.documents.revisions(document)
        if not revisions:
            raise NotFound("documents.unknown", f"there is no document {document}.")
        if any(r.state in ("Draft", "In review") for r in revisions):
            raise Conflict(
                "drafts.open", "there is already a draft.", where=document, hint="Work on that one."
            )
        return _begin(unit, context, person, document).letter


def _begin(unit: Unit, context: Context, person: Person, document: str) -> Revision:
    now = context.clock()
    revisions = unit.documents.revisions(document)
    base = unit.documents.released(document) or revisions[-1]
    draft = replace(
        base,
        letter=next_letter(max((r.letter for r in revisions), key=letter_rank)),
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
    unit.documents.add_revision(draft)
    _log(unit, draft, person, f"began {draft.letter} from {base.letter}", [], [])
    _act(unit, draft, person, now, "began", f"from {base.letter}")
    return draft


def discard_draft(context: Context, person: Person, document: str, etag: str) -> None:
    """Throw a draft away, and keep who did and what it said. What was released stays."""
    with context.store.writing() as unit:
        revision = _draft(unit, document, etag)
        kind = revision.kind
        users = where_used(unit, document)
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


def patch_draft(context: Context, person: Person, document: str, patch: Patch, etag: str) -> SavedEdit:
    """Apply a JSON Patch (RFC 6902) to a draft.

    Raises
    ------
    Conflict
        ``drafts.stale`` when somebody saved since the tag was read. Nothing is changed.
    InvalidInput
        ``content.invalid`` for a result that is not a document of this kind; what
        :func:`~reedling.services.patches.apply_patch` raises.
    """

    def apply(old: Content, revision: Revision) -> Content:
        patched = apply_patch(dump_value(old), patch, where=document)
        return load_content(revision.kind, patched, where=f"{document}, after the patch")

    return _save(context, person, document, etag, apply)


def edit_draft(context: Context, person: Person, document: str, edit: PlanEdit, etag: str) -> SavedEdit:
    """Make one structural edit to a plan's draft; errors as :func:`patch_draft`."""

    source: Plan | None = None
    rests_on: frozenset[str] = frozenset()
    if isinstance(edit, CopySteps) and edit.source != document:
        with context.store.reading() as unit:
            revision = current_revision(unit, edit.source, PLAN_KINDS)
            source = revision.content if isinstance(revision.content, Plan) else None
            rests_on = writers_of(unit, revision)

    def apply(old: Content, _revision: Revision) -> Content:
        if not isinstance(old, Plan):
            raise InvalidInput("drafts.kind", "only a plan has steps.", where=document)
        return edit_plan(
            old,
            edit,
            new_id=f"s-{context.new_id()}",
            new_proof_id=f"q-{context.new_id()}",
            source=source,
        )

    return _save(context, person, document, etag, apply, rests_on=rests_on)


def edit_table_draft(
    context: Context, person: Person, document: str, edit: TableEdit, etag: str
) -> SavedEdit:
    """Make one edit to a decision table's draft, as on a sheet; errors as :func:`patch_draft`."""
    with context.store.reading() as unit:
        words = vocabulary(unit)

    def apply(old: Content, _revision: Revision) -> Content:
        if not isinstance(old, DecisionTable):
            raise InvalidInput("drafts.kind", "only a decision table has rows.", where=document)
        return edit_table(old, edit, words, new_id=f"r-{context.new_id()}")

    return _save(context, person, document, etag, apply)


def draft_history(context: Context, document: str, letter: str) -> tuple[tuple[Edit, str], ...]:
    """The edits of a revision with the names of who made them, newest first."""
    with context.store.reading() as unit:
        if unit.documents.revision(document, letter) is None:
            raise NotFound("revisions.unknown", f"{document} has no revision {letter}.")
        names = unit.people.names()
        edits = unit.documents.edits(document, letter)
        return tuple((e, names.get(e.person, e.person)) for e in reversed(edits))


def writers_of(unit: Unit, revision: Revision) -> frozenset[str]:
    """Everybody whose unreleased work a revision holds: who wrote in it, sent it, or had theirs copied into it.

    What was released was seen by four eyes, and is nobody's any more.
    """
    if revision.state not in ("Draft", "In review"):
        return frozenset()
    edits = unit.documents.edits(revision.document, revision.letter)
    sent = {revision.sent_by} if revision.sent_by else set()
    return (
        frozenset(e.person for e in edits)
        | sent
        | unit.documents.rests_on(revision.document, revision.letter)
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _WorkedOut:
    """An edit of a draft, ready to be written: the revision after, as data, and both patches."""

    revision: Revision
    data: dict[str, Any]
    patch: Patch
    inverse: Patch
    summary: str


def _save(
    context: Context,
    person: Person,
    document: str,
    etag: str,
    change: Callable[[Content, Revision], Content],
    *,
    rests_on: frozenset[str] = frozenset(),
) -> SavedEdit:
    """Work an edit out, write it if the draft is still the one read, and tell all that follows from it."""
    today = context.clock().date()
    with context.store.reading() as unit:
        revision = _draft(unit, document, etag)
        old = revision.content
        new = change(old, revision)
        if isinstance(new, Plan):
            new = replace(new, steps=arranged(new.steps))
        if new == old:
            return _saved(unit, revision, [], "", today)
        worked_out = _work_out(unit, context, revision, new)
    with context.store.writing() as unit:
        if unit.documents.open_mark(document) != (revision.letter, revision.version, revision.state):
            _draft(unit, document, etag)
        _write_edit(unit, person, worked_out)
        if rests_on - {person.id}:
            unit.documents.let_rest_on(document, revision.letter, rests_on)
    with context.store.reading() as unit:
        return _saved(unit, worked_out.revision, worked_out.inverse, worked_out.summary, today)


def _work_out(unit: Unit, context: Context, revision: Revision, new: Content) -> _WorkedOut:
    """A draft's new content as one edit, within bounds."""
    _check_size(revision.document, new)
    before, after = dump_value(revision.content), dump_value(new)
    if len(str(after)) > MAX_CONTENT_BYTES:
        raise InvalidInput(
            "drafts.too_large",
            f"a document may have {MAX_CONTENT_BYTES:,} characters.",
            where=revision.document,
            hint="Split it in two.",
        )
    naming = _naming(unit) if isinstance(new, DecisionTable) else Naming()
    return _WorkedOut(
        revision=replace(revision, content=new, version=revision.version + 1, changed_at=context.clock()),
        data=after,
        patch=patch_between(before, after),
        inverse=patch_between(after, before),
        summary=_summary(revision.content, new, naming),
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
        "questions": (sum(len(s.proofs) for s in new.steps), MAX_QUESTIONS),
    }
    for what, (count, most) in counts.items():
        if count > most:
            raise InvalidInput(
                "drafts.too_large",
                f"a document may have {most:,} {what}, this would have {count:,}.",
                where=document,
                hint="Split it into several.",
            )


def _write_edit(unit: Unit, person: Person, edit: _WorkedOut) -> None:
    unit.documents.save(edit.revision, edit.data)
    _log(unit, edit.revision, person, edit.summary, edit.patch, edit.inverse)


def _saved(unit: Unit, revision: Revision, inverse: Patch, summary: str, today: date) -> SavedEdit:
    return SavedEdit(
        plan=plan_view(unit, revision, today) if revision.kind in PLAN_KINDS else None,
        incident_type=incident_type_view(unit, revision, today) if revision.kind == "incident type" else None,
        table=table_view(unit, revision) if revision.kind == "decision table" else None,
        inverse=inverse,
        summary=summary,
    )


def _draft(unit: Unit, document: str, etag: str) -> Revision:
    """The draft, if nobody has saved since the tag was read."""
    revision = current_revision(unit, document)
    if revision.state != "Draft":
        raise Conflict(
            "drafts.none",
            f"revision {revision.letter} is {revision.state.lower()}, and there is no draft.",
            where=document,
            hint="Begin the next revision to change something.",
        )
    if etag != etag_of(revision):
        raise Conflict(
            "drafts.stale",
            _who_was_first(unit, revision, etag),
            where=document,
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
    return naming_of(unit.catalogues.get(), incident_types=known_to_tables(unit).incident_types)


def _summary(old: Content, new: Content, naming: Naming) -> str:
    """What an edit did, in a few words."""
    differences: Sequence[Difference] = ()
    if isinstance(old, Plan) and isinstance(new, Plan):
        differences = compare_plans(old, new)
    elif isinstance(old, IncidentType) and isinstance(new, IncidentType):
        differences = compare_incident_types(old, new)
    elif isinstance(old, DecisionTable) and isinstance(new, DecisionTable):
        differences = compare_tables(old, new, naming)
    if not differences:
        return "changed the draft"
    first = differences[0]
    aspect = f"{first.aspect} of " if first.aspect else ""
    quoted = first.title.startswith("“") or not first.place
    title = first.title if quoted else f"“{first.title}”"
    more = f" and {len(differences) - 1} more" if len(differences) > 1 else ""
    return f"{first.change} {aspect}{title if first.title else 'a step'}{more}"


def _add_draft(
    unit: Unit, context: Context, person: Person, document: str, content: Content, kind: DocumentKind
) -> None:
    now = context.clock()
    unit.documents.add(document, kind, now)
    revision = Revision(
        document=document,
        kind=kind,
        letter="A",
        state="Draft",
        version=1,
        content=content,
        created_at=now,
        changed_at=now,
    )
    unit.documents.add_revision(revision)
    _log(unit, revision, person, "began A", [], [])
    _act(unit, revision, person, now, "began", "")


def _log(unit: Unit, revision: Revision, person: Person, summary: str, patch: Patch, inverse: Patch) -> None:
    edit = Edit(
        version=revision.version,
        at=revision.changed_at,
        person=person.id,
        summary=summary,
        patch=patch,
        inverse=inverse,
    )
    unit.documents.add_edit(revision.document, revision.letter, edit)


def _act(unit: Unit, revision: Revision, person: Person, now: datetime, act: Act, note: str) -> None:
    kept = RevisionAct(letter=revision.letter, at=now, person=person.id, act=act, note=note)
    unit.documents.add_act(revision.document, kept)
