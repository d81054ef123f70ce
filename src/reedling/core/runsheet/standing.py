"""What is asked and what is known on a runsheet, settled in one pass, and again where an answer changes.

How this works. Lines and questions are items in the order a technician meets them. An item is wanted
when its condition is true and the item it belongs to is wanted. One pass in that order settles all
of them, since conditions look backwards only; a computed value may use later readings, and then its
item waits for theirs. The items that ask about a question are indexed, so that an answer more or less
settles only what hangs on it: that is how a long sheet follows an answer, and how the consequence of
every answer is found without going over the sheet once for each.
"""

from __future__ import annotations

import heapq
from collections import ChainMap
from collections.abc import Collection, Iterable, Iterator, Mapping, MutableMapping
from dataclasses import dataclass, field, replace
from itertools import chain

from reedling.core.guidance.questions import (
    UNASKED,
    Computed,
    MeterReading,
    Question,
    Reading,
    formula_name,
    in_own_unit,
)
from reedling.core.logic.conditions import (
    Answer,
    Answers,
    Condition,
    comparisons,
    evaluate,
    is_fact,
    questions_of,
)
from reedling.core.logic.formulas import Named, Value, compute, formula_names
from reedling.core.logic.kleene import Truth, conjoin
from reedling.core.runsheet.lines import Runsheet, RunsheetLine
from reedling.core.runsheet.repeats import Laid, lay_out


@dataclass(frozen=True, slots=True, kw_only=True)
class Item:
    """A line, or one of its questions; ``formula`` maps its names to questions of the sheet."""

    line: RunsheetLine
    question: Question | None
    formula: Mapping[str, str | tuple[str, ...]] = field(default_factory=dict)

    @property
    def key(self) -> str:
        """What dependents know it by: the question, or the line."""
        return self.question.id if self.question else self.line.id


@dataclass(slots=True, kw_only=True)
class Standing:
    """How everything stands: what is wanted (by line and by question), and what is known.

    ``known`` holds, by question, the answers of what is asked, in the question's own unit, with the
    computed values, and the facts of the order. ``open`` are questions that may still be answered.
    """

    wanted: MutableMapping[str, Truth]
    known: MutableMapping[str, Answer | None]
    open: MutableMapping[str, bool]


@dataclass(frozen=True, slots=True, kw_only=True)
class Rules:
    """A runsheet laid out and indexed: its items in order, and by question the items that ask of it.

    ``places`` says where the item of a line or question stands among them. ``looks_back`` says that
    no item hangs on one behind it, as those do that need each other; ``may_close`` that a first
    answer can close what was open.
    """

    runsheet: Runsheet
    laid: Laid
    items: tuple[Item, ...]
    dependents: Mapping[str, tuple[int, ...]]
    units: Mapping[str, str]
    places: Mapping[str, int]
    looks_back: bool
    may_close: bool


@dataclass(frozen=True, slots=True)
class Entered:
    """What decides how a sheet stands: the answers by question, and the lines done and left out."""

    answers: Answers
    done: Collection[str] = ()
    skipped: Collection[str] = ()


def rules_of(runsheet: Runsheet, answers: Answers) -> Rules:
    """Lay out and index a runsheet; the last few are kept."""
    names = {q: a for q, a in answers.items() if q.endswith("@")}
    for held_sheet, held_names, rules in _recent:
        if held_sheet is runsheet and held_names == names:
            return rules
    laid = lay_out(runsheet, answers)
    items = _in_order(list(_items(laid)))
    places = {item.key: place for place, item in enumerate(items)}
    dependents: dict[str, list[int]] = {}
    for place, item in enumerate(items):
        for key in dict.fromkeys(_depends_on(item, laid)):
            dependents.setdefault(key, []).append(place)
    rules = Rules(
        runsheet=runsheet,
        laid=laid,
        items=items,
        dependents={key: tuple(places) for key, places in dependents.items()},
        units={
            i.question.id: i.question.unit
            for i in items
            if isinstance(i.question, Reading | MeterReading | Computed)
        },
        places=places,
        looks_back=all(places.get(key, -1) < place for key, found in dependents.items() for place in found),
        may_close=answers_may_close(runsheet),
    )
    _recent.append((runsheet, names, rules))
    del _recent[:-8]
    return rules


_recent: list[tuple[Runsheet, dict[str, Answer], Rules]] = []
"""Working out the rules of a long form takes longer than an answer; a job asks many times in a row."""


