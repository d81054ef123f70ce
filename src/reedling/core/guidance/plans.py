"""Work plans: ordered steps, some of them branches that hang on an answer."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from reedling.core.guidance.finish_rules import FinishRule
from reedling.core.guidance.phases import Phase
from reedling.core.guidance.questions import Question, question_name
from reedling.core.guidance.skills import PartNeed, SkillNeed, ToolNeed
from reedling.core.logic.conditions import Condition, QuestionName


@dataclass(frozen=True, slots=True, kw_only=True)
class Minutes:
    """How long a step takes: the likely figure, and a low and a high where the author gave them."""

    likely: float
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Link:
    """A document or page worth having at hand, by its address."""

    title: str
    address: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Repeat:
    """Done once for each: pump, phase, door.

    ``per`` is the word for one of them. Over "named" the names are fixed; over "asset field" they
    come from a field of the asset (how many there are, or their names with commas between); over
    "on site" the technician says which there are.
    """

    per: str
    over: Literal["named", "asset field", "on site"] = "named"
    names: tuple[str, ...] = ()
    field: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One thing to do, or one section of a form.

    ``id`` lasts through rewording and moves and is never reused in its document. ``under``
    names the step this one branches from; a branch is wanted only when the step it hangs on is
    wanted and its own ``condition`` is true. ``chance`` is the author's figure, 0 to 1, for how
    often a conditional step is wanted.

    ``standard`` names the standard step this one reuses; what it does then stands there.
    ``form`` names the form that is filled in with this step. ``safety`` must be acknowledged.
    """

    id: str
    phase: Phase
    text: str
    detail: str = ""
    minutes: Minutes = Minutes(likely=5)
    questions: tuple[Question, ...] = ()
    skills: tuple[SkillNeed, ...] = ()
    parts: tuple[PartNeed, ...] = ()
    tools: tuple[ToolNeed, ...] = ()
    under: str | None = None
    condition: Condition | None = None
    chance: float | None = None
    safety: str = ""
    standard: str | None = None
    form: str | None = None
    repeat: Repeat | None = None
    links: tuple[Link, ...] = ()
    pictures: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class AppliesWhen:
    """When a plan is put on an order. An empty cell means any.

    ``equipment`` is a class code: the order's asset must be of that class or one below it.
    ``models`` and ``symptoms`` list the codes allowed.
    """

    equipment: str | None = None
    models: tuple[str, ...] = ()
    symptoms: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class FormUse:
    """A form that goes with a whole plan: filled in as a step of its own, last in its phase."""

    form: str
    phase: Phase = "Prove"
    condition: Condition | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """An ordered list of steps for a purpose.

    Steps stand in phase order, and a step's branches follow it at once. Forms and standard steps
    are written as plans too: a form's steps are its sections, and a standard step is a plan of one
    step (docs/decisions/008). ``phrases`` are ready for the technician's notes,
    ``finish`` says what must be there before a job is finished.
    """

    title: str
    summary: str = ""
    applies_when: AppliesWhen = AppliesWhen()
    steps: tuple[Step, ...] = ()
    forms: tuple[FormUse, ...] = ()
    phrases: tuple[str, ...] = ()
    finish: tuple[FinishRule, ...] = ()
    links: tuple[Link, ...] = ()


def is_chance(value: float) -> bool:
    """Whether a number can be a chance: from 0 to 1."""
    return math.isfinite(value) and 0 <= value <= 1


def step_by_id(plan: Plan, step_id: str) -> Step | None:
    """The step with this identity, if the plan has it."""
    return next((step for step in plan.steps if step.id == step_id), None)


def step_with_conditions(step: Step, change: Callable[[Condition | None], Condition | None]) -> Step:
    """The step with every condition in it as ``change`` gives it; a finding whose condition goes, goes with it."""
    return replace(
        step,
        condition=change(step.condition),
        questions=tuple(
            replace(
                q,
                condition=change(q.condition),
                required_when=change(q.required_when),
                raises=tuple(replace(r, when=when) for r in q.raises if (when := change(r.when)) is not None),
            )
            for q in step.questions
        ),
        parts=tuple(replace(p, condition=change(p.condition)) for p in step.parts),
    )


def with_conditions(plan: Plan, change: Callable[[Condition | None], Condition | None]) -> Plan:
    """As :func:`step_with_conditions`, of every step, form and finish rule of a plan."""
    return replace(
        plan,
        steps=tuple(step_with_conditions(step, change) for step in plan.steps),
        forms=tuple(replace(use, condition=change(use.condition)) for use in plan.forms),
        finish=tuple(replace(rule, needs=change(rule.needs), when=change(rule.when)) for rule in plan.finish),
    )


def steps_and_questions(plan: Plan) -> Iterator[tuple[Step, Question]]:
    """Every question with its step, in the order a technician meets them."""
    for step in plan.steps:
        for question in step.questions:
            yield step, question


NamesAt = Callable[[str], Mapping[str, QuestionName]]
"""How questions are spoken of at a step, by its identity; at none, for the plan as a whole."""


def sections_of(plan: Plan) -> Mapping[str, Step]:
    """By step, the step with whose section it repeats; steps that do not repeat are left out."""
    heads: dict[str, Step] = {}
    for step in plan.steps:
        if step.under in heads:
            heads[step.id] = heads[step.under]
        elif step.repeat is not None:
            heads[step.id] = step
    return heads


def names_in(plan: Plan, facts: Mapping[str, QuestionName] | None = None) -> NamesAt:
    """How each question of the plan, and each fact, is spoken of from a step of it.

    A question of a section that repeats is one of many, seen from outside the section.
    """
    heads = sections_of(plan)
    plain = {
        **(facts or {}),
        **{question.id: question_name(question) for _, question in steps_and_questions(plan)},
    }
    seen: dict[str, Mapping[str, QuestionName]] = {}

    def at(step: str) -> Mapping[str, QuestionName]:
        own = heads[step].id if step in heads else ""
        if own not in seen:
            seen[own] = {**plain, **_from_outside(plan, heads, own)} if heads else plain
        return seen[own]

    return at


def _from_outside(plan: Plan, heads: Mapping[str, Step], own: str) -> dict[str, QuestionName]:
    return {
        question.id: replace(
            question_name(question), section=head.id, per=head.repeat.per if head.repeat else ""
        )
        for step, question in steps_and_questions(plan)
        if (head := heads.get(step.id)) is not None and head.id != own
    }


def depth_of(plan: Plan, step: Step) -> int:
    """How many branches lead to the step: 0 on the stem."""
    parents = {s.id: s.under for s in plan.steps}
    depth, above = 0, step.under
    while above is not None and depth <= len(plan.steps):
        depth, above = depth + 1, parents.get(above)
    return depth
