"""Fault guides: beliefs against the whole joint distribution, strategies against brute force and simulation."""

from __future__ import annotations

import itertools
import random
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from reedling.core.faultguide import strategies
from reedling.core.faultguide.arrays import arrays_of
from reedling.core.faultguide.guides import Check, FaultGuide, Repair, bits, check_guide, posterior
from reedling.core.faultguide.learning import (
    ClosedJob,
    LearnedGuide,
    guide_from_jobs,
    learned,
    saved_by,
    seen_on,
)
from reedling.core.faultguide.next_doing import next_doing
from reedling.core.faultguide.repairs_alone import repairs_alone
from reedling.core.faultguide.strategies import (
    Doing,
    best_strategy,
    minutes_of_strategy,
)
from reedling.errors import InvalidInput
from tests.examples import examples


def a_guide(seed: int, n_causes: int, n_checks: int, n_repairs: int) -> FaultGuide:
    rng = random.Random(seed)
    weights = [rng.uniform(0.2, 3) for _ in range(n_causes)]
    total = sum(weights)
    return FaultGuide(
        causes=tuple(f"c{i}" for i in range(n_causes)),
        chances=tuple(w / total for w in weights),
        checks=tuple(
            Check(
                id=f"k{i}",
                label=f"Check {i}",
                minutes=rng.uniform(2, 15),
                yes=tuple(rng.choice((0.02, 0.1, 0.5, 0.9, 0.97)) for _ in range(n_causes)),
            )
            for i in range(n_checks)
        ),
        repairs=tuple(
            Repair(
                id=f"r{i}",
                label=f"Repair {i}",
                minutes=rng.uniform(5, 60),
                fixes=tuple(
                    rng.choice((0.9, 1.0)) if c == i % n_causes else rng.choice((0.0, 0.0, 0.2))
                    for c in range(n_causes)
                ),
                cost_minutes=rng.choice((0.0, 20.0)),
            )
            for i in range(n_repairs)
        ),
        prove_minutes=5,
        last_resort_minutes=240,
    )


@settings(deadline=None)
@given(st.integers(0, 10_000), st.data())
def test_beliefs_are_those_of_the_whole_joint_distribution(seed: int, data: st.DataObject) -> None:
    """Every cause with every combination of answers and of repairs that help is written out, and summed."""
    guide = a_guide(seed, 4, 4, 3)
    answers = data.draw(st.dictionaries(st.integers(0, 3), st.booleans()))
    failed = data.draw(st.sets(st.integers(0, 2)))
    mass = [0.0] * 4
    for cause in range(4):
        for seen in itertools.product((True, False), repeat=4):
            for helps in itertools.product((True, False), repeat=3):
                p = guide.chances[cause]
                for check, is_yes in zip(guide.checks, seen, strict=True):
                    p *= check.yes[cause] if is_yes else 1 - check.yes[cause]
                for repair, is_fixed in zip(guide.repairs, helps, strict=True):
                    p *= repair.fixes[cause] if is_fixed else 1 - repair.fixes[cause]
                if all(seen[k] is v for k, v in answers.items()) and not any(helps[r] for r in failed):
                    mass[cause] += p
    found = posterior(guide, answers, failed)
    if sum(mass) == 0:
        assert found is None
    else:
        assert found == pytest.approx([m / sum(mass) for m in mass], abs=1e-12)


@given(st.integers(0, 10_000))
def test_what_a_check_tells_is_the_mutual_information(seed: int) -> None:
    guide = a_guide(seed, 4, 3, 1)
    found = bits(guide, guide.chances)
    for i, check in enumerate(guide.checks):
        joint = np.array([[p * y, p * (1 - y)] for p, y in zip(guide.chances, check.yes, strict=True)])
        product = np.outer(joint.sum(1), joint.sum(0))
        assert found[i] == pytest.approx(stats.entropy(joint.ravel(), product.ravel(), base=2), abs=1e-9)


def minutes_of_order(guide: FaultGuide, order: Sequence[int]) -> float:
    """Expected minutes of remedies tried one after the other, each proved, with the last resort behind them."""
    minutes, left = 0.0, np.array(guide.chances)
    for repair in order:
        minutes += left.sum() * guide.repair_minutes[repair]
        left = left * (1 - np.array(guide.repairs[repair].fixes))
    return float(minutes + left.sum() * guide.last_resort_minutes)


