"""Answers that the solver gives for a plan, as answers on its runsheet, and what they come to there."""

from __future__ import annotations

from collections.abc import Mapping

from reedling.core.guidance.plans import Plan
from reedling.core.guidance.questions import Photo, Scan, Signature, TextEntry, wanted_scan
from reedling.core.logic.conditions import Answer, is_fact
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Runsheet, RunsheetLine, Source
from reedling.core.runsheet.progress import Progress, take_up
from reedling.core.runsheet.repeats import lay_out

DOCUMENT = "P"
"""What the plan is called on the runsheet it is tried on."""
NO_ANSWERS: Mapping[str, Answer] = {}
STAND_IN_NAMES = ("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth")
"""Names for repeats that would be found on site."""


def sheet_of(plan: Plan, facts: Mapping[str, Answer], *, document: str = DOCUMENT) -> Runsheet:
    """The runsheet of a filled-in plan alone."""
    return compile_runsheet([(Source(document=document, revision="A", title=plan.title), plan)], facts=facts)


def run_answers(
    plan: Plan,
    answers: Mapping[str, Answer],
    *,
    document: str = DOCUMENT,
    known: Mapping[str, Answer] = NO_ANSWERS,
) -> dict[str, Answer]:
    """Answers by the plan's questions as answers by the runsheet's; facts keep their names.

    A question of a repeat section is answered alike for every repeat, but for a repeat whose number
    stands behind the question (``q@2``). Photos, scans, signatures and
    words that decide nothing get a stand-in, safety notes are acknowledged. What is ``known`` of an
    order says which repeats there are; it is not among the answers given.
    """
    told = {q: a for q, a in answers.items() if is_fact(q) and q not in known}
    facts = {**told, **known}
    sheet = sheet_of(plan, facts, document=document)
    out: dict[str, Answer] = dict(told)
    most = max((int(n) for q in answers if (n := q.rpartition("@")[2]).isdigit()), default=1)
    number: dict[tuple[str, str], int] = {}
    for line in lay_out(sheet, {}).lines:
        if line.id.endswith("@"):
            named = answers.get(line.id.removeprefix(f"{document}:"))
            out[line.id] = STAND_IN_NAMES[: max(2, most)] if named is None else named
    for line in lay_out(sheet, out).lines:
        step = line.id.split("@", 1)[0]
        place = number.setdefault((step, line.each), 1 + sum(s == step for s, _ in number))
        for q in line.questions:
            authored = q.id.split("@", 1)[0].removeprefix(f"{document}:")
            authored = own if (own := f"{authored}@{place}") in answers else authored
            if q.kind == "safety":
                out[q.id] = True
            elif authored in answers:
                out[q.id] = stand_in(q, answers[authored], facts)
    return out


def stand_in(question: object, answer: Answer, facts: Mapping[str, Answer]) -> Answer:
    """The answer, or one that fits where the solver knows no better."""
    if isinstance(question, Photo | Signature):
        return "preview"
    if isinstance(question, Scan):
        return wanted_scan(question, facts) or "preview"
    if isinstance(question, TextEntry) and answer == "something else":
        return "as found"
    return answer


def run_plan(plan: Plan, answers: Mapping[str, Answer]) -> tuple[Progress, tuple[RunsheetLine, ...]]:
    """Where a run of the plan stands with these answers, and its lines."""
    facts = {q: a for q, a in answers.items() if is_fact(q)}
    run = take_up(sheet_of(plan, facts), {q: a for q, a in answers.items() if not is_fact(q)})
    return run.progress, run.lines
