"""Edits of the questions of a plan or form, and of its words wherever they stand."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from reedling.core.guidance.comparing import first_clause
from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.questions import (
    AnyOf,
    Computed,
    DateEntry,
    Instruction,
    MeterReading,
    OneOf,
    Option,
    Photo,
    Question,
    Reading,
    Scan,
    Signature,
    TextEntry,
    Tick,
    YesNo,
)
from reedling.core.logic.conditions import Condition, questions_of
from reedling.errors import NotFound

QuestionKind = Literal[
    "tick",
    "reading",
    "yes_no",
    "one_of",
    "any_of",
    "text",
    "date",
    "photo",
    "signature",
    "scan",
    "meter",
    "computed",
    "instruction",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class AddQuestion:
    """A new question of a kind, below ``after`` or last on its step."""

    step: str
    question_kind: QuestionKind
    label: str = ""
    after: str | None = None
    kind: Literal["add question"] = "add question"


@dataclass(frozen=True, slots=True, kw_only=True)
class AddPhotoSet:
    """The three photos that show a job was done: before, nameplate, finished."""

    step: str
    kind: Literal["add photo set"] = "add photo set"


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveQuestion:
    """One place up or down, over to the neighbouring step at either end."""

    question: str
    direction: Literal["up", "down"]
    kind: Literal["move question"] = "move question"


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceQuestion:
    """Put a question on a step, before another question or last."""

    question: str
    step: str
    before: str | None = None
    kind: Literal["place question"] = "place question"


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveQuestion:
    """Remove a question."""

    question: str
    kind: Literal["remove question"] = "remove question"


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeKind:
    """Make a question one of another kind; its words, condition and identity stay."""

    question: str
    question_kind: QuestionKind
    kind: Literal["change kind"] = "change kind"


@dataclass(frozen=True, slots=True, kw_only=True)
class BranchQuestion:
    """Hang a question on the likeliest telling answer of the question above it on its step."""

    question: str
    kind: Literal["branch question"] = "branch question"


QuestionEdit = (
    AddQuestion | AddPhotoSet | ChangeKind | BranchQuestion | MoveQuestion | PlaceQuestion | RemoveQuestion
)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReplaceText:
    """Replace words wherever the document has them: texts, details, questions, answers, notes."""

    find: str
    by: str
    match_case: bool = False
    kind: Literal["replace text"] = "replace text"


@dataclass(frozen=True, slots=True, kw_only=True)
class TextPlace:
    """Words found: the step they stand on (empty for the document itself) and the whole text."""

    step: str
    what: str
    text: str


_NEW: Mapping[str, Callable[[str, str], Question]] = {
    "tick": lambda i, label: Tick(id=i, label=label or "Done"),
    "reading": lambda i, label: Reading(id=i, label=label or "Reading", unit=""),
    "yes_no": lambda i, label: YesNo(id=i, label=label),
    "one_of": lambda i, label: OneOf(id=i, label=label, options=_two_options()),
    "any_of": lambda i, label: AnyOf(id=i, label=label, options=_two_options()),
    "text": lambda i, label: TextEntry(id=i, label=label),
    "date": lambda i, label: DateEntry(id=i, label=label),
    "photo": lambda i, label: Photo(id=i, label=label),
    "signature": lambda i, label: Signature(id=i, label=label or "Keeper"),
    "scan": lambda i, label: Scan(id=i, label=label or "Serial"),
    "meter": lambda i, label: MeterReading(id=i, label=label or "Hours run", meter="hours"),
    "computed": lambda i, label: Computed(id=i, label=label),
    "instruction": lambda i, label: Instruction(id=i, label=label, required="never"),
}


def _two_options() -> tuple[Option, ...]:
    return (Option(id="a", label=""), Option(id="b", label=""))


def edit_question(plan: Plan, edit: QuestionEdit, new_id: str) -> Plan:
    """The plan after one edit of its questions; ``new_id`` was never used in the document before.

    Raises
    ------
    NotFound
        ``plans.step`` or ``plans.question`` when the edit names what the plan does not have.
    """
    match edit:
        case AddQuestion():
            made = _NEW[edit.question_kind](new_id, edit.label.strip())
            return _with_questions(plan, edit.step, lambda qs: _put(qs, made, after=edit.after))
        case AddPhotoSet():
            photos = (
                Photo(id=f"{new_id}-1", label="Before", moment="before"),
                Photo(id=f"{new_id}-2", label="Nameplate", moment="nameplate"),
                Photo(id=f"{new_id}-3", label="Finished", moment="after"),
            )
            return _with_questions(plan, edit.step, lambda qs: (*qs, *photos))
        case ChangeKind():
            home, question = _home(plan, edit.question)
            other = _of_kind(question, edit.question_kind)
            return _with_questions(plan, home.id, lambda qs: tuple(other if q == question else q for q in qs))
        case BranchQuestion():
            return _branch(plan, edit)
        case RemoveQuestion():
            home, question = _home(plan, edit.question)
            return _with_questions(plan, home.id, lambda qs: tuple(q for q in qs if q != question))
        case PlaceQuestion():
            home, question = _home(plan, edit.question)
            if edit.before == edit.question:
                return plan
            plan = _with_questions(plan, home.id, lambda qs: tuple(q for q in qs if q != question))
            return _with_questions(plan, edit.step, lambda qs: _put(qs, question, before=edit.before))
        case MoveQuestion():
            return _move(plan, edit)


def telling_condition(above: Question) -> Condition | None:
    """The answer that most likely opens something; nothing where no answer of this kind does."""
    clause = first_clause(above)
    return None if clause.operator == "answered" or clause.value is None else clause


def _branch(plan: Plan, edit: BranchQuestion) -> Plan:
    home, question = _home(plan, edit.question)
    above = [q for q in home.questions[: home.questions.index(question)] if telling_condition(q) is not None]
    if not above:
        return plan
    hung = replace(question, condition=telling_condition(above[-1]))
    return _with_questions(plan, home.id, lambda qs: tuple(hung if q == question else q for q in qs))


def question_depths(step: Step) -> Mapping[str, int]:
    """How deep each question of a step hangs: one level for each question of it that opens it."""
    depths: dict[str, int] = {}
    for q in step.questions:
        asked = [depths[a] + 1 for a in questions_of(q.condition) if a in depths]
        depths[q.id] = max(asked, default=1 if q.condition is not None else 0)
    return depths


def _of_kind(question: Question, kind: QuestionKind) -> Question:
    made = replace(
        _NEW[kind](question.id, question.label),
        name=question.name,
        detail=question.detail,
        condition=question.condition,
        required=question.required,
        required_when=question.required_when,
    )
    if isinstance(made, OneOf | AnyOf) and isinstance(question, OneOf | AnyOf):
        return replace(made, options=question.options)
    if isinstance(made, Reading | Computed) and isinstance(question, Reading | Computed):
        return replace(made, unit=question.unit, limits=question.limits)
    return made


def _move(plan: Plan, edit: MoveQuestion) -> Plan:
    home, question = _home(plan, edit.question)
    here, by = home.questions.index(question), -1 if edit.direction == "up" else 1
    if 0 <= here + by < len(home.questions):
        order = list(home.questions)
        order[here], order[here + by] = order[here + by], order[here]
        return _with_questions(plan, home.id, lambda _: tuple(order))
    there = plan.steps.index(home) + by
    if not 0 <= there < len(plan.steps):
        return plan
    plan = _with_questions(plan, home.id, lambda qs: tuple(q for q in qs if q != question))
    target = plan.steps[there]
    first = target.questions[0].id if target.questions and by == 1 else None
    return _with_questions(plan, target.id, lambda qs: _put(qs, question, before=first))


def _put(
    questions: tuple[Question, ...], made: Question, *, after: str | None = None, before: str | None = None
) -> tuple[Question, ...]:
    ids = [q.id for q in questions]
    at = ids.index(after) + 1 if after in ids else ids.index(before) if before in ids else len(ids)
    return (*questions[:at], made, *questions[at:])


def _home(plan: Plan, question: str) -> tuple[Step, Question]:
    for step in plan.steps:
        for q in step.questions:
            if q.id == question:
                return step, q
    raise NotFound(
        "plans.question",
        f"there is no question {question} in this draft.",
        where=f"“{plan.title}”",
        hint="Somebody may have removed it; reload the draft.",
    )


def _with_questions(
    plan: Plan, step_id: str, change: Callable[[tuple[Question, ...]], tuple[Question, ...]]
) -> Plan:
    if all(s.id != step_id for s in plan.steps):
        raise NotFound(
            "plans.step",
            f"there is no step {step_id} in this draft.",
            where=f"“{plan.title}”",
            hint="Somebody may have removed it; reload the draft.",
        )
    return replace(
        plan,
        steps=tuple(replace(s, questions=change(s.questions)) if s.id == step_id else s for s in plan.steps),
    )


def find_text(plan: Plan, words: str, *, match_case: bool = False) -> tuple[TextPlace, ...]:
    """Every text of the document that has these words, in order."""
    if not words:
        return ()
    pattern = _pattern(words, match_case=match_case)
    return tuple(place for place in _texts(plan) if pattern.search(place.text))


def replace_text(plan: Plan, edit: ReplaceText) -> Plan:
    """The plan with the words replaced everywhere."""
    if not edit.find:
        return plan
    pattern = _pattern(edit.find, match_case=edit.match_case)

    def new(text: str) -> str:
        return pattern.sub(lambda _: edit.by, text)

    return replace(
        plan,
        title=new(plan.title),
        summary=new(plan.summary),
        phrases=tuple(new(p) for p in plan.phrases),
        finish=tuple(replace(rule, says=new(rule.says)) for rule in plan.finish),
        steps=tuple(
            replace(
                step,
                text=new(step.text),
                detail=new(step.detail),
                safety=new(step.safety),
                questions=tuple(_reworded(q, new) for q in step.questions),
            )
            for step in plan.steps
        ),
    )


def _reworded(question: Question, new: Callable[[str], str]) -> Question:
    question = replace(
        question,
        label=new(question.label),
        detail=new(question.detail),
        raises=tuple(replace(r, says=new(r.says)) for r in question.raises),
    )
    if isinstance(question, OneOf | AnyOf):
        return replace(question, options=tuple(replace(o, label=new(o.label)) for o in question.options))
    if isinstance(question, TextEntry):
        return replace(question, ready=tuple(new(r) for r in question.ready))
    return question


def _texts(plan: Plan) -> Iterator[TextPlace]:
    yield TextPlace(step="", what="title", text=plan.title)
    yield TextPlace(step="", what="summary", text=plan.summary)
    yield from (TextPlace(step="", what="ready phrase", text=p) for p in plan.phrases)
    yield from (TextPlace(step="", what="finish rule", text=rule.says) for rule in plan.finish)
    for step in plan.steps:
        for what, text in (("text", step.text), ("detail", step.detail), ("safety note", step.safety)):
            yield TextPlace(step=step.id, what=what, text=text)
        for q in step.questions:
            yield TextPlace(step=step.id, what="question", text=q.label)
            yield TextPlace(step=step.id, what="question detail", text=q.detail)
            yield from (TextPlace(step=step.id, what="finding", text=r.says) for r in q.raises)
            if isinstance(q, OneOf | AnyOf):
                yield from (TextPlace(step=step.id, what="answer", text=o.label) for o in q.options)
            if isinstance(q, TextEntry):
                yield from (TextPlace(step=step.id, what="ready answer", text=r) for r in q.ready)


def _pattern(words: str, *, match_case: bool) -> re.Pattern[str]:
    return re.compile(re.escape(words), 0 if match_case else re.IGNORECASE)
