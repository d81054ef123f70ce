"""Reuse by reference: standard steps and attached forms, filled into the plan that refers to them.

A plan keeps the reference; what a technician meets is the plan with every reference filled in. A
question that comes from elsewhere is named ``<step>/<question>`` in the plan, so that one standard
step may be used twice, and so that later steps can depend on what a form was answered.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace

from reedling.core.guidance.finish_rules import FinishRule, rename_rule
from reedling.core.guidance.phases import phase_rank
from reedling.core.guidance.plans import FormUse, Minutes, Plan, Step
from reedling.core.guidance.questions import Question, Raise, formula_name
from reedling.core.guidance.skills import PartNeed
from reedling.core.logic.conditions import Condition, rename_questions

Renaming = Callable[[str], str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Shared:
    """A standard step or form, at the revision that is to be used."""

    document: str
    revision: str
    plan: Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedPlans:
    """The standard steps and forms that plans may refer to, by document."""

    standards: Mapping[str, Shared] = field(default_factory=dict)
    forms: Mapping[str, Shared] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Origin:
    """Where a step of a filled-in plan was written: the document, revision and step.

    ``document`` is empty for a step that the plan itself wrote; ``index`` is the place of the step
    of the plan itself that it belongs to. ``standard`` names the standard step it reuses, with its
    revision. ``scope`` is the part of the plan whose questions a formula sees by name: empty for
    the plan itself, the step for what was filled in with it.
    """

    document: str
    revision: str
    step: str
    index: int
    standard: str = ""
    scope: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class FilledPlan:
    """A plan with every reference filled in; ``origins`` by step says where each was written.

    ``reused`` are the standard steps and forms that were filled in, ``missing`` those that the
    library does not have.
    """

    plan: Plan
    origins: Mapping[str, Origin]
    reused: tuple[str, ...] = ()
    missing: tuple[str, ...] = ()


def references(plan: Plan) -> Iterator[str]:
    """Every standard step and form that the plan refers to, each once."""
    named = [d for step in plan.steps for d in (step.standard, step.form) if d is not None]
    yield from dict.fromkeys((*named, *(use.form for use in plan.forms)))


def form_step(use: FormUse, title: str) -> Step:
    """The step in which a form that goes with the whole plan is filled in."""
    return Step(
        id=f"form-{use.form}",
        phase=use.phase,
        text=f"Fill in {title or use.form}",
        minutes=Minutes(likely=0),
        condition=use.condition,
        form=use.form,
    )


def fill_in(plan: Plan, shared: SharedPlans) -> FilledPlan:
    """The plan with its standard steps and forms in place.

    A reference to none of the shared plans is left as it is; the checker names it.
    """
    steps: list[Step] = []
    origins: dict[str, Origin] = {}
    finish: list[FinishRule] = []
    attached = [
        form_step(use, held.plan.title if (held := shared.forms.get(use.form)) else "") for use in plan.forms
    ]
    for index, step in enumerate((*plan.steps, *attached)):
        standard = shared.standards.get(step.standard) if step.standard else None
        if standard and standard.plan.steps:
            steps.append(_with_standard(step, standard.plan))
            words = f"{standard.document} {standard.revision}"
            origins[step.id] = Origin(
                document="", revision="", step=step.id, index=index, standard=words, scope=f"{step.id}/"
            )
        else:
            steps.append(step)
            origins[step.id] = Origin(document="", revision="", step=step.id, index=index)
        form = shared.forms.get(step.form) if step.form else None
        finish += [_placed_rule(rule, step) for held in (standard, form) if held for rule in held.plan.finish]
        for section in form.plan.steps if form else ():
            assert form is not None
            placed = _placed(section, step)
            steps.append(placed)
            origins[placed.id] = Origin(
                document=form.document,
                revision=form.revision,
                step=section.id,
                index=index,
                scope=f"{step.id}/",
            )
    named = tuple(references(plan))
    known = {*shared.standards, *shared.forms}
    return FilledPlan(
        plan=replace(
            plan,
            steps=tuple(sorted(steps, key=lambda s: phase_rank(s.phase))),
            finish=(*plan.finish, *finish),
        ),
        origins=origins,
        reused=tuple(d for d in named if d in known),
        missing=tuple(d for d in named if d not in known),
    )


def _with_standard(step: Step, written: Plan) -> Step:
    """The plan's own step, doing what the standard step says."""
    body = written.steps[0]
    return replace(
        step,
        text=step.text or body.text,
        detail=body.detail,
        minutes=body.minutes,
        questions=tuple(_renamed(q, step.id) for q in body.questions),
        skills=body.skills,
        parts=_parts(body.parts, step.id),
        tools=body.tools,
        safety=body.safety,
        links=body.links,
        pictures=body.pictures,
        repeat=step.repeat or body.repeat,
    )


def _placed(section: Step, holder: Step) -> Step:
    """A section of a form, hung under the step that fills it in."""
    return replace(
        section,
        id=f"{holder.id}/{section.id}",
        phase=holder.phase,
        under=f"{holder.id}/{section.under}" if section.under else holder.id,
        condition=_within(section.condition, holder.id),
        questions=tuple(_renamed(q, holder.id) for q in section.questions),
        parts=_parts(section.parts, holder.id),
    )


def _placed_rule(rule: FinishRule, holder: Step) -> FinishRule:
    """A rule of a form or standard step, asked for only where the step that brings it is wanted."""
    return rename_rule(rule, lambda q: f"{holder.id}/{q}", under=holder.id)


def _parts(parts: tuple[PartNeed, ...], prefix: str) -> tuple[PartNeed, ...]:
    return tuple(replace(p, condition=_within(p.condition, prefix)) for p in parts)


def _within(condition: Condition | None, prefix: str) -> Condition | None:
    return rename_questions(condition, lambda q: f"{prefix}/{q}")


def _renamed(question: Question, prefix: str) -> Question:
    return rename_question(question, lambda q: f"{prefix}/{q}")


def rename_question(question: Question, rename: Renaming) -> Question:
    """The question under another identity, and asking about renamed questions.

    ``name`` keeps what formulas call it, also where that was its identity.
    """
    return replace(
        question,
        id=rename(question.id),
        name=formula_name(question),
        condition=rename_questions(question.condition, rename),
        required_when=rename_questions(question.required_when, rename),
        raises=tuple(_raise(r, rename) for r in question.raises),
    )


def _raise(raised: Raise, rename: Renaming) -> Raise:
    when = rename_questions(raised.when, rename)
    return raised if when is None else replace(raised, when=when)
