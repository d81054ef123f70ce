"""What is plainly wrong with a draft: found by reading it, without a solver.

Problems are collected and shown all at once, each beside its place. An error keeps the draft
from being sent for review; a warning is worth a look.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from graphlib import CycleError, TopologicalSorter

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.comparing import (
    KIND_WORDS,
    compare_with_each_other,
    operators_for,
    value_problem,
)
from reedling.core.guidance.facts import Fact, job_facts, known_facts
from reedling.core.guidance.plans import Link, Plan, Step, is_chance, steps_and_questions
from reedling.core.guidance.questions import (
    NUMERIC,
    AnyOf,
    Computed,
    MeterReading,
    OneOf,
    Question,
    Reading,
    formula_name,
)
from reedling.core.guidance.reuse import FilledPlan, SharedPlans, fill_in
from reedling.core.guidance.revisions import DocumentKind
from reedling.core.logic.conditions import (
    OPERATORS,
    PRESENCE,
    Comparison,
    Condition,
    comparisons,
    is_fact,
)
from reedling.core.logic.formulas import Named, check_formula, formula_names
from reedling.core.logic.units import convertible, is_ambiguous, known_unit
from reedling.errors import InvalidInput, Problem

MAX_STEP_TEXT = 140
"""A step's text is a line a technician reads at a glance; more belongs in its detail."""


@dataclass(frozen=True, slots=True)
class _Reading:
    """A draft as it is read: its questions in the order they are met, and what the lists know."""

    plan: Plan
    kind: DocumentKind
    catalogue: Catalogue
    facts: Mapping[str, Fact]
    questions: Mapping[str, Question]
    place: Mapping[str, int]
    groups: Mapping[str, str]


def plan_problems(
    plan: Plan,
    catalogue: Catalogue,
    *,
    kind: DocumentKind = "plan",
    filled: FilledPlan | None = None,
) -> tuple[Problem, ...]:
    """Everything plainly wrong with a plan, form or standard step, in the order of its steps.

    ``filled`` is the plan with what it refers to in place; conditions may ask about that too.
    """
    reading = _read(plan, kind, catalogue, filled or fill_in(plan, SharedPlans()))
    return (
        *_plan_level(plan, kind),
        *_links_level("/links", f"The {kind}", plan.links),
        *(p for i, step in enumerate(plan.steps) for p in _step_level(reading, i, step)),
        *_finish_level(reading),
        *_formulas(reading),
        *_cycles(reading),
        *_identities(plan),
        *_applies_when(plan, catalogue),
    )


def _read(plan: Plan, kind: DocumentKind, catalogue: Catalogue, filled: FilledPlan) -> _Reading:
    place: dict[str, int] = {}
    questions: dict[str, Question] = {}
    groups: dict[str, str] = {}
    for step in filled.plan.steps:
        place[f"step {step.id}"] = len(place)
        groups[f"step {step.id}"] = step.id if step.repeat else groups.get(f"step {step.under}", "")
        for q in step.questions:
            place[q.id] = len(place)
            questions[q.id] = q
            groups[q.id] = groups[f"step {step.id}"]
    return _Reading(
        plan=plan,
        kind=kind,
        catalogue=catalogue,
        facts={f.name: f for f in known_facts(catalogue)},
        questions=questions,
        place=place,
        groups=groups,
    )


def _error(code: str, path: str, message: str, hint: str = "") -> Problem:
    return Problem(code=code, path=path, message=message, hint=hint)


def _warning(code: str, path: str, message: str, hint: str = "") -> Problem:
    return Problem(code=code, path=path, message=message, hint=hint, severity="warning")


def _plan_level(plan: Plan, kind: DocumentKind) -> Iterator[Problem]:
    if not plan.title.strip():
        yield _error("plans.title", "/title", f"The {kind} has no title.")
    if not plan.steps and not plan.forms:
        parts = "sections" if kind == "form" else "steps"
        yield _error("plans.empty", "/steps", f"The {kind} has no {parts}.", "Add the first with n.")
    elif kind == "standard step" and len(plan.steps) != 1:
        yield _error("plans.one_step", "/steps", "A standard step is one step.", "Remove the others.")
    elif (
        kind == "plan"
        and not any(step.phase == "Prove" for step in plan.steps)
        and any(step.phase == "Put right" for step in plan.steps)
    ):
        yield _warning("plans.no_prove", "/steps", "The plan puts something right and never proves it.")


