"""Send drafts for review, give them back, release them, withdraw them: four eyes.

An incident type goes with the plans it uses, and with the standard steps and forms these refer to
that were never released. What was released once is released by itself, since other plans use it too.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

from reedling.core.checking.draft import draft_defects
from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.documents import Act, Revision, RevisionAct
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import references
from reedling.core.guidance.revisions import move_revision, require_second_person
from reedling.core.matching.table_soundness import table_problems
from reedling.core.people import Person
from reedling.core.register.assets import asset_words
from reedling.core.runsheet.job import OPEN_STATES
from reedling.errors import Conflict, InvalidInput, NotFound, Problem
from reedling.services.context import Context
from reedling.services.document_views import DocumentLink, incident_type_findings, link_to
from reedling.services.shared_library import library_being_written, named_in, uses, where_used
from reedling.services.table_views import known_to_tables
from reedling.services.write_drafts import writers_of
from reedling.store.unit import Unit

MOST_DAYS_AHEAD = 730
"""How long beforehand a release may be approved."""


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptOrder:
    """An open order that keeps the revision it was issued with."""

    order: str
    asset: str
    state: str
    revision: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ReleaseEffect:
    """What a release would touch: documents that go together, plans and orders that refer to them."""

    documents: tuple[DocumentLink, ...]
    used_in: tuple[DocumentLink, ...]
    incident_types: tuple[DocumentLink, ...]
    open_orders: tuple[KeptOrder, ...]


def send_for_review(context: Context, person: Person, document: str, note: str) -> tuple[str, ...]:
    """Send every draft that goes with a document; gives the documents sent.

    Raises
    ------
    InvalidInput
        ``drafts.unsound`` with every error found; nothing is sent.
    Conflict
        ``drafts.none`` when nothing of it is a draft.
    """
    now = context.clock()

    def prepare(unit: Unit) -> list[Revision]:
        drafts = [r for r in _open(unit, document) if r.state == "Draft"]
        if not drafts:
            raise Conflict("drafts.none", "there is no draft to send.", where=document)
        going = {r.document for r in _open(unit, document)}
        problems = [p for r in drafts for p in _problems(unit, r, now.date(), going) if p.severity == "error"]
        if problems:
            raise InvalidInput(
                "drafts.unsound",
                problems[0].message if len(problems) == 1 else f"{len(problems)} errors stand in the way.",
                where=document,
                hint="Mend what the checks name, then send it.",
                problems=problems,
            )
        return drafts

    def write(unit: Unit, drafts: list[Revision]) -> tuple[str, ...]:
        for draft in drafts:
            state = move_revision(draft.state, "send", where=draft.document)
            unit.documents.save(replace(draft, state=state, sent_by=person.id, note=note, changed_at=now))
            _act(unit, draft, person.id, now, "sent", note)
        return tuple(d.document for d in drafts)

    return context.store.change(prepare, write)


def give_back(context: Context, person: Person, document: str, reason: str) -> tuple[str, ...]:
    """Return what is in review to its writers, with a reason; gives the documents returned."""
    if not reason.strip():
        raise InvalidInput("reviews.reason", "say what should change.", where=document)
    now = context.clock()
    with context.store.writing() as unit:
        waiting = _waiting(unit, document)
        for revision in waiting:
            state = move_revision(revision.state, "give back", where=revision.document)
            back = replace(
                revision,
                state=state,
                note=reason.strip(),
                sent_by=None,
                released_by=None,
                effective_on=None,
                changed_at=now,
            )
            unit.documents.save(back)
            _act(unit, revision, person.id, now, "gave back", reason.strip())
        return tuple(r.document for r in waiting)


def release(
    context: Context, person: Person, document: str, effective_on: date | None = None
) -> tuple[str, ...]:
    """Release what is in review; what was in force is superseded. Gives the documents released.

    With a day to come, the revision is approved now and takes effect when that day begins (UTC);
    until then it can be given back.

    Raises
    ------
    NotAllowed
        ``revisions.four_eyes`` when this person wrote in one of them or sent it.
    """
    now = context.clock()
    if effective_on is not None:
        _check_day(document, effective_on, now.date())

    def prepare(unit: Unit) -> list[Revision]:
        waiting = _waiting(unit, document)
        going = {r.document for r in waiting}
        for revision in waiting:
            require_second_person(person.id, writers_of(unit, revision), where=revision.document)
            errors = [p for p in _problems(unit, revision, now.date(), going) if p.severity == "error"]
            if errors:
                raise Conflict(
                    "drafts.unsound",
                    f"it has errors: {errors[0].message}",
                    where=revision.document,
                    hint="Give it back.",
                )
        return waiting

    def write(unit: Unit, waiting: list[Revision]) -> tuple[str, ...]:
        for revision in waiting:
            approved = replace(revision, released_by=person.id, effective_on=effective_on, changed_at=now)
            words = f"takes effect {effective_on}" if effective_on else ""
            _act(unit, revision, person.id, now, "released", words)
            if effective_on is not None and effective_on > now.date():
                unit.documents.save(approved)
            else:
                _put_in_force(unit, approved, now)
        return tuple(r.document for r in waiting)

    return context.store.change(prepare, write)


def _check_day(document: str, day: date, today: date) -> None:
    """A release takes effect today or later; the day may be yesterday's where it is still that day."""
    if not today - timedelta(days=1) <= day <= today + timedelta(days=MOST_DAYS_AHEAD):
        raise InvalidInput(
            "reviews.day",
            f"a release takes effect today or within {MOST_DAYS_AHEAD} days, not on {day.day} {day:%b %Y}.",
            where=document,
            hint="Choose a day to come.",
        )


