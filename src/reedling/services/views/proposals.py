"""What the evidence suggests, as engineers read it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from reedling.core.guidance.differences import Difference
from reedling.core.guidance.revisions import letter_rank
from reedling.core.refining.decisions import Decided, ProposalState, state_of
from reedling.core.refining.proposals import Proposal
from reedling.services.context import Context
from reedling.services.shared.suggesting import Suggested, suggested
from reedling.services.views.gains import gains_of_changes
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class ProposalView:
    """A proposal with where it stands, and the change it drafts as a comparison with what is in force.

    ``decided_by_name`` and what follows are of the last decision, if there was one.
    """

    key: str
    proposal: Proposal
    incident_type: str
    title: str
    state: ProposalState
    differences: tuple[Difference, ...]
    decided_by_name: str
    decided_at: datetime | None
    reason: str
    until: datetime | None
    letter: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenProposal:
    """A proposal that was drafted: what it promised, whether the evidence still makes it, and what came of the
    revision that it went into; ``came`` is empty while that has no jobs, or is none of a plan."""

    key: str
    document: str
    letter: str
    title: str
    promised: str
    came: str
    drafted_at: datetime
    by_name: str
    is_in_force: bool
    is_made_still: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ProposalsPage:
    """Every proposal: those that are open first, the weightiest first; and what became of those that were taken."""

    proposals: tuple[ProposalView, ...]
    taken: tuple[TakenProposal, ...]


def proposals_page(context: Context, incident_type: str = "") -> ProposalsPage:
    """What the evidence suggests of all incident types, or one."""
    now = context.clock()
    with context.reading() as unit:
        decided, names = unit.proposals.all(), unit.people.names()
        found = list(suggested(unit, incident_type))
        views = [_view(one, decided.get(one.proposal.key), names, now) for one in found]
        made = {one.proposal.key for one in found}
        came = {
            (document, letter): gain.sentence
            for (_, document, letter), gain in gains_of_changes(unit, now).items()
        }
        return ProposalsPage(
            proposals=tuple(sorted(views, key=lambda v: (v.state != "Open", -v.proposal.weight, v.key))),
            taken=tuple(
                _taken(unit, d, names, made, came)
                for d in decided.values()
                if d.state == "Drafted" and not incident_type
            ),
        )


def _view(one: Suggested, decided: Decided | None, names: dict[str, str], now: datetime) -> ProposalView:
    return ProposalView(
        key=one.proposal.key,
        proposal=one.proposal,
        incident_type=one.incident_type,
        title=one.base.content.title if one.base else _list_title(one.proposal.document),
        state=state_of(one.proposal, decided, now),
        differences=one.differences,
        decided_by_name=names.get(decided.person, decided.person) if decided else "",
        decided_at=decided.at if decided else None,
        reason=decided.reason if decided else "",
        until=decided.until if decided else None,
        letter=decided.letter if decided else "",
    )


def _list_title(name: str) -> str:
    return f"List of {name}"


def _taken(
    unit: Unit,
    decided: Decided,
    names: dict[str, str],
    made: set[str],
    came: Mapping[tuple[str, str], str],
) -> TakenProposal:
    in_force = unit.documents.released(decided.document)
    is_of_list = not decided.letter
    title = _list_title(decided.document) if is_of_list else decided.document
    return TakenProposal(
        key=decided.key,
        document=decided.document,
        letter=decided.letter,
        title=in_force.content.title if in_force else title,
        promised=decided.promised,
        came=came.get((decided.document, decided.letter), ""),
        drafted_at=decided.at,
        by_name=names.get(decided.person, decided.person),
        is_in_force=is_of_list
        or (in_force is not None and letter_rank(in_force.letter) >= letter_rank(decided.letter)),
        is_made_still=decided.key in made,
    )
