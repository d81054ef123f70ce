"""What is still open before a job may be finished, by the finish rules of its guidance."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from reedling.core.guidance.finish_rules import FinishRule, Weight
from reedling.core.guidance.questions import Photo
from reedling.core.logic.conditions import Answer, Condition, evaluate, rename_questions, spread_over
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import RunsheetLine
from reedling.core.runsheet.progress import Run


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenRule:
    """A finish rule that is asked for and not met yet. ``line`` is the line it hangs on, if it does."""

    rule: str
    says: str
    weight: Weight
    line: str | None = None


def facts_of_job(run: Run, job: Job) -> dict[str, Answer]:
    """What is known of the job itself, by the names that finish rules use."""
    photos = [q.id for line in run.lines for q in line.questions if isinstance(q, Photo)]
    known: dict[str, Answer] = {
        "job.parts": float(len({used.part for used in job.parts})),
        "job.notes": float(len(job.notes)),
        "job.photos": float(sum(run.standing.known.get(q) is not None for q in photos)),
        "job.findings": float(
            sum(f.severity in ("Act", "Stop") and not f.no_longer_asked for f in run.progress.findings)
        ),
        "job.left_out": float(len(job.skipped)),
        "job.visits": float(len(job.visits)),
        "job.signatures": float(len(job.beside.signed)),
    }
    if job.cause is not None:
        known["job.cause"] = job.cause
    if job.remedy is not None:
        known["job.remedy"] = job.remedy
    return known


def open_rules(run: Run, job: Job) -> tuple[OpenRule, ...]:
    """The finish rules that are asked for with what is known so far and are not met, in the order written.

    A rule whose condition is still unknown is not asked for yet. One that hangs on a line of a repeat section
    is asked for once for each repeat.
    """
    rules = run.rules.runsheet.finish
    if not rules:
        return ()
    known = {**run.standing.known, **facts_of_job(run, job)}
    return tuple(
        OpenRule(rule=rule.id, says=rule.says, weight=rule.weight, line=line.id if line else None)
        for rule, line in _asked(run)
        if _holds(run, rule.when, known) and not _holds(run, rule.needs, known)
    )


def _asked(run: Run) -> Iterator[tuple[FinishRule, RunsheetLine | None]]:
    """Every rule where it may be asked for, its conditions as they stand there."""
    repeats = run.rules.laid.repeats
    for rule in run.rules.runsheet.finish:
        if rule.under is None:
            yield _spread(run, rule), None
            continue
        for line in run.lines:
            if line.id.split("@", 1)[0] != rule.under or run.standing.wanted.get(line.id) is not True:
                continue
            own = {q for q, repeated in repeats.items() if f"{q}@{line.each}" in repeated.questions}

            def here(question: str, own: set[str] = own, each: str = line.each) -> str:
                return f"{question}@{each}" if each and question in own else question

            named = replace(
                rule,
                when=rename_questions(rule.when, here),
                needs=rename_questions(rule.needs, here),
            )
            yield _spread(run, named), line


def _spread(run: Run, rule: FinishRule) -> FinishRule:
    repeats = run.rules.laid.repeats
    if not repeats:
        return rule
    return replace(rule, when=spread_over(rule.when, repeats), needs=spread_over(rule.needs, repeats))


def _holds(run: Run, condition: Condition | None, known: Mapping[str, Answer | None]) -> bool:
    return evaluate(condition, known, run.is_settled) is True  # type: ignore[arg-type]
