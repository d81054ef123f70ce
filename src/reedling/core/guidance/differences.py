"""What changed between two revisions, in words: moved is moved, not removed and added."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from reedling.core.guidance.catalogue import Catalogue, Part, Tool
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Link, NamesAt, Plan, Step, names_in, steps_and_questions
from reedling.core.guidance.questions import (
    AnyOf,
    Computed,
    Instruction,
    MeterReading,
    OneOf,
    Photo,
    Question,
    Reading,
    Scan,
    Signature,
    TextEntry,
    wanted_range,
)
from reedling.core.logic.conditions import QuestionName, number_text, sentence

_NO_LISTS = Catalogue()
DifferenceKind = Literal["added", "removed", "moved", "changed"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """One change. ``place`` is the identity of a step or question, or empty for the document itself.

    ``aspect`` says what of the place changed ("text", "minutes", …); ``before`` and ``after``
    are in words.
    """

    change: DifferenceKind
    place: str
    title: str
    aspect: str = ""
    before: str = ""
    after: str = ""


def compare_plans(older: Plan, newer: Plan) -> tuple[Difference, ...]:
    """Every change from the older plan to the newer, in the newer plan's order.

    Steps are paired by identity. A step counts as moved when it left its phase or the step it
    hangs on, or when it is outside the longest run of steps that kept their order.
    """
    old_steps = {s.id: s for s in older.steps}
    new_steps = {s.id: s for s in newer.steps}
    kept = [s.id for s in newer.steps if s.id in old_steps]
    in_order = set(longest_in_order([s.id for s in older.steps if s.id in new_steps], kept))
    names = (names_in(older), names_in(newer))
    out = [
        *changed_aspects(
            "",
            "the whole",
            {
                "title": (older.title, newer.title),
                "summary": (older.summary, newer.summary),
                "forms": (_forms_text(older, names[0]("")), _forms_text(newer, names[1](""))),
                "ready phrases": ("; ".join(older.phrases), "; ".join(newer.phrases)),
                "finish rules": (_finish_text(older, names[0]("")), _finish_text(newer, names[1](""))),
                "links": (_links_text(older.links), _links_text(newer.links)),
            },
        )
    ]
    if older.applies_when != newer.applies_when:
        out.append(
            Difference(
                change="changed",
                place="",
                title="the whole",
                aspect="applies when",
                before=_cells_text(older),
                after=_cells_text(newer),
            )
        )
    for step in newer.steps:
        before = old_steps.get(step.id)
        if before is None:
            out.append(Difference(change="added", place=step.id, title=step.text, after=step.phase))
            continue
        if before.phase != step.phase or before.under != step.under or step.id not in in_order:
            out.append(_moved(before, step, older, newer))
        out.extend(_step_changes(before, step, names[0](before.id), names[1](step.id)))
    out.extend(
        Difference(change="removed", place=s.id, title=s.text, before=s.phase)
        for s in older.steps
        if s.id not in new_steps
    )
    out.extend(_question_changes(older, newer, *names))
    return tuple(out)


def compare_incident_types(
    older: IncidentType, newer: IncidentType, lists: Catalogue = _NO_LISTS
) -> tuple[Difference, ...]:
    """Every change from the older incident type to the newer; codes that the lists know are told in words."""
    return tuple(
        changed_aspects(
            "",
            "the incident type",
            {
                "title": (older.title, newer.title),
                "summary": (older.summary, newer.summary),
                "equipment": (older.equipment or "any", newer.equipment or "any"),
                "work plans": (", ".join(older.plans), ", ".join(newer.plans)),
                "forms": (", ".join(older.forms), ", ".join(newer.forms)),
                "skills": (_type_skills(older, lists), _type_skills(newer, lists)),
                "parts": (_type_parts(older, lists), _type_parts(newer, lists)),
                "tools": (_type_tools(older, lists), _type_tools(newer, lists)),
                "category": (older.category, newer.category),
                "charges": (_type_charges(older), _type_charges(newer)),
                "expected minutes": (_type_minutes(older), _type_minutes(newer)),
                "done within": (_type_due(older), _type_due(newer)),
            },
        )
    )


def _type_skills(incident: IncidentType, lists: Catalogue) -> str:
    names = {skill.code: skill.name for skill in lists.skills}
    return ", ".join(f"{names.get(n.skill, n.skill)} {n.level}" for n in incident.skills)


def _type_parts(incident: IncidentType, lists: Catalogue) -> str:
    parts = {part.code: part for part in lists.parts}
    needed = ((parts.get(n.part, Part(code=n.part, name=n.part)), n.quantity) for n in incident.parts)
    return ", ".join(part.amount(quantity) for part, quantity in needed)


def _type_tools(incident: IncidentType, lists: Catalogue) -> str:
    tools = {tool.code: tool for tool in lists.tools}
    needed = ((tools.get(n.tool, Tool(code=n.tool, name=n.tool)), n.quantity) for n in incident.tools)
    return ", ".join(tool.amount(quantity) for tool, quantity in needed)


def _type_charges(incident: IncidentType) -> str:
    charges = incident.charges
    return f"{charges.labour_per_hour:g} an hour, {charges.fixed:g} fixed {charges.currency}".strip()


def _type_minutes(incident: IncidentType) -> str:
    return "the sum of the steps" if incident.expected_minutes is None else f"{incident.expected_minutes:g}"


def _type_due(incident: IncidentType) -> str:
    days = incident.due_within_days
    return "no routine visit" if days is None else f"{days} day{'s' * (days != 1)} of falling due"


def _moved(before: Step, after: Step, older: Plan, newer: Plan) -> Difference:
    return Difference(
        change="moved",
        place=after.id,
        title=after.text,
        before=_place_text(before, older),
        after=_place_text(after, newer),
    )


def _place_text(step: Step, plan: Plan) -> str:
    number = [s.id for s in plan.steps].index(step.id) + 1
    above = next((s.text for s in plan.steps if s.id == step.under), None)
    return f"{step.phase}, step {number}" + (f", under “{above}”" if above else "")


def changed_aspects(place: str, title: str, pairs: Mapping[str, tuple[str, str]]) -> Iterator[Difference]:
    """What changed of one place: of each aspect the words before and after, where they differ."""
    for aspect, (before, after) in pairs.items():
        if before != after:
            yield Difference(
                change="changed", place=place, title=title, aspect=aspect, before=before, after=after
            )


def _step_changes(
    before: Step, after: Step, old_names: Mapping[str, QuestionName], new_names: Mapping[str, QuestionName]
) -> Iterator[Difference]:
    yield from changed_aspects(
        after.id,
        after.text,
        {
            "text": (before.text, after.text),
            "detail": (before.detail, after.detail),
            "minutes": (_minutes_text(before), _minutes_text(after)),
            "safety note": (before.safety, after.safety),
            "condition": (sentence(before.condition, old_names), sentence(after.condition, new_names)),
            "chance": (_chance_text(before), _chance_text(after)),
            "skills": (_skills_text(before), _skills_text(after)),
            "parts": (_parts_text(before, old_names), _parts_text(after, new_names)),
            "tools": (_tools_text(before), _tools_text(after)),
            "standard step": (before.standard or "none", after.standard or "none"),
            "form": (before.form or "none", after.form or "none"),
            "repeat": (_repeat_text(before), _repeat_text(after)),
            "links": (_links_text(before.links), _links_text(after.links)),
            "pictures": (str(len(before.pictures)), str(len(after.pictures)))
            if before.pictures != after.pictures
            else ("", ""),
        },
    )


def _minutes_text(step: Step) -> str:
    m = step.minutes
    text = f"{number_text(m.likely)} min"
    if m.low is not None or m.high is not None:
        ends = [number_text(x) if x is not None else "…" for x in (m.low, m.high)]
        text += f" ({ends[0]}–{ends[1]})"
    return text


def _question_changes(
    older: Plan, newer: Plan, old_names_at: NamesAt, new_names_at: NamesAt
) -> Iterator[Difference]:
    """Questions by identity: one that went to another step, or out of line with the others, is moved."""
    old = {q.id: (step, q) for step, q in steps_and_questions(older)}
    new = {q.id: (step, q) for step, q in steps_and_questions(newer)}
    in_order: set[str] = set()
    for step in newer.steps:
        stayed = [q.id for q in step.questions if q.id in old and old[q.id][0].id == step.id]
        in_order.update(longest_in_order([q for q in old if q in stayed], stayed))
    old_steps = {s.id for s in older.steps}
    for identity, (step, after) in new.items():
        if identity not in old:
            if step.id in old_steps:
                yield Difference(
                    change="added", place=identity, title=_named(after, step), after=question_text(after)
                )
            continue
        home, before = old[identity]
        old_names, new_names = old_names_at(home.id), new_names_at(step.id)
        if home.id != step.id or identity not in in_order:
            yield Difference(
                change="moved",
                place=identity,
                title=_named(after, step),
                before=f"on “{home.text}”",
                after=f"on “{step.text}”",
            )
        yield from changed_aspects(
            identity,
            _named(after, step),
            {
                "question": (question_text(before), question_text(after)),
                "detail": (before.detail, after.detail),
                "asked when": (sentence(before.condition, old_names), sentence(after.condition, new_names)),
                "required": (_required_text(before, old_names), _required_text(after, new_names)),
                "filled in from": (before.prefill or "nothing", after.prefill or "nothing"),
                "written back to": (before.write_back or "nothing", after.write_back or "nothing"),
                "findings": (_raises_text(before, old_names), _raises_text(after, new_names)),
            },
        )
    new_steps = {s.id for s in newer.steps}
    for identity, (step, before) in old.items():
        if identity not in new and step.id in new_steps:
            yield Difference(
                change="removed", place=identity, title=_named(before, step), before=question_text(before)
            )


def _named(question: Question, step: Step) -> str:
    return f"“{question.label}” of “{step.text}”"


def question_text(question: Question) -> str:
    """A question by its kind and all that belongs to the kind, in one line.

    >>> question_text(Reading(id="p", label="Pressure", unit="bar"))
    'reading “Pressure” in bar'
    """
    text = f"{question.kind.replace('_', ' ')} “{question.label}”"
    match question:
        case Reading():
            text += f" in {question.unit}" + "".join(f" or {u}" for u in question.units)
            text += f", {_limits_text(question)}" if _limits_text(question) else ""
            ends = [number_text(x) if x is not None else "…" for x in (question.lowest, question.highest)]
            text += f", shows {ends[0]} to {ends[1]}" if ends != ["…", "…"] else ""
        case Computed():
            text += f" = {question.formula} in {question.unit or 'no unit'}"
            text += f", {_limits_text(question)}" if _limits_text(question) else ""
        case OneOf() | AnyOf():
            text += ": " + ", ".join(o.label for o in question.options)
        case Photo() if question.moment != "any":
            text += f", {question.moment}"
        case Signature():
            text += f", by the {question.by}"
        case Scan() if question.equals:
            text += f", must be {question.equals}"
        case MeterReading():
            text += f" of {question.meter}"
        case TextEntry() if question.ready:
            text += ", ready: " + "; ".join(question.ready)
        case Instruction() if question.pictures:
            text += f", {len(question.pictures)} pictures"
    return text


def _limits_text(question: Reading | Computed) -> str:
    lim = question.limits
    parts = [wanted_range(question)]
    parts += [f"stop below {number_text(lim.low_low)}"] if lim.low_low is not None else []
    parts += [f"stop above {number_text(lim.high_high)}"] if lim.high_high is not None else []
    return ", ".join(p for p in parts if p)


def _required_text(question: Question, names: Mapping[str, QuestionName]) -> str:
    if question.required == "when":
        return f"when {sentence(question.required_when, names)}"
    return question.required


def _raises_text(question: Question, names: Mapping[str, QuestionName]) -> str:
    found = [f"{r.severity} when {sentence(r.when, names)}: {r.says or 'no words'}" for r in question.raises]
    if isinstance(question, Reading | Computed) and question.limits.due_days is not None:
        found.append(f"outside a limit: {question.limits.owner}, within {question.limits.due_days} days")
    return "; ".join(found) or "none"


def _forms_text(plan: Plan, names: Mapping[str, QuestionName]) -> str:
    uses = [
        f"{u.form} in {u.phase}" + (f" when {sentence(u.condition, names)}" if u.condition else "")
        for u in plan.forms
    ]
    return "; ".join(uses) or "none"


def _finish_text(plan: Plan, names: Mapping[str, QuestionName]) -> str:
    rules = [
        f"{rule.weight}: {rule.says.rstrip('.') or 'no words'}"
        + (f", needs that {sentence(rule.needs, names)}" if rule.needs else "")
        + (f", when {sentence(rule.when, names)}" if rule.when else "")
        for rule in plan.finish
    ]
    return "; ".join(rules) or "none"


def _cells_text(plan: Plan) -> str:
    cells = plan.applies_when
    return (
        f"equipment {cells.equipment or 'any'}, model {' or '.join(cells.models) or 'any'}, "
        f"symptom {' or '.join(cells.symptoms) or 'any'}"
    )


def _links_text(links: Sequence[Link]) -> str:
    return "; ".join(f"{link.title} ({link.address})" for link in links) or "none"


def _chance_text(step: Step) -> str:
    return "not said" if step.chance is None else f"{number_text(round(step.chance * 100, 1))} %"


def _repeat_text(step: Step) -> str:
    repeat = step.repeat
    if repeat is None:
        return "once"
    over = {"named": ", ".join(repeat.names), "asset field": repeat.field, "on site": "found on site"}
    return f"once per {repeat.per}: {over[repeat.over]}"


def _skills_text(step: Step) -> str:
    return ", ".join(f"{n.skill} {n.level}" for n in step.skills) or "none"


def _parts_text(step: Step, names: Mapping[str, QuestionName]) -> str:
    texts = [
        f"{number_text(n.quantity)} × {n.part}"
        + (f" when {sentence(n.condition, names)}" if n.condition else "")
        for n in step.parts
    ]
    return ", ".join(texts) or "none"


def _tools_text(step: Step) -> str:
    return ", ".join(f"{n.quantity} × {n.tool}" for n in step.tools) or "none"


def longest_in_order(older: Sequence[str], newer: Sequence[str]) -> list[str]:
    """The longest subsequence of ``newer`` that keeps the order of ``older`` (same items).

    Patience sorting: the least last item of a run of each length, found by bisection.
    """
    rank = {item: i for i, item in enumerate(older)}
    lasts: list[int] = []
    ends: list[str] = []
    before: dict[str, str | None] = {}
    for item in newer:
        at = bisect_left(lasts, rank[item])
        before[item] = ends[at - 1] if at else None
        lasts[at : at + 1] = [rank[item]]
        ends[at : at + 1] = [item]
    out: list[str] = []
    found = ends[-1] if ends else None
    while found is not None:
        out.append(found)
        found = before[found]
    return out[::-1]