def _step_level(reading: _Reading, index: int, step: Step) -> Iterator[Problem]:
    path = f"/steps/{index}"
    what = "section" if reading.kind == "form" else "step"
    named = f"“{step.text}”" if step.text.strip() else f"{what.capitalize()} {index + 1}"
    if not step.text.strip() and step.standard is None:
        hint = "Name it." if reading.kind == "form" else "Say what to do, verb first."
        yield _error("steps.text", f"{path}/text", f"{named} has no text.", hint)
    elif len(step.text) > MAX_STEP_TEXT:
        yield _warning(
            "steps.long_text",
            f"{path}/text",
            f"{named} has {len(step.text)} characters, over {MAX_STEP_TEXT}.",
            "Move what explains into the detail.",
        )
    reuses = step.standard is not None or step.form is not None
    if step.minutes.likely <= 0 and not reuses and reading.kind != "form":
        yield _warning("steps.minutes", f"{path}/minutes", f"{named} has no minutes.")
    yield from _minutes_level(path, named, step)
    if step.chance is not None and not is_chance(step.chance):
        yield _error("steps.chance", f"{path}/chance", f"{named}: a chance lies between 0 and 100 %.")
    yield from _links_level(f"{path}/links", named, step.links)
    if not step.questions and not reuses:
        asks = "asks nothing" if reading.kind == "form" else "asks for no proof, so nobody can tell"
        yield _warning("steps.no_proof", f"{path}/questions", f"{named} {asks}.")
    if step.under is not None and step.condition is None and reading.kind != "form":
        yield _warning(
            "steps.bare_branch", f"{path}/condition", f"{named} is a branch, and nothing says when it opens."
        )
    if reading.kind != "plan" and reuses:
        yield _error("steps.nested", path, f"{named} refers to another document; only a plan does.")
    yield from _condition_level(reading, f"{path}/condition", named, step.condition, f"step {step.id}")
    yield from _repeat_level(reading, path, named, step)
    for i, question in enumerate(step.questions):
        yield from _proof_level(reading, f"{path}/questions/{i}", named, question)
    yield from _needs_level(reading, path, named, step)


def _finish_level(reading: _Reading) -> Iterator[Problem]:
    """Finish rules ask at the end: of every question, and of the job itself."""
    at_end = replace(
        reading,
        facts={**reading.facts, **{f.name: f for f in job_facts(reading.catalogue)}},
        place={**reading.place, _END: len(reading.place)},
    )
    for i, rule in enumerate(reading.plan.finish):
        path = f"/finish/{i}"
        named = f"The rule “{rule.says}”" if rule.says.strip() else f"Finish rule {i + 1}"
        if not rule.says.strip():
            yield _error("finish.says", f"{path}/says", f"{named} has no words to tell the technician.")
        if rule.needs is None:
            yield _error("finish.needs", f"{path}/needs", f"{named} does not say what it needs.")
        if rule.under is not None and f"step {rule.under}" not in reading.place:
            yield _error("finish.step", f"{path}/under", f"{named} hangs on a step that is gone.")
        yield from _condition_level(at_end, f"{path}/needs", named, rule.needs, _END)
        yield from _condition_level(at_end, f"{path}/when", named, rule.when, _END)


_END = "the end"
"""Where finish rules are asked for: behind everything else."""


def _links_level(path: str, named: str, links: Sequence[Link]) -> Iterator[Problem]:
    for i, link in enumerate(links):
        if not link.address.startswith(("https://", "http://", "/")):
            yield _error(
                "links.address",
                f"{path}/{i}",
                f"{named}: “{link.title}” leads to {link.address or 'nothing'}, which is no address.",
                "Begin it with https:// or with / for a page of this server.",
            )


def _minutes_level(path: str, named: str, step: Step) -> Iterator[Problem]:
    m = step.minutes
    rising = [x for x in (m.low, m.likely, m.high) if x is not None]
    if rising != sorted(rising):
        yield _error(
            "steps.minutes_order",
            f"{path}/minutes",
            f"The minutes of {named} do not rise from the least to the likely to the most.",
        )


