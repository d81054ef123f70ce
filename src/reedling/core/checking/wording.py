"""Defects that reading the words and lists shows: how steps are put, what is missing to carry them out."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import date

from reedling.core.checking.defects import Defect, defect
from reedling.core.guidance.catalogue import Catalogue, Holding
from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.questions import Photo, Reading
from reedling.core.logic.units import dimension_text, known_unit, parse_unit

NO_VERB = frozenset(
    ["the", "a", "an", "all", "any", "each", "every", "please", "you", "we", "should", "must", "it", "there"]
)
"""First words that show a step's text does not begin with what to do."""
REPLACING = frozenset(["replace", "fit", "renew", "change", "swap"])
"""Verbs that put something new in, which takes a part."""
MEANT: Mapping[str, str] = {
    "pressure": "bar",
    "temperature": "°C",
    "current": "A",
    "voltage": "V",
    "resistance": "Ω",
    "insulation": "MΩ",
    "flow": "m3/h",
    "power": "kW",
    "torque": "N·m",
    "frequency": "Hz",
    "level": "m",
    "length": "m",
}
"""What a reading of this name is measured in, or in another unit of its dimension."""


def check_wording(
    plan: Plan, catalogue: Catalogue, today: date, *, sections: bool = False
) -> Iterator[Defect]:
    """Wording, units, skills, parts and tools of each step; the ``sections`` of a form have names, not verbs."""
    for index, step in enumerate(plan.steps):
        if not sections:
            yield from _wording(index, step)
        yield from _units(index, step)
        yield from _photos(index, step)
        yield from _skills(index, step, catalogue, today)
        yield from _stock(index, step, catalogue)
        yield from _tools(index, step, catalogue)


def _warn(code: str, path: str, message: str) -> Defect:
    return defect(code, path, message, severity="warning")


def _wording(index: int, step: Step) -> Iterator[Defect]:
    words = step.text.lower().split()
    if words and (words[0] in NO_VERB or words[0].endswith("ing")):
        yield _warn("steps.no_verb", f"/steps/{index}/text", f"“{step.text}” does not begin with what to do.")
    if words and step.phase == "Put right" and words[0] in REPLACING and not step.parts:
        yield _warn(
            "parts.unlisted",
            f"/steps/{index}/parts",
            f"“{step.text}” puts something in, and no part is listed.",
        )


def _units(index: int, step: Step) -> Iterator[Defect]:
    """A reading named for one thing and measured in the unit of another."""
    for j, q in enumerate(step.questions):
        if not isinstance(q, Reading) or not known_unit(q.unit):
            continue
        named = [word for word in q.label.lower().replace(",", " ").split() if word in MEANT]
        found = parse_unit(q.unit).dimension
        wanted = [parse_unit(MEANT[word]).dimension for word in named]
        if wanted and found not in wanted:
            yield _warn(
                "questions.wrong_unit",
                f"/steps/{index}/questions/{j}/unit",
                f"“{q.label}” of “{step.text}” is read in {q.unit or 'no unit'}, which is "
                f"{dimension_text(found)}, not {dimension_text(wanted[0])}.",
            )


def _photos(index: int, step: Step) -> Iterator[Defect]:
    for j, q in enumerate(step.questions):
        said = q.label.strip().lower()
        if isinstance(q, Photo) and not q.detail and not step.detail and said in ("", "photo", "picture"):
            yield _warn(
                "questions.photo_of_what",
                f"/steps/{index}/questions/{j}/label",
                f"“{step.text}” wants a photo, and nothing says of what.",
            )


def _skills(index: int, step: Step, catalogue: Catalogue, today: date) -> Iterator[Defect]:
    """Skills nobody on the roster holds at the level; a catalogue without a roster says nothing."""
    names = {s.code: s.name for s in catalogue.skills}
    for j, need in enumerate(step.skills):
        if not catalogue.roster or need.skill not in names:
            continue
        path = f"/steps/{index}/skills/{j}"
        ever = [h for h in catalogue.roster if h.holds(need.skill, need.level, h.expires_on or today)]
        holders = {h.technician for h in ever if h.holds(need.skill, need.level, today)}
        words = f"{names[need.skill]} at {need.level} for “{step.text}”"
        if not ever:
            yield _warn("skills.nobody", path, f"Nobody on the roster holds {words}.")
        elif not holders:
            yield _warn(
                "skills.expired",
                path,
                f"Nobody holds {words} any more: the last expired on {_last_day(ever):%d %b %Y}.",
            )
        elif len(holders) == 1:
            yield _warn("skills.one", path, f"Only {min(holders)} holds {words}.")


def _last_day(ever: list[Holding]) -> date:
    return max(h.expires_on for h in ever if h.expires_on is not None)


def _stock(index: int, step: Step, catalogue: Catalogue) -> Iterator[Defect]:
    stocked = {p.code: p for p in catalogue.parts}
    kept = any(p.stocked for p in catalogue.parts)
    for j, need in enumerate(step.parts):
        part = stocked.get(need.part)
        if kept and part is not None and not part.stocked:
            yield _warn(
                "parts.no_stock",
                f"/steps/{index}/parts/{j}",
                f"{part.name}, {part.code}, for “{step.text}” is stocked nowhere.",
            )


def _tools(index: int, step: Step, catalogue: Catalogue) -> Iterator[Defect]:
    """Tools that no van has in the number wanted and that are kept nowhere; lists without any place say nothing."""
    known = {t.code: t for t in catalogue.tools}
    if not catalogue.van_tools and not any(t.stocked for t in catalogue.tools):
        return
    for j, need in enumerate(step.tools):
        tool = known.get(need.tool)
        most = max((held.quantity for held in catalogue.van_tools if held.tool == need.tool), default=0)
        if tool is not None and not tool.stocked and most < need.quantity:
            yield _warn(
                "tools.nowhere",
                f"/steps/{index}/tools/{j}",
                f"{tool.amount(need.quantity)}, {tool.code}, for “{step.text}”: "
                + ("no van has it" if most == 0 else f"no van has more than {most}")
                + ", and it is kept nowhere.",
            )