def bring_into_force(context: Context) -> tuple[str, ...]:
    """Put in force what was approved for a day that has come; gives the documents."""
    now = context.clock()
    with context.store.reading() as unit:
        if not _due(unit, now.date()):
            return ()
    with context.store.writing() as unit:
        due = _due(unit, now.date())
        for revision in due:
            _put_in_force(unit, revision, now)
            assert revision.released_by is not None
            _act(unit, revision, revision.released_by, now, "took effect", "")
        return tuple(r.document for r in due)


def withdraw(context: Context, person: Person, document: str, reason: str) -> None:
    """Take what is in force out of use; orders already issued keep it.

    Raises
    ------
    InvalidInput
        ``reviews.reason`` when no reason is given.
    Conflict
        ``revisions.in_use`` when a released plan, decision table or incident type refers to it; orders
        would get nothing in its place.
    """
    if not reason.strip():
        raise InvalidInput("reviews.reason", "say why it is withdrawn.", where=document)
    now = context.clock()
    with context.store.writing() as unit:
        if unit.documents.kind(document) is None:
            raise NotFound("documents.unknown", f"there is no document {document}.")
        held = unit.documents.released(document)
        if held is None:
            raise Conflict("revisions.none", "nothing of it is in force.", where=document)
        users = [
            d
            for d in where_used(unit, document)
            if (r := unit.documents.released(d)) and document in named_in(r.content)
        ]
        if users:
            raise Conflict(
                "revisions.in_use",
                f"{', '.join(users)} in force refers to it.",
                where=document,
                hint="Release a revision of that without it first, or withdraw that.",
            )
        state = move_revision(held.state, "withdraw", where=document)
        unit.documents.save(replace(held, state=state, changed_at=now))
        _act(unit, held, person.id, now, "withdrew", reason.strip())


