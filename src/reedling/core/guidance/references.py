"""Where guidance, and the lists themselves, refer to an entry of a list by its code."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.decision_tables import ColumnKind, DecisionTable
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan, steps_and_questions
from reedling.core.guidance.questions import MeterReading, Question
from reedling.core.guidance.skills import PartNeed, SkillNeed, ToolNeed
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.core.logic.conditions import Condition, comparisons, is_fact

ListName = Literal[
    "equipment",
    "models",
    "symptoms",
    "causes",
    "remedies",
    "skills",
    "parts",
    "fields",
    "meters",
    "roster",
    "contracts",
    "categories",
    "van_stock",
    "cost_kinds",
    "tools",
    "van_tools",
]

_IN_CELLS: Mapping[ColumnKind, ListName] = {
    "equipment": "equipment",
    "model": "models",
    "symptom": "symptoms",
    "contract": "contracts",
}
_CODED_FACTS: Mapping[str, ListName] = {
    "asset.equipment": "equipment",
    "asset.model": "models",
    "order.symptom": "symptoms",
    "site.contract": "contracts",
    "job.cause": "causes",
    "job.remedy": "remedies",
}
_PLAIN_FACTS = (*_CODED_FACTS, "asset.name", "asset.serial")


@dataclass(frozen=True, slots=True)
class ListEntry:
    """An entry of a list, by its code."""

    listed: ListName
    code: str


def entries_named(content: IncidentType | Plan | DecisionTable | WrittenGuide) -> frozenset[ListEntry]:
    """Every entry that a document refers to."""
    match content:
        case IncidentType():
            found = _of_incident_type(content)
        case Plan():
            found = _of_plan(content)
        case DecisionTable():
            found = _of_table(content)
        case WrittenGuide():
            found = _of_guide(content)
    return frozenset(found)


def entries_between(lists: Catalogue) -> Iterator[tuple[ListEntry, ListEntry]]:
    """Entries that refer to an entry of the same or another list, each with what it refers to."""
    for cls in lists.equipment:
        yield from _from("equipment", cls.code, "equipment", [cls.parent])
    for model in lists.models:
        yield from _from("models", model.code, "equipment", [model.equipment])
    for field in lists.fields:
        yield from _from("fields", field.code, "equipment", [field.equipment])
    for meter in lists.meters:
        yield from _from("meters", meter.code, "equipment", [meter.equipment])
    for part in lists.parts:
        yield from _from("parts", part.code, "parts", part.substitutes)
    for holding in lists.roster:
        yield from _from("roster", holding.code, "skills", [holding.skill])
    for stock in lists.van_stock:
        yield from _from("van_stock", stock.code, "parts", [stock.part])
    for held in lists.van_tools:
        yield from _from("van_tools", held.code, "tools", [held.tool])


def _from(
    own: ListName, code: str, other: ListName, named: Iterable[str | None]
) -> Iterator[tuple[ListEntry, ListEntry]]:
    for name in named:
        if name is not None:
            yield ListEntry(own, code), ListEntry(other, name)


def _of_incident_type(incident: IncidentType) -> Iterator[ListEntry]:
    if incident.equipment:
        yield ListEntry("equipment", incident.equipment)
    if incident.category:
        yield ListEntry("categories", incident.category)
    yield from _needs(incident.skills, incident.parts, incident.tools)


def _of_plan(plan: Plan) -> Iterator[ListEntry]:
    when = plan.applies_when
    if when.equipment:
        yield ListEntry("equipment", when.equipment)
    yield from (ListEntry("models", code) for code in when.models)
    yield from (ListEntry("symptoms", code) for code in when.symptoms)
    for form in plan.forms:
        yield from _condition(form.condition)
    for rule in plan.finish:
        yield from _condition(rule.when)
        yield from _condition(rule.needs)
    for step in plan.steps:
        yield from _needs(step.skills, step.parts, step.tools)
        yield from _condition(step.condition)
        if step.repeat and step.repeat.field:
            yield from _fact(step.repeat.field)
    for _, question in steps_and_questions(plan):
        yield from _question(question)


def _question(question: Question) -> Iterator[ListEntry]:
    if isinstance(question, MeterReading):
        yield ListEntry("meters", question.meter)
    for name in (question.prefill, question.write_back):
        if name is not None and is_fact(name):
            yield from _fact(name)
    for condition in (question.condition, question.required_when, *(r.when for r in question.raises)):
        yield from _condition(condition)


def _of_table(table: DecisionTable) -> Iterator[ListEntry]:
    for column in table.columns:
        if column.kind == "meter":
            yield ListEntry("meters", column.meter)
        listed = _IN_CELLS.get(column.kind)
        cells = (row.cells[column.key] for row in table.rows if column.key in row.cells)
        if listed:
            yield from (ListEntry(listed, str(value)) for cell in cells for value in cell.values)


def _of_guide(guide: WrittenGuide) -> Iterator[ListEntry]:
    yield from (ListEntry("causes", c.cause) for c in guide.causes)
    yield from (ListEntry("remedies", r.remedy) for r in guide.remedies)


def _needs(
    skills: Iterable[SkillNeed], parts: Iterable[PartNeed], tools: Iterable[ToolNeed]
) -> Iterator[ListEntry]:
    yield from (ListEntry("skills", need.skill) for need in skills)
    yield from (ListEntry("tools", need.tool) for need in tools)
    for need in parts:
        yield ListEntry("parts", need.part)
        yield from _condition(need.condition)


def _condition(condition: Condition | None) -> Iterator[ListEntry]:
    for c in comparisons(condition):
        if not is_fact(c.question):
            continue
        yield from _fact(c.question)
        listed = _CODED_FACTS.get(c.question)
        values = c.value if isinstance(c.value, tuple) else (c.value,)
        if listed:
            yield from (ListEntry(listed, value) for value in values if isinstance(value, str))


def _fact(name: str) -> Iterator[ListEntry]:
    """The field or meter that a fact is the value of."""
    of, _, code = name.partition(".")
    if of == "meter":
        yield ListEntry("meters", code)
    elif of == "asset" and name not in _PLAIN_FACTS:
        yield ListEntry("fields", code)
