"""What a technician needs to carry for the orders of a day, held against what is in the van."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from reedling.core.guidance.catalogue import Part
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.progress import Run, part_wanted


@dataclass(frozen=True, slots=True, kw_only=True)
class PartToCarry:
    """A part, in its own unit: what is ``wanted`` for certain, what answers yet to come may add (``perhaps``),
    what is in the van, and the orders that want it."""

    part: str
    name: str
    unit: str
    wanted: float
    perhaps: float
    in_van: float
    orders: tuple[str, ...]

    @property
    def short(self) -> float:
        """How much is missing of what is wanted for certain."""
        return max(0.0, self.wanted - self.in_van)

    @property
    def perhaps_short(self) -> float:
        """How much more is missing should every open question turn out to want it."""
        return max(0.0, self.wanted + self.perhaps - self.in_van) - self.short


def parts_of_job(run: Run, job: Job) -> tuple[dict[str, float], dict[str, float]]:
    """The parts that the steps still to be done want for certain, and those that open questions may add.

    What was used at a step already is taken off what that step wants. A section that repeats over what is found
    on site counts once while nothing is named.
    """
    states = {p.line: p.state for p in run.progress.lines}
    used: dict[tuple[str, str], float] = {}
    for taken in job.parts:
        key = (taken.line or "", taken.part)
        used[key] = used.get(key, 0) + taken.quantity
    wanted: dict[str, float] = {}
    perhaps: dict[str, float] = {}
    for line in (*run.lines, *run.rules.laid.folded):
        state = states.get(line.id, "open question")
        if state not in ("due", "open question"):
            continue
        for need in line.parts:
            left = need.quantity - used.get((line.id, need.part), 0)
            sure = part_wanted(run, need) if state == "due" else None
            if left > 0 and sure is not False:
                into = wanted if sure else perhaps
                into[need.part] = into.get(need.part, 0) + left
    return wanted, perhaps


def what_to_carry(
    jobs: Iterable[tuple[str, Run, Job]], stock: Mapping[str, float], parts: Mapping[str, Part]
) -> tuple[PartToCarry, ...]:
    """The parts of several orders together: first those that are short, then the others, by name.

    ``stock`` is what is in the van, by part.
    """
    wanted: dict[str, float] = {}
    perhaps: dict[str, float] = {}
    orders: dict[str, list[str]] = {}
    for order, run, job in jobs:
        sure, maybe = parts_of_job(run, job)
        for into, found in ((wanted, sure), (perhaps, maybe)):
            for part, quantity in found.items():
                into[part] = into.get(part, 0) + quantity
        for part in sorted(sure.keys() | maybe.keys()):
            orders.setdefault(part, []).append(order)
    out = [
        PartToCarry(
            part=code,
            name=parts[code].name if code in parts else code,
            unit=parts[code].unit if code in parts else "each",
            wanted=wanted.get(code, 0),
            perhaps=perhaps.get(code, 0),
            in_van=stock.get(code, 0),
            orders=tuple(named),
        )
        for code, named in orders.items()
    ]
    return tuple(sorted(out, key=lambda p: (p.short == 0, p.perhaps_short == 0, p.name)))
