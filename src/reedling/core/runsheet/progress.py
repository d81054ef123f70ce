"""How far a job has come: what is shown, what is due, what is wrong, what was raised."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from reedling.core.guidance.questions import (
    SEVERITIES,
    UNASKED,
    Computed,
    MeterReading,
    Owner,
    Question,
    Raise,
    Reading,
    Severity,
    Verdict,
    answer_problem,
    in_own_unit,
    judge_reading,
)
from reedling.core.guidance.skills import PartNeed
from reedling.core.logic.conditions import (
    Answer,
    Answers,
    Condition,
    evaluate,
    lower_first,
    number_text,
    questions_of,
)
from reedling.core.logic.kleene import Truth
from reedling.core.runsheet.lines import Runsheet, RunsheetLine
from reedling.core.runsheet.past import NOTHING, Past, lines_ever
from reedling.core.runsheet.standing import (
    Entered,
    Rules,
    Standing,
    rules_of,
    settle,
    settle_again,
    without,
)

LineState = Literal["hidden", "open question", "due", "done", "skipped", "no longer asked"]
NO_REASONS: Mapping[str, str] = {}


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What an answer raised: how serious, whose it is to see to, and due in how many days.

    ``by`` says whether a limit raised it or the answer itself; ``no_longer_asked`` that a later answer
    closed the question since.
    """

    line: str
    question: str
    severity: Severity
    sentence: str
    owner: Owner = "planner"
    due_days: int | None = None
    by: Literal["limit", "answer"] = "limit"
    no_longer_asked: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class LineProgress:
    """One line as it stands.

    ``asked`` holds its questions that are wanted, ``missing`` those still to answer before it can
    be done. "open question" means that an earlier answer still decides whether the line is wanted,
    "no longer asked" that something was recorded on it before a later answer closed it. ``past`` holds
    its questions that were answered and are no longer asked.
    """

    line: str
    state: LineState
    missing: tuple[str, ...]
    asked: tuple[str, ...] = ()
    past: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """The whole runsheet as it stands.

    ``next_line`` is the first that is due. ``minutes_left`` adds the likely minutes of the
    lines due; ``minutes_open`` those of lines that an answer still decides. ``computed`` holds
    the values worked out so far, by question.
    """

    lines: tuple[LineProgress, ...]
    next_line: str | None
    findings: tuple[Finding, ...]
    n_done: int
    n_shown: int
    minutes_left: float
    minutes_open: float
    computed: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Consequence:
    """What one answer brought about at once: its verdict, and the lines it opened.

    ``severity`` is that of the worst finding the answer raises. ``asks_reason`` says that it
    stands only with a reason.
    """

    question: str
    verdict: Verdict | None
    opened: tuple[str, ...]
    sentence: str
    severity: Severity | None = None
    asks_reason: bool = False


@dataclass(frozen=True, kw_only=True)
class Run:
    """A runsheet taken up with answers: everything about it follows from here.

    ``past`` is what was recorded and is no longer asked; ``lines_ever`` are the lines with those of
    repeats that were named and no longer are.
    """

    rules: Rules
    entered: Entered
    standing: Standing
    reasons: Mapping[str, str]
    past: Past
    lines_ever: tuple[RunsheetLine, ...]

    @cached_property
    def progress(self) -> Progress:
        """Where it stands, line by line; worked out once, for all who ask."""
        return _progress_of(self)

    @property
    def answers(self) -> Answers:
        """What was answered, by question."""
        return self.entered.answers

    @property
    def done(self) -> Collection[str]:
        """The lines marked done."""
        return self.entered.done

    @property
    def skipped(self) -> Collection[str]:
        """The lines left out."""
        return self.entered.skipped

    def is_settled(self, question: str) -> bool:
        """Whether no answer to a question can come any more."""
        decides = self.rules.laid.waiting.get(question, question)
        return not self.standing.open.get(decides, False)

    @property
    def lines(self) -> tuple[RunsheetLine, ...]:
        """The lines as they stand on the sheet, repeats laid out."""
        return self.rules.laid.lines


