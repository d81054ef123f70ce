"""The structural changes that proposals draft, and what they make of a document."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import count
from typing import Literal

from reedling.core.guidance.catalogue import Symptom
from reedling.core.guidance.decision_tables import Cell, Column, ColumnKind, DecisionTable, Row
from reedling.core.guidance.documents import Content
from reedling.core.guidance.editing import AddStep, PlaceStep, RemoveStep, edit_plan
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.phases import Phase
from reedling.core.guidance.plans import Minutes, Plan, Step, step_by_id, with_conditions
from reedling.core.guidance.questions import Computed, Reading
from reedling.core.guidance.skills import PartNeed
from reedling.core.logic.conditions import Comparison, Condition, Operator, with_comparisons

LimitSide = Literal["low", "high"]
"""Which of the two limits of a reading."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SetStepMinutes:
    """Plan a step with other minutes."""

    step: str
    likely: float
    low: float
    high: float
    kind: Literal["set minutes"] = "set minutes"


@dataclass(frozen=True, slots=True, kw_only=True)
class AddToDetail:
    """Add words to the detail of a step, on a line of their own."""

    step: str
    text: str
    kind: Literal["add to detail"] = "add to detail"


@dataclass(frozen=True, slots=True, kw_only=True)
class AddPartNeed:
    """Have an incident type ask for a part, besides those of its steps."""

    part: str
    quantity: float
    kind: Literal["add part"] = "add part"


@dataclass(frozen=True, slots=True, kw_only=True)
class AddWholeStep:
    """Add a step at the end of its phase; ``step`` is its identity."""

    step: str
    phase: Phase
    text: str
    likely: float
    low: float
    high: float
    kind: Literal["add whole step"] = "add whole step"


@dataclass(frozen=True, slots=True, kw_only=True)
class SpareCheck:
    """Ask for a step only under a condition, after the step ``after`` that it rests on, which is put before it."""

    step: str
    after: str
    condition: Condition
    kind: Literal["spare check"] = "spare check"


@dataclass(frozen=True, slots=True, kw_only=True)
class AddRowForKind:
    """Add a row at the end of a decision table that puts a document on orders of one equipment and symptom."""

    equipment: str
    symptom: str
    document: str
    kind: Literal["add row"] = "add row"


@dataclass(frozen=True, slots=True, kw_only=True)
class AddSynonym:
    """Add a word to the synonyms of a symptom in the list."""

    symptom: str
    word: str
    kind: Literal["add synonym"] = "add synonym"


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveLimit:
    """Judge a reading or computed value of a step against another limit.

    What the plan asks for below or above the old one goes with it.
    """

    step: str
    question: str
    side: LimitSide
    value: float
    kind: Literal["move limit"] = "move limit"


DraftedChange = (
    SetStepMinutes
    | AddToDetail
    | AddPartNeed
    | AddWholeStep
    | AddRowForKind
    | AddSynonym
    | SpareCheck
    | MoveLimit
    | RemoveStep
)


def changed(content: Content, change: DraftedChange) -> Content | None:
    """The document with the change in it; nothing where it no longer has what would be changed, or has it already."""
    if isinstance(change, AddPartNeed):
        if not isinstance(content, IncidentType) or any(p.part == change.part for p in content.parts):
            return None
        need = PartNeed(part=change.part, quantity=change.quantity)
        return replace(content, parts=(*content.parts, need))
    if isinstance(change, AddRowForKind):
        return _with_row(content, change) if isinstance(content, DecisionTable) else None
    if not isinstance(content, Plan) or isinstance(change, AddSynonym):
        return None
    if isinstance(change, AddWholeStep):
        return _with_step(content, change)
    if (step := step_by_id(content, change.step)) is None:
        return None
    if isinstance(change, RemoveStep):
        return edit_plan(content, change, new_id="", new_question_id="")
    if isinstance(change, SpareCheck):
        return _spared(content, step, change)
    if isinstance(change, MoveLimit):
        return _with_limit(content, step, change)
    if isinstance(change, SetStepMinutes):
        minutes = Minutes(likely=change.likely, low=change.low, high=change.high)
        new = replace(step, minutes=minutes)
    else:
        if change.text in step.detail:
            return None
        new = replace(step, detail=f"{step.detail}\n{change.text}".strip())
    return _with(content, step, new) if new != step else None


