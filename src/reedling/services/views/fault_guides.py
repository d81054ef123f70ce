"""What the closed jobs of an incident type say of its causes, and the order of work that follows from it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import partial

from reedling.core.faultguide.guides import DoingKind, FaultGuide, bits, posterior
from reedling.core.faultguide.learning import Learned, LearnedGuide, Saving, guide_from_jobs, saved_by
from reedling.core.faultguide.links import Look
from reedling.core.faultguide.strategies import Doing, StrategyMethod, best_strategy
from reedling.services.context import Context
from reedling.services.shared.current import incident_type_in_use
from reedling.services.shared.guides import (
    NOT_CAUSES,
    closed_jobs_of,
    labels_of,
    links_in_force,
    plans_in_force,
)
from reedling.store.unit import Unit

LAST_RESORT_MINUTES = 240.0
"""What sending for a specialist is taken to cost, where nothing else helped."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CauseRow:
    """A cause: its chance from the jobs with its range, and its chance after what was said to be seen."""

    cause: str
    label: str
    learned: Learned
    now: float
    repair: str
    minutes: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckRow:
    """A check: how much it tells in bits, its minutes, and how often it is so for each cause.

    ``said`` is what was said to be seen, if it was.
    """

    look: str
    label: str
    minutes: float
    bits: float
    cells: tuple[Learned, ...]
    said: bool | None


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkLine:
    """One line of the order of work: how deep it stands, under which outcome, what to do, and the minutes from there.

    ``path`` is the way to it through the outcomes, ``reached`` the share of jobs that come to it.
    """

    path: str
    depth: int
    when: str
    act: DoingKind
    label: str
    chance: float
    minutes: float
    reached: float


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderOfWork:
    """The order of work of a fault guide, from ``n_jobs`` closed jobs.

    ``best`` minutes to working by the best order found; ``saving`` is what that saves against the guidance
    as it is. ``at_least`` no order can beat. ``n_uncoded`` jobs named no cause, ``rare`` causes are not in the guide,
    with their jobs, ``n_several`` jobs had several remedies done. ``next_line`` is what to do next after what was said
    to be seen, nothing where that is ``is_impossible``.
    """

    n_jobs: int
    n_uncoded: int
    n_several: int
    rare: Mapping[str, int]
    lines: tuple[WorkLine, ...]
    method: StrategyMethod
    best: float
    saving: Saving
    at_least: float
    next_line: WorkLine | None
    is_impossible: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultGuideView:
    """A fault guide drafted from closed jobs; ``guide`` is the document that was written for the incident type, if any.

    Nothing where the jobs do not tell two causes apart.
    """

    document: str
    title: str
    causes: tuple[CauseRow, ...]
    checks: tuple[CheckRow, ...]
    work: OrderOfWork


def fault_guide(context: Context, document: str, said: Mapping[str, bool]) -> FaultGuideView | None:
    """The guide that closed jobs make, and what it says after some checks were answered."""
    with context.reading() as unit:
        title = incident_type_in_use(unit, document).title
        key = ("fault guide shown", document, title, frozenset(said.items()))
        shown = partial(_shown, document=document, title=title, said=dict(said))
        return unit.kept_of_jobs(key, shown, apart=True)


def _shown(unit: Unit, *, document: str, title: str, said: Mapping[str, bool]) -> FaultGuideView | None:
    found = drafted_guide(unit, document)
    causes = {c.code: c.label for c in unit.catalogues.get().causes}
    if found is None or not found.guide.checks:
        return None
    guide = found.guide
    answers = {found.looks.index(look): value for look, value in said.items() if look in found.looks}
    work, at = order_of_work(found, answers)
    telling = bits(guide, at)
    return FaultGuideView(
        document=document,
        title=title,
        causes=tuple(
            CauseRow(
                cause=cause,
                label=causes.get(cause, cause),
                learned=found.chances[i],
                now=at[i],
                repair=guide.repairs[i].label,
                minutes=guide.repairs[i].minutes,
            )
            for i, cause in enumerate(guide.causes)
        ),
        checks=tuple(
            CheckRow(
                look=look,
                label=guide.checks[i].label,
                minutes=guide.checks[i].minutes,
                bits=telling[i],
                cells=found.cells[i],
                said=answers.get(i),
            )
            for i, look in enumerate(found.looks)
        ),
        work=replace(work, rare={causes.get(c, c): n for c, n in work.rare.items()}),
    )


def order_of_work(found: LearnedGuide, answers: Mapping[int, bool]) -> tuple[OrderOfWork, tuple[float, ...]]:
    """The order of work of a guide, and the chances of its causes after answers, by the place of the check."""
    guide = found.guide
    now = posterior(guide, answers)
    at = guide.chances if now is None else now
    strategy = best_strategy(guide)
    left = replace(
        guide, chances=at, checks=tuple(check for i, check in enumerate(guide.checks) if i not in answers)
    )
    work = OrderOfWork(
        n_jobs=found.n_jobs,
        n_uncoded=found.n_uncoded,
        n_several=found.n_several,
        rare=found.rare,
        lines=tuple(_lines(guide, strategy.first)),
        method=strategy.method,
        best=strategy.first.minutes,
        saving=saved_by(found, strategy),
        at_least=strategy.at_least,
        next_line=None if now is None else next(_lines(left, best_strategy(left).first)),
        is_impossible=now is None,
    )
    return work, at


def _lines(
    guide: FaultGuide, doing: Doing, depth: int = 0, when: str = "", path: str = "", reached: float = 1.0
) -> Iterator[WorkLine]:
    """An order of work as lines, each outcome under its check; more than eight deep is left to the last resort."""
    if doing.act == "check":
        label = guide.checks[doing.place].label
    else:
        label = guide.repairs[doing.place].label if doing.act == "repair" else "Send for a specialist"
    yield WorkLine(
        path=path,
        depth=depth,
        when=when,
        act=doing.act,
        label=label,
        chance=doing.chance,
        minutes=doing.minutes,
        reached=reached,
    )
    if depth >= 8:
        return
    if doing.act == "check":
        outcomes = ((doing.yes, "if so", doing.chance), (doing.no, "if not", 1 - doing.chance))
        for outcome, words, chance in outcomes:
            if outcome is not None:
                yield from _lines(guide, outcome, depth + 1, words, f"{path}/{words}", reached * chance)
    elif doing.no is not None and doing.chance < 0.995:
        left = reached * (1 - doing.chance)
        yield from _lines(guide, doing.no, depth, "if that did not help", f"{path}/then", left)


def drafted_guide(unit: Unit, document: str) -> LearnedGuide | None:
    """The fault guide that the closed jobs of an incident type make; nothing where they tell no two causes apart."""
    return unit.kept_of_jobs(("fault guide", document), partial(_learn, document=document), apart=True)


def _learn(unit: Unit, *, document: str) -> LearnedGuide | None:
    words = labels_of(unit.catalogues.get())
    links = links_in_force(unit, document)
    prove = sum(
        step.minutes.likely
        for _, plan in plans_in_force(unit, document)
        for step in plan.steps
        if step.phase == "Prove" and step.condition is None
    )

    def of(look: str) -> Look | None:
        return links.looks.get(look)

    return guide_from_jobs(
        closed_jobs_of(unit, document, links),
        unknown=NOT_CAUSES,
        minutes_of=lambda key: held.minutes if (held := of(key)) else 0.0,
        label_of=lambda key: held.label if (held := of(key)) else words.get(key, key),
        prove_minutes=prove or 10.0,
        last_resort_minutes=LAST_RESORT_MINUTES,
    )
