"""How far a job has come: what is shown, what is due, what is wrong, what was raised."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Literal

from reedling.core.guidance.proofs import Proof, Reading, Severity, Verdict, answer_problem, judge_reading
from reedling.core.logic.conditions import (
    Answer,
    Answers,
    comparisons,
    evaluate,
    lower_first,
    number_text,
)
from reedling.core.logic.kleene import Truth, conjoin
from reedling.core.runsheet.lines import Line, Runsheet, find_proof

LineState = Literal["hidden", "open question", "due", "done", "skipped"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What an answer raised."""

    line: str
    question: str
    severity: Severity
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LineProgress:
    """One line as it stands. ``missing`` holds the questions of it not yet answered.

    "open question" means that an earlier answer still decides whether the line is wanted.
    """

    line: str
    state: LineState
    missing: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """The whole runsheet as it stands.

    ``next_line`` is the first that is due. ``minutes_left`` adds the likely minutes of the
    lines due; ``minutes_open`` those of lines that an answer still decides.
    """

    lines: tuple[LineProgress, ...]
    next_line: str | None
    findings: tuple[Finding, ...]
    n_done: int
    n_shown: int
    minutes_left: float
    minutes_open: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Consequence:
    """What one answer brought about at once: its verdict, and the lines it opened."""

    question: str
    verdict: Verdict | None
    opened: tuple[str, ...]
    sentence: str


def follow(
    runsheet: Runsheet,
    answers: Answers,
    *,
    done: Collection[str] = (),
    skipped: Collection[str] = (),
) -> Progress:
    """Work out where a job stands from its answers and the lines marked done or skipped.

    A hidden line's questions have no answer for any condition. Conditions look backwards only
    (drafts that do otherwise are refused), so one pass settles every line.
    """
    shown, effective = _shown(runsheet, answers, skipped)
    lines = tuple(_line_progress(line, shown[line.id], effective, done, skipped) for line in runsheet.lines)
    by_id = {line.id: line for line in runsheet.lines}
    due = [p for p in lines if p.state == "due"]
    open_ = [p for p in lines if p.state == "open question"]
    return Progress(
        lines=lines,
        next_line=due[0].line if due else None,
        findings=tuple(_findings(runsheet, effective)),
        n_done=sum(1 for p in lines if p.state in ("done", "skipped")),
        n_shown=sum(1 for p in lines if p.state in ("done", "skipped", "due")),
        minutes_left=sum(by_id[p.line].minutes.likely for p in due),
        minutes_open=sum(by_id[p.line].minutes.likely for p in open_),
    )


def consequence_of(runsheet: Runsheet, answers: Answers, question: str) -> Consequence | None:
    """What the answer to one question brought about; nothing when it is unanswered or hidden.

    >>> from reedling.core.guidance.plans import Plan, Step, Minutes
    >>> from reedling.core.guidance.proofs import Limits, Reading
    >>> from reedling.core.logic.conditions import Comparison
    >>> from reedling.core.runsheet.lines import Source, compile_runsheet
    >>> plan = Plan(title="Fan", steps=(
    ...     Step(id="read", phase="Diagnose", text="Read it", proofs=(
    ...         Reading(id="t", label="Temperature", unit="°F", limits=Limits(high=150)),)),
    ...     Step(id="fan", phase="Put right", text="Replace fan", minutes=Minutes(likely=40),
    ...         condition=Comparison(question="t", operator="above", value=150.0)),
    ... ))
    >>> sheet = compile_runsheet([(Source(document="W", revision="A", title="Fan"), plan)])
    >>> consequence_of(sheet, {"W:t": 160.0}, "W:t").sentence
    '160 °F is above 150 °F. “Replace fan” is added, about 40 min.'
    """
    return consequences(runsheet, answers, only=question).get(question)


