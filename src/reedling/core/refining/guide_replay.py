"""Closed jobs walked through a fault guide: what its order of work would have cost them.

Each job has one cause, as it was coded. It is walked from the first thing to do: a check comes out as the job recorded
it, a remedy helps where the job records that it did. What it does not record is drawn: a check from jobs of the same
cause, or else, and for a remedy, by the chance that the guide in force has for the cause, by the draft's where that
has none. Minutes are those that the job took at the step; else those of jobs alike; else as written, in force before in
the draft. So both orders meet the same job, and a figure that was only written otherwise saves nothing by itself.
"""

from __future__ import annotations

import random
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

from reedling.core.faultguide.learning import ClosedJob, Learned, LearnedGuide
from reedling.core.faultguide.strategies import Doing
from reedling.core.faultguide.written_learning import NO_WORD
from reedling.core.refining.past_work import FEWEST_ALIKE, Donors, PastWork
from reedling.core.refining.replayed import N_FILLINGS, Replayed, Walked, replayed_of

LAST_RESORT = "last resort"


@dataclass(frozen=True, kw_only=True)
class GuideToWalk:
    """A fault guide with what jobs make of it, and its order of work, ``first`` what is done first.

    ``checks`` and ``remedies`` are the names that both guides know theirs by; ``check_lines`` and ``remedy_lines`` the
    steps that they are linked to, empty for none; ``codes`` those of the remedies.
    """

    found: LearnedGuide
    first: Doing
    checks: tuple[str, ...]
    check_lines: tuple[str, ...]
    remedies: tuple[str, ...]
    remedy_lines: tuple[str, ...]
    codes: tuple[str, ...]

    @cached_property
    def words(self) -> dict[str, str]:
        """What each check and remedy says, by its name."""
        guide = self.found.guide
        checks = {key: check.label for key, check in zip(self.checks, guide.checks, strict=True)}
        remedies = {key: repair.label for key, repair in zip(self.remedies, guide.repairs, strict=True)}
        return {**checks, **remedies, LAST_RESORT: "Send for a specialist"}

    def check_minutes(self, check: str) -> float | None:
        """The minutes of a check as written; nothing where the guide lacks it."""
        return self.found.guide.checks[self.checks.index(check)].minutes if check in self.checks else None

    def remedy_minutes(self, remedy: str) -> float | None:
        """The minutes of a remedy as written, without its proof; nothing where the guide lacks it."""
        if remedy not in self.remedies:
            return None
        repair = self.found.guide.repairs[self.remedies.index(remedy)]
        return repair.minutes + repair.cost_minutes

    def check_cell(self, check: str, cause: str) -> Learned | None:
        """How often a check is so for a cause; nothing where the guide lacks either."""
        if check not in self.checks or cause not in self.found.guide.causes:
            return None
        return self.found.cells[self.checks.index(check)][self.found.guide.causes.index(cause)]

    def remedy_cell(self, remedy: str, cause: str) -> Learned | None:
        """How often a remedy helps with a cause; nothing where it is not said to."""
        if remedy not in self.remedies or cause not in self.found.guide.causes:
            return None
        return self.found.repair_cells[self.remedies.index(remedy)][self.found.guide.causes.index(cause)]


def replay_guides(
    before: GuideToWalk,
    draft: GuideToWalk,
    closed: Sequence[ClosedJob],
    works: Sequence[PastWork],
    *,
    n_fillings: int = N_FILLINGS,
) -> Replayed:
    """Walk closed jobs through the fault guide in force and through a draft of it.

    ``closed`` are jobs with a cause, ``works`` the same ones with the minutes of their steps.
    """
    of_order = {job.order: job for job in closed}
    truths = [_Truth(before, draft, closed, Donors(works, n), n) for n in range(n_fillings)]

    def walk_both(work: PastWork, filling: int) -> tuple[Walked, Walked]:
        job, truth = of_order[work.order], truths[filling]
        return walk_guide(before, job, work, truth), walk_guide(draft, job, work, truth)

    return replayed_of(works, walk_both, before=before.words, draft=draft.words, n_fillings=n_fillings)


