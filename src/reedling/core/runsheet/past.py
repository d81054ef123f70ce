"""What was recorded on a job and is no longer asked, because a later answer closed it.

It is no answer for any condition any more, and is not lost either: it stays readable, its findings
and minutes count, and where it is asked again it is offered to be confirmed.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace

from reedling.core.logic.conditions import Answer, Answers
from reedling.core.logic.kleene import Truth
from reedling.core.runsheet.lines import Runsheet, RunsheetLine
from reedling.core.runsheet.repeats import lay_out


@dataclass(frozen=True, slots=True, kw_only=True)
class Past:
    """What is no longer asked, or is asked again and not yet confirmed.

    ``answers`` and ``reasons`` are by question, ``done`` and ``skipped`` by line. ``names`` holds, by the
    question that asks which repeats there are, every name that was ever given to it.
    """

    answers: Mapping[str, Answer] = field(default_factory=dict)
    reasons: Mapping[str, str] = field(default_factory=dict)
    done: tuple[str, ...] = ()
    skipped: Mapping[str, str] = field(default_factory=dict)
    names: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


NOTHING = Past()


def answered_again(past: Past, question: str, value: Answer) -> Past:
    """The past once a question is answered: what it was answered before is replaced."""
    names = past.names
    if question.endswith("@") and isinstance(value, tuple):
        names = {**names, question: tuple(dict.fromkeys((*names.get(question, ()), *value)))}
    return replace(
        past,
        answers={q: a for q, a in past.answers.items() if q != question},
        reasons={q: r for q, r in past.reasons.items() if q != question},
        names=names,
    )


def met_again(past: Past, line: str) -> Past:
    """The past once a line is done or left out anew."""
    return replace(
        past,
        done=tuple(d for d in past.done if d != line),
        skipped={key: why for key, why in past.skipped.items() if key != line},
    )


def set_aside(
    past: Past,
    wanted: Mapping[str, Truth],
    answers: Answers,
    reasons: Mapping[str, str],
    done: Collection[str],
    skipped: Mapping[str, str],
) -> Past:
    """The past with all that was recorded for lines and questions that are not wanted now."""
    closed = {q for q in answers if wanted.get(q) is not True}
    return replace(
        past,
        answers={**past.answers, **{q: a for q, a in answers.items() if q in closed}},
        reasons={**past.reasons, **{q: r for q, r in reasons.items() if q in closed}},
        done=(*past.done, *(line for line in done if wanted.get(line) is not True)),
        skipped={**past.skipped, **{k: why for k, why in skipped.items() if wanted.get(k) is not True}},
    )


def lines_ever(
    runsheet: Runsheet, answers: Answers, past: Past, now: tuple[RunsheetLine, ...]
) -> tuple[RunsheetLine, ...]:
    """The lines as they stand now, and in their places those of repeats that are no longer named."""
    gone = {
        question: names
        for question, names in past.names.items()
        if set(names) - set(answers.get(question, ()))  # type: ignore[arg-type]
    }
    if not gone:
        return now
    stands = {line.id: line for line in now}
    return tuple(stands.get(line.id, line) for line in lay_out(runsheet, {**answers, **gone}).lines)
