"""Past jobs walked through a draft: what it would have cost them, in minutes, parts and visits.

Each job is walked through the guidance as it is and as it would be, by the same rules that a technician's phone
goes by. Where a sheet asks what the job never recorded, the answer, or the minutes of a step, is drawn from jobs
that were like it: of its model and cause, where there are enough, else of its cause for an answer and of its model
for minutes, else of all. How much of the
outcome rests on such draws is told, and their uncertainty is part of the range.

References
----------
.. [1] Rubin, D. B. and Schenker, N. (1986). Multiple imputation for interval estimation from simple random
   samples with ignorable nonresponse. Journal of the American Statistical Association 81, 366-374: the
   approximate Bayesian bootstrap, by which donors are drawn.
.. [2] Rubin, D. B. (1987). Multiple Imputation for Nonresponse in Surveys. Wiley, section 3.3: the combined
   variance and its degrees of freedom.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from statistics import fmean

import numpy as np
from scipy.special import stdtrit

from reedling.core.logic.conditions import Answer
from reedling.core.runsheet.lines import Runsheet, RunsheetLine
from reedling.core.runsheet.progress import Run, take_up, wanted_parts
from reedling.core.statistics.resampling import N_DRAWS, Ranged

N_FILLINGS = 8
"""How often what is not recorded is drawn anew."""
FEWEST_ALIKE = 5
"""Fewer jobs of a model and cause than this are no donors by themselves."""
MOST_ROUNDS = 60
"""Answers fill in one after the other, as one opens the next; more rounds than this no sheet needs."""
OPEN_CHANCE = 0.5
"""How often a branch is taken that no job and no author says anything about."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PastWork:
    """A closed job as it can be walked again: ``answers`` by question and ``minutes`` by line, as its sheet named
    them; ``facts`` and ``last`` as its sheet had them. ``parts`` are those it used; ``n_fetches`` of its visits
    ended because a part was missing."""

    order: str
    model: str
    cause: str
    answers: Mapping[str, Answer]
    minutes: Mapping[str, float]
    facts: Mapping[str, Answer] = field(default_factory=dict)
    last: Mapping[str, Answer] = field(default_factory=dict)
    parts: frozenset[str] = frozenset()
    n_fetches: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Walked:
    """What one walk of a job through a sheet comes to; ``filled`` are the minutes that rest on what was drawn."""

    minutes: float
    filled: float
    n_filled: int
    parts: Mapping[str, float]
    by_line: Mapping[str, float]

    @property
    def rests_on_draws(self) -> bool:
        """Whether an answer or the minutes of a step were not the job's own."""
        return self.n_filled > 0 or self.filled > 0


@dataclass(frozen=True, slots=True, kw_only=True)
class ReplayedJob:
    """One job: the minutes that the draft adds, less than 0 where it saves; the share of the draft's minutes that
    rests on what was drawn; the visits it saves."""

    order: str
    minutes: float
    filled: float
    visits: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ReplayedPart:
    """By how much of a part a job takes more under the draft, less than 0 for less, on average."""

    part: str
    quantity: float
    n_jobs: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ReplayedStep:
    """By how many minutes a job changes at a step, on average; one that only one of the two has is told."""

    line: str
    text: str
    minutes: float
    is_new: bool
    is_gone: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Replayed:
    """What a draft would have changed over past jobs.

    ``minutes`` is what a job takes more (less than 0: saves), with its 95 % range. ``filled`` is the share of the
    draft's minutes that rests on what was drawn, ``n_filled`` the jobs with any of it. ``visits`` were saved of
    ``n_fetches`` that ended because a part was missing, where the draft plans every part that such a job used.
    """

    n_jobs: int
    minutes: Ranged | None
    filled: float
    n_filled: int
    visits: int
    n_fetches: int
    jobs: tuple[ReplayedJob, ...]
    parts: tuple[ReplayedPart, ...]
    steps: tuple[ReplayedStep, ...]


_Nearest = Callable[[PastWork], str]
"""What makes jobs most alike: for an answer the cause, for minutes the model."""


@dataclass(frozen=True)
class Donors:
    """What the jobs recorded, to be drawn from where another did not; ``filling`` is the number of the draw."""

    jobs: Sequence[PastWork]
    filling: int = 0

    def answer(self, question: str, job: PastWork) -> Answer | None:
        """An answer to a question from a job like this one; nothing where no job has one."""
        donor = self._donor(question, job, self._answers, lambda other: other.cause)
        return donor.answers[question] if donor else None

    def minutes(self, line: str, job: PastWork) -> float | None:
        """The minutes of a line in a job like this one; nothing where no job has any."""
        donor = self._donor(line, job, self._minutes, lambda other: other.model)
        return donor.minutes[line] if donor else None

    @cached_property
    def _answers(self) -> dict[str, list[int]]:
        return _places(self.jobs, lambda job: job.answers)

    @cached_property
    def _minutes(self) -> dict[str, list[int]]:
        return _places(self.jobs, lambda job: job.minutes)

    def _donor(
        self, key: str, job: PastWork, places: Mapping[str, list[int]], nearest: _Nearest
    ) -> PastWork | None:
        pool = [self.jobs[i] for i in places.get(key, ())]
        if not pool:
            return None
        alike = _alike(pool, job, nearest)
        # The donors themselves are drawn first, then one of them: without it the range would be too narrow.
        rng = random.Random(f"{self.filling} {key} {len(alike)}")
        resampled = [rng.randrange(len(alike)) for _ in alike]
        mine = random.Random(f"{self.filling} {key} {job.order}")
        return alike[resampled[mine.randrange(len(resampled))]]