def effect_of_release(context: Context, document: str) -> ReleaseEffect:
    """What releasing the drafts that go with a document would touch."""
    with context.store.reading() as unit:
        going = [r.document for r in _open(unit, document)] or [document]
        using = uses(unit)
        direct = {
            d
            for g in going
            for d in using.get(g, ())
            # A table says when, not what: it stays as it is when what it names changes.
            if unit.documents.kind(d) != "decision table"
        } - set(going)
        plans = {d for d in (*going, *direct) if unit.documents.kind(d) != "incident type"}
        above = {d for p in plans for d in using.get(p, ())}
        incidents = sorted(d for d in above | set(going) if unit.documents.kind(d) == "incident type")
        users = sorted(direct - set(incidents))
        orders = [
            KeptOrder(
                order=o.id,
                asset=asset_words(o.asset, o.site),
                state=o.state,
                revision=", ".join(f"{s.document} {s.revision}" for s in o.sources if s.document in going),
            )
            for o in unit.orders.headings(states=OPEN_STATES)
            if any(s.document in going for s in o.sources)
        ]
        return ReleaseEffect(
            documents=tuple(link_to(unit, d) for d in going),
            used_in=tuple(link_to(unit, d) for d in users),
            incident_types=tuple(link_to(unit, d) for d in incidents),
            open_orders=tuple(orders),
        )


def bundle(unit: Unit, document: str) -> tuple[str, ...]:
    """What goes for review together with a document, the document itself last."""
    kind = unit.documents.kind(document)
    if kind is None:
        raise NotFound("documents.unknown", f"there is no document {document}.")
    plans: dict[str, None] = {}
    for revision in (unit.documents.open_revision(document), unit.documents.released(document)):
        if revision and isinstance(revision.content, IncidentType):
            plans.update(dict.fromkeys((*revision.content.plans, *revision.content.forms)))
    known = [p for p in plans if unit.documents.kind(p) in ("plan", "form")]
    new = dict.fromkeys(
        d
        for p in (*known, document)
        if isinstance(content := unit.documents.content_of(p), Plan)
        for d in references(content)
        if unit.documents.kind(d) is not None and unit.documents.released(d) is None
    )
    return (*new, *known, document)


def _due(unit: Unit, today: date) -> list[Revision]:
    if not unit.documents.n_in_state("In review"):
        return []
    return [
        r
        for r in unit.documents.in_state("In review")
        if r.released_by is not None and r.effective_on is not None and r.effective_on <= today
    ]


def _put_in_force(unit: Unit, revision: Revision, now: datetime) -> None:
    older = unit.documents.released(revision.document)
    if older is not None:
        unit.documents.save(
            replace(older, state=move_revision(older.state, "supersede", where=older.document))
        )
    state = move_revision(revision.state, "release", where=revision.document)
    unit.documents.save(replace(revision, state=state, released_at=now))


def _act(unit: Unit, revision: Revision, person: str, now: datetime, act: Act, note: str) -> None:
    unit.documents.add_act(
        revision.document, RevisionAct(letter=revision.letter, at=now, person=person, act=act, note=note)
    )


def _open(unit: Unit, document: str) -> list[Revision]:
    found = (unit.documents.open_revision(d) for d in bundle(unit, document))
    return [r for r in found if r is not None]


def _waiting(unit: Unit, document: str) -> list[Revision]:
    waiting = [r for r in _open(unit, document) if r.state == "In review"]
    if not waiting:
        raise Conflict("reviews.none", "nothing of it is in review.", where=document, hint="Reload the page.")
    return waiting


def _problems(unit: Unit, revision: Revision, today: date, going: set[str]) -> tuple[Problem, ...]:
    content = revision.content
    found: Iterable[Problem]
    if isinstance(content, Plan):
        defects = draft_defects(
            content,
            unit.catalogues.get(),
            kind=revision.kind,
            library=library_being_written(unit, content),
            today=today,
        )
        found = [*(d.problem for d in defects), *_not_in_force(unit, content, going)]
    elif isinstance(content, DecisionTable):
        known = known_to_tables(unit, but=revision.document, going=going)
        found = table_problems(content, unit.catalogues.get(), known)
    else:
        found = incident_type_findings(unit, content, today)
    return tuple(replace(p, path=f"{revision.document}#{p.path}") for p in found)


def _not_in_force(unit: Unit, plan: Plan, going: set[str]) -> Iterable[Problem]:
    for document in references(plan):
        known = unit.documents.kind(document) is not None
        if known and unit.documents.released(document) is None and document not in going:
            yield Problem(
                code="reuse.unreleased",
                path="",
                message=f"{document}, which it refers to, has no revision in force.",
                hint="Send that for review first.",
            )
