"""Minutes, skills, parts and tools of a plan, from what its author wrote and how often the field branches."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from reedling.core.guidance.plans import Minutes, Plan, Step, sections_of
from reedling.core.guidance.questions import Computed
from reedling.core.guidance.skills import Level, level_rank
from reedling.core.rollup.answer_chances import Chances, Target, answer_chances
from reedling.core.rollup.branches import UNKNOWN_CHANCE, BranchEvidence, chance_of
from reedling.core.rollup.minutes import MinutesSpread, minutes_spread
from reedling.core.rollup.outlook import Outlook, Unfolding, all_falls, n_ways, outlook
from reedling.core.runsheet.lines import RunsheetLine

NO_EVIDENCE: Mapping[str, BranchEvidence] = {}


@dataclass(frozen=True, slots=True, kw_only=True)
class SkillTotal:
    """A skill at a level; ``always`` when every job needs it, else ``share`` of them, 0 to 1.

    A skill stands twice where some jobs need it at a higher level than all do.
    """

    skill: str
    level: Level
    always: bool
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PartTotal:
    """A part over the whole plan: the most it can take, what to expect, and how likely any of it is."""

    part: str
    most: float
    expected: float
    chance: float
    always: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ToolTotal:
    """A tool over the whole plan: the most that one step wants of it, and the chance that any step does.

    It comes back from each step, so what several steps want is not added up.
    """

    tool: str
    most: int
    chance: float
    always: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanTotals:
    """What a plan adds up to, in minutes.

    ``minutes`` counts each branch by its chance. ``minutes_sure`` are the likely minutes of the steps
    that are always wanted, ``minutes_all`` of every branch too. ``n_branches`` of ``n_steps`` are
    conditional; for ``n_from_field`` of these the field says how often, for ``n_guessed`` nobody does
    and they count as one half.
    """

    n_steps: int
    n_branches: int
    n_guessed: int
    n_from_field: int
    minutes_sure: float
    minutes_all: float
    minutes: MinutesSpread
    skills: tuple[SkillTotal, ...]
    parts: tuple[PartTotal, ...]
    tools: tuple[ToolTotal, ...]


MOST_EXACT_WAYS = 4096
"""Up to so many combinations of answers are counted, beyond that so many as ``N_DRAWN_WAYS`` are drawn."""
N_DRAWN_WAYS = 20_000
SEED = 1959


NO_MINUTES = Minutes(likely=0)


@dataclass(frozen=True, slots=True)
class _Weighed:
    """A line with the runs in which it is wanted, and those in which it takes each of its parts.

    ``step`` is the step that it is of, with its minutes, skills and tools. ``sure`` says that neither it nor a
    line it hangs on has a condition.
    """

    line: RunsheetLine
    step: Step
    wanted: NDArray[np.bool_]
    parts: tuple[NDArray[np.bool_], ...]
    sure: bool


def total_plans(plans: Sequence[Plan], evidence: Mapping[str, BranchEvidence] = NO_EVIDENCE) -> PlanTotals:
    """Add up one plan or several carried out together.

    ``evidence`` is by step and belongs to the first plan. A step is sure when neither it nor a step
    it hangs on has a condition. A section that repeats over names counts once for each, one that
    repeats over what an asset has or what is found on site counts once. Branches, parts and repeats that
    hang on the same answers are told apart as :mod:`reedling.core.rollup.answer_chances` says.
    """
    return _totals(tuple(_without_words(p) for p in plans), tuple(sorted(evidence.items())))


def forget_totals() -> None:
    """Forget what was added up before; the same plan is asked for again and again otherwise."""
    _totals.cache_clear()
    _unfolded.cache_clear()


def _without_words(plan: Plan) -> Plan:
    """The plan without what nothing is added up from, so that rewording it adds nothing up anew.

    Labels stay where there are formulas, which know questions by them.
    """
    named = any(isinstance(q, Computed) for s in plan.steps for q in s.questions)
    return Plan(
        title="",
        steps=tuple(
            replace(
                s,
                text="",
                detail="",
                safety="",
                links=(),
                pictures=(),
                questions=s.questions
                if named
                else tuple(replace(q, label="", detail="", raises=()) for q in s.questions),
            )
            for s in plan.steps
        ),
    )


def _without_amounts(plan: Plan) -> Plan:
    """The plan without minutes, skills and tools, on which no branch hangs."""
    return replace(plan, steps=tuple(replace(s, minutes=NO_MINUTES, skills=(), tools=()) for s in plan.steps))


@lru_cache(maxsize=128)
def _totals(plans: tuple[Plan, ...], evidence: tuple[tuple[str, BranchEvidence], ...]) -> PlanTotals:
    per_plan = [dict(evidence) if i == 0 else NO_EVIDENCE for i in range(len(plans))]
    found, runs, p, method = _unfolded(tuple(_without_amounts(plan) for plan in plans), evidence)
    weighed = _weigh(found, runs, plans)
    sources = [
        chance_of(step, per_plan[i], times=_times_in(plan, step)).source
        for i, plan in enumerate(plans)
        for step in plan.steps
        if step.condition is not None
    ]
    return PlanTotals(
        n_steps=sum(len(plan.steps) for plan in plans),
        n_branches=len({(w.line.id.partition(":")[0], w.line.step) for w in weighed if not w.sure}),
        n_guessed=sources.count("nobody"),
        n_from_field=sources.count("field"),
        minutes_sure=sum(w.step.minutes.likely for w in weighed if w.sure),
        minutes_all=sum(w.step.minutes.likely for w in weighed),
        minutes=minutes_spread(
            p,
            [(w.step.minutes, w.wanted) for w in weighed],
            n_ways=_n_ways(weighed, p) if method == "exact" else len(p),
            method=method,
        ),
        skills=_skills(weighed, p),
        parts=_parts(found, weighed, p),
        tools=_tools(weighed, p),
    )


@lru_cache(maxsize=16)
def _unfolded(
    plans: tuple[Plan, ...], evidence: tuple[tuple[str, BranchEvidence], ...]
) -> tuple[Outlook, Unfolding, NDArray[np.float64], Literal["exact", "drawn"]]:
    """The runs of plans with their chances; kept, since minutes and skills change far more often."""
    found = outlook(plans)
    per_plan = [dict(evidence) if i == 0 else NO_EVIDENCE for i in range(len(plans))]
    return (found, *_runs(found, answer_chances(found, targets_of(plans, found, per_plan))))


def targets_of(
    plans: Sequence[Plan], found: Outlook, evidence: Sequence[Mapping[str, BranchEvidence]]
) -> tuple[Target, ...]:
    """What is given of each branch, once for a step however often it repeats, and of each part."""
    steps = {
        (str(i), step.id): (step, _times_in(plan, step))
        for i, plan in enumerate(plans)
        for step in plan.steps
    }
    out: list[Target] = []
    seen: set[tuple[str, str]] = set()
    for line in found.lines:
        key = (line.id.partition(":")[0], line.step)
        if key in seen or key not in steps:
            continue
        seen.add(key)
        step, times = steps[key]
        if line.condition is not None:
            chance = chance_of(step, evidence[int(key[0])], times=times)
            out.append(Target(line.id, None, chance.p, chance.source != "nobody"))
        out += [
            Target(line.id, need.condition, UNKNOWN_CHANCE, said=False)
            for need in line.parts
            if need.condition is not None
        ]
    return tuple(out)


def _times_in(plan: Plan, step: Step) -> int:
    """How often a step is done where it is wanted each time: once for each name of its section."""
    head = sections_of(plan).get(step.id)
    repeat = head.repeat if head else None
    return max(1, len(repeat.names)) if repeat is not None and repeat.over == "named" else 1


def _runs(
    found: Outlook, chances: Mapping[str, Chances]
) -> tuple[Unfolding, NDArray[np.float64], Literal["exact", "drawn"]]:
    """Every run there can be with its chance, or a seeded draw of them."""
    looked = Unfolding(found, {}, 1)
    for line in found.lines:
        looked.wanted(line.id)
        for need in line.parts:
            looked.truth(need.condition)
    variables = tuple(looked.met)
    sizes = [n_ways(found, v.shared) for v in variables]
    given = [chances.get(v.shared, np.full(n, 1 / n)) for v, n in zip(variables, sizes, strict=True)]
    count = int(np.prod(sizes, dtype=float))
    if count > MOST_EXACT_WAYS:
        rng = np.random.default_rng(SEED)
        drawn = {v: rng.choice(len(c), size=N_DRAWN_WAYS, p=c) for v, c in zip(variables, given, strict=True)}
        return Unfolding(found, drawn, N_DRAWN_WAYS), np.full(N_DRAWN_WAYS, 1 / N_DRAWN_WAYS), "drawn"
    falls = all_falls(found, variables)
    p = np.ones(count)
    for variable, chance in zip(variables, given, strict=True):
        p = p * chance[falls[variable]]
    likely = p > 1e-12
    return (
        Unfolding(found, {v: f[likely] for v, f in falls.items()}, int(likely.sum())),
        p[likely] / p[likely].sum(),
        "exact",
    )


def _weigh(found: Outlook, runs: Unfolding, plans: Sequence[Plan]) -> list[_Weighed]:
    steps = {(str(i), step.id): step for i, plan in enumerate(plans) for step in plan.steps}
    sure: dict[str, bool] = {}
    out = []
    for line in found.lines:
        sure[line.id] = line.condition is None and sure.get(line.under or "", True)
        wanted = runs.wanted(line.id)
        parts = tuple(wanted & runs.truth(need.condition)[0] for need in line.parts)
        step = steps[line.id.partition(":")[0], line.step]
        out.append(_Weighed(line=line, step=step, wanted=wanted, parts=parts, sure=sure[line.id]))
    return out


def _n_ways(weighed: list[_Weighed], p: NDArray[np.float64]) -> int:
    """How many ways through there are: runs that want the same lines and parts are one."""
    if not weighed:
        return 1
    rows = np.vstack([row for w in weighed for row in (w.wanted, *w.parts)])
    return int(np.unique(rows, axis=1).shape[1]) if len(p) else 1


def _skills(weighed: list[_Weighed], p: NDArray[np.float64]) -> tuple[SkillTotal, ...]:
    needs: dict[tuple[str, Level], NDArray[np.bool_]] = {}
    for w in weighed:
        for need in w.step.skills:
            key = (need.skill, need.level)
            needs[key] = needs.get(key, np.zeros(len(p), dtype=bool)) | w.wanted
    out = []
    for skill in dict.fromkeys(skill for skill, _ in needs):
        levels = sorted(
            ((level, on) for (s, level), on in needs.items() if s == skill),
            key=lambda pair: level_rank(pair[0]),
            reverse=True,
        )
        for level, on in levels:
            share = float(on @ p)
            out.append(SkillTotal(skill=skill, level=level, always=bool(on.all()), share=min(1.0, share)))
            if on.all():
                break
    return tuple(sorted(out, key=lambda t: (not t.always, t.skill)))


def _parts(found: Outlook, weighed: list[_Weighed], p: NDArray[np.float64]) -> tuple[PartTotal, ...]:
    quantities: dict[str, NDArray[np.float64]] = {}
    for w in weighed:
        for need, on in zip(w.line.parts, w.parts, strict=True):
            held = quantities.get(need.part, np.zeros(len(p)))
            quantities[need.part] = held + on * need.quantity
    out = [
        PartTotal(
            part=part,
            most=_most(found, part),
            expected=float(taken @ p),
            chance=min(1.0, float((taken > 0) @ p)),
            always=bool((taken > 0).all()),
        )
        for part, taken in quantities.items()
    ]
    return tuple(sorted(out, key=lambda t: (not t.always, t.part)))


def _tools(weighed: list[_Weighed], p: NDArray[np.float64]) -> tuple[ToolTotal, ...]:
    wanted: dict[str, NDArray[np.bool_]] = {}
    most: dict[str, int] = {}
    for w in weighed:
        for need in w.step.tools:
            wanted[need.tool] = wanted.get(need.tool, np.zeros(len(p), dtype=bool)) | w.wanted
            most[need.tool] = max(most.get(need.tool, 0), need.quantity)
    out = [
        ToolTotal(tool=tool, most=most[tool], chance=min(1.0, float(on @ p)), always=bool(on.all()))
        for tool, on in wanted.items()
    ]
    return tuple(sorted(out, key=lambda t: (not t.always, t.tool)))


def _most(found: Outlook, part: str) -> float:
    """The most of a part that any run takes; branches that exclude each other are not added up.

    Where it hangs on too many answers to try them all, every branch is.
    """
    takes = [(line, need) for line in found.lines for need in line.parts if need.part == part]

    def taken(runs: Unfolding) -> NDArray[np.float64]:
        out = np.zeros(runs.n)
        for line, need in takes:
            out = out + (runs.wanted(line.id) & runs.truth(need.condition)[0]) * need.quantity
        return out

    looked = Unfolding(found, {}, 1)
    taken(looked)
    variables = tuple(looked.met)
    count = int(np.prod([n_ways(found, v.shared) for v in variables], dtype=float))
    if count > MOST_EXACT_WAYS * 16:
        return sum(need.quantity for _, need in takes)
    return float(taken(Unfolding(found, all_falls(found, variables), count)).max(initial=0.0))
