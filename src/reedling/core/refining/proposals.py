"""What a proposal is: a change to a document that the evidence suggests, with the jobs that it rests on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from reedling.core.guidance.plans import Plan
from reedling.core.refining.changes import DraftedChange

FEWEST_JOBS = 10
"""Fewer jobs than this say nothing about a step."""
GROWN_BY = 1.5
"""What was declined returns once its jobs are this many times as many."""

ProposalKind = Literal[
    "re-time a step",
    "illustrate a step",
    "drop a step",
    "retire a branch",
    "move a check",
    "spare a check",
    "tighten a limit",
    "relax a limit",
    "add a step",
    "add a part",
    "carry a part",
    "take up a note",
    "add a row",
    "add a synonym",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class StepJob:
    """One job that had a step on its sheet: whether it wanted it, the minutes it took, what came of it."""

    order: str
    model: str
    wanted: bool
    minutes: float | None = None
    out_of_limit: bool | None = None
    helped: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingJob:
    """What one job read or worked out at a question, in the question's own unit, and the cause it was coded with."""

    order: str
    value: float
    cause: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanEvidence:
    """A plan in force with what its jobs said of each step; ``asked`` are the questions of help threads, by step."""

    document: str
    revision: str
    plan: Plan
    steps: Mapping[str, Sequence[StepJob]]
    asked: Mapping[str, Sequence[str]] = field(default_factory=dict)
    readings: Mapping[str, Sequence[ReadingJob]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """A change the evidence suggests to ``document`` at ``revision``; to a list, by its name, at none.

    ``about`` tells proposals of one kind on one thing apart. ``sentence`` says what was found, ``effect`` what the change is worth, ``rule`` by what it was found, ``goes_away``
    what would make it go. ``n_jobs`` were looked at, ``orders`` are those that show it. ``weight`` ranks proposals:
    minutes over the jobs looked at. ``p_value`` is 1 where the rule rests on an interval instead of a test.
    """

    kind: ProposalKind
    document: str
    revision: str
    step: str
    part: str
    sentence: str
    effect: str
    rule: str
    goes_away: str
    change: DraftedChange
    n_jobs: int
    orders: tuple[str, ...]
    weight: float
    p_value: float = 1.0
    about: str = ""

    @property
    def key(self) -> str:
        """By what it is known from one look at the evidence to the next."""
        told = (self.kind, self.document, self.step or self.part, self.about)
        return ":".join(one.replace(" ", "-") for one in told if one)


def returns(declined_at: int, n_jobs: int) -> bool:
    """Whether what was declined on so many jobs may be shown again on these."""
    return n_jobs >= GROWN_BY * declined_at