def _repeat_level(reading: _Reading, path: str, named: str, step: Step) -> Iterator[Problem]:
    repeat = step.repeat
    if repeat is None:
        return
    at = f"{path}/repeat"
    if not repeat.per.strip():
        yield _error("repeats.per", at, f"{named} repeats, and nothing says once per what.")
    if repeat.over == "named" and not repeat.names:
        yield _error("repeats.names", at, f"{named} repeats over names, and there are none.")
    if repeat.over == "asset field" and repeat.field not in reading.facts:
        yield _error("repeats.field", at, f"{named} repeats by a field that assets do not have.")
    elif repeat.over == "asset field":
        yield _warning(
            "repeats.blank",
            at,
            f"{named} repeats by {reading.facts[repeat.field].label}. Where that is blank, the technician is "
            f"asked to list each {repeat.per or 'one'} on site.",
            "Fill it in for every asset.",
        )
    if reading.groups.get(f"step {step.under}", ""):
        yield _error("repeats.nested", at, f"{named} repeats inside a section that repeats.")


def _needs_level(reading: _Reading, path: str, named: str, step: Step) -> Iterator[Problem]:
    known_skills = {s.code for s in reading.catalogue.skills}
    known_parts = {p.code for p in reading.catalogue.parts}
    last = step.questions[-1].id if step.questions else f"step {step.id}"
    for i, skill in enumerate(step.skills):
        if skill.skill not in known_skills:
            yield _error("steps.skill", f"{path}/skills/{i}", f"{named}: there is no skill {skill.skill}.")
    for i, part in enumerate(step.parts):
        at = f"{path}/parts/{i}"
        if part.part not in known_parts:
            yield _error("steps.part", at, f"{named}: there is no part {part.part}.")
        if part.quantity <= 0:
            yield _error("steps.part_quantity", at, f"{named}: the quantity of {part.part} is not above 0.")
        yield from _condition_level(reading, f"{at}/condition", named, part.condition, last, own=True)
    known_tools = {t.code for t in reading.catalogue.tools}
    for i, tool in enumerate(step.tools):
        at = f"{path}/tools/{i}"
        if tool.tool not in known_tools:
            yield _error("steps.tool", at, f"{named}: there is no tool {tool.tool}.")
        if tool.quantity < 1:
            yield _error("steps.tool_quantity", at, f"{named}: of {tool.tool} one or more are wanted.")


def _proof_level(reading: _Reading, path: str, step_named: str, question: Question) -> Iterator[Problem]:
    named = f"{step_named}, “{question.label}”"
    if not question.label.strip():
        yield _error("questions.label", f"{path}/label", f"{step_named} has a question without words.")
    if question.kind in ("names", "safety"):
        yield _error(
            "questions.kind", f"{path}/kind", f"{named}: a question of this kind is made, not written."
        )
    if isinstance(question, Reading | Computed):
        yield from _measure_level(path, step_named, question)
    if isinstance(question, OneOf | AnyOf):
        yield from _options_level(path, step_named, question)
    if isinstance(question, MeterReading) and f"meter.{question.meter}" not in reading.facts:
        yield _error("questions.meter", f"{path}/meter", f"{named}: there is no meter {question.meter}.")
    if isinstance(question, Computed) and not question.formula.strip():
        yield _error("formulas.syntax", f"{path}/formula", f"{named} has no formula yet.")
    if question.required == "when" and question.required_when is None:
        yield _error(
            "questions.required", f"{path}/required_when", f"{named}: nothing says when it is required."
        )
    yield from _condition_level(reading, f"{path}/condition", named, question.condition, question.id)
    yield from _condition_level(reading, f"{path}/required_when", named, question.required_when, question.id)
    for i, raised in enumerate(question.raises):
        yield from _condition_level(
            reading, f"{path}/raises/{i}/when", named, raised.when, question.id, own=True
        )
    if question.prefill not in (None, "last") and question.prefill not in reading.facts:
        yield _error(
            "questions.prefill", f"{path}/prefill", f"{named} is filled in from something that is not known."
        )
    if question.write_back is not None:
        fact = reading.facts.get(question.write_back)
        if fact is None or not fact.writable:
            yield _error(
                "questions.write_back",
                f"{path}/write_back",
                f"{named} is written to a field that is not there.",
            )
        elif fact.number and not isinstance(question, NUMERIC):
            yield _error(
                "questions.write_back",
                f"{path}/write_back",
                f"{named} is no number, and {fact.label} is one.",
            )


