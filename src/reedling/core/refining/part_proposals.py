"""What the parts that jobs used suggest of an incident type."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from statistics import median

from reedling.core.refining.changes import AddPartNeed
from reedling.core.refining.in_words import share_in_words
from reedling.core.refining.proposals import FEWEST_JOBS, Proposal
from reedling.core.statistics.intervals import wilson_interval

PART_SHARE = 0.10
"""A part that no guidance names is proposed when surely more than this share of the jobs used it."""
FETCH_SHARE = 0.20
"""A part is to be carried when surely more than this share of the jobs that used it needed a visit to fetch it."""
FEWEST_FETCHED = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class PartJob:
    """One job of an incident type: the parts it used, and whether a visit ended because a part was missing."""

    order: str
    parts: Mapping[str, float]
    fetched: bool


FOR_A_PART = ("part to order", "part to fetch")
"""Reasons for a return that say that a part was missing."""


def wanted_a_part(return_reasons: Iterable[str]) -> bool:
    """Whether a visit of a job ended because a part was missing."""
    return any(reason in FOR_A_PART for reason in return_reasons)


def proposals_of_parts(
    document: str,
    revision: str,
    jobs: Sequence[PartJob],
    *,
    named: Iterable[str],
    asked_for: Iterable[str],
    amount: Callable[[str, float], str],
) -> tuple[Proposal, ...]:
    """What the parts of an incident type's jobs suggest.

    ``named`` are the parts that its guidance names anywhere, ``asked_for`` those that the incident type itself asks
    for; ``amount`` says a quantity of a part in words.
    """
    known, asked = set(named), set(asked_for)
    found: list[Proposal] = []
    for part in sorted({p for job in jobs for p in job.parts} - asked):
        used = [job for job in jobs if job.parts.get(part, 0) > 0]
        quantity = float(median(job.parts[part] for job in used))
        change = AddPartNeed(part=part, quantity=quantity)
        share = wilson_interval(len(used), len(jobs))
        fetched = [job for job in used if job.fetched]
        of_used = wilson_interval(len(fetched), len(used))
        if part not in known and len(jobs) >= FEWEST_JOBS and share.low > PART_SHARE:
            found.append(
                Proposal(
                    kind="add a part",
                    document=document,
                    revision=revision,
                    step="",
                    part=part,
                    sentence=f"{amount(part, quantity)} went into {share_in_words(share)}, and no guidance names it.",
                    effect=f"It would be on what to carry for {round((share.share or 0) * 100)} of 100 jobs that take it.",
                    rule=f"Surely more than {round(PART_SHARE * 100)} % of the jobs used it, and neither a step nor the incident type names it.",
                    goes_away="It goes once the guidance names it, or its use falls.",
                    change=change,
                    n_jobs=len(jobs),
                    orders=tuple(job.order for job in used),
                    weight=2.0 * len(used),
                )
            )
        elif part in known and len(fetched) >= FEWEST_FETCHED and of_used.low > FETCH_SHARE:
            found.append(
                Proposal(
                    kind="carry a part",
                    document=document,
                    revision=revision,
                    step="",
                    part=part,
                    sentence=f"Of the jobs that took {amount(part, quantity)}, {share_in_words(of_used)} needed another visit to fetch a part.",
                    effect=f"Carried, it would save up to {round(100 * len(fetched) / len(jobs))} visits in 100 jobs.",
                    rule=f"Surely more than {round(FETCH_SHARE * 100)} % of the jobs that used it had a visit that ended for want of a part.",
                    goes_away="It goes once the incident type asks for it, or fewer visits end so.",
                    change=change,
                    n_jobs=len(used),
                    orders=tuple(job.order for job in fetched),
                    weight=60.0 * len(fetched),
                )
            )
    return tuple(found)
