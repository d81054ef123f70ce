"""Defects of a plan, proved by a solver (z3; de Moura and Bjørner 2008).

A verdict is never a guess: "never" and "always" are proved, and everything that can happen comes
with a witness that a person can replay.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import z3

from reedling.core.checking.defects import Defect, Fix, MendingEdit, SetField, defect
from reedling.core.checking.encoding import Encoding, Encodings
from reedling.core.checking.kept_proofs import PROOFS
from reedling.core.checking.plan_parts import NamedFacts, conjuncts, facts_named, parts_of, requirements
from reedling.core.checking.replaying import Search, find_replaying, whole_runs
from reedling.core.checking.spans import spans_of
from reedling.core.checking.witnesses import DOCUMENT, run_answers, run_plan
from reedling.core.guidance.editing import RemoveStep
from reedling.core.guidance.plans import NamesAt, Plan, Step, names_in, sections_of, steps_and_questions
from reedling.core.guidance.question_editing import RemoveQuestion
from reedling.core.guidance.questions import UNASKED, Computed, Question, Reading
from reedling.core.logic.conditions import (
    Answer,
    Condition,
    QuestionName,
    number_text,
    sentence,
)

NO_NAMES: Mapping[str, QuestionName] = {}


@dataclass(frozen=True, slots=True)
class _Wish:
    """Something that is wanted under a condition: what it is called, where it stands, its formula.

    ``within`` is the formula of what it belongs to; ``clauses`` must all be true for it to be wanted.
    """

    key: str
    named: str
    path: str
    condition: Condition
    wanted: Any
    within: Any
    clauses: tuple[Condition, ...]
    group: str
    step: str
    words: tuple[str, str]
    removal: MendingEdit | None


def check_plan(
    plan: Plan,
    facts: Mapping[str, QuestionName] = NO_NAMES,
    *,
    split: Callable[[Plan], tuple[Plan, ...]] = parts_of,
) -> tuple[Defect, ...]:
    """Every defect the solver proves, in plan order.

    Assumes that the plan's conditions look backwards only, as
    :func:`reedling.core.guidance.soundness.plan_problems` holds; a condition on a question that
    is not there is never true. ``facts`` says how facts are spoken of. The plan is taken apart by
    ``split`` into parts that share nothing; what was proved of a part is kept and used again.
    """
    place = {step.id: i for i, step in enumerate(plan.steps)}
    parts = split(plan)
    encodings = Encodings()
    proved = [(part, _proved_of(part, facts_named(part, facts), encodings)) for part in parts]
    found = [_placed(d, part, place) for part, of_part in proved for d in of_part.reach]
    found.extend(_no_prove(plan, parts, encodings))
    found.extend(_placed(d, part, place) for part, of_part in proved for d in of_part.unproved)
    found.extend(_placed(d, part, place) for part, of_part in proved for d in of_part.no_way)
    found.extend(_dead_limits(plan))
    return tuple(sorted(found, key=lambda d: _position(d.problem.path)))


@dataclass(frozen=True, slots=True)
class _Proved:
    """What is proved of one part of a plan; paths count its own steps."""

    reach: tuple[Defect, ...]
    unproved: tuple[Defect, ...]
    no_way: tuple[Defect, ...]


def _proved_of(part: Plan, facts: NamedFacts, encodings: Encodings) -> _Proved:
    def prove() -> _Proved:
        e = encodings.of(part)
        named = {
            name: QuestionName(label=label, unit=unit, options=dict(options))
            for name, label, unit, options in facts
        }
        return _Proved(
            reach=tuple(_reach(e, names_in(part, named))),
            unproved=tuple(_unproved(e)),
            no_way=tuple(_no_way(e)),
        )

    return PROOFS.get((part, facts), prove, lasts=_is_decided)


def _is_decided(proved: _Proved) -> bool:
    return not any(d.problem.code.endswith("not_proved") for d in proved.unproved)


def _placed(found: Defect, part: Plan, place: Mapping[str, int]) -> Defect:
    """A defect of a part with the places of its steps in the whole plan."""

    def at(path: str) -> str:
        number, slash, rest = path.removeprefix("/steps/").partition("/")
        return f"/steps/{place[part.steps[int(number)].id]}{slash}{rest}"

    fix = found.fix
    if fix is not None and isinstance(fix.change, SetField):
        fix = replace(fix, change=replace(fix.change, path=at(fix.change.path)))
    return replace(found, problem=replace(found.problem, path=at(found.problem.path)), fix=fix)


def _position(path: str) -> tuple[int, str]:
    parts = path.split("/")
    return (int(parts[2]), path) if len(parts) > 2 and parts[2].isdigit() else (-1, path)


def _wishes(e: Encoding) -> Iterator[_Wish]:
    """Everything conditional of a part of a plan, in order: steps, questions, parts, findings."""
    for i, step in enumerate(e.plan.steps):
        group = e.groups.get(f"step {step.id}", "")
        e.inside = group
        named = f"“{step.text}”"
        own = requirements(e.plan, step, e.outside_section)
        if step.condition is not None:
            yield _Wish(
                key=step.id,
                named=named,
                path=f"/steps/{i}/condition",
                condition=step.condition,
                wanted=e.shown[step.id],
                within=e.shown.get(step.under, e.true()) if step.under else e.true(),
                clauses=own,
                group=group,
                step=step.id,
                words=("can never be asked", "is wanted in every job that gets there"),
                removal=RemoveStep(step=step.id),
            )
        for j, q in enumerate(step.questions):
            if q.condition is not None:
                yield _Wish(
                    key=q.id,
                    named=f"“{q.label}” of {named}",
                    path=f"/steps/{i}/questions/{j}/condition",
                    condition=q.condition,
                    wanted=e.asked[q.id],
                    within=e.shown[step.id],
                    clauses=(*own, *conjuncts(q.condition, e.outside_section)),
                    group=group,
                    step=step.id,
                    words=("can never be asked", "is asked whenever its step is"),
                    removal=RemoveQuestion(question=q.id),
                )
            yield from _of_question(e, step, q, i, j, own, group)
        for j, part in enumerate(step.parts):
            if part.condition is not None:
                yield _Wish(
                    key=f"{step.id} part {j}",
                    named=f"{part.part} of {named}",
                    path=f"/steps/{i}/parts/{j}/condition",
                    condition=part.condition,
                    wanted=z3.And(e.shown[step.id], e.truth(part.condition)[0]),
                    within=e.shown[step.id],
                    clauses=(*own, *conjuncts(part.condition, e.outside_section)),
                    group=group,
                    step=step.id,
                    words=("can never be taken", "is taken whenever its step is done"),
                    removal=None,
                )


def _of_question(
    e: Encoding,
    step: Step,
    q: Question,
    i: int,
    j: int,
    own: tuple[Condition, ...],
    group: str,
) -> Iterator[_Wish]:
    named = f"“{q.label}” of “{step.text}”"
    clauses = (*own, *conjuncts(q.condition, e.outside_section))
    conditional = [
        (f"/raises/{k}/when", r.when, "can never raise its finding") for k, r in enumerate(q.raises)
    ]
    if q.required == "when" and q.required_when is not None:
        conditional.append(("/required_when", q.required_when, "is never required"))
    for place, condition, never in conditional:
        yield _Wish(
            key=f"{q.id}{place}",
            named=named,
            path=f"/steps/{i}/questions/{j}{place}",
            condition=condition,
            wanted=z3.And(e.asked[q.id], e.truth(condition)[0]),
            within=e.asked[q.id],
            clauses=(*clauses, *conjuncts(condition, e.outside_section)),
            group=group,
            step=step.id,
            words=(never, ""),
            removal=None,
        )


def _reach(e: Encoding, names: NamesAt) -> Iterator[Defect]:
    """What can never be wanted, and conditions that are true in every whole run."""
    wishes = list(_wishes(e))
    solver = z3.SimpleSolver(ctx=e.context)
    solver.add(*e.domains)
    never: set[str] = set()
    for wish in wishes:
        if solver.check(wish.wanted) != z3.unsat:
            continue
        never.add(wish.key)
        # What belongs to something that is never wanted itself is told of there.
        if solver.check(wish.within) != z3.unsat:
            yield _never(e, wish, names)
    solver.add(*e.whole.values())
    for wish in wishes:
        if wish.key in never or not wish.words[1]:
            continue
        if solver.check(wish.within, z3.Not(wish.wanted)) == z3.unsat:
            yield defect(
                "reach.always",
                wish.path,
                f"{wish.named} {wish.words[1]}: {sentence(wish.condition, names(wish.step))} holds whatever is answered.",
                severity="warning",
                fix=Fix(label="Take the condition off", change=SetField(path=wish.path, value=None)),
            )


def _never(e: Encoding, wish: _Wish, names: NamesAt) -> Defect:
    e.inside = wish.group
    clauses = [sentence(clause, names(wish.step)) for clause in _smallest_conflict(e, wish.clauses)]
    if not clauses:
        why = "what it hangs on is never wanted"
    elif len(clauses) == 1:
        why = f"it needs that {clauses[0]}, and that never comes about"
    else:
        why = "it needs both that " + " and that ".join(clauses)
    step = isinstance(wish.removal, RemoveStep)
    label = "Remove the step" if step else "Remove the question"
    return defect(
        "reach.never",
        wish.path,
        f"{wish.named} {wish.words[0]}: {why}.",
        fix=Fix(label=label, change=wish.removal)
        if wish.removal
        else Fix(label="Take the condition off", change=SetField(path=wish.path, value=None))
        if wish.path.endswith("/condition")
        else None,
    )


def _smallest_conflict(e: Encoding, clauses: tuple[Condition, ...]) -> list[Condition]:
    """A set of clauses that cannot all be true, and of which none can be spared."""
    truths = {i: e.truth(clause)[0] for i, clause in enumerate(clauses)}
    solver = z3.SimpleSolver(ctx=e.context)
    solver.add(*e.domains)
    kept = list(truths)
    for i in list(kept):
        rest = [truths[j] for j in kept if j != i]
        if solver.check(*rest) == z3.unsat:
            kept.remove(i)
    return [clauses[i] for i in kept]


def _no_prove(plan: Plan, parts: Sequence[Plan], encodings: Encodings) -> Iterator[Defect]:
    """Whole runs in which nothing proves that the equipment works again.

    Parts share nothing, so such a run exists when every part has one; the witness joins theirs. A
    section of which there may be no repeats at all proves nothing then.
    """
    proving = [s for s in plan.steps if s.phase == "Prove"]
    if not proving:
        return
    heads = sections_of(plan)
    empty = {s.id: head for s in proving if (head := heads.get(s.id)) and _may_be_none(head)}
    witness: dict[str, Answer] = {f"{head.id}@": () for head in empty.values()}
    undecided = False
    for part in parts:
        found = _without_prove(part, frozenset(empty), encodings)
        if found.witness is None and found.decided:
            return
        undecided = undecided or found.witness is None
        witness |= found.witness or {}
    path = f"/steps/{plan.steps.index(proving[0])}/condition"
    if undecided:
        message = "It could not be proved that every job ends with a Prove step, nor that one does not."
        yield defect("ends.not_proved", path, message, severity="note")
        return
    yield defect(
        "ends.no_prove",
        path,
        "A job can end without any Prove step being asked.",
        severity="warning",
        witness=witness,
    )


def _without_prove(part: Plan, empty: frozenset[str], encodings: Encodings) -> Search:
    """A whole run of a part that asks for none of its Prove steps; those in ``empty`` may be of no repeats."""
    own = frozenset(s.id for s in part.steps if s.phase == "Prove" and s.id not in empty)

    def search() -> Search:
        e = encodings.of(part)
        steps = [s for s in part.steps if s.id in own]
        goal = [z3.Not(e.shown[s.id]) for s in steps]
        return find_replaying(e, goal, partial(_shows_none, part, steps))

    return PROOFS.get((part, own), search, lasts=lambda found: found.decided)


def _may_be_none(head: Step) -> bool:
    """Whether a section's repeats are only found on site, so that none may be named."""
    return head.repeat is not None and head.repeat.over != "named"


