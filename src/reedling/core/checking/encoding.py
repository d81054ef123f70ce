"""A plan as formulas for the solver.

How this works. Each question is a variable over its domain (a real for a reading, within what the
instrument can show; an index for one of; a truth for yes or no; an index over the texts that
conditions name for words) and a truth for "answered". A condition has two formulas, one for when it
is true and one for when it is false; where neither holds it is unknown, exactly as in
:mod:`reedling.core.logic.conditions`. A step is shown when its condition is true and the step it
hangs on is shown. A question can be answered only on a step that is shown.

Two readings of "answered" are used: *any moment* of a run, where a shown question may still be
open, and a *whole* run, where every shown question is answered. Leaving a step out on site is not
modelled.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

import z3

from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.proofs import OneOf, Proof, Reading, Tick, YesNo
from reedling.core.logic.conditions import AllOf, Answer, AnyOf, Comparison, Condition, Negation, comparisons


@dataclass(slots=True)
class Encoding:
    """The formulas of one plan. ``shown`` is by step, ``answered`` and ``values`` by question.

    A solver context must not be shared between threads, so each check brings its own.
    """

    plan: Plan
    context: Any
    shown: dict[str, Any] = field(default_factory=dict)
    answered: dict[str, Any] = field(default_factory=dict)
    values: dict[str, Any] = field(default_factory=dict)
    domains: list[Any] = field(default_factory=list)
    whole: dict[str, Any] = field(default_factory=dict)
    proofs: dict[str, Proof] = field(default_factory=dict)
    texts: dict[str, list[str]] = field(default_factory=dict)

    def true(self) -> Any:
        """The formula that always holds."""
        return z3.BoolVal(True, self.context)

    def false(self) -> Any:
        """The formula that never holds."""
        return z3.BoolVal(False, self.context)

    def both(self, parts: Iterable[Any]) -> Any:
        """All of these formulas."""
        return z3.And([self.true(), *parts])

    def either(self, parts: Iterable[Any]) -> Any:
        """Any of these formulas."""
        return z3.Or([self.false(), *parts])

    def truth(self, condition: Condition | None) -> tuple[Any, Any]:
        """When the condition is true, and when it is false."""
        match condition:
            case None:
                return self.true(), self.false()
            case Comparison():
                if condition.question not in self.answered:
                    return self.false(), self.false()
                holds = self._holds(condition)
                answered = self.answered[condition.question]
                return z3.And(answered, holds), z3.And(answered, z3.Not(holds))
            case AllOf():
                pairs = [self.truth(part) for part in condition.parts]
                return self.both(t for t, _ in pairs), self.either(f for _, f in pairs)
            case AnyOf():
                pairs = [self.truth(part) for part in condition.parts]
                return self.either(t for t, _ in pairs), self.both(f for _, f in pairs)
            case Negation():
                true, false = self.truth(condition.part)
                return false, true

    def answers(self, model: Any) -> dict[str, Answer]:
        """The answers that a model of the solver stands for."""
        out: dict[str, Answer] = {}
        for question, proof in self.proofs.items():
            if z3.is_true(model.eval(self.answered[question], model_completion=True)):
                out[question] = self._answer(proof, model.eval(self.values[question], model_completion=True))
        return out

    def _holds(self, c: Comparison) -> Any:
        proof, value = self.proofs[c.question], self.values[c.question]
        if c.operator == "answered":
            return self.true()
        if isinstance(proof, Reading):
            return self._number_holds(c, value)
        if c.operator in ("is", "is not"):
            same = self._same(proof, value, c.value)
            return same if c.operator == "is" else z3.Not(same)
        if c.operator == "is one of" and isinstance(c.value, tuple):
            return self.either(self._same(proof, value, item) for item in c.value)
        return self.false()

    def _number_holds(self, c: Comparison, value: Any) -> Any:
        low = _number(c.value)
        if low is None:
            return self.true() if c.operator == "is not" else self.false()
        match c.operator:
            case "below":
                return value < low
            case "at most":
                return value <= low
            case "above":
                return value > low
            case "at least":
                return value >= low
            case "between":
                high = _number(c.upper)
                return self.false() if high is None else z3.And(value >= low, value <= high)
            case "is":
                return value == low
            case "is not":
                return value != low
            case _:
                return self.false()

    def _same(self, proof: Proof, value: Any, constant: object) -> Any:
        if isinstance(proof, YesNo | Tick):
            return value == constant if isinstance(constant, bool) else self.false()
        index = self._index(proof, constant)
        return self.false() if index is None else value == index

    def _index(self, proof: Proof, constant: object) -> int | None:
        known = [o.id for o in proof.options] if isinstance(proof, OneOf) else self.texts.get(proof.id, [])
        return known.index(constant) if isinstance(constant, str) and constant in known else None

    def _answer(self, proof: Proof, value: Any) -> Answer:
        if isinstance(proof, YesNo | Tick):
            return bool(z3.is_true(value))
        if isinstance(proof, Reading):
            return _plain(float(value.as_fraction()))
        index = int(value.as_long())
        if isinstance(proof, OneOf):
            return proof.options[index].id if proof.options else ""
        texts = self.texts.get(proof.id, [])
        return texts[index] if index < len(texts) else "something else"


def encode_parts(plan: Plan) -> tuple[Encoding, ...]:
    """The formulas of each independent part of a plan, in one solver context (which is dear)."""
    context = z3.Context()
    return tuple(encode(part, context) for part in parts_of(plan))


def encode(plan: Plan, context: Any) -> Encoding:
    """The formulas of a plan whose conditions look backwards only, in a solver context."""
    e = Encoding(plan=plan, context=context)
    for step in plan.steps:
        for c in comparisons(step.condition):
            named = c.value if isinstance(c.value, tuple) else (c.value,)
            known = e.texts.setdefault(c.question, [])
            known.extend(v for v in named if isinstance(v, str) and v not in known)
    for step in plan.steps:
        above = e.shown.get(step.under, e.true()) if step.under else e.true()
        true, _ = e.truth(step.condition)
        shown = z3.Bool(f"shown {step.id}", e.context)
        e.domains.append(shown == z3.And(above, true))
        e.shown[step.id] = shown
        for proof in step.proofs:
            _add_question(e, step, proof)
    return e


def _add_question(e: Encoding, step: Step, proof: Proof) -> None:
    answered = z3.Bool(f"answered {proof.id}", e.context)
    value, within = _variable(e, proof)
    e.proofs[proof.id] = proof
    e.answered[proof.id] = answered
    e.values[proof.id] = value
    e.domains.append(z3.Implies(answered, z3.And(e.shown[step.id], within)))
    e.whole[proof.id] = answered == e.shown[step.id]


def _variable(e: Encoding, proof: Proof) -> tuple[Any, Any]:
    if isinstance(proof, Tick):
        value = z3.Bool(proof.id, e.context)
        return value, value
    if isinstance(proof, YesNo):
        return z3.Bool(proof.id, e.context), e.true()
    if isinstance(proof, Reading):
        value = z3.Real(proof.id, e.context)
        ends = [value >= proof.lowest] if proof.lowest is not None else []
        ends += [value <= proof.highest] if proof.highest is not None else []
        return value, e.both(ends)
    n = len(proof.options) if isinstance(proof, OneOf) else len(e.texts.get(proof.id, [])) + 1
    value = z3.Int(proof.id, e.context)
    return value, z3.And(value >= 0, value < n)


def _number(value: object) -> float | None:
    number = isinstance(value, int | float) and not isinstance(value, bool)
    return float(value) if number else None  # type: ignore[arg-type]


def _plain(value: float) -> float:
    """The value, shortened where that loses nothing."""
    short = round(value, 4)
    return short if short == value else value


def parts_of(plan: Plan) -> tuple[Plan, ...]:
    """The plan split into parts that share no question and no branch, each in plan order.

    What holds in one part does not depend on another, so each is solved by itself; that is what
    keeps a long form quick.
    """
    home: dict[str, str] = {proof.id: step.id for step in plan.steps for proof in step.proofs}
    root = {step.id: step.id for step in plan.steps}

    def find(step: str) -> str:
        while root[step] != step:
            root[step] = root[root[step]]
            step = root[step]
        return step

    for step in plan.steps:
        linked = [home[c.question] for c in comparisons(step.condition) if c.question in home]
        for other in (*linked, *((step.under,) if step.under in root else ())):
            root[find(step.id)] = find(other)
    groups: dict[str, list[Step]] = {}
    for step in plan.steps:
        groups.setdefault(find(step.id), []).append(step)
    return tuple(Plan(title=plan.title, steps=tuple(steps)) for steps in groups.values())


def conjuncts(condition: Condition | None) -> tuple[Condition, ...]:
    """The clauses of a condition that must all be true."""
    if condition is None:
        return ()
    if isinstance(condition, AllOf):
        return tuple(c for part in condition.parts for c in conjuncts(part))
    return (condition,)


def requirements(plan: Plan, step: Step) -> tuple[Condition, ...]:
    """Every clause that must be true for the step to be shown: its own and those above it."""
    by_id: Mapping[str, Step] = {s.id: s for s in plan.steps}
    clauses: list[Condition] = []
    at: Step | None = step
    seen: set[str] = set()
    while at is not None and at.id not in seen:
        seen.add(at.id)
        clauses = [*conjuncts(at.condition), *clauses]
        at = by_id.get(at.under) if at.under else None
    return tuple(clauses)