def take_up(
    runsheet: Runsheet,
    answers: Answers,
    *,
    done: Collection[str] = (),
    skipped: Collection[str] = (),
    reasons: Mapping[str, str] = NO_REASONS,
    past: Past = NOTHING,
    since: Run | None = None,
) -> Run:
    """Settle a runsheet under answers and the lines marked done or skipped.

    ``reasons`` are given, by question, for answers that need one. A hidden question has no answer
    for any condition; ``past`` is what was recorded of such. ``since`` is a run that was taken up
    before, of this sheet with less or more recorded, from which this one is quicker to work out.
    """
    rules = rules_of(runsheet, answers)
    entered = Entered(answers, done, skipped)
    if since is not None and since.rules is rules:
        standing = settle_again(rules, entered, since.standing, since.entered)
    else:
        standing = settle(rules, entered)
    return Run(
        rules=rules,
        entered=entered,
        standing=standing,
        reasons=reasons,
        past=past,
        lines_ever=lines_ever(runsheet, answers, past, rules.laid.lines),
    )


def next_due(run: Run) -> RunsheetLine | None:
    """The first line that is due, as :attr:`Progress.next_line`, without going over the rest."""
    return next((line for line in run.lines_ever if line_progress(run, line).state == "due"), None)


def _progress_of(run: Run) -> Progress:
    lines = tuple(line_progress(run, line) for line in run.lines_ever)
    minutes = {line.id: line.minutes.likely for line in run.lines_ever}
    due = [p for p in lines if p.state == "due"]
    open_ = [p for p in lines if p.state == "open question"]
    return Progress(
        lines=lines,
        next_line=due[0].line if due else None,
        findings=tuple(f for line in run.lines_ever for q in line.questions for f in _findings(run, line, q)),
        n_done=sum(1 for p in lines if p.state in ("done", "skipped")),
        n_shown=sum(1 for p in lines if p.state in ("done", "skipped", "due")),
        minutes_left=sum(minutes[p.line] for p in due),
        minutes_open=sum(minutes[p.line] for p in open_)
        + sum(line.minutes.likely for line in run.rules.laid.folded),
        computed={
            q.id: value
            for line in run.lines
            for q in line.questions
            if isinstance(q, Computed) and isinstance(value := run.standing.known.get(q.id), float)
        },
    )


def consequences_of(run: Run, *, only: str | None = None) -> dict[str, Consequence]:
    """What each answer and computed value brought about, by question.

    What an answer opened is what is hidden without it.
    """
    out: dict[str, Consequence] = {}
    by_id = {line.id: line for line in run.lines}
    for line in run.lines:
        for question in line.questions:
            if only is not None and question.id != only:
                continue
            if run.standing.known.get(question.id) is not None:
                out[question.id] = _consequence(run, line, question, by_id)
    return out


def _consequence(
    run: Run, line: RunsheetLine, question: Question, by_id: Mapping[str, RunsheetLine]
) -> Consequence:
    opened: list[RunsheetLine] = []
    if question.id in run.rules.dependents and question.id in run.answers:
        before = without(run.rules, run.entered, run.standing, question.id)
        opened = [
            by_id[key]
            for key in before
            if key in by_id and key != line.id and run.standing.wanted[key] is True
        ]
    verdict = _verdict(run, question)
    severities = [verdict.severity] if verdict and verdict.severity else []
    said = [verdict.sentence] if verdict and verdict.severity else []
    for raised in _raised(run, question, run.standing.known):
        severities.append(raised.severity)
        said.append(_words(raised))
    reason = _reason_wanted(run, question)
    if reason:
        said.append(reason)
    said += [f"“{o.text}” is added, about {number_text(o.minutes.likely)} min." for o in opened]
    return Consequence(
        question=question.id,
        verdict=verdict,
        opened=tuple(o.id for o in opened),
        sentence=" ".join(said),
        severity=max(severities, key=SEVERITIES.index, default=None),
        asks_reason=bool(reason),
    )