@dataclass(frozen=True)
class _Truth:
    """How things would have come out on a job, whichever of the two guides asks."""

    before: GuideToWalk
    draft: GuideToWalk
    closed: Sequence[ClosedJob]
    donors: Donors
    filling: int
    seen: dict[tuple[str, str], list[bool]] = field(default_factory=dict)

    def is_so(self, check: str, job: ClosedJob) -> tuple[bool, bool]:
        """Whether a check is so on a job, and whether that had to be drawn."""
        if check in job.seen:
            return job.seen[check], False
        dice = random.Random(f"{self.filling} {check} {job.order}")
        alike = self._seen(check, job.cause)
        if len(alike) >= FEWEST_ALIKE:
            # The jobs that are drawn from are drawn themselves first, as in Donors.
            rng = random.Random(f"{self.filling} {check} {job.cause}")
            return rng.choices(alike, k=len(alike))[dice.randrange(len(alike))], True
        cell = self.before.check_cell(check, job.cause) or self.draft.check_cell(check, job.cause)
        return dice.random() < (cell.value if cell else NO_WORD), True

    def helps(self, remedy: str, code: str, job: ClosedJob) -> tuple[bool, bool]:
        """Whether a remedy puts a job right, and whether that had to be drawn."""
        if remedy in job.tried:
            return job.tried[remedy], False
        cell = self.before.remedy_cell(remedy, job.cause) or self.draft.remedy_cell(remedy, job.cause)
        # One code may stand for several remedies, such as a part replaced: it is the one meant for the cause.
        is_meant = cell is not None or not self._is_known(job.cause)
        if code == job.remedy and is_meant:
            return True, False
        if cell is None:
            return False, False
        return random.Random(f"{self.filling} {remedy} {job.order}").random() < cell.value, True

    def minutes(self, line: str, written: float, work: PastWork) -> tuple[float, bool]:
        """The minutes of a step on a job, and whether they are not its own."""
        own = work.minutes.get(line) if line else None
        if own is not None:
            return own, False
        drawn = self.donors.minutes(line, work) if line else None
        return written if drawn is None else drawn, True

    def _is_known(self, cause: str) -> bool:
        return any(cause in guide.found.guide.causes for guide in (self.before, self.draft))

    def _seen(self, check: str, cause: str) -> list[bool]:
        key = check, cause
        if key not in self.seen:
            alike = (job.seen.get(check) for job in self.closed if job.cause == cause)
            self.seen[key] = [value for value in alike if value is not None]
        return self.seen[key]


class _Thing(NamedTuple):
    """Something done on a job: its name, the step it is linked to, the minutes written for it, those of the proof after
    it (nothing after a check), and whether how it came out was drawn."""

    name: str
    line: str
    written: float
    proof: float | None
    was_drawn: bool


def walk_guide(guide: GuideToWalk, job: ClosedJob, work: PastWork, truth: _Truth) -> Walked:
    """Walk a job through the order of work of a fault guide, to when the equipment works."""
    by_line: dict[str, float] = {}
    filled, n_filled = 0.0, 0
    looked_at: set[str] = set()
    for thing in _done(guide, job, truth):
        n_filled += thing.was_drawn
        if thing.proof is None and thing.line:
            if thing.line in looked_at:
                # Two checks of one step are seen at once.
                continue
            looked_at.add(thing.line)
        taken, is_other = truth.minutes(thing.line, thing.written, work)
        proof = thing.proof or 0.0
        by_line[thing.name] = by_line.get(thing.name, 0.0) + taken + proof
        filled += proof + (taken if is_other else 0.0)
    return Walked(minutes=sum(by_line.values()), filled=filled, n_filled=n_filled, parts={}, by_line=by_line)


def _done(guide: GuideToWalk, job: ClosedJob, truth: _Truth) -> Iterator[_Thing]:
    """What is done on a job, one after the other."""
    doing: Doing | None = guide.first
    in_force = truth.before.found.guide
    while doing is not None and doing.act != "last resort":
        if doing.act == "check":
            check = guide.checks[doing.place]
            is_so, was_drawn = truth.is_so(check, job)
            written = _first(truth.before.check_minutes(check), guide.check_minutes(check))
            yield _Thing(check, guide.check_lines[doing.place], written, None, was_drawn)
            doing = doing.yes if is_so else doing.no
            continue
        remedy = guide.remedies[doing.place]
        helps, was_drawn = truth.helps(remedy, guide.codes[doing.place], job)
        written = _first(truth.before.remedy_minutes(remedy), guide.remedy_minutes(remedy))
        yield _Thing(remedy, guide.remedy_lines[doing.place], written, in_force.prove_minutes, was_drawn)
        if helps:
            return
        doing = doing.no
    yield _Thing(LAST_RESORT, "", in_force.last_resort_minutes, None, False)


def _first(one: float | None, other: float | None) -> float:
    return next(found for found in (one, other) if found is not None)
