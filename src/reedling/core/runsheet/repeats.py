"""Repeat sections on a runsheet: the lines once for each pump, phase or door.

A line with a repeat, and all that hangs on it, is a group. Laid out, the group stands there once
for each name, with ``@<name>`` behind the identity of every line and question, so that an answer
belongs to a pump and not to a place in a list. Inside a group conditions ask about their own repeat;
outside it a comparison says of which repeats it speaks, of the same one unless it says otherwise.

Over "on site", and over a field of the asset that is blank, the names are an answer: a line that asks
for them stands before the group. Until it is answered nothing of the group stands on the sheet, and conditions on it are unknown.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

from reedling.core.guidance.plans import Minutes, Repeat
from reedling.core.guidance.questions import Names, Question
from reedling.core.guidance.reuse import rename_question
from reedling.core.logic.conditions import (
    Answer,
    Answers,
    Condition,
    Repeated,
    rename_questions,
    spread_over,
)
from reedling.core.runsheet.lines import Runsheet, RunsheetLine

MOST_REPEATS = 50
"""Repeats of one section; an asset field that counts more is taken as this many."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Laid:
    """A runsheet with its repeats laid out.

    ``repeats`` gives, for each question of a group, the group and its questions on the sheet, in order.
    ``waiting`` gives, for each question of a group that is not laid out yet, the question that
    decides; ``folded`` are the lines of such groups.
    """

    lines: tuple[RunsheetLine, ...]
    repeats: Mapping[str, Repeated]
    waiting: Mapping[str, str]
    folded: tuple[RunsheetLine, ...]


def lay_out(runsheet: Runsheet, answers: Answers) -> Laid:
    """The lines of a runsheet as they stand with the answers so far."""
    if all(line.repeat is None for line in runsheet.lines):
        return Laid(lines=runsheet.lines, repeats={}, waiting={}, folded=())
    lines: list[RunsheetLine] = []
    repeats: dict[str, Repeated] = {}
    waiting: dict[str, str] = {}
    folded: list[RunsheetLine] = []
    for group in _groups(runsheet.lines):
        repeat = group[0].repeat
        if repeat is None:
            lines.extend(_outside(line, repeats) for line in group)
            continue
        head = _outside(group[0], repeats)
        if _found_on_site(repeat, runsheet.facts):
            asking = _asking(head, repeat)
            lines.append(asking)
            found = answers.get(asking.questions[0].id)
            if not isinstance(found, tuple):
                waiting.update((q.id, asking.questions[0].id) for line in group for q in line.questions)
                folded.extend(group)
                continue
            names: tuple[str, ...] = found
        else:
            names = repeat_names(repeat, runsheet.facts)
        inside = {q.id for line in group for q in line.questions}
        repeats.update((q, Repeated(group[0].id, tuple(f"{q}@{name}" for name in names))) for q in inside)
        others = {q: r for q, r in repeats.items() if q not in inside}
        for name in names:
            lines.extend(_repeated(line, group, inside, others, name) for line in group)
    return Laid(lines=tuple(lines), repeats=repeats, waiting=waiting, folded=tuple(folded))


def _found_on_site(repeat: Repeat, facts: Mapping[str, Answer]) -> bool:
    """Whether the technician says which repeats there are: also where the asset's field is blank."""
    if repeat.over == "asset field":
        held = facts.get(repeat.field)
        return held is None or (isinstance(held, str) and not held.strip(" ,"))
    return repeat.over == "on site"


def repeat_names(repeat: Repeat, facts: Mapping[str, Answer]) -> tuple[str, ...]:
    """The names of the repeats that are known beforehand.

    An asset field holds how many there are, or their names with commas between.

    >>> repeat_names(Repeat(per="pump", over="asset field", field="asset.pumps"), {"asset.pumps": 2.0})
    ('pump 1', 'pump 2')
    """
    if repeat.over == "named":
        return tuple(dict.fromkeys(name.replace("@", " ") for name in repeat.names))[:MOST_REPEATS]
    found = facts.get(repeat.field)
    if isinstance(found, str) and found.strip().isdigit():
        found = float(found)
    if isinstance(found, int | float) and not isinstance(found, bool):
        return tuple(f"{repeat.per} {n}" for n in range(1, min(int(found), MOST_REPEATS) + 1))
    if isinstance(found, str):
        names = (name.strip().replace("@", " ") for name in found.split(","))
        return tuple(dict.fromkeys(name for name in names if name))[:MOST_REPEATS]
    return ()


def _groups(lines: tuple[RunsheetLine, ...]) -> Iterator[list[RunsheetLine]]:
    """The lines in order, those of a group together; a repeat inside a repeat counts with it."""
    group: list[RunsheetLine] = []
    for line in lines:
        if group and group[0].repeat is not None and line.under in {g.id for g in group}:
            group.append(line)
            continue
        if group:
            yield group
        group = [line]
    if group:
        yield group


def _asking(head: RunsheetLine, repeat: Repeat) -> RunsheetLine:
    question = Names(id=f"{head.id}@", label=f"Each {repeat.per} found on site")
    return replace(
        head,
        id=f"{head.id}@",
        text=f"List each {repeat.per}",
        detail="Give each one a short name, as it is marked on site.",
        minutes=Minutes(likely=0),
        questions=(question,),
        skills=(),
        parts=(),
        tools=(),
        safety="",
        links=(),
        pictures=(),
        repeat=None,
    )


def _outside(line: RunsheetLine, repeats: Mapping[str, Repeated]) -> RunsheetLine:
    """A line asking of every repeat what it asks of a section that it is not part of."""
    if not repeats:
        return line

    def spread(condition: Condition | None) -> Condition | None:
        return spread_over(condition, repeats)

    return replace(
        line,
        condition=spread(line.condition),
        questions=tuple(_spread_question(q, spread) for q in line.questions),
        parts=tuple(replace(p, condition=spread(p.condition)) for p in line.parts),
    )


def _spread_question(question: Question, spread: Callable[[Condition | None], Condition | None]) -> Question:
    return replace(
        question,
        condition=spread(question.condition),
        required_when=spread(question.required_when),
        raises=tuple(replace(r, when=spread(r.when) or r.when) for r in question.raises),
    )


def _repeated(
    line: RunsheetLine,
    group: list[RunsheetLine],
    inside: set[str],
    others: Mapping[str, Repeated],
    name: str,
) -> RunsheetLine:
    ids = {g.id for g in group}

    def rename(question: str) -> str:
        return f"{question}@{name}" if question in inside else question

    outside = _outside(line, others)
    return replace(
        outside,
        id=f"{line.id}@{name}",
        text=f"{line.text}: {name}",
        under=f"{line.under}@{name}" if line.under in ids else line.under,
        condition=rename_questions(outside.condition, rename),
        questions=tuple(rename_question(q, rename) for q in outside.questions),
        parts=tuple(replace(p, condition=rename_questions(p.condition, rename)) for p in outside.parts),
        repeat=None,
        each=name,
    )