def line_progress(run: Run, line: RunsheetLine) -> LineProgress:
    """Where one line stands."""
    wanted = run.standing.wanted
    shown: Truth = wanted.get(line.id, False)
    asked = tuple(q for q in line.questions if wanted.get(q.id) is True)
    missing = tuple(q.id for q in asked if _is_missing(run, q))
    past = tuple(q.id for q in line.questions if is_past(run, q))
    state: LineState
    if shown is not True and (past or line.id in run.past.done or line.id in run.past.skipped):
        state = "no longer asked"
    elif shown is False:
        state = "hidden"
    elif shown is None:
        state = "open question"
    elif line.id in run.skipped:
        state = "skipped"
    else:
        state = "done" if line.id in run.done and not missing else "due"
    return LineProgress(
        line=line.id, state=state, missing=missing, asked=tuple(q.id for q in asked), past=past
    )


def is_past(run: Run, question: Question) -> bool:
    """Whether a question was answered and is no longer asked."""
    return question.id in run.past.answers and run.standing.wanted.get(question.id) is not True


def _is_missing(run: Run, question: Question) -> bool:
    if isinstance(question, UNASKED):
        return False
    if question.id in run.answers:
        return bool(_reason_wanted(run, question)) and not run.reasons.get(question.id, "").strip()
    if question.required == "when":
        return _holds(run, question.required_when)
    return question.required == "always"


def _reason_wanted(run: Run, question: Question) -> str:
    """Why the answer stands only with a reason: a meter that went backwards."""
    if not isinstance(question, MeterReading):
        return ""
    now, last = run.standing.known.get(question.id), run.rules.runsheet.facts.get(f"meter.{question.meter}")
    if isinstance(now, float | int) and isinstance(last, float | int) and now < last:
        return (
            f"{number_text(now)} {question.unit} is below the last reading, "
            f"{number_text(last)} {question.unit}. Say why."
        )
    return ""


def _verdict(run: Run, question: Question) -> Verdict | None:
    return _judged(question, run.standing.known.get(question.id))


def _judged(question: Question, value: Answer | None) -> Verdict | None:
    if isinstance(question, Reading | Computed) and isinstance(value, int | float):
        return judge_reading(question, float(value))
    return None


def was_judged(run: Run, question: Question) -> bool:
    """Whether a value was held against limits; also where it is no longer asked."""
    if not isinstance(question, Reading | Computed) or not question.limits.any_set:
        return False
    return is_past(run, question) or run.standing.known.get(question.id) is not None


def _findings(run: Run, line: RunsheetLine, question: Question) -> Iterator[Finding]:
    known: Mapping[str, Answer | None] = run.standing.known
    past = is_past(run, question)
    if past:
        known = _as_it_was(run)
    elif known.get(question.id) is None:
        return
    after = " This is no longer asked: a later answer closed it." if past else ""
    verdict = _judged(question, known.get(question.id))
    if verdict is not None and verdict.severity is not None:
        assert isinstance(question, Reading | Computed)
        yield Finding(
            line=line.id,
            question=question.id,
            severity=verdict.severity,
            sentence=f"{_named(question, line)}: {lower_first(verdict.sentence)}{after}",
            owner=question.limits.owner,
            due_days=question.limits.due_days,
            no_longer_asked=past,
        )
    for raised in _raised(run, question, known):
        yield Finding(
            line=line.id,
            question=question.id,
            severity=raised.severity,
            sentence=f"{_named(question, line)}: {lower_first(_words(raised))}{after}",
            owner=raised.owner,
            due_days=raised.due_days,
            by="answer",
            no_longer_asked=past,
        )


def _as_it_was(run: Run) -> Mapping[str, Answer | None]:
    """What is known, with every answer that is no longer asked beside it."""
    past = {
        q.id: in_own_unit(q, run.past.answers[q.id])
        for line in run.lines_ever
        for q in line.questions
        if is_past(run, q)
    }
    return {**run.standing.known, **past}