def answers_may_close(runsheet: Runsheet) -> bool:
    """Whether a first answer can close what was open.

    In Kleene's logic more answers never take a truth back, so that only a change of an answer closes
    anything; a formula that counts answers, and a condition that nothing was answered, are exceptions.
    """
    return any(
        (isinstance(q, Computed) and "count" in q.formula)
        or any(c.operator == "not answered" for c in comparisons(q.condition))
        for line in runsheet.lines
        for q in line.questions
    ) or any(c.operator == "not answered" for line in runsheet.lines for c in comparisons(line.condition))


def settle(rules: Rules, entered: Entered) -> Standing:
    """Settle every item under what was recorded.

    A condition left unknown settles to "not wanted" once nothing it asks can still be answered:
    every open question of it is not wanted, stands on a line left out, or may stay open on a line
    that is done.
    """
    standing = Standing(wanted={}, known=dict(rules.runsheet.facts), open={})
    for item in rules.items:
        _settle_item(rules, item, entered, standing)
    return standing


def settle_again(rules: Rules, entered: Entered, standing: Standing, before: Entered) -> Standing:
    """As :func:`settle`, from how everything stood under what was recorded before.

    Only what hangs on the difference is gone over, except on a sheet with items that need each other.
    """
    if not rules.looks_back:
        return settle(rules, entered)
    again = Standing(wanted=dict(standing.wanted), known=dict(standing.known), open=dict(standing.open))
    _follow(rules, entered, again, _different(rules, entered, before))
    return again


def without(rules: Rules, entered: Entered, standing: Standing, question: str) -> Mapping[str, Truth]:
    """What would be wanted had this question not been answered: only what changes, by line or question."""
    changed: dict[str, Truth] = {}
    known: dict[str, Answer | None] = {}
    may_open: dict[str, bool] = {}
    trial = Standing(
        wanted=ChainMap(changed, standing.wanted),
        known=ChainMap(known, standing.known),
        open=ChainMap(may_open, standing.open),
    )
    fewer = {q: a for q, a in entered.answers.items() if q != question}
    place = rules.places.get(question)
    _follow(rules, replace(entered, answers=fewer), trial, () if place is None else (place,))
    return {key: truth for key, truth in changed.items() if truth is not standing.wanted.get(key)}


def _different(rules: Rules, entered: Entered, before: Entered) -> set[int]:
    """The places of the items about which something else was recorded."""
    answers, others = entered.answers, before.answers
    keys = {q for q in answers.keys() | others.keys() if answers.get(q) is not others.get(q)}
    lines = {*entered.done} ^ {*before.done} | {*entered.skipped} ^ {*before.skipped}
    for line in lines:
        place = rules.places.get(line)
        if place is not None:
            keys |= {question.id for question in rules.items[place].line.questions}
    return {rules.places[key] for key in keys if key in rules.places}


def _follow(rules: Rules, entered: Entered, standing: Standing, places: Iterable[int]) -> None:
    """Settle the items at these places again, and then whatever hangs on one that stands otherwise now."""
    seen = set(places)
    queue = sorted(seen)
    while queue:
        item = rules.items[heapq.heappop(queue)]
        key = item.key
        was = (standing.wanted.get(key), standing.known.get(key), standing.open.get(key))
        _settle_item(rules, item, entered, standing)
        if (standing.wanted.get(key), standing.known.get(key), standing.open.get(key)) == was:
            continue
        for place in rules.dependents.get(key, ()):
            if place not in seen:
                seen.add(place)
                heapq.heappush(queue, place)


def _settle_item(rules: Rules, item: Item, entered: Entered, standing: Standing) -> None:
    line, question = item.line, item.question
    if question is None:
        above = standing.wanted.get(line.under, True) if line.under else True
        standing.wanted[line.id] = _truth(rules, above, line.condition, standing)
        return
    wanted = _truth(rules, standing.wanted[line.id], question.condition, standing)
    standing.wanted[question.id] = wanted
    found: Answer | None = None
    if wanted is True:
        if isinstance(question, Computed):
            found = _computed(rules, question, item, standing)
        elif question.id in entered.answers:
            found = in_own_unit(question, entered.answers[question.id])
    standing.known[question.id] = found
    standing.open[question.id] = (
        found is None
        and wanted is not False
        and line.id not in entered.skipped
        and _may_open(question, item, standing, line.id in entered.done)
    )


def _truth(rules: Rules, above: Truth, condition: Condition | None, standing: Standing) -> Truth:
    waiting = rules.laid.waiting

    def settled(question: str) -> bool:
        return not standing.open.get(waiting.get(question, question), False)

    truth = conjoin((above, evaluate(condition, standing.known, settled)))  # type: ignore[arg-type]
    if truth is None and above is True:
        return False if all(settled(q) for q in questions_of(condition)) else None
    return truth