def replay_jobs(
    sheets: Sequence[tuple[Runsheet, Runsheet]],
    jobs: Sequence[PastWork],
    *,
    chances: Mapping[str, float] | None = None,
    n_fillings: int = N_FILLINGS,
) -> Replayed:
    """Walk closed jobs through the guidance as it is and as it would be.

    ``sheets`` are these two for each job; where they are one and the same, the draft changes nothing for it. ``chances`` are the author's, by line of the draft, for branches that no job tells anything of.
    """
    donors = [Donors(jobs, n) for n in range(n_fillings)]
    pairs: list[list[tuple[Walked, Walked]]] = []
    for (before, draft), job in zip(sheets, jobs, strict=True):
        first = _both(before, draft, job, donors[0], chances or {})
        is_whole = before is draft or not any(walked.rests_on_draws for walked in first)
        others = [first if is_whole else _both(before, draft, job, d, chances or {}) for d in donors[1:]]
        pairs.append([first, *others])
    differences = [[new.minutes - old.minutes for old, new in walks] for walks in pairs]
    replayed = tuple(
        ReplayedJob(
            order=job.order,
            minutes=fmean(found),
            filled=_share(sum(new.filled for _, new in walks), sum(new.minutes for _, new in walks)),
            visits=_visits_saved(job, *walks[0]),
        )
        for job, found, walks in zip(jobs, differences, pairs, strict=True)
    )
    return Replayed(
        n_jobs=len(jobs),
        minutes=combined(differences),
        filled=_share(
            sum(new.filled for walks in pairs for _, new in walks),
            sum(new.minutes for walks in pairs for _, new in walks),
        ),
        n_filled=sum(any(w.rests_on_draws for both in walks for w in both) for walks in pairs),
        visits=sum(job.visits for job in replayed),
        n_fetches=sum(job.n_fetches for job in jobs),
        jobs=replayed,
        parts=_parts(pairs),
        steps=_steps(sheets, pairs),
    )


def walk(
    sheet: Runsheet, job: PastWork, donors: Donors, *, chances: Mapping[str, float] | None = None
) -> Walked:
    """Walk a job through a sheet, filling in what it never recorded."""
    own = replace(sheet, facts=job.facts, last=job.last)
    run, n_filled = _filled_in(own, job, donors)
    states = {p.line: p.state for p in run.progress.lines}
    by_line: dict[str, float] = {}
    filled = 0.0
    parts: dict[str, float] = {}
    for line in run.lines:
        state = states[line.id]
        if state not in ("due", "open question"):
            continue
        share = 1.0 if state == "due" else (chances or {}).get(line.id, OPEN_CHANCE)
        recorded = job.minutes.get(line.id)
        taken = _minutes(line, job, donors) if recorded is None else recorded
        by_line[line.id] = share * taken
        if recorded is None or state != "due":
            filled += share * taken
        if state == "due":
            for need in wanted_parts(run, line):
                parts[need.part] = parts.get(need.part, 0.0) + need.quantity
    return Walked(
        minutes=sum(by_line.values()), filled=filled, n_filled=n_filled, parts=parts, by_line=by_line
    )


def combined(differences: Sequence[Sequence[float]], *, confidence: float = 0.95) -> Ranged | None:
    """The mean over jobs with its range, each job's difference given once per filling; nothing for no jobs.

    Within each filling the variance is that of a mean; between them it is that of the means, as [2]_. Differences
    are often nothing for most jobs and much for a few, so that the range is not taken to be as wide on both sides:
    its ends are those of a bootstrap-t, as [3]_, made wider as the fillings ask.
    """
    if not differences:
        return None
    values = np.asarray(differences, dtype=float)
    n, m = values.shape
    value = float(values.mean())
    within = float(values.var(axis=0, ddof=1).mean()) / n if n > 1 else 0.0
    between = (1 + 1 / m) * float(values.mean(axis=0).var(ddof=1)) if m > 1 else 0.0
    total = within + between
    if total == 0 or n < 2:
        return Ranged(value=value, low=value, high=value, count=n)
    degrees = 1 / (1 / (n - 1) + (between / total) ** 2 / max(m - 1, 1))
    tail = (1 + confidence) / 2
    wider = float(stdtrit(degrees, tail) / stdtrit(n - 1, tail)) * total**0.5
    left, right = _studentized_tails(values.mean(axis=1), confidence)
    return Ranged(value=value, low=value - right * wider, high=value - left * wider, count=n)