def _shows_none(plan: Plan, steps: Sequence[Step], witness: Mapping[str, Answer]) -> bool:
    """Whether a run with these answers asks for none of the steps."""
    progress, lines = run_plan(plan, run_answers(plan, witness))
    due = {p.line for p in progress.lines if p.state in ("due", "done")}
    wanted = {s.id for s in steps}
    return not any(line.step in wanted and line.id in due for line in lines)


def _unproved(e: Encoding) -> Iterator[Defect]:
    """Steps that can be wanted while everything they ask is hidden: they are done unseen."""
    for i, step in enumerate(e.plan.steps):
        asked = [q for q in step.questions if not isinstance(q, UNASKED)]
        if not asked or any(q.condition is None for q in asked):
            continue
        if whole_runs(e).check(e.either(e.asked[q.id] for q in asked)) == z3.unsat:
            continue  # each of them is named as never asked
        found = find_replaying(
            e,
            [e.shown[step.id], *(z3.Not(e.asked[q.id]) for q in asked)],
            partial(_is_unseen, e.plan, step, asked),
        )
        hidden = ", ".join(f"“{q.label}”" for q in asked)
        path = f"/steps/{i}/questions"
        if found.witness is not None:
            yield defect(
                "questions.hidden",
                path,
                f"“{step.text}” can be done with nothing to show for it: {hidden} can all be hidden.",
                severity="warning",
                witness=found.witness,
            )
        elif not found.decided:
            yield defect(
                "questions.not_proved",
                path,
                f"It could not be proved that “{step.text}” always has something to show for it.",
                severity="note",
            )


