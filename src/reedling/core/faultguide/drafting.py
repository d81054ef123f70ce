"""A fault guide to be read and mended, written down from closed jobs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence

from reedling.core.faultguide.learning import ClosedJob, LearnedGuide, usual_remedy
from reedling.core.guidance.written_guides import GuideCause, GuideCheck, GuideRemedy, WrittenGuide

WEIGHT_OF_JOBS = 1.0
"""For how many jobs the figures of a guide drafted from jobs count: they say what the same jobs say again."""
LEAST_SHARE = 0.3
"""A step done on fewer of a cause's jobs than this is not what puts it right."""


def write_down(
    found: LearnedGuide,
    jobs: Sequence[ClosedJob],
    *,
    title: str,
    incident_type: str,
    new_id: Callable[[], str],
) -> WrittenGuide:
    """What was learned from jobs as a guide to be mended: causes, checks with their links, a remedy for each cause.

    ``jobs`` are those it was learned from. A remedy is linked to the step that was done on its jobs far more often than
    on the others; two causes with one remedy at one step share it. Chances are rounded to whole percents; a cell that
    no job tells of is left open. ``new_id`` gives a new identity at each call.
    """
    guide = found.guide
    held = {cause: guide.repairs[i] for i, cause in enumerate(guide.causes)}
    remedies: dict[tuple[str, str], GuideRemedy] = {}
    for i, cause in enumerate(guide.causes):
        own = [job for job in jobs if job.cause == cause]
        remedy, step = usual_remedy(own)[0], _usual_step(own, [job for job in jobs if job.cause != cause])
        fixes = {cause: round(held[cause].fixes[i], 2)}
        before = remedies.get((remedy, step))
        remedies[remedy, step] = GuideRemedy(
            id=before.id if before else f"r-{new_id()}",
            remedy=remedy,
            step=step,
            minutes=(before.minutes if before else round(held[cause].minutes)) if not step else None,
            fixes={**before.fixes, **fixes} if before else fixes,
        )
    return WrittenGuide(
        title=title,
        incident_type=incident_type,
        causes=tuple(
            GuideCause(cause=cause, chance=round(guide.chances[i], 2)) for i, cause in enumerate(guide.causes)
        ),
        checks=tuple(
            GuideCheck(
                id=f"k-{new_id()}",
                look=look,
                yes={
                    cause: round(cell.value, 2)
                    for cause, cell in zip(guide.causes, cells, strict=True)
                    if cell.n > 0
                },
            )
            for look, cells in zip(found.looks, found.cells, strict=True)
        ),
        remedies=tuple(remedies.values()),
        weight=WEIGHT_OF_JOBS,
        prove_minutes=guide.prove_minutes,
        last_resort_minutes=guide.last_resort_minutes,
    )


def _usual_step(own: Sequence[ClosedJob], others: Sequence[ClosedJob]) -> str:
    """The step that puts the cause right: done on its jobs, and on the others more rarely; empty for none."""
    counted = Counter(step for job in own for step in job.mended)
    elsewhere = Counter(step for job in others for step in job.mended)

    def gain(step: str) -> float:
        return counted[step] / len(own) - (elsewhere[step] / len(others) if others else 0.0)

    best = max(sorted(counted), key=gain, default="")
    return best if best and gain(best) >= LEAST_SHARE else ""
