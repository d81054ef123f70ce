"""What may be done with an order, by how it stands."""

from __future__ import annotations

from reedling.core.runsheet.job_state import OPEN_STATES, Job, OrderState, job_state

WAITING: tuple[OrderState, ...] = ("Logged", "Planned", "Return needed")
"""Nobody is on the way or at work."""

FOR_THE_FIELD: tuple[OrderState, ...] = ("Planned", "Heading out", "On site", "Return needed")
"""A technician has it to do."""

CLOSED: tuple[OrderState, ...] = ("Finished", "Reviewed", "Cancelled")
"""Nothing more is recorded against it."""

WITHOUT_A_TECHNICIAN: tuple[OrderState, ...] = ("Logged", "Return needed")
"""Somebody has to be found for it."""

UNREAD: OrderState = "Finished"
"""Its job is done and nobody has read it yet."""

LASTING: OrderState = "Reviewed"
"""The one state that never becomes another."""

NOT_COUNTED: OrderState = "Cancelled"
"""The one state in which it does not count as an order that came in."""


def can_be_planned(state: OrderState) -> bool:
    """Whether an order may be given to a technician for a time: also again, after a return was needed."""
    return state in WAITING


def can_be_cancelled(state: OrderState) -> bool:
    """Whether an order may be cancelled."""
    return state in WAITING


def can_be_reissued(state: OrderState, *, has_begun: bool) -> bool:
    """Whether its runsheet may be put together anew: nobody is on the way, and no work was recorded."""
    return state in ("Logged", "Planned") and not has_begun


def takes_parts(state: OrderState) -> bool:
    """Whether a part may be sent ahead to it: somebody may still use it."""
    return state in OPEN_STATES


def takes_records(state: OrderState) -> bool:
    """Whether the field may still record something against it."""
    return state not in CLOSED


def state_after(state: OrderState, job: Job) -> OrderState:
    """The state of an order by its job; a closed one stays as it is, whatever was recorded late."""
    return state if not takes_records(state) else job_state(job) or state


def counts(state: OrderState) -> bool:
    """Whether it counts as an order that came in: a cancelled one does not."""
    return state != NOT_COUNTED
