"""What readings say over many jobs: charts by asset, and figures that look written down rather than read."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from reedling.core.logic.conditions import number_text
from reedling.core.statistics.copied import last_digit_p_value, same_again
from reedling.core.statistics.discoveries import FALSE_DISCOVERY_RATE, false_discovery_adjusted

FEWEST_OWN = 12
"""Readings of one technician to one question below which nothing is asked."""
SAME_SHARE = 0.4
"""Nothing is asked unless so large a part of one's readings is the very same figure."""


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptReading:
    """A number that a finished job read or worked out, with whose, of which asset, and when it was finished."""

    question: str
    each: str
    value: float
    out: bool
    order: str
    asset: str
    model: str
    technician: str
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class TrustQuestion:
    """Something about somebody's readings that is worth asking about; never more than a question.

    ``adjusted_p`` is the least rate of false discoveries at which it counts as a signal among all that were
    looked at. ``orders`` are the jobs behind it.
    """

    technician: str
    question: str
    sentence: str
    n: int
    adjusted_p: float
    orders: tuple[str, ...]


def trust_questions(
    readings: Iterable[KeptReading], names: Mapping[str, str], units: Mapping[str, str]
) -> tuple[TrustQuestion, ...]:
    """Readings that repeat to the last digit beyond chance, and last digits too uneven, told as questions.

    ``names`` says how a question is spoken of, ``units`` its unit; a question without a name is passed over. All that
    is looked at together is held to a false-discovery rate of :data:`FALSE_DISCOVERY_RATE`.
    """
    by_question: dict[str, list[KeptReading]] = {}
    for reading in readings:
        if reading.question in names:
            by_question.setdefault(reading.question, []).append(reading)
    asked: list[tuple[float, TrustQuestion]] = []
    for question, held in by_question.items():
        by_person: dict[str, list[KeptReading]] = {}
        for reading in held:
            by_person.setdefault(reading.technician, []).append(reading)
        for person, own in by_person.items():
            if len(own) >= FEWEST_OWN:
                others = [r.value for r in held if r.technician != person]
                asked += _of_one(person, question, own, others, names[question], units.get(question, ""))
    adjusted = false_discovery_adjusted([p for p, _ in asked])
    found = [
        TrustQuestion(
            technician=q.technician,
            question=q.question,
            sentence=q.sentence,
            n=q.n,
            adjusted_p=p,
            orders=q.orders,
        )
        for p, (_, q) in zip(adjusted, asked, strict=True)
        if p <= FALSE_DISCOVERY_RATE and q.sentence
    ]
    return tuple(sorted(found, key=lambda q: (q.adjusted_p, q.question, q.technician)))


def _of_one(
    person: str,
    question: str,
    own: Sequence[KeptReading],
    others: Sequence[float],
    name: str,
    unit: str,
) -> list[tuple[float, TrustQuestion]]:
    """What was looked at of one person's readings to one question, with the p-value of each; no sentence for what
    is too little to ask about whatever its p-value."""
    out = []
    found = same_again([r.value for r in own], others)
    if found is not None:
        value = f"{number_text(found.value)} {unit}".strip()
        sentence = ""
        if found.n_same >= SAME_SHARE * found.n:
            sentence = (
                f"{name} was {value} in {found.n_same} of {found.n} readings; elsewhere it is so in "
                f"{round(found.others_share * 100)} %. Is it read each time?"
            )
        same = tuple(r.order for r in own if r.value == found.value)
        out.append(
            (
                found.p_value,
                TrustQuestion(
                    technician=person,
                    question=question,
                    sentence=sentence,
                    n=found.n,
                    adjusted_p=1.0,
                    orders=tuple(dict.fromkeys(same)),
                ),
            )
        )
    digits = max((len(number_text(r.value).partition(".")[2]) for r in own), default=0)
    p = last_digit_p_value([r.value for r in own], others, digits)
    if p is not None:
        sentence = f"The last digit of {name} is not spread as with everybody else. Is it rounded or guessed?"
        out.append(
            (
                p,
                TrustQuestion(
                    technician=person,
                    question=question,
                    sentence=sentence,
                    n=len(own),
                    adjusted_p=1.0,
                    orders=tuple(dict.fromkeys(r.order for r in own)),
                ),
            )
        )
    return out
