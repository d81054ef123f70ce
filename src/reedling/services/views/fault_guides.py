"""What the closed jobs of an incident type say of its causes, and the order of work that follows from it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from reedling.core.faultguide.guides import FaultGuide, bits, posterior
from reedling.core.faultguide.learning import (
    Learned,
    LearnedGuide,
    Saving,
    guide_from_jobs,
    question_of,
    saved_by,
)
from reedling.core.faultguide.strategies import (
    Doing,
    DoingKind,
    StrategyMethod,
    best_strategy,
)
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.questions import OneOf, Question
from reedling.core.guidance.reuse import fill_in
from reedling.services.context import Context
from reedling.services.shared.current import current_revision
from reedling.services.shared.uses import library_in_force
from reedling.store.unit import Unit

LAST_RESORT_MINUTES = 240.0
"""What sending for a specialist is taken to cost, where nothing else helped."""
NOT_CAUSES = ("unknown", "nothing-found")


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

    ``path`` is the way to it through the outcomes.
    """

    path: str
    depth: int
    when: str
    act: DoingKind
    label: str
    chance: float
    minutes: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultGuideView:
    """A fault guide drafted from closed jobs.

    ``best`` minutes to working by the best order of work; ``saving`` is what that saves against the guidance
    as it is. ``at_least`` no order can beat. Nothing where the jobs do not
    tell two causes apart.
    """

    document: str
    title: str
    n_jobs: int
    n_uncoded: int
    rare: Mapping[str, int]
    causes: tuple[CauseRow, ...]
    checks: tuple[CheckRow, ...]
    order: tuple[WorkLine, ...]
    method: StrategyMethod
    best: float
    saving: Saving
    at_least: float
    next_line: WorkLine | None
    is_impossible: bool


def fault_guide(context: Context, document: str, said: Mapping[str, bool]) -> FaultGuideView | None:
    """The guide that closed jobs make, and what it says after some checks were answered."""
    with context.reading() as unit:
        revision = unit.documents.released(document) or current_revision(unit, document, ("incident type",))
        incident = revision.content
        assert isinstance(incident, IncidentType)
        found = unit.kept_of_jobs(
            ("fault guide", document, revision.letter, revision.version),
            lambda at: _learn(at, incident, document),
        )
        causes = {c.code: c.label for c in unit.catalogues.get().causes}
    if found is None or not found.guide.checks:
        return None
    guide = found.guide
    answers = {found.looks.index(look): value for look, value in said.items() if look in found.looks}
    now = posterior(guide, answers)
    at = guide.prior if now is None else now
    strategy = best_strategy(guide)
    saving = saved_by(found, strategy)
    telling = bits(guide, at)
    left = replace(
        guide,
        chances=tuple(float(c) for c in at),
        checks=tuple(check for i, check in enumerate(guide.checks) if i not in answers),
    )
    return FaultGuideView(
        document=document,
        title=incident.title,
        n_jobs=found.n_jobs,
        n_uncoded=found.n_uncoded,
        rare={causes.get(c, c): n for c, n in found.rare.items()},
        causes=tuple(
            CauseRow(
                cause=cause,
                label=causes.get(cause, cause),
                learned=found.chances[i],
                now=float(at[i]),
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
                bits=float(telling[i]),
                cells=found.cells[i],
                said=answers.get(i),
            )
            for i, look in enumerate(found.looks)
        ),
        order=tuple(_lines(guide, strategy.first)),
        method=strategy.method,
        best=strategy.first.minutes,
        saving=saving,
        at_least=strategy.at_least,
        next_line=None if now is None else next(_lines(left, best_strategy(left).first)),
        is_impossible=now is None,
    )


def _lines(
    guide: FaultGuide, doing: Doing, depth: int = 0, when: str = "", path: str = ""
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
    )
    if depth >= 8:
        return
    if doing.act == "check":
        for outcome, words in ((doing.yes, "if so"), (doing.no, "if not")):
            if outcome is not None:
                yield from _lines(guide, outcome, depth + 1, words, f"{path}/{words}")
    elif doing.no is not None and doing.chance < 0.995:
        yield from _lines(guide, doing.no, depth, "if that did not help", f"{path}/then")


def _learn(unit: Unit, incident: IncidentType, document: str) -> LearnedGuide | None:
    lists = unit.catalogues.get()
    words = {c.code: c.label for c in lists.causes} | {r.code: r.label for r in lists.remedies}
    asked: dict[str, tuple[Question, float]] = {}
    mends: set[tuple[str, str]] = set()
    checks: set[tuple[str, str]] = set()
    prove = 0.0
    library = library_in_force(unit)
    for code in incident.plans:
        revision = unit.documents.released(code)
        if revision is None or not isinstance(revision.content, Plan):
            continue
        plan = fill_in(revision.content, library).plan
        for step in plan.steps:
            if step.phase == "Put right":
                mends.add((code, step.id))
            if step.phase == "Prove" and step.condition is None:
                prove += step.minutes.likely
            if step.phase == "Diagnose":
                checks.add((code, step.id))
                for proof in step.proofs:
                    asked[f"{code}:{proof.id}"] = (proof, step.minutes.likely)
    jobs = unit.job_evidence.closed_jobs(document, mends=mends, checks=checks)

    def of(look: str) -> tuple[Question, float] | None:
        return asked.get(question_of(look))

    # Only what is looked at to find the cause tells anything beforehand; the rest follows from what was done.
    known = [
        replace(job, seen={look: value for look, value in job.seen.items() if of(look) is not None})
        for job in jobs
    ]

    def label(key: str) -> str:
        held = of(key)
        if held is None:
            return words.get(key, key)
        question, option = held[0], key.partition("=")[2]
        if key.endswith("!"):
            return f"{question.label} outside its limits"
        if isinstance(question, OneOf):
            option = next((o.label for o in question.options if o.id == option), option)
        return f"{question.label}: {option[:1].lower()}{option[1:]}"

    return guide_from_jobs(
        known,
        unknown=NOT_CAUSES,
        minutes_of=lambda key: held[1] if (held := of(key)) else 0.0,
        label_of=label,
        prove_minutes=prove or 10.0,
        last_resort_minutes=LAST_RESORT_MINUTES,
    )