@settings(max_examples=examples(60), deadline=None)
@given(st.integers(0, 10_000))
def test_sure_remedies_of_one_cause_each_are_best_tried_by_chance_for_minutes(seed: int) -> None:
    """Kadane and Simon (1977): no order of them does better than by P / cost; all are tried."""
    plain = a_guide(seed, 4, 0, 4)
    guide = replace(
        plain,
        repairs=tuple(
            replace(r, fixes=tuple(1.0 if c == i else 0.0 for c in range(4)))
            for i, r in enumerate(plain.repairs)
        ),
        last_resort_minutes=100_000,
    )
    by_ratio = sorted(range(4), key=lambda i: -guide.chances[i] / guide.repair_minutes[i])
    least = min(minutes_of_order(guide, order) for order in itertools.permutations(range(4)))
    assert minutes_of_order(guide, by_ratio) == pytest.approx(least)
    assert best_strategy(guide).first.minutes == pytest.approx(least)


def brute_force(
    guide: FaultGuide, chances: np.ndarray, checks: tuple[int, ...], repairs: tuple[int, ...]
) -> float:
    """The slow twin: every strategy there is, nothing kept, nothing left out."""
    best = guide.last_resort_minutes
    for r in repairs:
        fixes = np.array(guide.repairs[r].fixes)
        fixed = float(fixes @ chances)
        minutes = guide.repair_minutes[r]
        if fixed < 1 - 1e-12:
            after = chances * (1 - fixes) / (1 - fixed)
            minutes += (1 - fixed) * brute_force(guide, after, checks, tuple(x for x in repairs if x != r))
        best = min(best, minutes)
    for k in checks:
        left = tuple(x for x in checks if x != k)
        minutes = guide.checks[k].minutes
        yes = np.array(guide.checks[k].yes)
        for p, likely in ((yes @ chances, yes), (1 - yes @ chances, 1 - yes)):
            if p > 1e-12:
                minutes += float(p) * brute_force(guide, chances * likely / p, left, repairs)
        best = min(best, minutes)
    return best


@settings(max_examples=examples(40), deadline=None)
@given(st.integers(0, 10_000), st.integers(0, 3), st.integers(1, 3))
def test_the_exact_order_is_the_best_of_all_there_are(seed: int, n_checks: int, n_repairs: int) -> None:
    guide = a_guide(seed, 3, n_checks, n_repairs)
    found = best_strategy(guide)
    expected = brute_force(guide, np.array(guide.chances), tuple(range(n_checks)), tuple(range(n_repairs)))
    assert found.method == "exact"
    assert found.first.minutes == pytest.approx(expected)
    assert found.at_least <= found.first.minutes + 1e-9


def carried_out(guide: FaultGuide, doing: Doing, rng: random.Random) -> float:
    """One job by a strategy, with a true cause drawn."""
    cause = rng.choices(range(len(guide.causes)), guide.chances)[0]
    minutes = 0.0
    at: Doing | None = doing
    while at is not None:
        if at.act == "last resort":
            return minutes + guide.last_resort_minutes
        if at.act == "repair":
            minutes += guide.repair_minutes[at.place]
            if rng.random() < guide.repairs[at.place].fixes[cause]:
                return minutes
            at = at.no
        else:
            minutes += guide.checks[at.place].minutes
            at = at.yes if rng.random() < guide.checks[at.place].yes[cause] else at.no
    raise AssertionError("a strategy ends with the equipment working or with the last resort")


@pytest.mark.slow
@pytest.mark.parametrize(("n_checks", "n_repairs"), [(4, 4), (12, 8)])
def test_a_strategy_takes_the_minutes_it_says(n_checks: int, n_repairs: int) -> None:
    guide = a_guide(5, 6, n_checks, n_repairs)
    strategy = best_strategy(guide)
    assert strategy.method == ("exact" if n_checks == 4 else "looking ahead")
    rng = random.Random(1)
    runs = [carried_out(guide, strategy.first, rng) for _ in range(4_000)]
    error = float(np.std(runs)) / len(runs) ** 0.5
    assert abs(float(np.mean(runs)) - strategy.first.minutes) < 4 * error


