"""Witnesses that replay: the solver is asked for the next until one does, or none is left."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import z3

from reedling.core.checking.encoding import Encoding
from reedling.core.logic.conditions import Answer

Witness = Mapping[str, Answer]
TRIES = 12
"""Witnesses tried before the question is left open."""
TIMEOUT_MS = 1_500
"""What an exact search may take; products and roots of readings cannot always be decided."""


@dataclass(frozen=True, slots=True)
class Search:
    """What came of a search: a witness that replays, or none; ``decided`` when none is proved."""

    witness: Witness | None
    decided: bool


NOTHING_FOUND = Search(None, decided=True)


def find_replaying(e: Encoding, goal: Sequence[Any], replays: Callable[[Witness], bool]) -> Search:
    """A whole run of a part of a plan that meets the goal, and does so when it is really run.

    Where the formulas follow the plan exactly the first is taken as it is.
    """
    solver = whole_runs(e)
    solver.add(*goal)
    if solver.check() == z3.unsat:
        return NOTHING_FOUND
    if not e.loose:
        return Search(e.answers(solver.model()), decided=True)
    exact = None
    if e.exactly:
        exact = whole_runs(e)
        exact.add(*goal, *e.exactly)
        exact.set("timeout", TIMEOUT_MS)
        if exact.check() == z3.unsat:
            return NOTHING_FOUND
    for attempt in (exact, solver):
        if attempt is not None:
            witness = _first_that_replays(e, attempt, replays)
            if witness is not None:
                return Search(witness, decided=True)
    return Search(None, decided=False)


def _first_that_replays(e: Encoding, solver: Any, replays: Callable[[Witness], bool]) -> Witness | None:
    """Witnesses one after the other, each showing, asking or assuming something else than the ones before."""
    solver.set("timeout", TIMEOUT_MS)
    telling = [*e.shown.values(), *e.asked.values(), *(b for pair in e.free.values() for b in pair)]
    for attempt in range(TRIES):
        if solver.check() != z3.sat:
            return None
        model = solver.model()
        for witness in (e.answers(model), e.answers(model, further_from=1) if e.repeats else None):
            if witness is not None and replays(witness):
                return witness
        atoms = telling
        if attempt % 2:
            atoms = [v for v in e.values.values() if z3.is_expr(v)]
        solver.add(z3.Or([atom != model.eval(atom, model_completion=True) for atom in atoms]))
    return None


def whole_runs(e: Encoding) -> Any:
    """A solver over the whole runs of a part of a plan."""
    solver = z3.SimpleSolver(ctx=e.context)
    solver.add(*e.domains, *e.whole.values())
    return solver
