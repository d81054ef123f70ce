"""What closed jobs make of a fault guide that somebody wrote: the author's figures as so many jobs, and the jobs besides."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence

from reedling.core.faultguide.guides import Check, FaultGuide, Repair
from reedling.core.faultguide.learning import ClosedJob, Learned, LearnedGuide, learned
from reedling.core.faultguide.links import GuideLinks
from reedling.core.guidance.written_guides import GuideCheck, GuideRemedy, WrittenGuide
from reedling.core.statistics.resampling import mean_interval

NO_WORD = 0.5
"""The chance that a check is so for a cause of which nobody said anything."""
LEAST_WEIGHT = 0.5
"""The author's figures count for this many jobs at the least."""
LEAST_MINUTES = 0.5
"""What takes less is counted as this much."""


def learn_written(
    written: WrittenGuide,
    document: str,
    links: GuideLinks,
    jobs: Sequence[ClosedJob],
    *,
    unknown: Iterable[str] = (),
    labels: Mapping[str, str],
) -> LearnedGuide | None:
    """A written guide with what closed jobs show; nothing where it has no cause with a chance.

    Causes by a Dirichlet, cells by a Beta posterior, the author's figures counting for ``written.weight`` jobs. A
    remedy's chance learns from the jobs of a cause that it was coded on, and from those where it was tried and did not
    help. Jobs without a cause (``unknown`` ones among them) and those of causes that the guide lacks are counted, not
    guessed at. ``labels`` are of causes and remedies, by code.
    """
    shares = sum(max(c.chance, 0.0) for c in written.causes)
    weight = max(written.weight, LEAST_WEIGHT)
    if shares <= 0:
        return None
    causes = tuple(c.cause for c in written.causes)
    uncoded = {*unknown, ""}
    coded = [job for job in jobs if job.cause not in uncoded]
    counted = Counter(job.cause for job in coded)
    known = [job for job in coded if job.cause in causes]
    chances = tuple(
        learned(counted[c.cause], len(known), guess=max(c.chance, 0.0) / shares, weight=weight)
        for c in written.causes
    )
    total = sum(c.value for c in chances)
    cells = tuple(_check_cells(check, document, causes, known, weight) for check in written.checks)
    repair_cells = tuple(
        _repair_cells(remedy, document, causes, known, weight) for remedy in written.remedies
    )
    guide = FaultGuide(
        causes=causes,
        chances=tuple(c.value / total for c in chances),
        checks=tuple(
            Check(
                id=check.id,
                label=check_label(check, links),
                minutes=max(check_minutes(check, links), LEAST_MINUTES),
                yes=tuple(cell.value for cell in row),
            )
            for check, row in zip(written.checks, cells, strict=True)
        ),
        repairs=tuple(
            Repair(
                id=remedy.id,
                label=remedy_label(remedy, written, links, labels),
                minutes=max(remedy_minutes(remedy, links), LEAST_MINUTES),
                fixes=tuple(0.0 if cell is None else cell.value for cell in row),
                cost_minutes=max(remedy.cost_minutes, 0.0),
            )
            for remedy, row in zip(written.remedies, repair_cells, strict=True)
        ),
        prove_minutes=max(written.prove_minutes, 0.0),
        last_resort_minutes=max(written.last_resort_minutes, LEAST_MINUTES),
    )
    return LearnedGuide(
        guide=guide,
        chances=chances,
        cells=cells,
        looks=tuple(check.look or f"{document}:{check.id}=yes" for check in written.checks),
        diagnosed=mean_interval([job.diagnosed for job in known]),
        n_jobs=len(known),
        n_uncoded=len(jobs) - len(coded),
        rare={cause: n for cause, n in sorted(counted.items()) if cause not in causes},
        repair_cells=repair_cells,
        n_several=sum(len(job.mended) > 1 for job in jobs),
    )


def check_label(check: GuideCheck, links: GuideLinks) -> str:
    """What a check looks for, in words."""
    look = links.looks.get(check.look)
    return check.label or (look.label if look else check.look or "Check")


def check_minutes(check: GuideCheck, links: GuideLinks) -> float:
    """Minutes of a check: those given, else those of the step that asks it."""
    look = links.looks.get(check.look)
    return check.minutes if check.minutes is not None else (look.minutes if look else 5.0)


def remedy_label(
    remedy: GuideRemedy, written: WrittenGuide, links: GuideLinks, labels: Mapping[str, str]
) -> str:
    """What a remedy does, in words: what its step says, unless other remedies are done at that step, too."""
    step = links.steps.get(remedy.step)
    if step is not None and sum(other.step == remedy.step for other in written.remedies) == 1:
        return step.text
    return labels.get(remedy.remedy, remedy.remedy)


def remedy_minutes(remedy: GuideRemedy, links: GuideLinks) -> float:
    """Minutes of a remedy: those given, else those of its step."""
    step = links.steps.get(remedy.step)
    return remedy.minutes if remedy.minutes is not None else (step.minutes if step else 30.0)


def _check_cells(
    check: GuideCheck, document: str, causes: Sequence[str], jobs: Sequence[ClosedJob], weight: float
) -> tuple[Learned, ...]:
    """The chance that the check is so for each cause; it is told by its look, or on its own where it has none."""
    told = f"{document}:{check.id}=yes"
    row = []
    for cause in causes:
        seen = [
            value
            for job in jobs
            if job.cause == cause and (value := job.seen.get(check.look, job.seen.get(told))) is not None
        ]
        row.append(learned(sum(seen), len(seen), guess=check.yes.get(cause, NO_WORD), weight=weight))
    return tuple(row)


def _repair_cells(
    remedy: GuideRemedy, document: str, causes: Sequence[str], jobs: Sequence[ClosedJob], weight: float
) -> tuple[Learned | None, ...]:
    """The chance that the remedy helps for each cause that it is said to help with."""
    row: list[Learned | None] = []
    for cause in causes:
        guess = remedy.fixes.get(cause, 0.0)
        if guess <= 0:
            row.append(None)
            continue
        own = [job for job in jobs if job.cause == cause]
        n_failed = sum(job.tried.get(f"{document}:{remedy.id}") is False for job in own)
        n_helped = sum(
            job.remedy == remedy.remedy and job.tried.get(f"{document}:{remedy.id}") is not False
            for job in own
        )
        row.append(learned(n_helped, n_helped + n_failed, guess=guess, weight=weight))
    return tuple(row)
