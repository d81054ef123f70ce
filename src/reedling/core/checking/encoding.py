"""A plan as formulas for the solver.

How this works. Each question is a variable over its domain (a real for a number, within what the
instrument can show; an index for one of; a truth for each option of any of, and for yes or no; an
index over the texts that conditions name; minutes for days and times) and a truth for "answered". A condition has two
formulas, one for when it is true and one for when it is false; where neither holds it is unknown,
exactly as in :mod:`reedling.core.logic.conditions`. A step is shown when its condition is true and the
step it hangs on is shown; a question is asked when its step is shown and its own condition is true. A
question can be answered only when it is asked.

Two readings of "answered" are used: *any moment* of a run, where what is asked may still be open, and
a *whole* run, where everything required is answered. Leaving a step out on site is not modelled.

A condition that looks at a section's repeats from outside is true of one of them: a repeat of its own,
with variables of its own, beside the one that stands for the section. That it is false of all, or true
of every one, is left free. A value computed by more than sums is left free too, unless it is asked for
``exactly``. Where something is left free the formulas allow more than the plan does (``loose``): what is
proved impossible is then still impossible; what is found possible is replayed before it is reported.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import z3

from reedling.core.checking.arithmetic import exact_value, formula_value
from reedling.core.checking.plan_parts import all_conditions
from reedling.core.checking.unknowns import Unknowns, as_number
from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.questions import (
    Computed,
    Instruction,
    MeterReading,
    Question,
    formula_name,
)
from reedling.core.logic.conditions import (
    PRESENCE,
    Answer,
    Comparison,
    Condition,
    Conjunction,
    Disjunction,
    Negation,
    comparisons,
    is_fact,
    questions_of,
    shared_section,
)
from reedling.core.logic.formulas import formula_names


@dataclass(frozen=True, slots=True)
class _Repeat:
    """A further repeat of a section: when it is there, and its variables by question."""

    section: str
    there: Any
    answered: Mapping[str, Any]
    values: Mapping[str, Any]


@dataclass(slots=True, kw_only=True)
class Encoding(Unknowns):
    """The formulas of one plan. ``shown`` is by step, ``asked``, ``answered``, ``values`` by question.

    A solver context must not be shared between threads, so each check brings its own.
    """

    plan: Plan
    shown: dict[str, Any] = field(default_factory=dict)
    asked: dict[str, Any] = field(default_factory=dict)
    answered: dict[str, Any] = field(default_factory=dict)
    values: dict[str, Any] = field(default_factory=dict)
    domains: list[Any] = field(default_factory=list)
    whole: dict[str, Any] = field(default_factory=dict)
    questions: dict[str, Question] = field(default_factory=dict)
    groups: dict[str, str] = field(default_factory=dict)
    inside: str = ""
    loose: bool = False
    free: dict[Condition, tuple[Any, Any]] = field(default_factory=dict)
    bound: frozenset[str] = frozenset()
    repeats: list[_Repeat] = field(default_factory=list)
    exactly: list[Any] = field(default_factory=list)

    def truth(self, condition: Condition | None) -> tuple[Any, Any]:
        """When the condition is true, and when it is false."""
        match condition:
            case None:
                return self.true(), self.false()
            case Comparison():
                return self._comparison(condition)
            case Conjunction() | Disjunction() if section := shared_section(condition, self.outside_section):
                return self._of_some_repeat(condition, section)
            case Conjunction():
                pairs = [self.truth(part) for part in condition.parts]
                return self.both(t for t, _ in pairs), self.either(f for _, f in pairs)
            case Disjunction():
                pairs = [self.truth(part) for part in condition.parts]
                return self.either(t for t, _ in pairs), self.both(f for _, f in pairs)
            case Negation():
                true, false = self.truth(condition.part)
                return false, true

    def answers(self, model: Any, *, further_from: int = 2) -> dict[str, Answer]:
        """The answers, facts included, that a model of the solver stands for.

        Those of further repeats of a section have the repeat's number behind the question; they are
        numbered from 2, the first being the one that stands for the section, unless told otherwise.
        """
        out: dict[str, Answer] = {}
        for question, answered in self.answered.items():
            asked = self.questions.get(question)
            if isinstance(asked, Computed) or not z3.is_true(model.eval(answered, model_completion=True)):
                continue
            out[question] = self.read(question, asked, model, self.values[question])
        return out | self._answers_of_repeats(model, further_from)

    def _answers_of_repeats(self, model: Any, first: int) -> dict[str, Answer]:
        out: dict[str, Answer] = {}
        n_of: dict[str, int] = {}
        for repeat in self.repeats:
            if not z3.is_true(model.eval(repeat.there, model_completion=True)):
                continue
            n_of[repeat.section] = n_of.get(repeat.section, first - 1) + 1
            for question, answered in repeat.answered.items():
                asked = self.questions.get(question)
                if isinstance(asked, Computed) or not z3.is_true(model.eval(answered, model_completion=True)):
                    continue
                found = self.read(question, asked, model, repeat.values[question])
                out[f"{question}@{n_of[repeat.section]}"] = found
        return out

    def as_known(self, facts: Mapping[str, Answer]) -> Iterator[Any]:
        """What these facts of an order hold: their values, and meters that do not go backwards."""
        if not facts:
            return
        for fact in [q for q in self.answered if is_fact(q)]:
            value = facts.get(fact)
            yield self.answered[fact] == (value is not None)
            number = as_number(value)
            if number is not None and z3.is_real(self.values[fact]):
                yield self.values[fact] == number
            elif isinstance(value, str) and not z3.is_real(self.values[fact]):
                known = self.texts.get(fact, [])
                yield self.values[fact] == (known.index(value) if value in known else len(known))
        for question, asked in self.questions.items():
            last = as_number(facts.get(f"meter.{asked.meter}")) if isinstance(asked, MeterReading) else None
            if last is not None:
                yield self.values[question] >= last

    def _comparison(self, c: Comparison) -> tuple[Any, Any]:
        if is_fact(c.question):
            self._add_fact(c.question)
        if c.question not in self.answered or (c.against is not None and c.against not in self.answered):
            return self.false(), self.false()
        for question in (c.question, c.against):
            group = self.groups.get(question, "") if question else ""
            if group and group != self.inside and (group not in self.bound or c.repeats != "same"):
                return self._of_some_repeat(c, group)
        if c.operator in PRESENCE:
            return self._presence(c)
        answered = self.answered[c.question]
        holds = (
            self._against(c)
            if c.against is not None
            else self.holds(c, self.questions.get(c.question), self.values[c.question])
        )
        if c.against is not None:
            answered = z3.And(answered, self.answered[c.against])
        return z3.And(answered, holds), z3.And(answered, z3.Not(holds))

    def outside_section(self, question: str) -> str:
        """The section of a question that repeats, as it is asked about from here; empty for none."""
        group = self.groups.get(question, "")
        return "" if group == self.inside or group in self.bound else group

    def _of_some_repeat(self, condition: Condition, section: str) -> tuple[Any, Any]:
        """True of a repeat of the section, with variables of its own; false of all is left free."""
        if condition not in self.free:
            self.loose = True
            n = len(self.free)
            true = z3.Bool(f"true of a repeat {n}", self.context)
            false = z3.Bool(f"false of all repeats {n}", self.context)
            self.free[condition] = (true, false)
            self.domains.append(z3.Not(z3.And(true, false)))
            if all(self._always_answered(q) for q in questions_of(condition)):
                self.whole[f"either {n}"] = z3.Implies(self.shown[section], z3.Or(true, false))
            every = isinstance(condition, Comparison) and condition.repeats == "every"
            self._add_repeat(condition, section, false if every else true, holds=not every)
        return self.free[condition]

    def _always_answered(self, question: str) -> bool:
        """Whether a whole run answers a question wherever its section is shown at all."""
        asked, group = self.questions.get(question), self.groups.get(question, "")
        step = next((s for s in self.plan.steps if any(q.id == question for q in s.questions)), None)
        return (
            asked is not None
            and step is not None
            and asked.required == "always"
            and asked.condition is None
            and not isinstance(asked, Computed)
            and (step.id == group or (not group and step.condition is None and step.under is None))
        )

    def _add_repeat(self, condition: Condition, section: str, there: Any, *, holds: bool) -> None:
        """A further repeat of a section, there when ``there`` is, of which the condition holds or fails."""
        kept = (self.shown, self.asked, self.answered, self.values, self.whole, self.domains)
        place = (self.inside, self.bound, self.suffix)
        self.shown, self.asked, self.answered, self.values = (dict(d) for d in kept[:4])
        self.whole, self.domains = {}, []
        self.suffix = f" of repeat {len(self.free)}"
        steps = [s for s in self.plan.steps if self.groups.get(f"step {s.id}") == section]
        for step in steps:
            _add_step(self, step)
        for step in steps:
            for question in step.questions:
                if isinstance(question, Computed):
                    _add_computed(self, question)
        self.inside, self.bound = place[0], place[1] | {section}
        true, false = self.truth(_alone(condition))
        own = {q.id for s in steps for q in s.questions}
        repeat = _Repeat(
            section=section,
            there=there,
            answered={q: a for q, a in self.answered.items() if q in own},
            values={q: v for q, v in self.values.items() if q in own},
        )
        within, complete = self.both(self.domains), self.both(self.whole.values())
        self.shown, self.asked, self.answered, self.values, self.whole, self.domains = kept
        self.inside, self.bound, self.suffix = place
        self.repeats.append(repeat)
        self.domains.append(z3.Implies(there, z3.And(within, true if holds else false)))
        self.whole[f"repeat {len(self.repeats)}"] = z3.Implies(there, complete)

    def _presence(self, c: Comparison) -> tuple[Any, Any]:
        """Whether there is an answer; that none will come is allowed wherever there is none yet."""
        self.loose = self.loose or not is_fact(c.question)
        there = self.answered[c.question]
        return (there, z3.Not(there)) if c.operator == "answered" else (z3.Not(there), there)

    def _add_fact(self, fact: str) -> None:
        if fact in self.answered:
            return
        self.answered[fact] = z3.Bool(f"known {fact}", self.context)
        if self.texts.get(fact):
            value = z3.Int(fact, self.context)
            self.domains.append(z3.And(value >= 0, value <= len(self.texts[fact])))
        else:
            value = z3.Real(fact, self.context)
        self.values[fact] = value

    def _against(self, c: Comparison) -> Any:
        assert c.against is not None
        one, other = self.values[c.question], self.values[c.against]
        if all(z3.is_expr(v) and z3.is_real(v) for v in (one, other)):
            return self.number_holds(c, one, other)
        same = self.alike(
            self.questions.get(c.question), self.questions.get(c.against), one, other, c.operator
        )
        if same is None:
            self.loose = True
            return z3.Bool(f"compares {c.question} {c.operator} {c.against}{self.suffix}", self.context)
        return z3.Not(same) if c.operator == "is not" else same


class Encodings:
    """Encodings of parts of one plan, made when first asked for, in one solver context (which is dear)."""

    def __init__(self) -> None:
        self._context: Any = None
        self._made: dict[int, Encoding] = {}

    def of(self, part: Plan) -> Encoding:
        """The formulas of a part that lives as long as this does."""
        if id(part) not in self._made:
            self._context = self._context or z3.Context()
            self._made[id(part)] = encode(part, self._context)
        return self._made[id(part)]


def encode(plan: Plan, context: Any) -> Encoding:
    """The formulas of a plan whose conditions look backwards only, in a solver context."""
    e = Encoding(plan=plan, context=context)
    for condition in all_conditions(plan):
        for c in comparisons(condition):
            named = c.value if isinstance(c.value, tuple) else (c.value,)
            known = e.texts.setdefault(c.question, [])
            known.extend(v for v in named if isinstance(v, str) and v not in known)
    for step in plan.steps:
        _add_step(e, step)
    for step in plan.steps:
        for question in step.questions:
            if isinstance(question, Computed):
                _add_computed(e, question)
    return e


def _add_step(e: Encoding, step: Step) -> None:
    above = e.shown.get(step.under, e.true()) if step.under else e.true()
    group = step.id if step.repeat else e.groups.get(f"step {step.under}", "")
    e.groups[f"step {step.id}"] = group
    e.inside = group
    true, _ = e.truth(step.condition)
    shown = z3.Bool(f"shown {step.id}{e.suffix}", e.context)
    e.domains.append(shown == z3.And(above, true))
    e.shown[step.id] = shown
    for question in step.questions:
        if group:
            e.groups[question.id] = group
        _add_question(e, step, question)


def _add_question(e: Encoding, step: Step, question: Question) -> None:
    asked = e.shown[step.id]
    if question.condition is not None:
        true, _ = e.truth(question.condition)
        asked = z3.Bool(f"asked {question.id}{e.suffix}", e.context)
        e.domains.append(asked == z3.And(e.shown[step.id], true))
    e.asked[question.id] = asked
    e.questions[question.id] = question
    if isinstance(question, Instruction):
        return
    answered = z3.Bool(f"answered {question.id}{e.suffix}", e.context)
    value, within = e.variable(question)
    e.answered[question.id] = answered
    e.values[question.id] = value
    e.domains.append(z3.Implies(answered, z3.And(asked, within)))
    if isinstance(question, Computed):
        return
    if question.required == "always":
        e.whole[question.id] = answered == asked
    elif question.required == "when" and question.required_when is not None:
        true, _ = e.truth(question.required_when)
        e.whole[question.id] = z3.Implies(z3.And(asked, true), answered)


def _add_computed(e: Encoding, asked: Computed) -> None:
    """Tie a computed value to what it is worked out from, where it is a sum of these."""
    names: dict[str, str] = {}
    scope = asked.id.rpartition("/")[0]
    for question in e.questions.values():
        if question.id.rpartition("/")[0] == scope:
            names.setdefault(formula_name(question), question.id)
    used = [names.get(name) for name in formula_names(asked.formula)]
    group = e.groups.get(asked.id, "")
    value = None
    if all(q is not None and e.groups.get(q, "") in ("", group) and q in e.answered for q in used):
        value = formula_value(
            asked.formula,
            {
                name: (e.values[q], getattr(e.questions[q], "unit", ""))
                for name in formula_names(asked.formula)
                if (q := names.get(name)) is not None
            },
            asked.unit,
        )
    if value is None:
        e.loose = True
        _add_exactly(e, asked, names)
        return
    inputs = [e.answered[q] for q in used if q is not None]
    e.domains.append(e.answered[asked.id] == z3.And(e.asked[asked.id], *inputs))
    e.domains.append(z3.Implies(e.answered[asked.id], e.values[asked.id] == value))


def _add_exactly(e: Encoding, question: Computed, names: Mapping[str, str]) -> None:
    """What a product, a quotient or a root is, for when it is asked for exactly."""
    asked = formula_names(question.formula)
    used = [names.get(name) for name in asked]
    group = e.groups.get(question.id, "")
    if not all(q is not None and e.groups.get(q, "") in ("", group) and q in e.answered for q in used):
        return
    terms = {
        name: (e.values[q], getattr(e.questions[q], "unit", ""))
        for name, q in zip(asked, used, strict=True)
        if q is not None
    }
    found = exact_value(question.formula, terms, question.unit, f"{question.id}{e.suffix}")
    if found is None:
        return
    value, defined, ties = found
    inputs = [e.answered[q] for q in used if q is not None]
    known = z3.And(e.asked[question.id], *inputs, *defined)
    e.exactly.append(e.answered[question.id] == known)
    e.exactly.append(z3.Implies(known, z3.And(e.values[question.id] == value, *ties)))


def _alone(condition: Condition) -> Condition:
    """A comparison as one about the repeat that is spoken of; a group as it is."""
    return replace(condition, repeats="same") if isinstance(condition, Comparison) else condition