@settings(max_examples=examples(40), deadline=None)
@given(st.integers(0, 10_000), st.integers(0, 4), st.integers(0, 3))
def test_an_order_of_work_is_worth_the_same_however_it_is_added_up(
    seed: int, n_checks: int, n_repairs: int
) -> None:
    guide = a_guide(seed, 3, n_checks, n_repairs)
    best = best_strategy(guide).first
    assert minutes_of_strategy(guide, best) == pytest.approx(best.minutes)


@settings(max_examples=examples(30), deadline=None)
@given(st.integers(0, 10_000))
def test_looking_ahead_is_never_better_than_the_best_and_never_below_the_bound(seed: int) -> None:
    guide = a_guide(seed, 4, 4, 4)
    exact = best_strategy(guide)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(strategies, "EXACT_STATES", 0)
        ahead = best_strategy(guide)
    assert (exact.method, ahead.method) == ("exact", "looking ahead")
    assert ahead.first.minutes >= exact.first.minutes - 1e-9
    assert exact.at_least <= exact.first.minutes + 1e-9
    assert minutes_of_strategy(guide, ahead.first) == pytest.approx(ahead.first.minutes)


def order_by_the_rule(
    guide: FaultGuide,
    chances: Sequence[float],
    checks: frozenset[int],
    repairs: frozenset[int],
    reached: float,
) -> float:
    """Minutes of looking ahead, from what a phone would do next at each turn; with remedies alone where few come."""
    doing = next_doing(guide, chances, checks if reached >= strategies.RARE else (), repairs)
    if doing.act == "last resort":
        return guide.last_resort_minutes
    p = doing.chance
    if doing.act == "repair":
        takes, likely = guide.repair_minutes[doing.place], guide.repairs[doing.place].fixes
        left = [(1 - p, [c * (1 - f) for c, f in zip(chances, likely, strict=True)])]
        repairs = repairs - {doing.place}
    else:
        takes, likely = guide.checks[doing.place].minutes, guide.checks[doing.place].yes
        left = [
            (p, [c * y for c, y in zip(chances, likely, strict=True)]),
            (1 - p, [c * (1 - y) for c, y in zip(chances, likely, strict=True)]),
        ]
        checks = checks - {doing.place}
    return takes + sum(
        share * order_by_the_rule(guide, [b / sum(belief) for b in belief], checks, repairs, reached * share)
        for share, belief in left
        if share > 1e-12
    )


@settings(max_examples=examples(40), deadline=None)
@given(st.integers(0, 10_000), st.integers(2, 7), st.integers(0, 7), st.integers(0, 6))
def test_the_whole_order_that_looks_ahead_is_the_rule_followed_turn_by_turn(
    seed: int, n_causes: int, n_checks: int, n_repairs: int
) -> None:
    """Worked out for all checks at once against one at a time without arrays."""
    guide = a_guide(seed, n_causes, n_checks, n_repairs)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(strategies, "EXACT_STATES", 0)
        ahead = best_strategy(guide)
    followed = order_by_the_rule(
        guide, guide.chances, frozenset(range(n_checks)), frozenset(range(n_repairs)), 1.0
    )
    assert ahead.first.minutes == pytest.approx(followed)
    assert minutes_of_strategy(guide, ahead.first) == pytest.approx(followed)


@settings(max_examples=examples(60), deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 6), st.integers(0, 6), st.floats(20, 400))
def test_remedies_alone_end_where_the_best_is_not_worth_trying(
    seed: int, n_causes: int, n_repairs: int, last_resort: float
) -> None:
    """The same as going through every remedy that is left, and passing over those that are not worth it."""
    guide = replace(a_guide(seed, n_causes, 0, n_repairs), last_resort_minutes=last_resort)
    left, minutes, to_do = list(guide.chances), 0.0, set(range(n_repairs))
    while to_do:
        helps = {r: sum(c * f for c, f in zip(left, guide.repairs[r].fixes, strict=True)) for r in to_do}
        tried = max(sorted(to_do), key=lambda r: helps[r] / guide.repair_minutes[r])
        to_do.remove(tried)
        if guide.repair_minutes[tried] * sum(left) < helps[tried] * last_resort:
            minutes += guide.repair_minutes[tried] * sum(left)
            left = [c * (1 - f) for c, f in zip(left, guide.repairs[tried].fixes, strict=True)]
    minutes += sum(left) * last_resort
    assert next_doing(guide, guide.chances, (), range(n_repairs)).minutes == pytest.approx(minutes)
    alone = repairs_alone(arrays_of(guide), np.array([guide.chances]) * 0.3, range(n_repairs))
    assert alone.minutes[0] == pytest.approx(0.3 * minutes)


