"""How unusual a finished job is, so that those worth reading come first, each with the reasons in words."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.evidence.customers_said import tone_of
from reedling.core.evidence.jobs import JobLine
from reedling.core.evidence.outcomes import SETTLING_DAYS
from reedling.core.logic.conditions import number_text
from reedling.core.register.distances import distance_words

LONG_SHARE = 1.6
"""A job this many times its planned minutes took long."""
SHORT_SHARE = 0.5
"""A job that took less than this part of its planned minutes was quick."""

POOR_RATING = 2
"""A rating of so much or less, of 5, is poor."""

FEWEST_LONG = 2
"""One step that takes long is nothing unusual."""
FEW_OTHERS = 3
"""So many other things may differ from the plan without being unusual."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Unusual:
    """What is unusual about a job, the weightiest reason first; ``score`` adds their weights, 0 for nothing."""

    score: float
    reasons: tuple[str, ...]


def unusual(job: JobLine) -> Unusual:
    """Weigh a job: help asked for, findings and readings out of their limits, further visits, the same fault before or
    after, what the customer said, parts beyond the plan, steps that took long or next to no time, minutes far from its
    plan, times that cannot be, an arrival somewhere else, what was recorded beside the steps, and at last how much else differed from the plan."""
    found = [*_found(job), *_times(job), *_outcome(job)]
    if job.arrived_km_off is not None:
        found.append((1.5, f"arrived {distance_words(job.arrived_km_off)} from its site"))
    if job.n_helped:
        times = f" {job.n_helped} times" if job.n_helped > 1 else ""
        found.append((4.0 * job.n_helped, f"asked for help{times}"))
    if job.n_parts_unplanned:
        found.append(
            (
                min(1.5 * job.n_parts_unplanned, 4.5),
                f"{_counted(job.n_parts_unplanned, 'part')} beyond the plan",
            )
        )
    if job.n_beside:
        found.append((1.0 * job.n_beside, f"{_counted(job.n_beside, 'thing')} recorded beside the steps"))
    told = job.n_findings + job.n_parts_unplanned + job.n_long + job.n_hasty + len(job.return_reasons)
    others = job.n_departures - told
    if others > FEW_OTHERS:
        found.append((0.5 * others, f"{others} other things differ from the plan"))
    found.sort(key=lambda pair: (-pair[0], pair[1]))
    return Unusual(score=sum(weight for weight, _ in found), reasons=tuple(words for _, words in found))


def _found(job: JobLine) -> list[tuple[float, str]]:
    """What was found on site."""
    found: list[tuple[float, str]] = []
    n_findings = job.n_findings - job.n_out_of_limit
    if n_findings:
        found.append((min(3.0 * n_findings, 9.0), _counted(n_findings, "finding")))
    if job.n_out_of_limit:
        found.append(
            (min(3.0 * job.n_out_of_limit, 9.0), f"{_counted(job.n_out_of_limit, 'reading')} out of limit")
        )
    return found


def _times(job: JobLine) -> list[tuple[float, str]]:
    """What its minutes say, of the whole and of its steps."""
    found: list[tuple[float, str]] = []
    if job.minutes_on_site is None:
        found.append((2.0, "times that cannot be"))
    elif job.planned_minutes:
        ratio = job.minutes_on_site / job.planned_minutes
        if ratio >= LONG_SHARE:
            found.append((2.0 * ratio, f"took {number_text(round(ratio, 1))} times its plan"))
        elif ratio <= SHORT_SHARE:
            found.append((3.0, f"took {round(ratio * 100)} % of its plan"))
    if job.n_long >= FEWEST_LONG:
        found.append((min(1.0 * job.n_long, 4.0), f"{_counted(job.n_long, 'step')} took long"))
    if job.n_hasty:
        found.append((min(1.5 * job.n_hasty, 6.0), f"{_counted(job.n_hasty, 'step')} took next to no time"))
    return found


def _outcome(job: JobLine) -> list[tuple[float, str]]:
    """What came of it: further visits, the same fault before or after, what the customer said."""
    found: list[tuple[float, str]] = []
    if job.n_visits > 1:
        why = ", ".join(dict.fromkeys(job.return_reasons))
        found.append((3.0 * (job.n_visits - 1), f"took {job.n_visits} visits" + (f": {why}" if why else "")))
    if job.is_repeat:
        found.append((3.0, f"the same fault was worked on within {SETTLING_DAYS} days before"))
    if job.working_visits == 1 and not job.fixed and not job.doubtful_finish:
        found.append((4.0, f"the fault came back within {SETTLING_DAYS} days"))
    if job.rating is not None and job.rating <= POOR_RATING:
        found.append((2.0 * (POOR_RATING + 2 - job.rating), f"the customer rated it {job.rating} of 5"))
    if job.tone is not None and tone_of(job.tone) == "poor":
        found.append((2.0, "a comment in a poor tone"))
    return found


def _counted(n: int, word: str) -> str:
    return f"1 {word}" if n == 1 else f"{n} {word}s"