def _measure_level(path: str, named: str, question: Reading | Computed) -> Iterator[Problem]:
    if not question.unit.strip() and isinstance(question, Reading):
        yield _warning("questions.unit", f"{path}/unit", f"{named}: “{question.label}” has no unit.")
    elif is_ambiguous(question.unit):
        yield _error(
            "units.ambiguous",
            f"{path}/unit",
            f"{named}: “{question.unit}” of “{question.label}” can be read in two ways.",
            "Put what is below the stroke in brackets, such as W/(m2·K).",
        )
    elif not known_unit(question.unit):
        yield _warning(
            "units.unknown",
            f"{path}/unit",
            f"{named}: “{question.unit}” is no unit known here, so “{question.label}” is kept as it is and "
            "never converted.",
        )
    lim = question.limits
    rising = [x for x in (lim.low_low, lim.low, lim.high, lim.high_high) if x is not None]
    if rising != sorted(rising):
        yield _error(
            "questions.limits",
            f"{path}/limits",
            f"{named}: the limits of “{question.label}” do not rise from low to high.",
        )
    if isinstance(question, Reading):
        if (
            question.lowest is not None
            and question.highest is not None
            and question.lowest > question.highest
        ):
            yield _error(
                "questions.range",
                f"{path}/lowest",
                f"{named}: the instrument of “{question.label}” shows at the least more than at the most.",
            )
        for other in question.units:
            if not convertible(other, question.unit):
                yield _error(
                    "units.dimension",
                    f"{path}/units",
                    f"{named}: “{question.label}” in {question.unit or 'no unit'} cannot be entered in {other}.",
                )


def _options_level(path: str, named: str, question: OneOf | AnyOf) -> Iterator[Problem]:
    least = 2 if isinstance(question, OneOf) else 1
    if len(question.options) < least:
        words = "two answers" if least == 2 else "one answer"
        yield _error(
            "questions.options", f"{path}/options", f"{named}: “{question.label}” has fewer than {words}."
        )
    for i, option in enumerate(question.options):
        if not option.label.strip():
            yield _error(
                "questions.option_label",
                f"{path}/options/{i}/label",
                f"{named}: answer {i + 1} of “{question.label}” has no words.",
            )


def _condition_level(
    reading: _Reading, path: str, named: str, condition: Condition | None, at: str, *, own: bool = False
) -> Iterator[Problem]:
    """``at`` is what carries the condition; with ``own`` it may ask about that question itself."""
    here = reading.place.get(at, 0)
    for c in comparisons(condition):
        for asked in (c.question, c.against):
            if asked is None:
                continue
            if is_fact(asked):
                if asked not in reading.facts:
                    yield _error(
                        "conditions.fact", path, f"{named} depends on something that is not known: {asked}."
                    )
                continue
            if asked not in reading.questions:
                yield _error(
                    "conditions.question",
                    path,
                    f"{named} depends on a question that is not in this {reading.kind}.",
                    "Choose another question or take the condition off.",
                )
            elif reading.place[asked] > here or (reading.place[asked] == here and not own):
                yield _error(
                    "conditions.later",
                    path,
                    f"{named} depends on a question that is asked with it or after it.",
                    "Move the step below the question.",
                )
        if c.question in reading.facts:
            yield from _fact_level(path, named, c, reading.facts[c.question])
        if c.question in reading.questions and (c.against is None or c.against in reading.questions):
            yield from _comparison_level(reading, path, named, c, reading.questions[c.question])


def _fact_level(path: str, named: str, c: Comparison, fact: Fact) -> Iterator[Problem]:
    """A fact with options is only ever one of them."""
    known = {o.id for o in fact.options}
    values = c.value if isinstance(c.value, tuple) else (c.value,)
    if known and c.operator in ("is", "is not", "is one of"):
        for value in values:
            if value is not None and value not in known:
                yield _error(
                    "conditions.option",
                    path,
                    f"{named}: {fact.label} is never {value}.",
                    "Choose one from the list.",
                )


def _comparison_level(
    reading: _Reading, path: str, named: str, c: Comparison, question: Question
) -> Iterator[Problem]:
    if c.against is not None:
        other = reading.questions[c.against]
        if not compare_with_each_other(question, other):
            yield _error(
                "conditions.against",
                path,
                f"{named}: “{question.label}” and “{other.label}” are not in the same unit, or not of one kind, "
                "so they do not compare.",
            )
    elif c.operator not in PRESENCE and (c.value is None or c.value == ()):
        yield _error(
            "conditions.value", path, f"{named}: its condition on “{question.label}” has no value yet."
        )
    elif c.operator not in operators_for(question, offered_only=False):
        yield _error(
            "conditions.kind",
            path,
            f"{named}: “{question.label}” is {KIND_WORDS[question.kind]}, so “{OPERATORS[c.operator].words}” "
            "never holds of it.",
            "Choose another comparison.",
        )
    elif problem := value_problem(question, c):
        yield _error(*problem[:1], path, f"{named}: {problem[1]}")


