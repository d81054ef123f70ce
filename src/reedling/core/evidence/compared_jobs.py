"""Two lots of jobs against each other: two periods, models, districts or revisions, with the mix of jobs held fixed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

import numpy as np

from reedling.core.evidence.cross_filter import FACETS, Facet, JobColumns, meeting
from reedling.core.evidence.paces import minutes_at_one_pace, widening
from reedling.core.evidence.revision_outcomes import MIN_JOBS_A_SIDE
from reedling.core.statistics.intervals import Share, wilson_interval
from reedling.core.statistics.ranges_in_words import less_or_more, signed_range
from reedling.core.statistics.standardised import StandardisedDifference, standardised_difference
from reedling.core.statistics.strata import AdjustedDifference, Stratum, adjusted_difference

HELD_FIXED: tuple[Facet, ...] = ("model", "symptom", "cause")
"""What jobs are alike in, unless the two lots are told apart by it."""

Measure = Literal["fixed first time", "more than one visit", "with a finding", "asked for help"]
ComparedVerdict = Literal["higher", "lower", "no clear difference", "too few to say"]


@dataclass(frozen=True, slots=True, kw_only=True)
class ComparedShare:
    """A share of the first lot and of the second; ``difference`` is second minus first among jobs alike.

    ``sentence`` says by how much the first lot differs from the second.
    """

    measure: Measure
    first: Share
    second: Share
    difference: AdjustedDifference | None
    verdict: ComparedVerdict
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class JobsCompared:
    """Two lots of jobs; ``alike`` are the facets held fixed.

    ``minutes`` on site are second minus first, who went held fixed too. ``n_both`` jobs meet both choices: they
    count among the first lot only. ``minutes_sentence`` says by how much the first lot differs from the second.
    """

    n_first: int
    n_second: int
    n_both: int
    alike: tuple[Facet, ...]
    shares: tuple[ComparedShare, ...]
    minutes: StandardisedDifference | None
    minutes_verdict: ComparedVerdict
    minutes_sentence: str


def compare_jobs(
    columns: JobColumns,
    first: Mapping[Facet, Sequence[str]],
    second: Mapping[Facet, Sequence[str]] | None,
    *,
    settled_by: datetime,
) -> JobsCompared:
    """The jobs that meet the first choices against those that meet the second; without a second, against all others.

    Jobs finished after ``settled_by`` are too young to count as fixed first time or not.
    """
    one = meeting(columns, first)
    other = ~one if second is None else meeting(columns, second)
    n_both = int((one & other).sum())
    other = other & ~one
    told_apart = {*_chosen_in(first), *_chosen_in(second or {})}
    alike = tuple(facet for facet in HELD_FIXED if facet not in told_apart)
    kinds = kinds_by(columns, alike)
    settled = ~columns.doubtful & (columns.finished <= settled_by.timestamp())
    everything = np.ones(len(columns.orders), dtype=bool)
    measures: tuple[tuple[Measure, np.ndarray, np.ndarray], ...] = (
        ("fixed first time", columns.fixed, settled),
        ("more than one visit", columns.repeat, everything),
        ("with a finding", columns.found, everything),
        ("asked for help", columns.helped, everything),
    )
    minutes = minutes_compared(columns, one, other, kinds)
    minutes_verdict = _verdict(
        None if minutes is None else (minutes.low, minutes.high, minutes.n_first, minutes.n_second)
    )
    return JobsCompared(
        n_first=int(one.sum()),
        n_second=int(other.sum()),
        n_both=n_both,
        alike=alike,
        shares=tuple(
            _share(measure, hits, one & counted, other & counted, kinds)
            for measure, hits, counted in measures
        ),
        minutes=minutes,
        minutes_verdict=minutes_verdict,
        minutes_sentence=_first_against_second(
            minutes_verdict, None if minutes is None else (minutes.value, minutes.low, minutes.high), "min"
        ),
    )


def minutes_compared(
    columns: JobColumns, first: np.ndarray, second: np.ndarray, kinds: np.ndarray
) -> StandardisedDifference | None:
    """Minutes on site, second minus first, among jobs of one kind and at one pace; nothing where none are alike.

    ``first`` and ``second`` say which jobs are of either lot, ``kinds`` gives a number for what each is alike in.
    """
    timed = ~np.isnan(columns.minutes)
    first, second = first & timed, second & timed
    either = first | second
    if not first.any() or not second.any():
        return None
    minutes = np.full(len(kinds), np.nan)
    minutes[either] = minutes_at_one_pace(
        columns.minutes[either],
        (2 * kinds + second)[either],
        columns.people[either],
        anchor=second[either],
    )
    return standardised_difference(
        (
            (minutes[(kinds == kind) & first].tolist(), minutes[(kinds == kind) & second].tolist())
            for kind in np.unique(kinds[either])
        ),
        widened=widening(kinds[either], columns.people[either], second[either]),
    )


def kinds_by(columns: JobColumns, alike: Sequence[Facet]) -> np.ndarray:
    """A number for each job, the same for jobs that are alike in these facets."""
    if not alike or not columns.orders:
        return np.zeros(len(columns.orders), dtype=int)
    rows = columns.codes[[FACETS.index(facet) for facet in alike]]
    return np.asarray(np.unique(rows, axis=1, return_inverse=True)[1]).reshape(-1)


def _share(
    measure: Measure, hits: np.ndarray, first: np.ndarray, second: np.ndarray, kinds: np.ndarray
) -> ComparedShare:
    strata = [
        Stratum(
            first_hits=int((first & hits & (kinds == kind)).sum()),
            first_total=int((first & (kinds == kind)).sum()),
            second_hits=int((second & hits & (kinds == kind)).sum()),
            second_total=int((second & (kinds == kind)).sum()),
        )
        for kind in np.unique(kinds[first | second])
    ]
    found = adjusted_difference(strata)
    verdict = _verdict(
        None if found is None else (found.low, found.high, found.first_total, found.second_total)
    )
    percent = None if found is None else (100 * found.difference, 100 * found.low, 100 * found.high)
    return ComparedShare(
        measure=measure,
        first=wilson_interval(int((first & hits).sum()), int(first.sum())),
        second=wilson_interval(int((second & hits).sum()), int(second.sum())),
        difference=found,
        verdict=verdict,
        sentence=_first_against_second(verdict, percent, "points"),
    )


def _verdict(found: tuple[float, float, int, int] | None) -> ComparedVerdict:
    if found is None or min(found[2:]) < MIN_JOBS_A_SIDE:
        return "too few to say"
    low, high = found[:2]
    return "higher" if low > 0 else "lower" if high < 0 else "no clear difference"


def _first_against_second(
    verdict: ComparedVerdict, second_less_first: tuple[float, float, float] | None, unit: str
) -> str:
    """By how much the first lot differs, in words; of second minus first: the value, its low and its high end."""
    if verdict == "too few to say" or second_less_first is None:
        return "too few to say"
    value, low, high = second_less_first
    if verdict == "no clear difference":
        return f"no clear difference ({signed_range(-high, -low)} {unit})"
    return less_or_more(-value, -high, -low, unit)


def _chosen_in(choices: Mapping[Facet, Sequence[str]]) -> set[Facet]:
    return {facet for facet, values in choices.items() if values}