def with_synonym(symptoms: Sequence[Symptom], change: AddSynonym) -> tuple[Symptom, ...] | None:
    """The list of symptoms with the word in it; nothing where the symptom is gone or has it already."""
    held = next((s for s in symptoms if s.code == change.symptom), None)
    if held is None or change.word.lower() in (word.lower() for word in held.synonyms):
        return None
    new = replace(held, synonyms=(*held.synonyms, change.word))
    return tuple(new if s is held else s for s in symptoms)


def has_row(table: DecisionTable, change: AddRowForKind) -> bool:
    """Whether a row of the table puts the document on every order of the equipment and symptom, asking for nothing else."""
    named = {"equipment": change.equipment, "symptom": change.symptom}

    def may_be(row: Row, column: str) -> bool:
        cell = row.cells.get(column)
        return cell is None or (cell.operator == "is" and named[column] in cell.values)

    return any(
        change.document in row.documents
        and row.cells.keys() <= named.keys()
        and all(may_be(row, column) for column in named)
        for row in table.rows
    )


def _with_row(table: DecisionTable, change: AddRowForKind) -> DecisionTable | None:
    if has_row(table, change):
        return None
    kinds: tuple[ColumnKind, ...] = ("equipment", "symptom")
    held = {column.key for column in table.columns}
    missing = [Column(kind=kind) for kind in kinds if kind not in held]
    known = {row.id for row in table.rows}
    row = Row(
        id=next(name for n in count(len(table.rows) + 1) if (name := f"by-hand-{n}") not in known),
        cells={"equipment": Cell(values=(change.equipment,)), "symptom": Cell(values=(change.symptom,))},
        documents=(change.document,),
    )
    return replace(table, columns=(*table.columns, *missing), rows=(*table.rows, row))


def _with_step(plan: Plan, change: AddWholeStep) -> Plan | None:
    if step_by_id(plan, change.step) or any(step.text == change.text for step in plan.steps):
        return None
    added = edit_plan(
        plan, AddStep(text=change.text, phase=change.phase), new_id=change.step, new_question_id="done"
    )
    new = step_by_id(added, change.step)
    assert new is not None
    minutes = Minutes(likely=change.likely, low=change.low, high=change.high)
    return _with(added, new, replace(new, minutes=minutes))


def _spared(plan: Plan, step: Step, change: SpareCheck) -> Plan | None:
    first = step_by_id(plan, change.after)
    if first is None or first.condition or first.under or step.condition or step.under:
        return None
    if plan.steps.index(first) > plan.steps.index(step):
        before = PlaceStep(step=first.id, phase=step.phase, before=step.id)
        plan = edit_plan(plan, before, new_id="", new_question_id="")
    held = step_by_id(plan, change.step)
    assert held is not None
    return _with(plan, held, replace(held, condition=change.condition))


def goes_with_limit(asked: Comparison, question: str, side: LimitSide, limit: float) -> bool:
    """Whether a comparison asks on which side of a question's limit its answer lies."""
    operators: tuple[Operator, ...] = ("below", "at least") if side == "low" else ("above", "at most")
    return asked.question == question and asked.operator in operators and asked.value == limit


def _with_limit(plan: Plan, step: Step, change: MoveLimit) -> Plan | None:
    held = next((q for q in step.questions if q.id == change.question), None)
    if not isinstance(held, Reading | Computed):
        return None
    old = held.limits.low if change.side == "low" else held.limits.high
    if old is None or old == change.value:
        return None
    moved = (
        replace(held.limits, low=change.value)
        if change.side == "low"
        else replace(held.limits, high=change.value)
    )

    def goes_along(asked: Comparison) -> Comparison:
        along = goes_with_limit(asked, held.id, change.side, old)
        return replace(asked, value=change.value) if along else asked

    questions = tuple(replace(held, limits=moved) if q is held else q for q in step.questions)
    plan = _with(plan, step, replace(step, questions=questions))
    return with_conditions(plan, lambda condition: with_comparisons(condition, goes_along))


def _with(plan: Plan, old: Step, new: Step) -> Plan:
    return replace(plan, steps=tuple(new if step is old else step for step in plan.steps))