def _scope(question: str) -> str:
    return question.rpartition("/")[0]


def _formulas(reading: _Reading) -> Iterator[Problem]:
    """Formulas that cannot be worked out, each with the place in it."""
    for i, step in enumerate(reading.plan.steps):
        group = reading.groups.get(f"step {step.id}", "")
        for j, q in enumerate(step.questions):
            if not isinstance(q, Computed) or not q.formula.strip():
                continue
            twice = _named_twice(reading, q)
            if twice:
                yield _error(
                    "formulas.twice",
                    f"/steps/{i}/questions/{j}/formula",
                    f"“{q.label}” of “{step.text}”: more than one question is called “{twice}”.",
                    "Give each a name of its own.",
                )
                continue
            try:
                check_formula(q.formula, _names_for(reading, q, group), q.unit)
            except InvalidInput as error:
                yield _error(
                    error.code,
                    f"/steps/{i}/questions/{j}/formula",
                    f"“{q.label}” of “{step.text}”: {error.where[:1].lower()}{error.where[1:]}: {error.message}",
                    error.hint,
                )


def _named_twice(reading: _Reading, own: Computed) -> str:
    """A name that the formula uses and two questions it sees have; empty for none."""
    seen = [
        formula_name(q)
        for q in reading.questions.values()
        if isinstance(q, NUMERIC) and q.id != own.id and _scope(q.id) == _scope(own.id)
    ]
    return next((name for name in formula_names(own.formula) if seen.count(name) > 1), "")


def _names_for(reading: _Reading, own: Computed, group: str) -> dict[str, Named]:
    names: dict[str, Named] = {}
    for q in reading.questions.values():
        if isinstance(q, NUMERIC) and q.id != own.id and _scope(q.id) == _scope(own.id):
            there = reading.groups.get(q.id, "")
            names[formula_name(q)] = Named(unit=q.unit, each=bool(there) and there != group)
    return names


def _cycles(reading: _Reading) -> Iterator[Problem]:
    """Values that need each other, and questions whose conditions wait for each other: by name."""
    by_name = {(_scope(q.id), formula_name(q)): q.id for q in reading.questions.values()}
    needs: dict[str, set[str]] = {}
    for q in reading.questions.values():
        if isinstance(q, Computed):
            used = {by_name.get((_scope(q.id), name)) for name in formula_names(q.formula)}
            needs.setdefault(q.id, set()).update(u for u in used if u is not None)
        needs.setdefault(q.id, set()).update(
            c.question for c in comparisons(q.condition) if c.question in reading.questions
        )
    for step in reading.plan.steps:
        asked = {c.question for c in comparisons(step.condition) if c.question in reading.questions}
        for q in step.questions:
            needs.setdefault(q.id, set()).update(asked)
    try:
        TopologicalSorter(needs).prepare()
    except CycleError as error:
        ring = [reading.questions[q].label for q in reversed(error.args[1])]
        place = next(
            (
                f"/steps/{i}/questions/{j}"
                for i, step in enumerate(reading.plan.steps)
                for j, q in enumerate(step.questions)
                if q.id in error.args[1]
            ),
            "/steps",
        )
        words = ", which needs ".join(f"“{label}”" for label in ring)
        yield _error("formulas.cycle", place, f"A ring of needs: {words}.", "Break it at one of them.")


def _identities(plan: Plan) -> Iterator[Problem]:
    for step_id, count in Counter(s.id for s in plan.steps).items():
        if count > 1:
            yield _error("plans.step_identity", "/steps", f"The identity {step_id} is used by {count} steps.")
    for question_id, count in Counter(p.id for _, p in steps_and_questions(plan)).items():
        if count > 1:
            yield _error(
                "plans.question_identity",
                "/steps",
                f"The identity {question_id} is used by {count} questions.",
            )


def _applies_when(plan: Plan, catalogue: Catalogue) -> Iterator[Problem]:
    cells = plan.applies_when
    if cells.equipment and cells.equipment not in {c.code for c in catalogue.equipment}:
        yield _error(
            "plans.equipment", "/applies_when/equipment", f"There is no equipment class {cells.equipment}."
        )
    yield from (
        _error("plans.model", "/applies_when/models", f"There is no model {model}.")
        for model in cells.models
        if model not in {m.code for m in catalogue.models}
    )
    yield from (
        _error("plans.symptom", "/applies_when/symptoms", f"There is no symptom {symptom}.")
        for symptom in cells.symptoms
        if symptom not in {s.code for s in catalogue.symptoms}
    )
