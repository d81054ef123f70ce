"""Finish rules that nobody can meet, that strand a job, or that never say anything, proved by a solver."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import z3

from reedling.core.checking.defects import Defect, defect
from reedling.core.checking.encoding import Encoding, encode
from reedling.core.checking.kept_proofs import PROOFS
from reedling.core.checking.plan_parts import conjuncts, facts_named, parts_of
from reedling.core.checking.replaying import NOTHING_FOUND, Search, Witness, find_replaying, whole_runs
from reedling.core.checking.witnesses import DOCUMENT, run_answers, run_plan
from reedling.core.guidance.finish_rules import FinishRule
from reedling.core.guidance.plans import Plan, Step, names_in
from reedling.core.guidance.questions import UNASKED, Tick
from reedling.core.logic.conditions import (
    Answer,
    Condition,
    Conjunction,
    QuestionName,
    is_fact,
    questions_of,
    sentence,
)

END = "the end of the job"
"""The step of a plan, as it is solved, in which its finish rules are asked for."""
_PLACES = ("when", "needs")


def check_finish_rules(
    plan: Plan, facts: Mapping[str, QuestionName], *, n_own: int | None = None
) -> tuple[Defect, ...]:
    """Every defect of a plan's finish rules that the solver proves, in the order of the rules.

    Assumes what :func:`reedling.core.checking.plan_checks.check_plan` does. A rule that no job can meet is an
    error where it must be met; so is one that some job meets too late: what would meet it is not asked there.
    The first ``n_own`` rules are the plan's own, the others came with what it refers to; all without it.
    """
    out: list[Defect] = []
    for place, rule in enumerate(plan.finish[:n_own]):
        if rule.needs is not None:
            part = _part_with(plan, rule)
            prove = partial(_proved, part, place, rule, facts)
            found = PROOFS.get(
                (part, place, rule, facts_named(part, facts)), prove, lasts=lambda p: p.decided
            )
            out.extend(found.defects)
    return tuple(out)


@dataclass(frozen=True, slots=True)
class _Proved:
    """What is proved of one rule; not ``decided`` where the solver ran out of time over it."""

    defects: tuple[Defect, ...]
    decided: bool


def _proved(part: Plan, place: int, rule: FinishRule, facts: Mapping[str, QuestionName]) -> _Proved:
    e = encode(part, z3.Context())
    e.inside = ""
    counts = _counts_are_whole(e, rule)
    names = names_in(part, facts)("")
    asked_for = z3.And(e.shown[END], e.truth(rule.when)[0])
    met = e.truth(rule.needs)[0]
    solver = z3.SimpleSolver(ctx=e.context)
    solver.add(*e.domains, *counts)
    path, severity = f"/finish/{place}", "error" if rule.weight == "must" else "warning"
    told = f"The rule “{rule.says}”"
    if solver.check(asked_for) == z3.unsat:
        why = f": never {sentence(rule.when, names)}" if rule.when else ""
        never = defect("finish.never", path, f"{told} is never asked for{why}.", severity="warning")
        return _Proved((never,), decided=True)
    if solver.check(asked_for, met) == z3.unsat:
        message = f"{told} can never be met: {_why_not(solver, e, rule, names)}."
        return _Proved((defect("finish.unmet", path, message, severity=severity),), decided=True)
    out = []
    whole = whole_runs(e)
    whole.add(*counts)
    if not e.loose and whole.check(asked_for, z3.Not(met)) == z3.unsat:
        message = f"{told} says nothing: it is met in every job that gets to its end."
        out.append(defect("finish.always", path, message, severity="note"))
    stranded = _stranded(part, e, rule, [asked_for, z3.Not(met), *counts])
    if stranded.witness is not None:
        out.append(_told_stranded(part, rule, path, severity, told, stranded.witness))
    return _Proved(tuple(out), stranded.decided)


def _part_with(plan: Plan, rule: FinishRule) -> Plan:
    """The part of the plan that the rule depends on, with a last step in which it is asked for."""
    needs, when = rule.needs, rule.when
    asking = tuple(
        Tick(id=f"{END} {place}", label=place, required="never", condition=condition)
        for place, condition in zip(_PLACES, (when, needs), strict=True)
    )
    end = Step(id=END, phase="Leave", text=END, under=rule.under, questions=asking)
    found = next(
        part
        for part in parts_of(replace(plan, steps=(*plan.steps, end)))
        if any(step.id == END for step in part.steps)
    )
    return replace(found, steps=(*(step for step in found.steps if step.id != END), end))


def _counts_are_whole(e: Encoding, rule: FinishRule) -> list[Any]:
    """What is counted of a job is known, whole and not below nothing; its causes are from the list."""
    known = {q for c in (rule.when, rule.needs) for q in questions_of(c) if q.startswith("job.")}
    for condition in (rule.when, rule.needs):
        e.truth(condition)
    out = []
    for fact in sorted(known):
        value = e.values[fact]
        out.append(e.answered[fact])
        if z3.is_real(value):
            out += [value >= 0, z3.IsInt(value)]
    return out


def _why_not(solver: Any, e: Encoding, rule: FinishRule, names: Mapping[str, QuestionName]) -> str:
    """The fewest clauses of the rule that cannot be true together, in words."""
    clauses = (*conjuncts(rule.when, e.outside_section), *conjuncts(rule.needs, e.outside_section))
    kept = list(clauses)
    for clause in clauses:
        fewer = [c for c in kept if c is not clause]
        if solver.check(e.shown[END], *(e.truth(c)[0] for c in fewer)) == z3.unsat:
            kept = fewer
    words = [sentence(clause, names) for clause in kept]
    if len(words) < 2:
        return f"it never comes about that {words[0]}" if words else "its step is never wanted"
    return "it needs both that " + " and that ".join(words)


def _stranded(part: Plan, e: Encoding, rule: FinishRule, goal: Sequence[Any]) -> Search:
    """A whole run that asks for the rule and never asks what would meet it: the job cannot end well."""
    needed = _askable(part, rule.needs)
    if not needed or any(is_fact(q) for q in questions_of(rule.needs)):
        return NOTHING_FOUND
    hidden = [z3.Not(e.asked[q]) for q in needed]
    return find_replaying(e, [*goal, *hidden], partial(_strands, part, rule, needed))


def _told_stranded(
    part: Plan, rule: FinishRule, path: str, severity: str, told: str, witness: Witness
) -> Defect:
    needed = _askable(part, rule.needs)
    labels = {q.id: q.label for step in part.steps for q in step.questions}
    never = ", ".join(f"“{labels[q]}”" for q in needed)
    return defect(
        "finish.stranded",
        path,
        f"{told} cannot be met in some jobs that it is asked for in: there {never} "
        f"{'is' if len(needed) == 1 else 'are'} not asked.",
        severity=severity,
        witness=witness,
    )


def _askable(part: Plan, condition: Condition | None) -> list[str]:
    there = {q.id for step in part.steps for q in step.questions if not isinstance(q, UNASKED)}
    return [q for q in dict.fromkeys(questions_of(condition)) if q in there]


def _strands(part: Plan, rule: FinishRule, needed: Sequence[str], witness: Mapping[str, Answer]) -> bool:
    """Whether a run with these answers asks for the rule and for nothing that would meet it."""
    steps = tuple(step for step in part.steps if step.id != END)
    answers = run_answers(Plan(title="", steps=steps), witness)
    ask = Step(id=END, phase="Leave", text=END, under=rule.under, condition=_without_job(rule.when))
    progress, _ = run_plan(Plan(title="", steps=(*steps, ask)), answers)
    asked = {q.split("@", 1)[0] for p in progress.lines if p.state in ("due", "done") for q in p.asked}
    reached = {p.line.split("@", 1)[0] for p in progress.lines if p.state in ("due", "done")}
    return f"{DOCUMENT}:{END}" in reached and not any(f"{DOCUMENT}:{q}" in asked for q in needed)


def _without_job(when: Condition | None) -> Condition | None:
    """The condition without what it asks of the job itself, which a run of a plan alone does not know."""
    if when is None or not any(q.startswith("job.") for q in questions_of(when)):
        return when
    kept = tuple(c for c in conjuncts(when) if not any(q.startswith("job.") for q in questions_of(c)))
    return Conjunction(parts=kept) if kept else None
