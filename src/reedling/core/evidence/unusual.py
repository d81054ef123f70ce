"""How unusual a finished job is, so that those worth reading come first, each with the reasons in words."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.evidence.jobs import JobLine
from reedling.core.logic.conditions import number_text

LONG_SHARE = 1.6
"""A job this many times its planned minutes took long."""
SHORT_SHARE = 0.5
"""A job that took less than this part of its planned minutes was quick."""

POOR_RATING = 2
"""A rating of so much or less, of 5, is poor."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Unusual:
    """What is unusual about a job, the weightiest reason first; ``score`` adds their weights, 0 for nothing."""

    score: float
    reasons: tuple[str, ...]


def unusual(job: JobLine) -> Unusual:
    """Weigh a job: help asked for, findings, further visits, a poor rating, what was recorded beside the steps, minutes far from its plan, times that cannot be, and
    at last how much else differed from the plan."""
    found: list[tuple[float, str]] = []
    if job.n_helped:
        found.append(
            (4.0 * job.n_helped, "asked for help" + (f" {job.n_helped} times" if job.n_helped > 1 else ""))
        )
    if job.n_findings:
        found.append((min(3.0 * job.n_findings, 9.0), _counted(job.n_findings, "finding")))
    if job.n_visits > 1:
        found.append((3.0 * (job.n_visits - 1), f"took {job.n_visits} visits"))
    if job.minutes_on_site is None:
        found.append((2.0, "times that cannot be"))
    elif job.planned_minutes:
        ratio = job.minutes_on_site / job.planned_minutes
        if ratio >= LONG_SHARE:
            found.append((2.0 * ratio, f"took {number_text(round(ratio, 1))} times its plan"))
        elif ratio <= SHORT_SHARE:
            found.append((3.0, f"took {round(ratio * 100)} % of its plan"))
    if job.rating is not None and job.rating <= POOR_RATING:
        found.append((2.0 * (POOR_RATING + 2 - job.rating), f"the customer rated it {job.rating} of 5"))
    if job.n_beside:
        found.append((1.0 * job.n_beside, f"{_counted(job.n_beside, 'thing')} recorded beside the steps"))
    others = job.n_departures - job.n_findings
    if others > 3:
        found.append((0.5 * others, f"{others} other things differ from the plan"))
    found.sort(key=lambda pair: (-pair[0], pair[1]))
    return Unusual(score=sum(weight for weight, _ in found), reasons=tuple(words for _, words in found))


def _counted(n: int, word: str) -> str:
    return f"1 {word}" if n == 1 else f"{n} {word}s"
