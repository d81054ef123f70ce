"""Decide on what the evidence suggests: draft it, decline it, put it off, or take that back."""

from __future__ import annotations

from datetime import timedelta

from reedling.core.guidance.documents import Content, Revision
from reedling.core.people import Person
from reedling.core.refining.changes import changed
from reedling.core.refining.decisions import Decided
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.actions.drafts import change_draft
from reedling.services.context import Context
from reedling.services.shared.current import current_revision, etag_of
from reedling.services.shared.suggesting import Suggested, suggested

MOST_DAYS = 365


def draft_proposal(context: Context, person: Person, key: str) -> Revision:
    """Put a proposal's change into the draft of its document, beginning one where there is none; the draft.

    Raises
    ------
    NotFound
        ``proposals.unknown`` when the evidence does not make it any more.
    Conflict
        ``proposals.gone`` when the draft no longer has what would be changed, or has it already.
    """
    one = _need(context, key)
    document = one.base.document
    with context.reading() as unit:
        etag = etag_of(current_revision(unit, document))

    def apply(old: Content, revision: Revision) -> Content:
        new = changed(old, one.proposal.change)
        if new is None:
            raise Conflict(
                "proposals.gone",
                "the draft has this already, or no longer has what it would change.",
                where=f"{document} {revision.letter}",
                hint="Open the draft and look.",
            )
        return new

    change_draft(context, person, document, etag, apply, begin=True)
    with context.writing() as unit:
        draft = current_revision(unit, document)
        unit.proposals.put(
            Decided(
                key=key,
                state="Drafted",
                n_jobs=one.proposal.n_jobs,
                at=context.clock(),
                person=person.id,
                document=document,
                letter=draft.letter,
                promised=one.proposal.effect,
            )
        )
        return draft


def decline_proposal(context: Context, person: Person, key: str, reason: str) -> None:
    """Decline a proposal with a reason; it returns once its jobs have grown by half again."""
    if not reason.strip():
        raise InvalidInput("proposals.reason", "say why it is declined.", where="Proposal")
    one = _need(context, key)
    with context.writing() as unit:
        unit.proposals.put(
            Decided(
                key=key,
                state="Declined",
                n_jobs=one.proposal.n_jobs,
                at=context.clock(),
                person=person.id,
                reason=reason.strip(),
            )
        )


def put_off_proposal(context: Context, person: Person, key: str, days: int) -> None:
    """Put a proposal off for some days."""
    if not 1 <= days <= MOST_DAYS:
        raise InvalidInput("proposals.days", f"it is put off for 1 to {MOST_DAYS} days.", where="Proposal")
    one = _need(context, key)
    now = context.clock()
    with context.writing() as unit:
        unit.proposals.put(
            Decided(
                key=key,
                state="Later",
                n_jobs=one.proposal.n_jobs,
                at=now,
                person=person.id,
                until=now + timedelta(days=days),
            )
        )


def reopen_proposal(context: Context, key: str) -> None:
    """Take back what was decided on a proposal."""
    with context.writing() as unit:
        unit.proposals.forget(key)


def _need(context: Context, key: str) -> Suggested:
    with context.reading() as unit:
        found = next((one for one in suggested(unit) if one.proposal.key == key), None)
    if found is None:
        raise NotFound(
            "proposals.unknown", "the evidence does not suggest this any more.", where=key, hint="Reload."
        )
    return found
