"""What is worth asking a technician about: figures that look written down rather than read, and steps done in next to
no time. Always a question, never a finding."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import islice
from statistics import median
from typing import NamedTuple

from reedling.core.evidence.haste import HASTY_SHARE
from reedling.core.evidence.readings import KeptReading
from reedling.core.logic.conditions import number_text
from reedling.core.statistics.copied import last_digit_p_value, same_again
from reedling.core.statistics.discoveries import FALSE_DISCOVERY_RATE, false_discovery_adjusted
from reedling.core.statistics.exceedances import exceedance_p_value

FEWEST_OWN = 12
"""Readings of one technician to one question, or jobs with one step, below which nothing is asked."""
SAME_SHARE = 0.4
"""Nothing is asked unless so large a part of one's readings is the very same figure."""
QUICKEST_SHARE = 0.01
"""The part of everybody else's times at a step that are the quickest."""
FEWEST_OTHERS = 30
"""Times of others at a step below which nobody's are held against them."""
FEWEST_HASTY = 3
MOST_NAMED = 2
"""Steps that a question names; of more it says how many."""


class StepPace(NamedTuple):
    """How long a step that was done took on a job, as a part of its planned minutes."""

    step: str
    technician: str
    order: str
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TrustQuestion:
    """Something about somebody's readings or times that is worth asking about; never more than a question.

    ``question`` is that of the readings, ``steps`` those whose times are meant. ``adjusted_p`` is the least rate of
    false discoveries at which it counts as a signal among all that were looked at. ``n`` counts the readings or the
    times it was looked for in, ``orders`` are the jobs behind it.
    """

    technician: str
    sentence: str
    n: int
    orders: tuple[str, ...]
    question: str = ""
    steps: tuple[str, ...] = ()
    adjusted_p: float = 1.0


def trust_questions(
    readings: Iterable[KeptReading],
    paces: Iterable[StepPace],
    *,
    names: Mapping[str, str],
    units: Mapping[str, str],
    steps: Mapping[str, str],
) -> tuple[TrustQuestion, ...]:
    """Readings that repeat to the last digit beyond chance, last digits too uneven, and steps that one person does in
    next to no time far more often than others, told as questions.

    ``names`` says how a question of the plan is spoken of, ``units`` its unit, ``steps`` the text of a step; what has
    no name is passed over. Readings and paces come in the order their jobs were finished. All that is looked at together is held to a false-discovery rate of
    :data:`FALSE_DISCOVERY_RATE`.
    """
    paces = tuple(paces)
    of_readings, of_times = list(_of_readings(readings, names, units)), list(_of_times(paces, steps))
    adjusted = false_discovery_adjusted([*(r.p_value for r in of_readings), *(t.p_value for t in of_times)])
    found = [
        replace(looked.question, adjusted_p=p)
        for looked, p in zip(of_readings, adjusted[: len(of_readings)], strict=True)
        if p <= FALSE_DISCOVERY_RATE and looked.question is not None
    ]
    hasty: dict[str, list[tuple[float, _TimesLookedAt]]] = defaultdict(list)
    for times, p in zip(of_times, adjusted[len(of_readings) :], strict=True):
        if p <= FALSE_DISCOVERY_RATE and len(times.hasty) >= FEWEST_HASTY:
            hasty[times.technician].append((p, times))
    place = {order: n for n, order in enumerate(dict.fromkeys(pace.order for pace in paces))}
    found += [_about_times(own, steps, place) for own in hasty.values()]
    return tuple(sorted(found, key=lambda q: (q.adjusted_p, q.question, q.steps, q.technician)))


@dataclass(frozen=True, slots=True, kw_only=True)
class _ReadingsLookedAt:
    """What was looked at of somebody's readings; no question where it is too little to ask about, whatever its p-value."""

    p_value: float
    question: TrustQuestion | None


@dataclass(frozen=True, slots=True, kw_only=True)
class _TimesLookedAt:
    """What was looked at of somebody's ``n_own`` times at a step: the jobs on which it was ``hasty``, and of the
    ``n_others`` how many were."""

    p_value: float
    technician: str
    step: str
    n_own: int
    hasty: tuple[str, ...]
    n_others: int
    n_others_hasty: int


def _of_readings(
    readings: Iterable[KeptReading], names: Mapping[str, str], units: Mapping[str, str]
) -> Iterator[_ReadingsLookedAt]:
    by_question: dict[str, list[KeptReading]] = defaultdict(list)
    for reading in readings:
        if reading.question in names:
            by_question[reading.question].append(reading)
    for question, held in by_question.items():
        by_person: dict[str, list[KeptReading]] = defaultdict(list)
        for reading in held:
            by_person[reading.technician].append(reading)
        for person, own in by_person.items():
            if len(own) >= FEWEST_OWN:
                others = [r.value for r in held if r.technician != person]
                yield from _of_one(person, question, own, others, names[question], units.get(question, ""))