def _is_unseen(plan: Plan, step: Step, asked: Sequence[Question], witness: Mapping[str, Answer]) -> bool:
    progress, lines = run_plan(plan, run_answers(plan, witness))
    of_step = {line.id: {f"{DOCUMENT}:{q.id}" for q in asked} for line in lines if line.step == step.id}
    return any(
        p.state in ("due", "done")
        and p.line in of_step
        and not any(q.split("@", 1)[0] in of_step[p.line] for q in p.asked)
        for p in progress.lines
    )


def _no_way(e: Encoding) -> Iterator[Defect]:
    """Questions that have to be answered and cannot be: no job that meets them can finish."""
    if whole_runs(e).check() != z3.unsat:
        return
    solver = z3.SimpleSolver(ctx=e.context)
    solver.add(*e.domains)
    for i, step in enumerate(e.plan.steps):
        for j, q in enumerate(step.questions):
            if q.id in e.whole and solver.check(e.whole[q.id], e.asked[q.id]) == z3.unsat:
                if solver.check(e.asked[q.id]) == z3.unsat:
                    continue
                yield defect(
                    "ends.no_way",
                    f"/steps/{i}/questions/{j}",
                    f"A job that meets “{q.label}” of “{step.text}” cannot finish: it must be answered, "
                    "and no answer fits.",
                )


