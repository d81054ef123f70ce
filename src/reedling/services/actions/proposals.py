"""Decide on what the evidence suggests: draft it, decline it, put it off, or take that back."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from typing import Any, Literal

from pydantic import TypeAdapter

from reedling.core.guidance.catalogue import Symptom
from reedling.core.guidance.documents import Content, Revision
from reedling.core.guidance.revisions import DocumentKind
from reedling.core.people import Person
from reedling.core.refining.changes import AddSynonym, changed, with_synonym
from reedling.core.refining.decisions import Decided
from reedling.core.refining.missing_words import SYMPTOMS
from reedling.core.refining.proposals import Proposal
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.exchange.content import dump_value, load_value
from reedling.services.actions.catalogue import rewrite_list
from reedling.services.actions.drafts import change_draft
from reedling.services.context import Context
from reedling.services.shared.current import current_revision, etag_of
from reedling.services.shared.lists import ListPage
from reedling.services.shared.suggesting import Suggested, suggested
from reedling.store.unit import Unit

MOST_DAYS = 365
_SYMPTOM = TypeAdapter(Symptom)


@dataclass(frozen=True, slots=True, kw_only=True)
class PutIn:
    """Where the change of a proposal was put in: a draft, or a list, which has no revision and changes at once."""

    document: str
    letter: str
    kind: DocumentKind | Literal["list"]


def draft_proposal(context: Context, person: Person, key: str) -> PutIn:
    """Put a proposal's change into the draft of its document, beginning one where there is none, or into its list.

    Raises
    ------
    NotFound
        ``proposals.unknown`` when the evidence does not make it any more.
    Conflict
        ``proposals.gone`` when the draft no longer has what would be changed, or has it already.
    """
    one = _need(context, key)
    if isinstance(one.proposal.change, AddSynonym):
        return _put_into_list(context, person, one.proposal, one.proposal.change)
    assert one.base is not None
    document = one.base.document
    with context.reading() as unit:
        etag = etag_of(current_revision(unit, document))

    def apply(old: Content, revision: Revision) -> Content:
        new = changed(old, one.proposal.change)
        if new is None:
            raise _gone(f"{document} {revision.letter}")
        return new

    put_in: PutIn | None = None

    def decide(unit: Unit, draft: Revision) -> None:
        nonlocal put_in
        put_in = PutIn(document=document, letter=draft.letter, kind=draft.kind)
        unit.proposals.put(_taken(context, person, one.proposal, put_in))

    change_draft(context, person, document, etag, apply, begin=True, also=decide)
    if put_in is None:
        raise _gone(document)
    return put_in


def _gone(where: str) -> Conflict:
    return Conflict(
        "proposals.gone",
        "the draft has this already, or no longer has what it would change.",
        where=where,
        hint="Open the draft and look.",
    )


def _put_into_list(context: Context, person: Person, proposal: Proposal, change: AddSynonym) -> PutIn:
    """Add a word to a symptom, as by hand: who did it is kept with the list, where it can be taken back."""

    def entries_after(page: ListPage) -> list[dict[str, Any]]:
        symptoms = tuple(load_value(_SYMPTOM, entry, where=SYMPTOMS) for entry in page.entries)
        new = with_synonym(symptoms, change)
        if new is None:
            raise Conflict(
                "proposals.gone",
                "the list has this already, or no longer has the symptom.",
                where=change.symptom,
                hint="Open the list and look.",
            )
        return [dump_value(symptom) for symptom in new]

    put_in = PutIn(document=SYMPTOMS, letter="", kind="list")
    taken = _taken(context, person, proposal, put_in)
    rewrite_list(context, person, SYMPTOMS, entries_after, also=lambda unit: unit.proposals.put(taken))
    return put_in


def _taken(context: Context, person: Person, proposal: Proposal, put_in: PutIn) -> Decided:
    return Decided(
        key=proposal.key,
        state="Drafted",
        n_jobs=proposal.n_jobs,
        at=context.clock(),
        person=person.id,
        document=put_in.document,
        letter=put_in.letter,
        promised=proposal.effect,
    )


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