def sampled(guide: FaultGuide, n: int, seed: int) -> list[ClosedJob]:
    rng = random.Random(seed)
    out = []
    for i in range(n):
        cause = rng.choices(range(len(guide.causes)), guide.chances)[0]
        seen = {check.id: rng.random() < check.yes[cause] for check in guide.checks if rng.random() < 0.8}
        out.append(
            ClosedJob(
                order=f"o{i}",
                cause=guide.causes[cause],
                remedy=f"mend {cause}",
                minutes=40.0,
                diagnosed=20.0,
                seen=seen,
            )
        )
    return out


def from_jobs(jobs: list[ClosedJob]) -> LearnedGuide | None:
    return guide_from_jobs(
        jobs,
        unknown=("unknown",),
        minutes_of=lambda _: 10.0,
        label_of=str,
        prove_minutes=5,
        last_resort_minutes=240,
    )


def distance_from_truth(truth: FaultGuide, found: LearnedGuide) -> float:
    """How far learned chances of causes and of what checks show lie from the truth, in the mean."""
    by_cause = dict(zip(truth.causes, truth.chances, strict=True))
    off = [abs(p - by_cause[c]) for c, p in zip(found.guide.causes, found.guide.chances, strict=True)]
    by_check = {c.id: dict(zip(truth.causes, c.yes, strict=True)) for c in truth.checks}
    off += [
        abs(y - by_check[check.id][cause])
        for check in found.guide.checks
        for cause, y in zip(found.guide.causes, check.yes, strict=True)
    ]
    return sum(off) / len(off)


def distances(n_jobs: int, n_worlds: int) -> list[float]:
    """The distance after so many jobs, in each of some worlds of four causes, five checks and four remedies."""
    found = (
        (truth, from_jobs(sampled(truth, n_jobs, seed)))
        for seed in range(n_worlds)
        for truth in [a_guide(seed, 4, 5, 4)]
    )
    return [distance_from_truth(truth, learnt) for truth, learnt in found if learnt is not None]


@pytest.mark.slow
def test_a_guide_from_jobs_comes_to_the_truth_as_jobs_grow() -> None:
    means = [sum(far) / len(far) for far in (distances(n, 4) for n in (60, 600, 6_000))]
    assert means[0] > means[1] > means[2]
    assert means[2] < 0.02


@pytest.mark.slow
def test_the_range_of_a_learned_chance_holds_the_truth_about_as_often_as_it_says() -> None:
    rng = random.Random(3)
    held = 0
    for _ in range(400):
        truth = rng.random()
        hits = sum(rng.random() < truth for _ in range(30))
        found = learned(hits, 30)
        held += found.low <= truth <= found.high
    assert 365 <= held <= 395, "95 % of 400 is 380"


def test_of_the_answers_to_one_question_the_one_that_tells_most_is_the_check() -> None:
    jobs = []
    for i in range(60):
        cause = "ab"[i % 2]
        seen = {
            "seat=scored": cause == "a",
            "seat=sound": cause == "b",
            "seat=dirt": cause == "a" and i % 3 == 0,
        }
        jobs.append(
            ClosedJob(order=f"o{i}", cause=cause, remedy="r", minutes=20.0, diagnosed=15.0, seen=seen)
        )
    found = guide_from_jobs(
        jobs,
        minutes_of=lambda _: 10.0,
        label_of=str,
        prove_minutes=5,
        last_resort_minutes=240,
    )
    assert found is not None
    assert found.looks == ("seat=scored",)
    assert found.diagnosed is not None
    assert (found.diagnosed.value, found.diagnosed.count) == (15.0, 60)


