"""Send an incident type and its plans for review, give them back, release them: four eyes."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from reedling.core.checking.draft import plan_defects
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.revisions import move_revision, require_second_person
from reedling.core.guidance.soundness import has_errors, incident_type_problems
from reedling.errors import Conflict, InvalidInput, NotFound, Problem
from reedling.services.context import Context
from reedling.store.records import Person, Revision
from reedling.store.unit import Unit


def send_for_review(context: Context, person: Person, incident_type: str, note: str) -> tuple[str, ...]:
    """Send every draft of an incident type and its plans; gives the documents sent.

    Raises
    ------
    InvalidInput
        ``drafts.unsound`` with every error found; nothing is sent.
    Conflict
        ``drafts.none`` when nothing of it is a draft.
    """
    now = context.clock()
    with context.store.writing() as unit:
        drafts = [r for r in _open(unit, incident_type) if r.state == "Draft"]
        if not drafts:
            raise Conflict("drafts.none", "there is no draft to send.", where=incident_type)
        problems = [p for r in drafts for p in _problems(unit, r) if p.severity == "error"]
        if problems:
            raise InvalidInput(
                "drafts.unsound",
                problems[0].message if len(problems) == 1 else f"{len(problems)} errors stand in the way.",
                where=incident_type,
                hint="Mend what the checks name, then send it.",
                problems=problems,
            )
        for draft in drafts:
            state = move_revision(draft.state, "send", where=draft.document)
            unit.documents.save(replace(draft, state=state, sent_by=person.id, note=note, changed_at=now))
        return tuple(d.document for d in drafts)


def give_back(context: Context, incident_type: str, reason: str) -> tuple[str, ...]:
    """Return what is in review to its writers, with a reason; gives the documents returned."""
    if not reason.strip():
        raise InvalidInput("reviews.reason", "say what should change.", where=incident_type)
    now = context.clock()
    with context.store.writing() as unit:
        waiting = _waiting(unit, incident_type)
        for revision in waiting:
            state = move_revision(revision.state, "give back", where=revision.document)
            unit.documents.save(
                replace(revision, state=state, note=reason.strip(), sent_by=None, changed_at=now)
            )
        return tuple(r.document for r in waiting)


def release(context: Context, person: Person, incident_type: str) -> tuple[str, ...]:
    """Release what is in review; what was in force is superseded. Gives the documents released.

    Raises
    ------
    NotAllowed
        ``revisions.four_eyes`` when this person wrote in one of them or sent it.
    """
    now = context.clock()
    with context.store.writing() as unit:
        waiting = _waiting(unit, incident_type)
        for revision in waiting:
            require_second_person(person.id, _writers(unit, revision), where=revision.document)
            if has_errors(_problems(unit, revision)):
                raise Conflict(
                    "drafts.unsound", "it has errors.", where=revision.document, hint="Give it back."
                )
        for revision in waiting:
            older = unit.documents.released(revision.document)
            if older is not None:
                state = move_revision(older.state, "supersede", where=older.document)
                unit.documents.save(replace(older, state=state))
            state = move_revision(revision.state, "release", where=revision.document)
            unit.documents.save(
                replace(revision, state=state, released_at=now, released_by=person.id, changed_at=now)
            )
        return tuple(r.document for r in waiting)


def bundle(unit: Unit, incident_type: str) -> tuple[str, ...]:
    """The incident type and the plans it uses, now or in force: what goes for review together."""
    if unit.documents.kind(incident_type) != "incident type":
        raise NotFound("documents.unknown", f"there is no incident type {incident_type}.")
    plans: dict[str, None] = {}
    for revision in (unit.documents.open_revision(incident_type), unit.documents.released(incident_type)):
        if revision and isinstance(revision.content, IncidentType):
            plans.update(dict.fromkeys(revision.content.plans))
    return (*(p for p in plans if unit.documents.kind(p) == "plan"), incident_type)


def _open(unit: Unit, incident_type: str) -> list[Revision]:
    found = (unit.documents.open_revision(d) for d in bundle(unit, incident_type))
    return [r for r in found if r is not None]


def _waiting(unit: Unit, incident_type: str) -> list[Revision]:
    waiting = [r for r in _open(unit, incident_type) if r.state == "In review"]
    if not waiting:
        raise Conflict(
            "reviews.none", "nothing of it is in review.", where=incident_type, hint="Reload the page."
        )
    return waiting


def _writers(unit: Unit, revision: Revision) -> frozenset[str]:
    edits = unit.documents.edits(revision.document, revision.letter)
    return frozenset(e.person for e in edits) | ({revision.sent_by} if revision.sent_by else set())


def _problems(unit: Unit, revision: Revision) -> tuple[Problem, ...]:
    content = revision.content
    found: Iterable[Problem]
    if isinstance(content, Plan):
        found = [d.problem for d in plan_defects(content, unit.catalogues.get())]
    else:
        found = incident_type_problems(content, frozenset(unit.documents.of_kind("plan")))
    return tuple(replace(p, path=f"{revision.document}#{p.path}") for p in found)
