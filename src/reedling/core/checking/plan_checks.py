"""Defects of a plan, proved by a solver (z3; de Moura and Bjørner 2008).

A verdict is never a guess: "never" and "always" are proved, and everything that can happen comes
with a witness that a person can replay.
"""

from __future__ import annotations

from collections.abc import Iterator

import z3

from reedling.core.checking.defects import Defect, Fix, SetField, defect
from reedling.core.checking.encoding import Encoding, encode_parts, requirements
from reedling.core.guidance.editing import RemoveStep
from reedling.core.guidance.plans import Plan, Step, proofs_of, question_names
from reedling.core.guidance.proofs import Reading
from reedling.core.logic.conditions import Answer, Condition, number_text, sentence

NO_VERB = frozenset(
    ["the", "a", "an", "all", "any", "each", "every", "please", "you", "we", "should", "must", "it", "there"]
)
"""First words that show a step's text does not begin with what to do."""
REPLACING = frozenset(["replace", "fit", "renew", "change", "swap"])
"""Verbs that put something new in, which takes a part."""


def check_plan(plan: Plan) -> tuple[Defect, ...]:
    """Every defect the solver proves, then those of wording and parts; in plan order.

    Assumes that the plan's conditions look backwards only, as
    :func:`reedling.core.guidance.soundness.plan_problems` holds; a condition on a question that
    is not there is never true.
    """
    place = {step.id: i for i, step in enumerate(plan.steps)}
    encodings = list(encode_parts(plan))
    found = [d for e in encodings for d in _reach(e, plan, place)]
    found += _no_prove(encodings, plan)
    found += _dead_limits(plan)
    found += [d for i, step in enumerate(plan.steps) for d in _wording(i, step)]
    return tuple(sorted(found, key=lambda d: _rank(d.problem.path)))


def _rank(path: str) -> tuple[int, str]:
    parts = path.split("/")
    return (int(parts[2]) if len(parts) > 2 and parts[2].isdigit() else -1, path)


def _reach(e: Encoding, plan: Plan, place: dict[str, int]) -> Iterator[Defect]:
    """Steps that can never be shown, and conditions that are true in every whole run."""
    solver = z3.SimpleSolver(ctx=e.context)
    solver.add(*e.domains)
    never: set[str] = set()
    for step in e.plan.steps:
        if step.condition is None and step.under is None:
            continue
        if solver.check(e.shown[step.id]) == z3.unsat:
            if step.under not in never:
                yield _never(e, plan, step, place[step.id])
            never.add(step.id)
    solver.add(*e.whole.values())
    for step in e.plan.steps:
        if step.condition is None or step.id in never:
            continue
        above = e.shown[step.under] if step.under in e.shown else e.true()
        if solver.check(above, z3.Not(e.shown[step.id])) == z3.unsat:
            yield defect(
                "reach.always",
                f"/steps/{place[step.id]}/condition",
                f"“{step.text}” is wanted in every job that gets there: "
                f"{sentence(step.condition, question_names(plan))} holds whatever is answered.",
                severity="warning",
                fix=Fix(
                    label="Take the condition off",
                    change=SetField(path=f"/steps/{place[step.id]}/condition", value=None),
                ),
            )


def _never(e: Encoding, plan: Plan, step: Step, index: int) -> Defect:
    names = question_names(plan)
    core = _smallest_conflict(e, requirements(e.plan, step))
    clauses = [sentence(clause, names) for clause in core]
    if not clauses:
        why = "the step it hangs on is never wanted"
    elif len(clauses) == 1:
        why = f"it needs that {clauses[0]}, and that never comes about"
    else:
        why = "it needs both that " + " and that ".join(clauses)
    return defect(
        "reach.never",
        f"/steps/{index}/condition",
        f"“{step.text}” can never be asked: {why}.",
        fix=Fix(label="Remove the step", change=RemoveStep(step=step.id)),
    )


def _smallest_conflict(e: Encoding, clauses: tuple[Condition, ...]) -> list[Condition]:
    """A set of clauses that cannot all be true, and of which none can be spared."""
    solver = z3.SimpleSolver(ctx=e.context)
    solver.add(*e.domains)
    truths = {i: e.truth(clause)[0] for i, clause in enumerate(clauses)}
    kept = list(truths)
    for i in list(kept):
        rest = [truths[j] for j in kept if j != i]
        if solver.check(*rest) == z3.unsat:
            kept.remove(i)
    return [clauses[i] for i in kept]


def _no_prove(encodings: list[Encoding], plan: Plan) -> Iterator[Defect]:
    """Whole runs in which nothing proves that the equipment works again.

    Parts share nothing, so such a run exists when every part has one; the witness joins theirs.
    """
    proving = [s for s in plan.steps if s.phase == "Prove"]
    if not proving or any(s.condition is None and s.under is None for s in proving):
        return
    witness: dict[str, Answer] = {}
    for e in encodings:
        solver = z3.SimpleSolver(ctx=e.context)
        solver.add(*e.domains, *e.whole.values())
        solver.add(*(z3.Not(e.shown[s.id]) for s in e.plan.steps if s.phase == "Prove"))
        if solver.check() != z3.sat:
            return
        witness |= e.answers(solver.model())
    index = plan.steps.index(proving[0])
    yield defect(
        "ends.no_prove",
        f"/steps/{index}/condition",
        "A job can end without any Prove step being asked.",
        severity="warning",
        witness=witness,
    )


def _dead_limits(plan: Plan) -> Iterator[Defect]:
    """Limits beyond what the instrument can show: they can never trip."""
    position = {step.id: i for i, step in enumerate(plan.steps)}
    for step, proof in proofs_of(plan):
        if not isinstance(proof, Reading):
            continue
        path = f"/steps/{position[step.id]}/proofs/{step.proofs.index(proof)}"
        lim = proof.limits
        lower = [("low_low", lim.low_low), ("low", lim.low)]
        upper = [("high", lim.high), ("high_high", lim.high_high)]
        dead = [(n, v) for n, v in lower if v is not None and proof.lowest is not None and v <= proof.lowest]
        dead += [
            (n, v) for n, v in upper if v is not None and proof.highest is not None and v >= proof.highest
        ]
        for name, value in dead:
            end = proof.lowest if name.startswith("low") else proof.highest
            assert end is not None
            yield defect(
                "limits.dead",
                f"{path}/limits/{name}",
                f"“{step.text}”: the limit {number_text(value)} {proof.unit} of “{proof.label}” can never trip; "
                f"the instrument shows {number_text(end)} {proof.unit} at the {'least' if name.startswith('low') else 'most'}.",
                severity="warning",
                fix=Fix(
                    label="Take the limit off", change=SetField(path=f"{path}/limits/{name}", value=None)
                ),
            )


def _wording(index: int, step: Step) -> Iterator[Defect]:
    words = step.text.lower().split()
    if words and (words[0] in NO_VERB or words[0].endswith("ing")):
        yield defect(
            "steps.no_verb",
            f"/steps/{index}/text",
            f"“{step.text}” does not begin with what to do.",
            severity="warning",
        )
    if words and step.phase == "Put right" and words[0] in REPLACING and not step.parts:
        yield defect(
            "parts.unlisted",
            f"/steps/{index}/parts",
            f"“{step.text}” puts something in, and no part is listed.",
            severity="warning",
        )