def test_jobs_without_a_cause_and_rare_causes_are_counted_and_not_guessed_at() -> None:
    jobs = sampled(a_guide(9, 3, 4, 3), 90, 1)
    jobs += [replace(jobs[0], order=f"u{i}", cause="unknown") for i in range(7)]
    jobs += [replace(jobs[0], order=f"r{i}", cause="rare") for i in range(2)]
    found = from_jobs(jobs)
    assert found is not None
    assert (found.n_uncoded, found.rare) == (7, {"rare": 2})
    assert "rare" not in found.guide.causes
    check_guide(found.guide)
    assert from_jobs([job for job in jobs if job.cause == "c0"]) is None


@pytest.mark.parametrize(
    "change",
    [
        {"chances": (0.5, 0.6, 0.1)},
        {"chances": (0.5, 0.5)},
        {"last_resort_minutes": 0.0},
        {"causes": (), "chances": ()},
    ],
)
def test_a_guide_that_does_not_hold_together_is_refused(change: dict[str, object]) -> None:
    with pytest.raises(InvalidInput):
        check_guide(replace(a_guide(1, 3, 2, 2), **change))  # type: ignore[arg-type]


@given(
    st.lists(
        st.tuples(st.sampled_from("xy"), st.sampled_from("pq"), st.sampled_from(["yes", "no", "so"])),
        max_size=8,
    ),
    st.lists(st.tuples(st.sampled_from("xy"), st.sampled_from("pq"), st.booleans()), max_size=6),
)
def test_what_was_seen_is_read_off_the_answers(
    chosen: list[tuple[str, str, str]], read: list[tuple[str, str, bool]]
) -> None:
    expected: dict[str, dict[str, bool]] = {}
    for job in "xy":
        for question in "pq":
            own = [v for j, q, v in chosen if (j, q) == (job, question)]
            for option in {v for _, q, v in chosen if q == question} - {"no"}:
                if own:
                    expected.setdefault(job, {})[f"{question}={option}"] = option in own
            out = [is_out for j, q, is_out in read if (j, q) == (job, question)]
            if out:
                expected.setdefault(job, {})[f"{question}!"] = any(out)
    found = {job: seen for job, seen in seen_on(chosen, read).items() if seen}
    assert found == expected


def test_what_an_order_saves_is_the_difference_and_its_range_holds_it() -> None:
    found = from_jobs(sampled(a_guide(9, 4, 5, 4), 400, 2))
    assert found is not None
    strategy = best_strategy(found.guide)
    saving = saved_by(found, strategy)
    assert saving.saved == pytest.approx(saving.written - strategy.first.minutes)
    assert saving.low <= saving.saved <= saving.high
    assert saving.written == pytest.approx(20.0 + strategy.at_least)


@settings(max_examples=examples(150), deadline=None)
@given(st.integers(0, 10_000), st.integers(2, 5), st.integers(0, 6), st.integers(0, 5), st.data())
def test_what_a_phone_does_next_is_the_first_of_the_order_that_looks_ahead(
    seed: int, n_causes: int, n_checks: int, n_repairs: int, data: st.DataObject
) -> None:
    """The same rule without arrays, at any point of the work."""
    guide = a_guide(seed, n_causes, n_checks, n_repairs)
    answers = data.draw(
        st.dictionaries(st.integers(0, max(n_checks - 1, 0)), st.booleans(), max_size=n_checks)
    )
    failed = data.draw(st.sets(st.integers(0, max(n_repairs - 1, 0)), max_size=n_repairs))
    if n_repairs == 0:
        failed = set()
    now = posterior(guide, answers, failed)
    if now is None:
        return
    checks = frozenset(range(n_checks)) - answers.keys()
    repairs = frozenset(range(n_repairs)) - failed
    ahead = strategies._Ahead(arrays_of(guide)).from_here(np.array(now), checks, repairs)
    found = next_doing(guide, now, checks, repairs)
    assert (found.act, found.place) == (ahead.act, ahead.place)
    assert found.chance == pytest.approx(ahead.chance)
    # Looking further ahead, as the whole order does after each turn, only saves.
    assert ahead.minutes <= found.minutes + 1e-9
