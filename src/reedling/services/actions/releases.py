"""Send drafts for review, give them back, release them, withdraw them: four eyes.

An incident type goes with the plans it uses, and with the standard steps and forms these refer to
that were never released. What was released once is released by itself, since other plans use it too.
"""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

from reedling.core.guidance.documents import Revision, documents_named
from reedling.core.guidance.revisions import move_revision, require_second_person
from reedling.core.people import Person
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.effective import note_act, put_in_force
from reedling.services.shared.bundles import open_revisions
from reedling.services.shared.findings import release_problems, require_sound
from reedling.services.shared.writers import writers_of
from reedling.store.unit import Unit

MOST_DAYS_AHEAD = 730
"""How long beforehand a release may be approved."""


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
        drafts = [r for r in open_revisions(unit, document) if r.state == "Draft"]
        if not drafts:
            raise Conflict("drafts.none", "there is no draft to send.", where=document)
        going = {r.document for r in open_revisions(unit, document)}
        problems = [
            p for r in drafts for p in release_problems(unit, r, now.date(), going) if p.severity == "error"
        ]
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
            note_act(unit, draft, person.id, now, "sent", note)
        return tuple(d.document for d in drafts)

    return context.change(prepare, write)


def give_back(context: Context, person: Person, document: str, reason: str) -> tuple[str, ...]:
    """Return what is in review to its writers, with a reason; gives the documents returned."""
    if not reason.strip():
        raise InvalidInput("reviews.reason", "say what should change.", where=document)
    now = context.clock()
    with context.writing() as unit:
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
            note_act(unit, revision, person.id, now, "gave back", reason.strip())
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
            require_sound(unit, revision, now.date(), going)
        return waiting

    def write(unit: Unit, waiting: list[Revision]) -> tuple[str, ...]:
        for revision in waiting:
            approved = replace(revision, released_by=person.id, effective_on=effective_on, changed_at=now)
            words = f"takes effect {effective_on}" if effective_on else ""
            note_act(unit, revision, person.id, now, "released", words)
            if effective_on is not None and effective_on > now.date():
                unit.documents.save(approved)
            else:
                put_in_force(unit, approved, now)
        return tuple(r.document for r in waiting)

    return context.change(prepare, write)


def _check_day(document: str, day: date, today: date) -> None:
    """A release takes effect today or later; the day may be yesterday's where it is still that day."""
    if not today - timedelta(days=1) <= day <= today + timedelta(days=MOST_DAYS_AHEAD):
        raise InvalidInput(
            "reviews.day",
            f"a release takes effect today or within {MOST_DAYS_AHEAD} days, not on {day.day} {day:%b %Y}.",
            where=document,
            hint="Choose a day to come.",
        )


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
    with context.writing() as unit:
        if unit.documents.kind(document) is None:
            raise NotFound("documents.unknown", f"there is no document {document}.")
        held = unit.documents.released(document)
        if held is None:
            raise Conflict("revisions.none", "nothing of it is in force.", where=document)
        users = [
            d
            for d in unit.documents.where_used(document)
            if (r := unit.documents.released(d)) and document in documents_named(r.content)
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
        note_act(unit, held, person.id, now, "withdrew", reason.strip())


def _waiting(unit: Unit, document: str) -> list[Revision]:
    waiting = [r for r in open_revisions(unit, document) if r.state == "In review"]
    if not waiting:
        raise Conflict("reviews.none", "nothing of it is in review.", where=document, hint="Reload the page.")
    return waiting
