"""Structural edits of a plan: add, move, branch and remove steps.

Each takes a plan and gives the plan after the edit. The invariants are kept here: steps stand
in phase order, a step's branches follow it at once and share its phase. An edit that has
nowhere to go (up from the very first place) gives the same plan back.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from reedling.core.guidance.phases import PHASES, Phase, phase_rank
from reedling.core.guidance.plans import Minutes, Plan, Step, step_by_id, step_with_conditions
from reedling.core.guidance.question_editing import (
    QuestionEdit,
    ReplaceText,
    edit_question,
    replace_text,
    telling_condition,
)
from reedling.core.guidance.questions import Tick
from reedling.core.guidance.revisions import DocumentKind
from reedling.core.logic.conditions import (
    Condition,
    is_fact,
    questions_of,
    rename_questions,
)
from reedling.errors import NotFound

LINE_HEAD = re.compile(r"^\s*(?:[-–—*•·☐□]|\(?\d+(?:\.\d+)*[.)]?(?=\s))\s*")
"""What lists are numbered and bulleted with."""


@dataclass(frozen=True, slots=True, kw_only=True)
class AddStep:
    """A new step below ``after`` (on its stem or branch), or at the end of ``phase``."""

    text: str = ""
    after: str | None = None
    phase: Phase | None = None
    kind: Literal["add step"] = "add step"


@dataclass(frozen=True, slots=True, kw_only=True)
class AddLines:
    """A step for each line of a text, one below the other; as :class:`AddStep`.

    Numbers, dashes and bullets at the head of a line are dropped, empty lines are passed over.
    """

    text: str
    after: str | None = None
    phase: Phase | None = None
    kind: Literal["add lines"] = "add lines"


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveStep:
    """One place up or down among its neighbours, over the phase boundary where need be."""

    step: str
    direction: Literal["up", "down"]
    kind: Literal["move step"] = "move step"


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceStep:
    """Put the step, with its branches, on the stem: before another step, or last in a phase."""

    step: str
    phase: Phase
    before: str | None = None
    kind: Literal["place step"] = "place step"


@dataclass(frozen=True, slots=True, kw_only=True)
class BranchStep:
    """Hang the step under the step above it."""

    step: str
    kind: Literal["branch step"] = "branch step"


@dataclass(frozen=True, slots=True, kw_only=True)
class UnbranchStep:
    """Take the step one level back towards the stem; its condition stays."""

    step: str
    kind: Literal["unbranch step"] = "unbranch step"


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveStep:
    """Remove the step and the branches that hang on it."""

    step: str
    kind: Literal["remove step"] = "remove step"


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveSteps:
    """Remove several steps, each with the branches that hang on it."""

    steps: tuple[str, ...]
    kind: Literal["remove steps"] = "remove steps"


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceSteps:
    """Put several steps on the stem one behind the other, in the order they stand; as one step."""

    steps: tuple[str, ...]
    phase: Phase
    before: str | None = None
    kind: Literal["place steps"] = "place steps"


@dataclass(frozen=True, slots=True, kw_only=True)
class CopySteps:
    """Steps of a document, this one or another, copied below ``after``; as :func:`insert_steps`.

    Where ``after`` is missing they keep their phases.
    """

    source: str
    steps: tuple[str, ...]
    after: str | None = None
    kind: Literal["copy steps"] = "copy steps"


@dataclass(frozen=True, slots=True, kw_only=True)
class UseDocument:
    """A step that reuses a standard step, or that fills in a form; as :class:`AddStep`."""

    document: str
    what: Literal["standard", "form"]
    text: str = ""
    after: str | None = None
    phase: Phase | None = None
    kind: Literal["use document"] = "use document"


PlanEdit = (
    AddStep
    | AddLines
    | MoveStep
    | PlaceStep
    | BranchStep
    | UnbranchStep
    | RemoveStep
    | RemoveSteps
    | PlaceSteps
    | CopySteps
    | UseDocument
    | QuestionEdit
    | ReplaceText
)


def edit_plan(
    plan: Plan,
    edit: PlanEdit,
    *,
    new_id: str,
    new_question_id: str,
    source: Plan | None = None,
    kind: DocumentKind = "plan",
) -> Plan:
    """The plan after one structural edit.

    ``new_id`` and ``new_question_id`` are used by an added step; the caller makes sure that they
    were never used in the document before. ``source`` is the plan that steps are copied from. A new step
    asks that it is done; a new section of a form, by ``kind``, asks nothing yet.

    Raises
    ------
    NotFound
        ``plans.step`` when the edit names a step that the plan does not have.
    """
    match edit:
        case AddStep():
            added = _add(plan, edit, new_id, new_question_id)
            return _without_proofs(added, new_id) if kind == "form" else added
        case AddLines():
            return _add_lines(plan, edit, new_id, new_question_id)
        case MoveStep():
            return _move(plan, _need(plan, edit.step), edit.direction)
        case PlaceStep():
            return _place(plan, edit)
        case BranchStep():
            return _branch(plan, _need(plan, edit.step))
        case UnbranchStep():
            return _unbranch(plan, _need(plan, edit.step))
        case RemoveStep():
            return _remove(plan, (edit.step,))
        case RemoveSteps():
            return _remove(plan, edit.steps)
        case PlaceSteps():
            return _place_all(plan, edit)
        case CopySteps():
            given = source or plan
            chosen = [b for s in edit.steps for b in _block(given.steps, _need(given, s))]
            return insert_steps(plan, tuple(dict.fromkeys(chosen)), after=edit.after, new_id=new_id)
        case UseDocument():
            return _use(plan, edit, new_id)
        case ReplaceText():
            return replace_text(plan, edit)
        case _:
            return edit_question(plan, edit, new_question_id)


def arranged(steps: Iterable[Step]) -> tuple[Step, ...]:
    """The steps in phase order, branches right behind the step they hang on and in its phase.

    A branch whose step is gone returns to the stem. Otherwise the given order is kept.
    """
    given = tuple(steps)
    known = {s.id for s in given}
    children: dict[str | None, list[Step]] = {}
    for step in given:
        under = step.under if step.under in known and not _hangs_on_itself(step, given) else None
        children.setdefault(under, []).append(replace(step, under=under))
    out: list[Step] = []

    def put(step: Step) -> None:
        out.append(step)
        for child in children.get(step.id, []):
            put(replace(child, phase=step.phase))

    for root in sorted(children.get(None, []), key=lambda s: phase_rank(s.phase)):
        put(root)
    return tuple(out)


def in_this_order(plan: Plan, steps: Sequence[str]) -> Plan:
    """The plan with these steps in this order, each with what hangs on it, at the places that they take up between them.

    Steps that hang on others or have a condition stay where they are, and so does every step in its phase.
    """
    rank = {step: n for n, step in enumerate(steps)}

    def moves(step: Step) -> bool:
        return step.id in rank and step.under is None and step.condition is None

    ordered = iter(sorted((s for s in plan.steps if moves(s)), key=lambda s: rank[s.id]))
    return replace(plan, steps=arranged([next(ordered) if moves(s) else s for s in plan.steps]))


def suggested_condition(parent: Step) -> Condition | None:
    """What a new branch most likely hangs on: the reading too low or too high, the answer no."""
    return next((c for question in parent.questions if (c := telling_condition(question)) is not None), None)


def _need(plan: Plan, step_id: str) -> Step:
    step = step_by_id(plan, step_id)
    if step is None:
        raise NotFound(
            "plans.step",
            f"there is no step {step_id} in this draft.",
            where=f"plan “{plan.title}”",
            hint="Somebody may have removed it; reload the draft.",
        )
    return step


def _hangs_on_itself(step: Step, steps: tuple[Step, ...]) -> bool:
    parents = {s.id: s.under for s in steps}
    seen, above = {step.id}, step.under
    while above is not None:
        if above in seen:
            return True
        seen.add(above)
        above = parents.get(above)
    return False


def _block(steps: tuple[Step, ...], head: Step) -> tuple[Step, ...]:
    """The step and everything that hangs on it, in plan order."""
    inside = {head.id}
    for step in steps:
        if step.under in inside:
            inside.add(step.id)
    return tuple(s for s in steps if s.id in inside)


def _siblings(plan: Plan, step: Step) -> list[Step]:
    return [s for s in plan.steps if s.under == step.under and s.phase == step.phase]


def _add(plan: Plan, edit: AddStep, new_id: str, new_question_id: str) -> Plan:
    above = _need(plan, edit.after) if edit.after else None
    phase: Phase = edit.phase or (above.phase if above else "Diagnose")
    step = Step(
        id=new_id,
        phase=phase,
        text=edit.text,
        minutes=Minutes(likely=5),
        questions=(Tick(id=new_question_id),),
        under=above.under if above and above.phase == phase else None,
    )
    if above is None:
        return replace(plan, steps=arranged((*plan.steps, step)))
    block = _block(plan.steps, above)
    at = plan.steps.index(block[-1]) + 1
    return replace(plan, steps=arranged((*plan.steps[:at], step, *plan.steps[at:])))


def _without_proofs(plan: Plan, step: str) -> Plan:
    return replace(plan, steps=tuple(replace(s, questions=()) if s.id == step else s for s in plan.steps))


def _add_lines(plan: Plan, edit: AddLines, new_id: str, new_question_id: str) -> Plan:
    after = edit.after
    lines = [LINE_HEAD.sub("", line).strip() for line in edit.text.splitlines()]
    for n, text in enumerate((line for line in lines if line), 1):
        step = AddStep(text=text, after=after, phase=edit.phase)
        plan = _add(plan, step, f"{new_id}-{n}", f"{new_question_id}-{n}")
        after = f"{new_id}-{n}"
    return plan


def _remove(plan: Plan, steps: tuple[str, ...]) -> Plan:
    gone = {s.id for step in steps for s in _block(plan.steps, _need(plan, step))}
    return replace(plan, steps=tuple(s for s in plan.steps if s.id not in gone))


def _place_all(plan: Plan, edit: PlaceSteps) -> Plan:
    chosen = [s for s in plan.steps if s.id in edit.steps]
    inside = {b.id for s in chosen for b in _block(plan.steps, s) if b.id != s.id}
    for step in (s for s in chosen if s.id not in inside):
        plan = _place(plan, PlaceStep(step=step.id, phase=edit.phase, before=edit.before))
    return plan


def insert_steps(plan: Plan, steps: Sequence[Step], *, after: str | None, new_id: str) -> Plan:
    """The plan with these steps below ``after``, under identities of their own.

    What hangs together among them stays together. A condition on a question that neither they nor
    the plan have is left out.

    Raises
    ------
    NotFound
        ``plans.step`` where the plan has no step ``after``.
    """
    ids = {s.id: f"{new_id}-{n}" for n, s in enumerate(steps, 1)}
    questions = {
        q.id: f"{new_id}-{n}q{k}" for n, s in enumerate(steps, 1) for k, q in enumerate(s.questions, 1)
    }
    known = {q.id for s in plan.steps for q in s.questions} | questions.keys()

    def rename(question: str) -> str:
        return questions.get(question, question)

    def kept(condition: Condition | None) -> Condition | None:
        asked = questions_of(condition)
        return rename_questions(condition, rename) if all(q in known or is_fact(q) for q in asked) else None

    above = _need(plan, after) if after else None
    made = [
        replace(
            asked,
            id=ids[step.id],
            phase=above.phase if above else step.phase,
            under=ids.get(step.under or "", above.under if above else None),
            questions=tuple(replace(q, id=questions[q.id]) for q in asked.questions),
        )
        for step in steps
        for asked in (step_with_conditions(step, kept),)
    ]
    at = plan.steps.index(_block(plan.steps, above)[-1]) + 1 if above else len(plan.steps)
    return replace(plan, steps=arranged((*plan.steps[:at], *made, *plan.steps[at:])))


def _use(plan: Plan, edit: UseDocument, new_id: str) -> Plan:
    before = {s.id for s in plan.steps}
    plan = _add(plan, AddStep(text=edit.text, after=edit.after, phase=edit.phase), new_id, "unused")
    bare = replace(
        next(s for s in plan.steps if s.id not in before),
        questions=(),
        minutes=Minutes(likely=0),
        standard=edit.document if edit.what == "standard" else None,
        form=edit.document if edit.what == "form" else None,
    )
    return replace(plan, steps=tuple(s if s.id in before else bare for s in plan.steps))


def _move(plan: Plan, step: Step, direction: Literal["up", "down"]) -> Plan:
    siblings = _siblings(plan, step)
    here = siblings.index(step)
    there = here + (-1 if direction == "up" else 1)
    if 0 <= there < len(siblings):
        first, second = sorted((step, siblings[there]), key=plan.steps.index)
        return _swap_blocks(plan, first, second)
    rank = phase_rank(step.phase) + (-1 if direction == "up" else 1)
    if step.under is not None or not 0 <= rank < len(PHASES):
        return plan
    block = {s.id for s in _block(plan.steps, step)}
    rest = [s for s in plan.steps if s.id not in block]
    moved = [replace(s, phase=PHASES[rank]) for s in plan.steps if s.id in block]
    return replace(plan, steps=arranged([*rest, *moved] if direction == "up" else [*moved, *rest]))


def _swap_blocks(plan: Plan, first: Step, second: Step) -> Plan:
    one, two = _block(plan.steps, first), _block(plan.steps, second)
    start = plan.steps.index(first)
    end = plan.steps.index(two[-1]) + 1
    return replace(plan, steps=(*plan.steps[:start], *two, *one, *plan.steps[end:]))


def _place(plan: Plan, edit: PlaceStep) -> Plan:
    step = _need(plan, edit.step)
    block = _block(plan.steps, step)
    if edit.before in {s.id for s in block}:
        return plan
    moved = [replace(s, phase=edit.phase, under=None if s.id == step.id else s.under) for s in block]
    rest = [s for s in plan.steps if s not in block]
    if edit.before is None:
        return replace(plan, steps=arranged([*rest, *moved]))
    at = rest.index(_need(plan, edit.before))
    return replace(plan, steps=arranged([*rest[:at], *moved, *rest[at:]]))


def _branch(plan: Plan, step: Step) -> Plan:
    siblings = _siblings(plan, step)
    here = siblings.index(step)
    if here == 0:
        return plan
    parent = siblings[here - 1]
    condition = step.condition or suggested_condition(parent)
    hung = replace(step, under=parent.id, condition=condition)
    return replace(plan, steps=arranged(hung if s.id == step.id else s for s in plan.steps))


def _unbranch(plan: Plan, step: Step) -> Plan:
    if step.under is None:
        return plan
    parent = _need(plan, step.under)
    block = _block(plan.steps, step)
    rest = [s for s in plan.steps if s not in block]
    at = rest.index(_block(tuple(rest), parent)[-1]) + 1
    freed = [replace(s, under=parent.under) if s.id == step.id else s for s in block]
    return replace(plan, steps=arranged([*rest[:at], *freed, *rest[at:]]))