def consequences(runsheet: Runsheet, answers: Answers, *, only: str | None = None) -> dict[str, Consequence]:
    """What each answer brought about, by question; as :func:`consequence_of`.

    What an answer opened is what is hidden without it. Only answers that some condition asks
    about can open anything, so the run is worked out anew for those alone.
    """
    shown, effective = _shown(runsheet, answers)
    decisive = {c.question for line in runsheet.lines for c in comparisons(line.condition)}
    out: dict[str, Consequence] = {}
    for line in runsheet.lines:
        for proof in line.proofs:
            if proof.id not in effective or (only is not None and proof.id != only):
                continue
            opened: list[Line] = []
            if proof.id in decisive:
                before, _ = _shown(runsheet, {q: a for q, a in answers.items() if q != proof.id})
                opened = [
                    other
                    for other in runsheet.lines
                    if other.id != line.id and shown[other.id] is True and before[other.id] is not True
                ]
            out[proof.id] = _consequence(proof, effective[proof.id], opened)
    return out


def _consequence(proof: Proof, answer: Answer, opened: list[Line]) -> Consequence:
    verdict = None
    if isinstance(proof, Reading) and isinstance(answer, int | float):
        verdict = judge_reading(proof, float(answer))
    said = [verdict.sentence] if verdict and verdict.severity else []
    said += [f"“{o.text}” is added, about {number_text(o.minutes.likely)} min." for o in opened]
    return Consequence(
        question=proof.id,
        verdict=verdict,
        opened=tuple(o.id for o in opened),
        sentence=" ".join(said),
    )


def _shown(
    runsheet: Runsheet, answers: Answers, skipped: Collection[str] = ()
) -> tuple[dict[str, Truth], dict[str, Answer]]:
    """Whether each line is wanted, and the answers of the lines that are.

    A condition left unknown settles to "not wanted" once nothing it asks can still be answered:
    every open question of it stands on a line that is hidden or skipped.
    """
    shown: dict[str, Truth] = {}
    effective: dict[str, Answer] = {}
    pending: set[str] = set()
    for line in runsheet.lines:
        above = shown.get(line.under, True) if line.under else True
        truth = conjoin((above, evaluate(line.condition, effective)))
        if truth is None and above is True:
            asked = {c.question for c in comparisons(line.condition)}
            truth = None if asked & pending else False
        shown[line.id] = truth
        if truth is True:
            effective.update((p.id, answers[p.id]) for p in line.proofs if p.id in answers)
        if truth is not False and line.id not in skipped:
            pending.update(p.id for p in line.proofs if p.id not in effective)
    return shown, effective


def _line_progress(
    line: Line,
    shown: Truth,
    effective: dict[str, Answer],
    done: Collection[str],
    skipped: Collection[str],
) -> LineProgress:
    missing = tuple(p.id for p in line.proofs if p.id not in effective) if shown is True else ()
    state: LineState
    if shown is False:
        state = "hidden"
    elif shown is None:
        state = "open question"
    elif line.id in skipped:
        state = "skipped"
    else:
        state = "done" if line.id in done and not missing else "due"
    return LineProgress(line=line.id, state=state, missing=missing)


def _findings(runsheet: Runsheet, effective: dict[str, Answer]) -> list[Finding]:
    out: list[Finding] = []
    for line in runsheet.lines:
        for proof in line.proofs:
            value = effective.get(proof.id)
            if isinstance(proof, Reading) and isinstance(value, int | float):
                verdict = judge_reading(proof, float(value))
                if verdict.severity is not None:
                    out.append(
                        Finding(
                            line=line.id,
                            question=proof.id,
                            severity=verdict.severity,
                            sentence=f"{proof.label}: {lower_first(verdict.sentence)}",
                        )
                    )
    return out


def refused_answers(runsheet: Runsheet, answers: Answers) -> tuple[str, ...]:
    """A sentence for each answer that does not fit its question or asks of none."""
    out = []
    for question, answer in answers.items():
        found = find_proof(runsheet, question)
        problem = answer_problem(found[1], answer) if found else f"There is no question {question} here."
        if problem:
            out.append(problem)
    return tuple(out)