def _may_open(question: Question, item: Item, standing: Standing, line_done: bool) -> bool:
    if isinstance(question, Computed):
        return any(standing.open.get(q, False) for q in _flat(item.formula.values()))
    if isinstance(question, UNASKED):
        return False
    return not line_done or question.required == "always"


def _computed(rules: Rules, question: Computed, item: Item, standing: Standing) -> float | None:
    names: dict[str, Named] = {}
    values: dict[str, Value] = {}
    for name, stands_for in item.formula.items():
        if isinstance(stands_for, tuple):
            unit = rules.units.get(stands_for[0], "") if stands_for else ""
            names[name] = Named(unit=unit, each=True)
            values[name] = tuple(_number(standing.known.get(q)) for q in stands_for)
        else:
            names[name] = Named(unit=rules.units.get(stands_for, ""))
            values[name] = _number(standing.known.get(stands_for))
    return compute(question.formula, names, values, question.unit)


def _number(value: object) -> float | None:
    return float(value) if isinstance(value, int | float) else None


def _flat(stands_for: Iterable[str | tuple[str, ...]]) -> Iterator[str]:
    return chain.from_iterable((s,) if isinstance(s, str) else s for s in stands_for)


def _items(laid: Laid) -> Iterator[Item]:
    scopes: dict[tuple[str, str], dict[str, str]] = {}
    collections: dict[str, dict[str, list[str]]] = {}
    for line in laid.lines:
        own = scopes.setdefault((line.scope, line.each), {})
        for question in line.questions:
            own[formula_name(question)] = question.id
            if line.each:
                collections.setdefault(line.scope, {}).setdefault(formula_name(question), []).append(
                    question.id
                )
    for line in laid.folded:
        for question in line.questions:
            collections.setdefault(line.scope, {}).setdefault(formula_name(question), [])
    for line in laid.lines:
        yield Item(line=line, question=None)
        for question in line.questions:
            yield Item(
                line=line,
                question=question,
                formula=_names_of(question, line, scopes, collections)
                if isinstance(question, Computed)
                else {},
            )


def _names_of(
    question: Computed,
    line: RunsheetLine,
    scopes: Mapping[tuple[str, str], Mapping[str, str]],
    collections: Mapping[str, Mapping[str, list[str]]],
) -> dict[str, str | tuple[str, ...]]:
    """A name means the question of the same repeat, else the one outside, else all repeats of one."""
    out: dict[str, str | tuple[str, ...]] = {}
    own = scopes.get((line.scope, line.each), {})
    outside = scopes.get((line.scope, ""), {})
    for name in formula_names(question.formula):
        if name in own:
            out[name] = own[name]
        elif name in outside:
            out[name] = outside[name]
        elif name in collections.get(line.scope, {}):
            out[name] = tuple(collections[line.scope][name])
    return out


def _depends_on(item: Item, laid: Laid) -> Iterator[str]:
    if item.question is None:
        if item.line.under:
            yield item.line.under
        conditions = [item.line.condition]
    else:
        yield item.line.id
        conditions = [item.question.condition]
        yield from _flat(item.formula.values())
    for condition in conditions:
        for question in questions_of(condition):
            if not is_fact(question):
                yield laid.waiting.get(question, question)


def _in_order(items: list[Item]) -> tuple[Item, ...]:
    """As given, but each item behind what it hangs on: a computed value behind what it is worked out
    from, a step done once for several plans behind the answers that any of them asks it for.

    Items that need each other stay where they are; they are never known, and the checks name them.
    """
    place = {item.key: n for n, item in enumerate(items)}
    if all(place.get(q, -1) < n for n, item in enumerate(items) for q in _needs_of(item)):
        return tuple(items)
    needs = {
        n: {place[q] for q in _needs_of(item) if q in place and place[q] != n} for n, item in enumerate(items)
    }
    ready = [n for n, before in needs.items() if not before]
    heapq.heapify(ready)
    needed_by: dict[int, list[int]] = {}
    for n, before in needs.items():
        for b in before:
            needed_by.setdefault(b, []).append(n)
    out: list[int] = []
    while ready:
        n = heapq.heappop(ready)
        out.append(n)
        for later in needed_by.get(n, ()):
            needs[later].discard(n)
            if not needs[later]:
                heapq.heappush(ready, later)
    left = sorted(set(needs) - set(out))
    return tuple(items[n] for n in (*out, *left))


def _needs_of(item: Item) -> Iterator[str]:
    if item.question is None:
        if item.line.under:
            yield item.line.under
        yield from questions_of(item.line.condition)
    else:
        yield item.line.id
        yield from questions_of(item.question.condition)
        yield from _flat(item.formula.values())