def _raised(run: Run, question: Question, known: Mapping[str, Answer | None]) -> Iterator[Raise]:
    for raised in question.raises:
        if evaluate(raised.when, known, run.is_settled) is True:  # type: ignore[arg-type]
            yield raised


def _words(raised: Raise) -> str:
    words = raised.says.strip() or "This answer calls for attention"
    return words[:1].upper() + words[1:] + ("" if words[-1] in ".?" else ".")


def _named(question: Question, line: RunsheetLine) -> str:
    return f"{question.label}, {line.each}" if line.each else question.label


def wanted_parts(run: Run, line: RunsheetLine) -> tuple[PartNeed, ...]:
    """The parts of a line that are wanted with the answers so far."""
    return tuple(p for p in line.parts if part_wanted(run, p) is True)


def part_wanted(run: Run, need: PartNeed) -> Truth:
    """Whether a part of a line is wanted with the answers so far; nothing while an answer still decides.

    As with a line, what asks only about questions that nobody will answer is not wanted.
    """
    known: Mapping[str, Answer | None] = run.standing.known
    truth = evaluate(need.condition, known, run.is_settled)  # type: ignore[arg-type]
    if truth is None and all(run.is_settled(q) for q in questions_of(need.condition)):
        return False
    return truth


def _holds(run: Run, condition: Condition | None) -> bool:
    known: Mapping[str, Answer | None] = run.standing.known
    return evaluate(condition, known, run.is_settled) is True  # type: ignore[arg-type]


def offered_answers(run: Run) -> dict[str, Answer]:
    """What may be taken over as an answer, by question: what was answered before a later answer closed
    it, a fact of the order, or the last visit's.

    Only for questions that are asked and have no answer yet, and only where it fits.
    """
    out: dict[str, Answer] = {}
    sheet = run.rules.runsheet
    for line in run.lines:
        for q in line.questions:
            if run.standing.wanted[q.id] is not True or q.id in run.answers:
                continue
            found = run.past.answers.get(q.id)
            if found is None and q.prefill is not None:
                found = sheet.last.get(q.id) if q.prefill == "last" else sheet.facts.get(q.prefill)
            if found is not None and answer_problem(q, found, sheet.facts) is None:
                out[q.id] = found
    return out


@dataclass(frozen=True, slots=True, kw_only=True)
class WriteBack:
    """A field of the asset or order that an answer is written to; ``before`` is what it held."""

    question: str
    field: str
    before: Answer | None
    after: Answer


def write_backs(run: Run) -> tuple[WriteBack, ...]:
    """Everything that the answers write to the asset and the order, meters included."""
    out = []
    facts = run.rules.runsheet.facts
    for line in run.lines:
        for q in line.questions:
            after = run.standing.known.get(q.id)
            field = f"meter.{q.meter}" if isinstance(q, MeterReading) else q.write_back
            if field and after is not None and facts.get(field) != after:
                out.append(WriteBack(question=q.id, field=field, before=facts.get(field), after=after))
    return tuple(out)


def laid_question(run: Run, question: str) -> tuple[RunsheetLine, Question] | None:
    """The line and question of this identity as the sheet stands, repeats laid out."""
    for line in run.lines:
        for q in line.questions:
            if q.id == question:
                return line, q
    return None


def refused_answers(runsheet: Runsheet, answers: Answers) -> tuple[str, ...]:
    """A sentence for each answer that does not fit its question or asks of none."""
    asked = {q.id: q for line in rules_of(runsheet, answers).laid.lines for q in line.questions}
    out = []
    for question, answer in answers.items():
        found = asked.get(question)
        problem = (
            answer_problem(found, answer, runsheet.facts)
            if found
            else f"There is no question {question} here."
        )
        if problem:
            out.append(problem)
    return tuple(out)
