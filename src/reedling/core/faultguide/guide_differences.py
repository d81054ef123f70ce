"""What changed between two versions of a fault guide, in words."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import TypeVar

from reedling.core.guidance.differences import Difference, changed_aspects, longest_in_order
from reedling.core.guidance.written_guides import GuideCause, GuideCheck, GuideRemedy, WrittenGuide
from reedling.core.logic.conditions import number_text

_Row = TypeVar("_Row", GuideCause, GuideCheck, GuideRemedy)


def compare_guides(
    older: WrittenGuide, newer: WrittenGuide, labels: Mapping[str, str]
) -> tuple[Difference, ...]:
    """Every change from the older guide to the newer; ``labels`` are of causes, remedies and looks."""
    return tuple(_changes(older, newer, labels))


def _changes(older: WrittenGuide, newer: WrittenGuide, labels: Mapping[str, str]) -> Iterator[Difference]:
    whole = {
        "title": (older.title, newer.title),
        "summary": (older.summary, newer.summary),
        "incident type": (older.incident_type, newer.incident_type),
        "weight of the author's figures": (_jobs(older.weight), _jobs(newer.weight)),
        "minutes of a proof": (_minutes(older.prove_minutes), _minutes(newer.prove_minutes)),
        "minutes of the last resort": (
            _minutes(older.last_resort_minutes),
            _minutes(newer.last_resort_minutes),
        ),
    }
    yield from changed_aspects("", "the whole", whole)

    def cause(code: str) -> str:
        return labels.get(code, code)

    yield from _rows(
        {c.cause: c for c in older.causes},
        {c.cause: c for c in newer.causes},
        lambda c: cause(c.cause),
        lambda c: {"how often": _share(c.chance)},
    )
    yield from _rows(
        {c.id: c for c in older.checks},
        {c.id: c for c in newer.checks},
        lambda c: c.label or labels.get(c.look, c.look),
        lambda c: {
            "link": c.look,
            "minutes": _minutes(c.minutes),
            **{f"chance with {cause(code)}": _share(p) for code, p in c.yes.items()},
        },
    )
    yield from _rows(
        {r.id: r for r in older.remedies},
        {r.id: r for r in newer.remedies},
        lambda r: labels.get(r.remedy, r.remedy),
        lambda r: {
            "remedy": labels.get(r.remedy, r.remedy),
            "link": r.step,
            "minutes": _minutes(r.minutes),
            "cost": _minutes(r.cost_minutes),
            **{f"helps with {cause(code)}": _share(p) for code, p in r.fixes.items()},
        },
    )


def _rows(
    older: Mapping[str, _Row],
    newer: Mapping[str, _Row],
    title: Callable[[_Row], str],
    aspects: Callable[[_Row], Mapping[str, str]],
) -> Iterator[Difference]:
    for key, row in newer.items():
        before = older.get(key)
        if before is None:
            yield Difference(change="added", place=key, title=title(row))
            continue
        was: Mapping[str, str] = aspects(before)
        is_now: Mapping[str, str] = aspects(row)
        told = dict.fromkeys((*was, *is_now))
        yield from changed_aspects(key, title(row), {a: (was.get(a, ""), is_now.get(a, "")) for a in told})
    for key, row in older.items():
        if key not in newer:
            yield Difference(change="removed", place=key, title=title(row))
    kept, held = [k for k in newer if k in older], [k for k in older if k in newer]
    stayed = set(longest_in_order(held, kept))
    for key in kept:
        if key not in stayed:
            yield Difference(change="moved", place=key, title=title(newer[key]))


def _share(p: float) -> str:
    return f"{number_text(round(p * 100, 1))} %"


def _minutes(value: float | None) -> str:
    return "as its step" if value is None else f"{number_text(value)} min"


def _jobs(value: float) -> str:
    return f"{number_text(value)} jobs"
