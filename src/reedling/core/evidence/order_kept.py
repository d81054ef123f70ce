"""How far a job kept to the order of its runsheet: the best alignment of what was done with what was asked.

A runsheet asks for its steps in a partial order (:func:`turns_of`). Of the steps that were asked for and done, the most
that can have been done in turn are kept; each of the others was done out of turn. Steps that were asked for and not done, and
steps done out of turn, are moves of the alignment: one for each side on which a step has no partner.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import maximum_bipartite_matching

from reedling.core.guidance.phases import phase_rank
from reedling.core.runsheet.arranging import plan_of
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import RunsheetLine
from reedling.core.runsheet.progress import Run

_Done = TypeVar("_Done", bound=Hashable)

ORDER_KEPT = (
    "Steps go by phase, within a phase by the order of their plan; steps of different plans in one phase, and repeats of "
    "one section, go as they come. Order kept is 1 where all that was asked for was done in turn, and less by each step "
    "that was not done or was done out of turn, out of all that was asked for and done."
)


@dataclass(frozen=True, slots=True, kw_only=True)
class OutOfTurn:
    """A step done out of turn: ``is_early`` before ``other``, which stands before it, else after ``other``, which stands
    after it. Both by line."""

    line: str
    other: str
    is_early: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderKept:
    """How far the order was kept, from 0 to 1 and ``None`` where nothing was asked for or done; and what was out of turn."""

    fitness: float | None
    out_of_turn: tuple[OutOfTurn, ...]


@dataclass(frozen=True, slots=True)
class Turn:
    """Where a line stands in the partial order of a runsheet: ``section`` counts within its plan, ``place`` on the sheet."""

    phase: int
    plan: str
    section: int
    each: str
    place: int


def turns_of(lines: Sequence[RunsheetLine]) -> dict[str, Turn]:
    """The turn of each line of a runsheet as it is laid out; a repeated section counts once, any other line by itself."""
    turns: dict[str, Turn] = {}
    last: dict[str, tuple[int, str, str]] = {}
    for place, line in enumerate(lines):
        plan = plan_of(line)
        section, head, each = last.get(plan, (-1, "", ""))
        goes_on = bool(line.each) and bool(each) and (line.each == each or without_repeat(line.id) == head)
        if not goes_on:
            section, head = section + 1, without_repeat(line.id)
        last[plan] = (section, head, line.each)
        turns[line.id] = Turn(phase_rank(line.phase), plan, section, line.each, place)
    return turns


def goes_before(first: Turn, second: Turn) -> bool:
    """Whether what has the first turn is to be done before what has the second; a partial order."""
    if first.phase != second.phase:
        return first.phase < second.phase
    if first.plan != second.plan:
        return False
    if first.section != second.section:
        return first.section < second.section
    return first.each == second.each and first.place < second.place


def kept_in_turn(done: Sequence[_Done], goes_before: Callable[[_Done, _Done], bool]) -> list[_Done]:
    """The most of what was done that was done in turn, in the order in which it was done.

    ``done`` holds each thing once, ``goes_before`` is a partial order (transitive, of no thing with itself). Two things
    are at odds where the one done first goes after the other; that is a partial order itself, and the most things of which
    no two are at odds are its largest antichain: as many as are left over by a largest matching [1]_, and which they are
    follows from its smallest vertex cover [2]_. Of several such sets the one that keeps what was done late is given.

    References
    ----------
    .. [1] Dilworth, R. P. (1950). Ann. of Math. 51(1), 161-166; Fulkerson, D. R. (1956). Proc. AMS 7(4), 701-702.
    .. [2] König, D. (1931). Mat. Fiz. Lapok 38, 116-119.

    Examples
    --------
    >>> kept_in_turn([2, 1, 3], lambda a, b: a < b)
    [1, 3]
    """
    n = len(done)
    at_odds = [[v for v in range(u + 1, n) if goes_before(done[v], done[u])] for u in range(n)]
    if not any(at_odds):
        return list(done)
    pairs = [(u, v) for u, others in enumerate(at_odds) for v in others]
    rows, columns = np.array(pairs).T
    graph = csr_array((np.ones(len(pairs), dtype=np.int8), (rows, columns)), shape=(n, n))
    partner = maximum_bipartite_matching(graph, perm_type="column")
    matched_with = {int(v): u for u, v in enumerate(partner) if v >= 0}
    reached = [u for u in range(n) if partner[u] < 0]
    lefts, rights = set(reached), set[int]()
    while reached:
        for v in at_odds[reached.pop()]:
            if v in rights:
                continue
            rights.add(v)
            u = matched_with[v]
            if u not in lefts:
                lefts.add(u)
                reached.append(u)
    return [one for i, one in enumerate(done) if i in lefts and i not in rights]


def order_kept(run: Run, job: Job) -> OrderKept:
    """How far a job kept to the order of its runsheet, by the order in which its steps were finished; ``run`` is that of
    :func:`reedling.core.runsheet.job_runs.job_run`."""
    turns = turns_of(run.lines)
    states = {p.line: p.state for p in run.progress.lines}
    asked = {line for line, state in states.items() if state in ("due", "done", "skipped")}
    rank = {line: t.rank for line, t in job.times.items() if t.rank and states.get(line) == "done"}
    done = sorted(rank, key=lambda line: rank[line])

    def before(first: str, second: str) -> bool:
        return goes_before(turns[first], turns[second])

    kept = kept_in_turn(done, before)
    in_turn = set(kept)
    n_moves = (len(asked) - len(kept)) + (len(done) - len(kept))
    n_all = len(asked) + len(done)
    found = tuple(
        OutOfTurn(line=line, other=other, is_early=is_early)
        for line in done
        if line not in in_turn
        for other, is_early in _at_odds_with(line, done, kept, before)
    )
    return OrderKept(fitness=1 - n_moves / n_all if n_all else None, out_of_turn=found)


def _at_odds_with(
    line: str, done: Sequence[str], kept: Sequence[str], before: Callable[[str, str], bool]
) -> list[tuple[str, bool]]:
    """The first step kept in turn that a step was wrongly done before, else the last that it was wrongly done after."""
    place = done.index(line)
    late = [other for other in kept if done.index(other) > place and before(other, line)]
    if late:
        return [(late[0], True)]
    early = [other for other in kept if done.index(other) < place and before(line, other)]
    return [(early[-1], False)] if early else []


def without_repeat(line: str) -> str:
    """The identity of a line as it is issued, without what its repeat is for."""
    return line.partition("@")[0]