def _dead_limits(plan: Plan) -> Iterator[Defect]:
    """Limits beyond what the instrument can show, or what a value can be worked out to: they never trip."""
    position = {step.id: i for i, step in enumerate(plan.steps)}
    spans = spans_of(plan)
    for step, question in steps_and_questions(plan):
        if not isinstance(question, Reading | Computed):
            continue
        least, most = spans.get(question.id, (None, None))
        path = f"/steps/{position[step.id]}/questions/{step.questions.index(question)}"
        lim = question.limits
        lower = [("low_low", lim.low_low), ("low", lim.low)]
        upper = [("high", lim.high), ("high_high", lim.high_high)]
        dead = [
            (n, v, least, "least") for n, v in lower if v is not None and least is not None and v <= least
        ]
        dead += [(n, v, most, "most") for n, v in upper if v is not None and most is not None and v >= most]
        what = "the instrument shows" if isinstance(question, Reading) else "it is worked out to"
        for name, value, end, word in dead:
            yield defect(
                "limits.dead",
                f"{path}/limits/{name}",
                f"“{step.text}”: the limit {number_text(value)} {question.unit} of “{question.label}” can never "
                f"trip; {what} {number_text(end)} {question.unit} at the {word}.",
                severity="warning",
                fix=Fix(
                    label="Take the limit off", change=SetField(path=f"{path}/limits/{name}", value=None)
                ),
            )
