"""What was decided on proposals, and which of them are shown."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from reedling.core.refining.proposals import Proposal, returns

ProposalState = Literal["Open", "Drafted", "Declined", "Later", "Done"]
"""Where a proposal stands; one that is put off is open again on its day."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Decided:
    """What was decided on a proposal, on so many jobs, by whom and when.

    ``until`` is the instant it is put off to, ``letter`` the revision of ``document`` it was drafted in, ``promised``
    what it said it was worth then.
    """

    key: str
    state: ProposalState
    n_jobs: int
    at: datetime
    person: str
    reason: str = ""
    until: datetime | None = None
    document: str = ""
    letter: str = ""
    promised: str = ""


def state_of(proposal: Proposal, decided: Decided | None, now: datetime) -> ProposalState:
    """Where a proposal that the evidence still makes stands.

    What was declined is open again once the evidence has grown by half again, what was put off on its day. What was
    drafted stays so: the evidence of the revision in force still makes it until the draft is released.
    """
    if decided is None:
        return "Open"
    if decided.state == "Declined" and returns(decided.n_jobs, proposal.n_jobs):
        return "Open"
    if decided.state == "Later" and (decided.until is None or now >= decided.until):
        return "Open"
    if decided.state == "Drafted" and decided.letter == proposal.revision:
        return "Open"
    return decided.state
