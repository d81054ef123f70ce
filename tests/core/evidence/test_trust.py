"""What is asked about readings and times, over many worlds that know who copies and who hurries past steps."""

from __future__ import annotations

import random
from datetime import UTC, datetime

import pytest

from reedling.core.evidence.haste import HASTY_SHARE
from reedling.core.evidence.readings import KeptReading
from reedling.core.evidence.trust import StepPace, TrustQuestion, trust_questions

DAY = datetime(2026, 3, 1, tzinfo=UTC)


def world(seed: int, *, copier: bool) -> list[KeptReading]:
    """Readings of six technicians to three questions; one of them may copy."""
    rng = random.Random(seed)
    out = []
    for n in range(500):
        person = f"t{rng.randrange(6)}"
        question = rng.choice(("bar", "amps", "gap"))
        value = {
            "bar": lambda: float(round(rng.gauss(105, 8))),
            "amps": lambda: round(rng.gauss(9.6, 0.5), 1),
            "gap": lambda: float(rng.choice((1, 1, 1, 2))),
        }[question]()
        if copier and person == "t4" and question == "amps" and rng.random() < 0.8:
            value = 9.5
        out.append(
            KeptReading(
                question=question,
                each="",
                value=value,
                out=False,
                order=f"o{n}",
                asset="a",
                model="m",
                technician=person,
                at=DAY,
            )
        )
    return out


NAMES = {"bar": "Pressure", "amps": "Peak current", "gap": "Gap"}


def asked_of_readings(seed: int, *, copier: bool) -> list[tuple[str, str]]:
    found = trust_questions(world(seed, copier=copier), (), names=NAMES, units={"amps": "A"}, steps={})
    return [(q.technician, q.question) for q in found]


@pytest.mark.slow
def test_who_copies_is_asked_about_and_nobody_else_more_than_chance_allows() -> None:
    with_one = [asked_of_readings(seed, copier=True) for seed in range(50)]
    assert sum(("t4", "amps") in found for found in with_one) >= 48
    nobody = [asked_of_readings(seed, copier=False) for seed in range(50)]
    assert sum(bool(found) for found in nobody) <= 5, "a false-discovery rate of 10 % over 50 worlds"


def test_what_is_asked_is_a_question_with_its_jobs() -> None:
    told = trust_questions(world(1, copier=True), (), names=NAMES, units={"amps": "A"}, steps={})
    (found,) = (q for q in told if q.question == "amps")
    assert found.sentence.startswith("Peak current was 9.5 A in ")
    assert found.sentence.endswith("Is it read each time?")
    assert len(found.orders) > 5
    assert trust_questions(world(1, copier=True), (), names={}, units={}, steps={}) == ()


STEPS = {f"WP-1:s{n}": f"Do {n}" for n in range(8)}


def paced(seed: int, *, hurrier: bool) -> list[StepPace]:
    """Eighty jobs of six technicians at eight steps, everybody at a pace of their own; one may pass over every fourth
    step, and two steps are short by nature: whoever does them is quick."""
    rng = random.Random(seed)
    own_pace = {f"t{n}": rng.uniform(0.75, 1.3) for n in range(6)}
    out = []
    for n in range(300):
        person = f"t{rng.randrange(6)}"
        for k, step in enumerate(STEPS):
            usual = 0.25 if k < 2 else 1.0
            share = usual * own_pace[person] * rng.lognormvariate(0, 0.3)
            if hurrier and person == "t2" and k >= 2 and rng.random() < 0.25:
                share = rng.uniform(0.02, 0.1)
            out.append(StepPace(step=step, technician=person, order=f"o{n}", share=share))
    return out


def asked_of_times(seed: int, *, hurrier: bool) -> tuple[TrustQuestion, ...]:
    return trust_questions((), paced(seed, hurrier=hurrier), names={}, units={}, steps=STEPS)


@pytest.mark.slow
def test_who_passes_over_steps_is_asked_about_and_nobody_else_more_than_chance_allows() -> None:
    with_one = [asked_of_times(seed, hurrier=True) for seed in range(50)]
    assert sum([q.technician for q in found] == ["t2"] for found in with_one) >= 45
    nobody = [asked_of_times(seed, hurrier=False) for seed in range(50)]
    assert sum(bool(found) for found in nobody) <= 5, "a false-discovery rate of 10 % over 50 worlds"


def test_one_person_is_asked_once_about_all_their_steps_with_the_counts_of_others() -> None:
    paces = paced(3, hurrier=True)
    (found,) = trust_questions((), paces, names={}, units={}, steps=STEPS)
    hasty = [p for p in paces if p.share < HASTY_SHARE and p.step in found.steps]
    own = [p for p in paces if p.technician == "t2" and p.step in found.steps]
    n_others = sum(p.technician != "t2" for p in hasty)
    assert (found.technician, found.question, found.n) == ("t2", "", len(own))
    assert set(found.orders) <= {p.order for p in hasty if p.technician == "t2"}
    assert len(found.steps) > 3
    assert (
        f" and {len(found.steps) - 2} more steps took less than 20 % of the planned minutes "
        in found.sentence
    )
    assert f"times of {len(own):,}; others are so quick {n_others:,} times of " in found.sentence
    assert found.sentence.endswith("Is each done every time?")


def test_a_step_that_no_plan_has_any_more_and_one_that_few_did_are_not_asked_about() -> None:
    paces = paced(3, hurrier=True)
    gone = {step: text for step, text in STEPS.items() if step != "WP-1:s5"}
    (found,) = trust_questions((), paces, names={}, units={}, steps=gone)
    assert "WP-1:s5" not in found.steps
    few = [p for p in paces if p.technician == "t2"]
    assert trust_questions((), few, names={}, units={}, steps=STEPS) == (), "nobody to hold it against"
    mine = [p for p in paces if p.technician != "t2"] + few[:40]
    assert trust_questions((), mine, names={}, units={}, steps=STEPS) == (), "five jobs are too few"
