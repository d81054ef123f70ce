"""A fault guide from closed jobs: causes as coded, checks from the questions that tell them apart."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from statistics import median

import numpy as np
from scipy.special import betaincinv

from reedling.core.faultguide.guides import Check, FaultGuide, Repair, bits
from reedling.core.faultguide.links import question_of
from reedling.core.faultguide.strategies import Strategy, minutes_of_strategy
from reedling.core.statistics.resampling import Ranged, mean_interval

AUTHOR_WEIGHT = 5.0
"""How many jobs an author's figure counts for, unless another weight is set."""
FEWEST_OF_CAUSE = 5
"""Jobs of a cause below which it is not learned: it is counted and told."""
LEAST_BITS = 0.02
"""A question that tells less about the cause than this is no check."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ClosedJob:
    """One finished job: its cause and remedy as coded, and what was seen, by the look (a question and an answer to it)
    that it was an answer to.

    ``minutes`` went into putting it right; ``diagnosed`` are the minutes planned for the checks that it was asked for.
    ``mended`` are the steps done that put something right, as ``document:step``; ``tried`` tells of remedies of a guide
    that were tried whether they helped, by ``guide:remedy``.
    """

    order: str
    cause: str
    remedy: str
    minutes: float | None
    diagnosed: float
    seen: Mapping[str, bool]
    mended: frozenset[str] = frozenset()
    tried: Mapping[str, bool] = field(default_factory=dict)


def seen_on(
    chosen: Iterable[tuple[str, str, str]], read: Iterable[tuple[str, str, bool]]
) -> dict[str, dict[str, bool]]:
    """What was seen on each job, by job and look.

    ``chosen`` are jobs with a question and what was chosen; each option that any job chose is a look
    (``question=option``) that is so or not wherever the question was answered; of yes and no, yes is. ``read`` are
    jobs with a question and whether its reading lay outside its limits (``question!``); of several one is enough.
    """
    by_job: dict[str, dict[str, set[str]]] = {}
    options: dict[str, set[str]] = {}
    for job, question, value in chosen:
        by_job.setdefault(job, {}).setdefault(question, set()).add(value)
        options.setdefault(question, set()).add(value)
    seen: dict[str, dict[str, bool]] = {}
    for job, answers in by_job.items():
        for question, own in answers.items():
            for value in options[question] - {"no"}:
                seen.setdefault(job, {})[f"{question}={value}"] = value in own
    for job, question, is_out in read:
        of_job = seen.setdefault(job, {})
        of_job[f"{question}!"] = of_job.get(f"{question}!", False) or is_out
    return seen


@dataclass(frozen=True, slots=True, kw_only=True)
class Learned:
    """A chance with its 95 % credible range and the jobs it rests on; ``size`` is how many jobs it counts for, those and
    the ones that the guess before them counts for."""

    value: float
    low: float
    high: float
    n: int
    size: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LearnedGuide:
    """A guide drafted from jobs. ``chances`` are of its causes; ``cells`` of its checks, check by cause, ``repair_cells``
    of its remedies, nothing where one is said not to help (and empty where the remedies were not learned).

    ``looks`` are what the checks look for, as asked for; ``n_uncoded`` jobs had no cause, ``rare`` are causes of too
    few jobs, with how many: neither is guessed at. ``diagnosed`` is the mean of the minutes planned for the checks that
    a job was asked for as the guidance was written. ``n_several`` jobs had several remedies done: there may have been more
    than one cause.
    """

    guide: FaultGuide
    chances: tuple[Learned, ...]
    cells: tuple[tuple[Learned, ...], ...]
    looks: tuple[str, ...]
    diagnosed: Ranged | None
    n_jobs: int
    n_uncoded: int
    rare: Mapping[str, int]
    repair_cells: tuple[tuple[Learned | None, ...], ...] = ()
    n_several: int = 0


def learned(n_hits: int, n: int, *, guess: float = 0.5, weight: float = 2.0) -> Learned:
    """A chance after hits out of jobs, beginning from a guess that counts for so many jobs.

    Beta posterior; its mean, and the range between its 2.5 and 97.5 % points. A guess of 0 or 1 is taken as a little
    away from it: nothing is ever certain.
    """
    guess = min(max(guess, 0.02), 0.98)
    a, b = n_hits + guess * weight, n - n_hits + (1 - guess) * weight
    return Learned(
        value=a / (a + b),
        low=float(betaincinv(a, b, 0.025)),
        high=float(betaincinv(a, b, 0.975)),
        n=n,
        size=a + b,
    )


def guide_from_jobs(
    jobs: Sequence[ClosedJob],
    *,
    unknown: Iterable[str] = (),
    minutes_of: Callable[[str], float],
    label_of: Callable[[str], str],
    prove_minutes: float,
    last_resort_minutes: float,
    most_checks: int = 8,
) -> LearnedGuide | None:
    """A guide drafted from closed jobs; nothing where fewer than two causes are known well enough.

    A remedy is learned for each cause, as it was coded most often; how often it held is taken as sure but for the
    jobs of that cause that were coded otherwise. Checks are the looks that tell most about the cause, each taken
    among the jobs that were asked it, and one of each question: its answers exclude each other.
    ``minutes_of`` and ``label_of`` tell of a look or of a cause.
    """
    uncoded = set(unknown) | {""}
    coded = [job for job in jobs if job.cause not in uncoded]
    counted = Counter(job.cause for job in coded)
    causes = tuple(
        sorted((c for c, n in counted.items() if n >= FEWEST_OF_CAUSE), key=lambda c: (-counted[c], c))
    )
    if len(causes) < 2:
        return None
    known = [job for job in coded if job.cause in causes]
    n = len(known)
    shares = tuple(learned(counted[c], n, guess=1 / len(causes), weight=len(causes)) for c in causes)
    total = sum(s.value for s in shares)
    looks = sorted({look for job in known for look in job.seen})
    cells = {look: tuple(_cell(known, look, cause) for cause in causes) for look in looks}
    chances = tuple(s.value / total for s in shares)
    every = FaultGuide(
        causes=causes,
        chances=chances,
        checks=tuple(
            Check(
                id=look,
                label=label_of(look),
                minutes=minutes_of(look),
                yes=tuple(c.value for c in cells[look]),
            )
            for look in looks
        ),
        repairs=(),
        prove_minutes=prove_minutes,
        last_resort_minutes=last_resort_minutes,
    )
    telling = np.asarray(bits(every, chances))
    best: list[int] = []
    for i in np.argsort(-telling, kind="stable"):
        if telling[i] >= LEAST_BITS and question_of(looks[i]) not in {question_of(looks[j]) for j in best}:
            best.append(int(i))
    best = best[:most_checks]
    chosen = tuple(looks[i] for i in best)
    guide = FaultGuide(
        causes=causes,
        chances=chances,
        checks=tuple(every.checks[i] for i in best),
        repairs=tuple(_repair(known, cause, causes, minutes_of, label_of) for cause in causes),
        prove_minutes=prove_minutes,
        last_resort_minutes=last_resort_minutes,
    )
    return LearnedGuide(
        guide=guide,
        chances=shares,
        cells=tuple(cells[look] for look in chosen),
        looks=chosen,
        diagnosed=mean_interval([job.diagnosed for job in known]),
        n_several=sum(len(job.mended) > 1 for job in jobs),
        n_jobs=n,
        n_uncoded=len(jobs) - len(coded),
        rare={c: counted[c] for c in sorted(counted) if c not in causes},
    )


def _cell(jobs: Sequence[ClosedJob], look: str, cause: str) -> Learned:
    asked = [job.seen[look] for job in jobs if job.cause == cause and look in job.seen]
    return learned(sum(asked), len(asked))


def _repair(
    jobs: Sequence[ClosedJob],
    cause: str,
    causes: Sequence[str],
    minutes_of: Callable[[str], float],
    label_of: Callable[[str], str],
) -> Repair:
    own = [job for job in jobs if job.cause == cause]
    remedy, n_same = usual_remedy(own)
    held = learned(n_same, len(own), guess=0.95, weight=AUTHOR_WEIGHT).value
    taken = [job.minutes for job in own if job.minutes is not None]
    return Repair(
        id=cause,
        label=f"{label_of(remedy)}, for {label_of(cause)}",
        minutes=minutes_of(cause) or (float(median(taken)) if taken else 30.0),
        fixes=tuple(held if other == cause else 0.0 for other in causes),
    )


def usual_remedy(jobs: Sequence[ClosedJob]) -> tuple[str, int]:
    """The remedy that most of the jobs were coded with, and on how many; there is at least one job."""
    remedies = Counter(job.remedy for job in jobs)
    return min(remedies.items(), key=lambda item: (-item[1], item[0]))


def sampled_guides(found: LearnedGuide, n: int, *, seed: int = 1) -> Iterator[FaultGuide]:
    """Guides that the jobs leave possible: chances and cells drawn from what is known of them."""
    rng = np.random.default_rng(seed)
    weights = np.array([c.value * c.size for c in found.chances])
    for _ in range(n):
        chances = rng.dirichlet(weights)
        yes = [[_drawn(cell, rng) for cell in row] for row in found.cells]
        fixes = [[0.0 if cell is None else _drawn(cell, rng) for cell in row] for row in found.repair_cells]
        yield replace(
            found.guide,
            chances=tuple(float(c) for c in chances),
            checks=tuple(
                replace(check, yes=tuple(row)) for check, row in zip(found.guide.checks, yes, strict=True)
            ),
            repairs=tuple(
                replace(repair, fixes=tuple(row))
                for repair, row in zip(found.guide.repairs, fixes, strict=True)
            )
            if fixes
            else found.guide.repairs,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Saving:
    """Expected minutes to working: ``written`` as the guidance asks for its checks, ``saved`` by an order of work, with
    the range that the jobs leave."""

    written: float
    saved: float
    low: float
    high: float


def saved_by(found: LearnedGuide, strategy: Strategy, *, n_draws: int = 200) -> Saving:
    """What an order of work saves against the guidance as it is.

    As it is means: the minutes planned for the checks that jobs were asked for (all of the guide's, where there are no
    jobs), and then the remedies in the order that suits the cause, each with its proof. The range is over guides drawn from what the jobs leave possible, the order of work held fixed.
    """
    guide = found.guide
    checks = found.diagnosed.value if found.diagnosed else sum(c.minutes for c in guide.checks)
    written = checks + strategy.at_least
    drawn = [
        written - minutes_of_strategy(possible, strategy.first) for possible in sampled_guides(found, n_draws)
    ]
    low, high = (float(q) for q in np.quantile(drawn, (0.025, 0.975)))
    return Saving(written=written, saved=written - strategy.first.minutes, low=low, high=high)


def _drawn(cell: Learned, rng: np.random.Generator) -> float:
    return float(rng.beta(cell.value * cell.size, (1 - cell.value) * cell.size))
