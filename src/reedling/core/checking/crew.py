"""Whether anybody can carry a document out with all that it always takes, and for how much longer."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from datetime import date, timedelta

from reedling.core.checking.defects import Defect, defect
from reedling.core.guidance.catalogue import Catalogue, Holding
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.skills import SkillNeed
from reedling.core.rollup.roster_crew import highest_needs, roster_crew

WARN_DAYS = 90
"""How far ahead the checks warn that the last certificate for a skill expires."""


def always_needed(plan: Plan) -> tuple[SkillNeed, ...]:
    """The skills of the steps that every job has, each at its highest level."""
    sure: set[str] = set()
    needs: list[SkillNeed] = []
    for step in plan.steps:
        if step.condition is None and (step.under is None or step.under in sure):
            sure.add(step.id)
            needs += step.skills
    return highest_needs(needs)


def crew_defects(
    needs: Iterable[SkillNeed], catalogue: Catalogue, today: date, *, path: str = "/steps"
) -> Iterator[Defect]:
    """Warnings about a set of needs taken together: nobody, one person, or nobody before long.

    What is wrong with one need by itself is told at its step; here it is told only what comes of having
    to meet all of them. A roster that holds nothing says nothing.
    """
    wanted = highest_needs(needs)
    roster = catalogue.roster
    if not roster or not wanted:
        return
    crew = roster_crew(roster, wanted, today, today + timedelta(days=WARN_DAYS))
    able = [t for d in crew.districts for t in d.today]
    names = {s.code: s.name.lower() for s in catalogue.skills}
    words = " and ".join(f"{names.get(n.skill, n.skill)} at {n.level}" for n in wanted)
    fewest = min(_n_holders(roster, need, today) for need in wanted)
    if not able and fewest > 0:
        yield _warn("crew.nobody", path, f"Nobody on the roster holds all that it always takes: {words}.")
    elif len(able) == 1 and fewest > 1:
        yield _warn("crew.one", path, f"Only {able[0]} holds all that it always takes: {words}.")
    if able and not any(d.later for d in crew.districts):
        last = crew.expiries[-1]
        yield _warn(
            "crew.runs_out",
            path,
            f"After {last.last_day:%-d %b %Y} nobody can carry it out: then the last certificate runs out, "
            f"{names.get(last.skill, last.skill)} of {last.technician}.",
        )


def _n_holders(roster: Sequence[Holding], need: SkillNeed, today: date) -> int:
    return len({h.technician for h in roster if h.holds(need.skill, need.level, today)})


def _warn(code: str, path: str, message: str) -> Defect:
    return defect(code, path, message, severity="warning")
