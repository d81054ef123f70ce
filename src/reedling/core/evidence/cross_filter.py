"""Filters that cross: of many finished jobs, how many are of each kind among those that meet all other choices.

How this works. What tells jobs apart is kept in columns of small numbers, one for each facet. A choice in one facet
keeps the jobs of the values chosen; the bars of a facet are counted over the jobs that meet the choices in all the
others, so that its own values stay to be compared and chosen from. Counting is one pass over a column.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import astuple, dataclass
from datetime import datetime
from typing import Any, Literal, get_args

import numpy as np

from reedling.core.orders.photo_looks import PhotoDoubt
from reedling.core.statistics.intervals import Share, wilson_interval
from reedling.core.statistics.strata import Stratum
from reedling.core.statistics.summaries import Spread, spread_of_ordered

Facet = Literal["model", "district", "symptom", "revision", "cause", "remedy", "return reason", "month"]
"""What jobs are told apart by."""
FACETS: tuple[Facet, ...] = get_args(Facet)


@dataclass(frozen=True, slots=True, kw_only=True)
class PhotoCounts:
    """Photos that were looked at, and how many of them are blurred, dark, the same again, or any of these."""

    n: int = 0
    blurred: int = 0
    dark: int = 0
    same_again: int = 0
    doubtful: int = 0


NO_PHOTOS = PhotoCounts()


def count_photos(photos: Iterable[Collection[PhotoDoubt]]) -> PhotoCounts:
    """How many photos are to be doubted, by the doubts of each."""
    held = list(photos)
    return PhotoCounts(
        n=len(held),
        blurred=sum("blurred" in doubts for doubts in held),
        dark=sum("dark" in doubts for doubts in held),
        same_again=sum("the same again" in doubts for doubts in held),
        doubtful=sum(bool(doubts) for doubts in held),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class JobFacts:
    """One finished job as filters see it: its value of each facet, in the order of :data:`FACETS`, and its figures.

    ``minutes`` on site are nothing where its times cannot be, ``doubtful`` says so of its finish. ``technician`` carried
    it out; nothing is filtered by it or told of it. ``photos`` are those that were looked at. ``travel_minutes`` and ``km``
    are those of :class:`reedling.core.evidence.jobs.JobLine`.
    """

    order: str
    finished_at: datetime
    values: tuple[str, ...]
    fixed: bool
    doubtful: bool
    minutes: float | None
    n_visits: int
    n_findings: int
    n_helped: int
    technician: str = ""
    photos: PhotoCounts = NO_PHOTOS
    travel_minutes: float | None = None
    km: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class JobColumns:
    """Finished jobs in columns, the latest finish first; ``values`` gives for each facet what its numbers stand for.

    ``photos`` are the counts of :class:`PhotoCounts`, one row for each, shape (5, n).
    """

    orders: tuple[str, ...]
    values: tuple[tuple[str, ...], ...]
    codes: np.ndarray
    finished: np.ndarray
    fixed: np.ndarray
    doubtful: np.ndarray
    minutes: np.ndarray
    travel: np.ndarray
    km: np.ndarray
    repeat: np.ndarray
    found: np.ndarray
    helped: np.ndarray
    people: np.ndarray
    photos: np.ndarray


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """The jobs of one value of a facet: how many, how many of them settled and fixed first time, their middle minutes."""

    value: str
    n: int
    fixed: Share
    minutes: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class FacetBars:
    """The bars of one facet; the most jobs first, months in time."""

    facet: Facet
    bars: tuple[Bar, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class CrossFiltered:
    """What meets the choices: ``n`` jobs out of ``n_of``, their figures, the bars of every facet, and the jobs.

    ``repeat_visits``, ``with_findings`` and ``helped`` are shares of the jobs, ``doubtful_photos`` of their photos.
    """

    n: int
    n_of: int
    fixed: Share
    n_too_young: int
    minutes: Spread | None
    travel_minutes: Spread | None
    way_km: Spread | None
    repeat_visits: Share
    with_findings: Share
    helped: Share
    photos: PhotoCounts
    doubtful_photos: Share
    facets: tuple[FacetBars, ...]
    orders: tuple[str, ...]


def facet_values(
    *,
    model: str,
    district: str,
    symptom: str,
    issued: Sequence[str],
    cause: str,
    remedy: str,
    return_reasons: Sequence[str],
    finished_at: datetime,
) -> tuple[str, ...]:
    """A job's value of each facet, in the order of :data:`FACETS`.

    ``issued`` are the documents that tell jobs apart, each with its revision; of several returns the first counts.
    """
    values: dict[Facet, str] = {
        "model": model,
        "district": district,
        "symptom": symptom,
        "revision": ", ".join(sorted(issued)),
        "cause": cause,
        "remedy": remedy,
        "return reason": return_reasons[0] if return_reasons else "",
        "month": finished_at.strftime("%Y-%m"),
    }
    return tuple(values[facet] for facet in FACETS)


def columns_of(jobs: Iterable[JobFacts]) -> JobColumns:
    """Put jobs into columns."""
    held = sorted(jobs, key=lambda job: (job.finished_at, job.order), reverse=True)
    values = tuple(tuple(sorted({job.values[i] for job in held})) for i in range(len(FACETS)))
    places = [{value: n for n, value in enumerate(of)} for of in values]
    return JobColumns(
        orders=tuple(job.order for job in held),
        values=values,
        codes=np.array(
            [[places[i][job.values[i]] for job in held] for i in range(len(FACETS))], dtype=np.int32
        ).reshape(len(FACETS), len(held)),
        finished=np.array([job.finished_at.timestamp() for job in held], dtype=float),
        fixed=np.array([job.fixed for job in held], dtype=bool),
        doubtful=np.array([job.doubtful for job in held], dtype=bool),
        minutes=_numbers(job.minutes for job in held),
        travel=_numbers(job.travel_minutes for job in held),
        km=_numbers(job.km for job in held),
        repeat=np.array([job.n_visits > 1 for job in held], dtype=bool),
        found=np.array([job.n_findings > 0 for job in held], dtype=bool),
        helped=np.array([job.n_helped > 0 for job in held], dtype=bool),
        people=np.unique([job.technician for job in held], return_inverse=True)[1],
        photos=np.array([astuple(job.photos) for job in held], dtype=int).reshape(len(held), 5).T,
    )


def cross_filter(
    columns: JobColumns, chosen: Mapping[Facet, Sequence[str]], *, settled_by: datetime, limit: int = 50
) -> CrossFiltered:
    """The jobs that have, in each facet chosen in, one of the values chosen; the first ``limit`` are named.

    A value that no job has keeps none. Jobs finished after ``settled_by`` are too young to count as fixed or not.
    """
    n_of = len(columns.orders)
    keeps = {FACETS.index(f): with_values(columns, f, wanted) for f, wanted in chosen.items() if wanted}
    all_of = np.ones(n_of, dtype=bool)
    for keep in keeps.values():
        all_of &= keep
    settled = ~columns.doubtful & (columns.finished <= settled_by.timestamp())
    facets = []
    for i, facet in enumerate(FACETS):
        others = np.ones(n_of, dtype=bool)
        for j, keep in keeps.items():
            if j != i:
                others &= keep
        facets.append(FacetBars(facet=facet, bars=_bars(columns, i, others, settled)))
    n = int(all_of.sum())
    n_photos, blurred, dark, same_again, doubtful = columns.photos[:, all_of].sum(axis=1).tolist()
    n_settled = int((all_of & settled).sum())
    n_doubtful = int((all_of & columns.doubtful).sum())
    return CrossFiltered(
        n=n,
        n_of=n_of,
        fixed=wilson_interval(int((all_of & settled & columns.fixed).sum()), n_settled),
        n_too_young=n - n_settled - n_doubtful,
        minutes=_spread(columns.minutes[all_of]),
        travel_minutes=_spread(columns.travel[all_of]),
        way_km=_spread(columns.km[all_of]),
        repeat_visits=wilson_interval(int((all_of & columns.repeat).sum()), n),
        with_findings=wilson_interval(int((all_of & columns.found).sum()), n),
        helped=wilson_interval(int((all_of & columns.helped).sum()), n),
        photos=PhotoCounts(n=n_photos, blurred=blurred, dark=dark, same_again=same_again, doubtful=doubtful),
        doubtful_photos=wilson_interval(doubtful, n_photos),
        facets=tuple(facets),
        orders=tuple(columns.orders[i] for i in np.flatnonzero(all_of)[:limit]),
    )


def strata_of(
    columns: JobColumns,
    facet: Facet,
    first: str,
    second: str,
    *,
    alike: Sequence[Facet],
    settled_by: datetime,
) -> tuple[Stratum, ...]:
    """The settled jobs of two values of a facet, counted among those that are alike in other facets."""
    if first not in columns.values[FACETS.index(facet)] or second not in columns.values[FACETS.index(facet)]:
        return ()
    settled = ~columns.doubtful & (columns.finished <= settled_by.timestamp())
    sides = [settled & with_values(columns, facet, (side,)) for side in (first, second)]
    rows = columns.codes[[FACETS.index(f) for f in alike]]
    out = []
    for kind in np.unique(rows, axis=1).T:
        among = (rows == kind[:, None]).all(axis=0)
        totals = [int((among & side).sum()) for side in sides]
        hits = [int((among & side & columns.fixed).sum()) for side in sides]
        out.append(
            Stratum(first_hits=hits[0], first_total=totals[0], second_hits=hits[1], second_total=totals[1])
        )
    return tuple(out)


def meeting(columns: JobColumns, chosen: Mapping[Facet, Sequence[str]]) -> np.ndarray:
    """Which jobs have, in each facet chosen in, one of the values chosen."""
    keep = np.ones(len(columns.orders), dtype=bool)
    for facet, wanted in chosen.items():
        if wanted:
            keep &= with_values(columns, facet, wanted)
    return keep


def with_values(columns: JobColumns, facet: Facet, wanted: Sequence[str]) -> np.ndarray:
    """Which jobs have one of these values of a facet."""
    i = FACETS.index(facet)
    places = [n for n, value in enumerate(columns.values[i]) if value in wanted]
    return np.isin(columns.codes[i], places)


def _bars(columns: JobColumns, i: int, among: np.ndarray, settled: np.ndarray) -> tuple[Bar, ...]:
    n_values = len(columns.values[i])
    codes = columns.codes[i]

    def counted(mask: np.ndarray) -> Any:
        return np.bincount(codes[mask], minlength=n_values)

    n, n_settled, n_fixed = counted(among), counted(among & settled), counted(among & settled & columns.fixed)
    timed = among & ~np.isnan(columns.minutes)
    order = np.lexsort((columns.minutes[timed], codes[timed]))
    minutes, ends = columns.minutes[timed][order], np.cumsum(counted(timed))
    bars = []
    for place, value in enumerate(columns.values[i]):
        if n[place] == 0:
            continue
        begin, end = (int(ends[place - 1]) if place else 0), int(ends[place])
        middle = float(np.median(minutes[begin:end])) if end > begin else None
        bars.append(
            Bar(
                value=value,
                n=int(n[place]),
                fixed=wilson_interval(int(n_fixed[place]), int(n_settled[place])),
                minutes=middle,
            )
        )
    return tuple(bars if FACETS[i] == "month" else sorted(bars, key=lambda bar: (-bar.n, bar.value)))


def _numbers(values: Iterable[float | None]) -> np.ndarray:
    return np.array([np.nan if value is None else value for value in values], dtype=float)


def _spread(values: np.ndarray) -> Spread | None:
    held = np.sort(values[~np.isnan(values)])
    return spread_of_ordered(len(held), lambda i: float(held[i]))