def _of_one(
    person: str, question: str, own: Sequence[KeptReading], others: Sequence[float], name: str, unit: str
) -> Iterator[_ReadingsLookedAt]:
    """Whether one person's readings to one question repeat, or end in the same digits, more than those of others."""
    values = [r.value for r in own]
    found = same_again(values, others)
    if found is not None:
        same = None
        if found.n_same >= SAME_SHARE * found.n:
            value = f"{number_text(found.value)} {unit}".strip()
            same = TrustQuestion(
                technician=person,
                question=question,
                sentence=f"{name} was {value} in {found.n_same} of {found.n} readings; elsewhere it is so in "
                f"{round(found.others_share * 100)} %. Is it read each time?",
                n=found.n,
                orders=tuple(dict.fromkeys(r.order for r in own if r.value == found.value)),
            )
        yield _ReadingsLookedAt(p_value=found.p_value, question=same)
    digits = max((len(number_text(value).partition(".")[2]) for value in values), default=0)
    p = last_digit_p_value(values, others, digits)
    if p is not None:
        uneven = TrustQuestion(
            technician=person,
            question=question,
            sentence=f"The last digit of {name} is not spread as with everybody else. Is it rounded or guessed?",
            n=len(own),
            orders=tuple(dict.fromkeys(r.order for r in own)),
        )
        yield _ReadingsLookedAt(p_value=p, question=uneven)


def _of_times(paces: Iterable[StepPace], steps: Mapping[str, str]) -> Iterator[_TimesLookedAt]:
    """Whether somebody does a step more often than chance allows in less time than the quickest of the others, and in
    less than :data:`HASTY_SHARE` of its plan; each person at each step.

    Somebody who works fast throughout passes over nothing: times are held against each other at one pace, the
    person's being the median of their times by the usual one of each step.
    """
    by_step: dict[str, list[StepPace]] = defaultdict(list)
    for pace in paces:
        if pace.step in steps:
            by_step[pace.step].append(pace)
    own_paces = _own_paces(by_step.values())
    for step, held in by_step.items():
        at_one_pace = sorted((p.share / own_paces[p.technician], p.technician) for p in held)
        n_hasty = sum(p.share < HASTY_SHARE for p in held)
        by_person: dict[str, list[StepPace]] = defaultdict(list)
        for pace in held:
            by_person[pace.technician].append(pace)
        for person, own in by_person.items():
            n_others = len(held) - len(own)
            if len(own) < FEWEST_OWN or n_others < FEWEST_OTHERS:
                continue
            rank = max(1, int(QUICKEST_SHARE * n_others))
            others = (share for share, technician in at_one_pace if technician != person)
            quickest = next(islice(others, rank - 1, None)) * own_paces[person]
            hasty = tuple(p.order for p in own if p.share < min(quickest, HASTY_SHARE))
            yield _TimesLookedAt(
                p_value=exceedance_p_value(len(hasty), len(own), n_others, rank),
                technician=person,
                step=step,
                n_own=len(own),
                hasty=hasty,
                n_others=n_others,
                n_others_hasty=n_hasty - sum(p.share < HASTY_SHARE for p in own),
            )


def _own_paces(by_step: Iterable[Sequence[StepPace]]) -> dict[str, float]:
    """By person, the median of their times by the usual one of each step."""
    held: dict[str, list[float]] = defaultdict(list)
    for paces in by_step:
        usual = median(p.share for p in paces)
        for pace in paces:
            held[pace.technician].append(pace.share / usual if usual else 1.0)
    return {person: median(shares) or 1.0 for person, shares in held.items()}


def _about_times(
    found: Sequence[tuple[float, _TimesLookedAt]], steps: Mapping[str, str], place: Mapping[str, int]
) -> TrustQuestion:
    """What is asked of one person's times, however many steps it is about; its jobs as ``place`` has them."""
    most = sorted((times for _, times in found), key=lambda t: (-len(t.hasty), t.step))
    named = [f"“{steps[times.step]}”" for times in most[:MOST_NAMED]]
    if len(most) > len(named):
        n_more = len(most) - len(named)
        named.append(f"{n_more} more step{'' if n_more == 1 else 's'}")
    *first, last = named
    listed = f"{', '.join(first)} and {last}" if first else last
    n = sum(times.n_own for times in most)
    return TrustQuestion(
        technician=most[0].technician,
        steps=tuple(times.step for times in most),
        sentence=f"{listed} took less than {round(100 * HASTY_SHARE)} % of the planned minutes "
        f"{sum(len(times.hasty) for times in most):,} times of {n:,}; others are so quick "
        f"{sum(times.n_others_hasty for times in most):,} times of {sum(times.n_others for times in most):,}. "
        f"{'Is it' if len(most) == 1 else 'Is each'} done every time?",
        n=n,
        orders=tuple(sorted({order for times in most for order in times.hasty}, key=place.__getitem__)),
        adjusted_p=min(p for p, _ in found),
    )