def _studentized_tails(values: np.ndarray, confidence: float) -> tuple[float, float]:
    """The outer quantiles of (mean of a drawn sample - mean) / its standard error; seeded."""
    n = len(values)
    drawn = values[np.random.default_rng(1).integers(0, n, (N_DRAWS, n))]
    errors = drawn.std(axis=1, ddof=1) / n**0.5
    varied = errors > 1e-9 * max(1.0, float(np.abs(values).max()))
    if not varied.any():
        reach = float(stdtrit(n - 1, (1 + confidence) / 2))
        return -reach, reach
    scores = (drawn.mean(axis=1)[varied] - values.mean()) / errors[varied]
    left, right = np.quantile(scores, [(1 - confidence) / 2, (1 + confidence) / 2])
    return float(left), float(right)


def _both(
    before: Runsheet, draft: Runsheet, job: PastWork, donors: Donors, chances: Mapping[str, float]
) -> tuple[Walked, Walked]:
    old = walk(before, job, donors, chances=chances)
    return old, old if before is draft else walk(draft, job, donors, chances=chances)


def _filled_in(sheet: Runsheet, job: PastWork, donors: Donors) -> tuple[Run, int]:
    """The sheet taken up with what the job recorded, and with draws for what decides something and was not."""
    answers = {q: a for q, a in job.answers.items() if a is not None}
    run = take_up(sheet, answers)
    n_filled = 0
    for _ in range(MOST_ROUNDS):
        missing = [
            q.id
            for line in run.lines
            for q in line.questions
            if q.id in run.rules.dependents
            and run.standing.wanted[q.id] is True
            and run.standing.known.get(q.id) is None
        ]
        drawn = {q: a for q in missing if (a := donors.answer(q, job)) is not None}
        if not drawn:
            break
        answers |= drawn
        n_filled += len(drawn)
        run = take_up(sheet, answers)
    return run, n_filled


def _minutes(line: RunsheetLine, job: PastWork, donors: Donors) -> float:
    found = donors.minutes(line.id, job)
    return line.minutes.likely if found is None else found


def _alike(pool: Sequence[PastWork], job: PastWork, nearest: _Nearest) -> Sequence[PastWork]:
    both = [other for other in pool if (other.model, other.cause) == (job.model, job.cause)]
    if len(both) >= FEWEST_ALIKE:
        return both
    one = [other for other in pool if nearest(other) == nearest(job)]
    return one if len(one) >= FEWEST_ALIKE else pool


def _places(jobs: Iterable[PastWork], of: Callable[[PastWork], Mapping[str, object]]) -> dict[str, list[int]]:
    out: dict[str, list[int]] = {}
    for place, job in enumerate(jobs):
        for key, value in of(job).items():
            if value is not None:
                out.setdefault(key, []).append(place)
    return out


def _share(part: float, whole: float) -> float:
    return part / whole if whole > 0 else 0.0


def _visits_saved(job: PastWork, old: Walked, new: Walked) -> int:
    """A visit for a part is saved where the draft plans every part the job used, and the guidance now does not."""
    if job.n_fetches == 0 or not job.parts or job.parts <= old.parts.keys():
        return 0
    return job.n_fetches if job.parts <= new.parts.keys() else 0


def _different(sheets: Iterable[Runsheet]) -> list[Runsheet]:
    """Each sheet once, though many jobs were issued with it."""
    return list({id(sheet): sheet for sheet in sheets}.values())


def _parts(pairs: Sequence[Sequence[tuple[Walked, Walked]]]) -> tuple[ReplayedPart, ...]:
    names = {part for walks in pairs for both in walks for walked in both for part in walked.parts}
    out = []
    for part in sorted(names):
        per_job = [
            fmean(new.parts.get(part, 0.0) - old.parts.get(part, 0.0) for old, new in walks)
            for walks in pairs
        ]
        if any(per_job):
            out.append(ReplayedPart(part=part, quantity=fmean(per_job), n_jobs=sum(q != 0 for q in per_job)))
    return tuple(out)


def _steps(
    sheets: Sequence[tuple[Runsheet, Runsheet]], pairs: Sequence[Sequence[tuple[Walked, Walked]]]
) -> tuple[ReplayedStep, ...]:
    """Where the minutes change: the steps that change most first, those that change nothing left out."""
    old_lines = {
        line.id: line.text for before in _different(old for old, _ in sheets) for line in before.lines
    }
    new_lines = {line.id: line.text for draft in _different(new for _, new in sheets) for line in draft.lines}
    totals: dict[str, float] = {}
    n = 0
    for walks in pairs:
        for old, new in walks:
            n += 1
            for key in {*old.by_line, *new.by_line}:
                plain = key.split("@", 1)[0]
                change = new.by_line.get(key, 0.0) - old.by_line.get(key, 0.0)
                totals[plain] = totals.get(plain, 0.0) + change
    out = [
        ReplayedStep(
            line=key,
            text=new_lines.get(key) or old_lines.get(key, key),
            minutes=total / n,
            is_new=key not in old_lines,
            is_gone=key not in new_lines,
        )
        for key, total in totals.items()
        if abs(total) > 1e-9 * max(n, 1)
    ]
    return tuple(sorted(out, key=lambda step: (-abs(step.minutes), step.line)))
