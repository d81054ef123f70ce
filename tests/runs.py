"""A runsheet taken up under answers and read at once, for tests that have no job."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from reedling.core.logic.conditions import Answers
from reedling.core.runsheet.lines import Runsheet
from reedling.core.runsheet.progress import Consequence, Progress, consequences_of, take_up


def follow(
    runsheet: Runsheet,
    answers: Answers,
    *,
    done: Collection[str] = (),
    skipped: Collection[str] = (),
    reasons: Mapping[str, str] | None = None,
) -> Progress:
    """Where a job stands under these answers."""
    return take_up(runsheet, answers, done=done, skipped=skipped, reasons=reasons or {}).progress


def consequence_of(runsheet: Runsheet, answers: Answers, question: str) -> Consequence | None:
    """What the answer to one question brought about; nothing when it is unanswered or hidden."""
    return consequences_of(take_up(runsheet, answers), only=question).get(question)
