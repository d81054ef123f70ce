"""What a technician needs to carry for the orders of a day, held against what is in the van.

Parts are consumed: what steps and orders want of them is added up. A tool comes back from each step, so of a tool the
most that any one step wants is carried.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.incident_types import OrderTerms
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import RunsheetLine
from reedling.core.runsheet.progress import Run, part_wanted

_NO_TERMS = OrderTerms()


@dataclass(frozen=True, slots=True, kw_only=True)
class PartToCarry:
    """A part, in its own unit, with the orders that want it.

    What is ``wanted`` for certain, what answers yet to come may add (``perhaps``), and what is in the van; how much is
    ``short`` of the first, and how much more should every open question want it (``perhaps_short``).
    """

    part: str
    name: str
    unit: str
    wanted: float
    perhaps: float
    in_van: float
    short: float
    perhaps_short: float
    orders: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ToolToCarry:
    """A tool, with the orders that want it: how many one step wants for certain, how many more one may want that hangs
    on an open question (``perhaps``), how many are in the van, and how many are missing of each."""

    tool: str
    name: str
    wanted: int
    perhaps: int
    in_van: int
    short: int
    perhaps_short: int
    orders: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ToCarry:
    """Parts and tools to carry: of each first what is short, then what is perhaps short, then the rest, by name."""

    parts: tuple[PartToCarry, ...]
    tools: tuple[ToolToCarry, ...]


def parts_of_job(
    run: Run, job: Job, terms: OrderTerms = _NO_TERMS
) -> tuple[dict[str, float], dict[str, float]]:
    """The parts that the steps still to be done want for certain, and those that open questions may add.

    What was used at a step already is taken off what that step wants; what was used anywhere else, off what the
    ``terms`` of the order want besides its steps. A section that repeats over what is found on site counts once while
    nothing is named.
    """
    steps = {(line.id, need.part) for line in (*run.lines, *run.rules.laid.folded) for need in line.parts}
    used: dict[tuple[str, str], float] = {}
    for taken in job.parts:
        key = (taken.line or "", taken.part)
        if key not in steps:
            key = ("", taken.part)
        used[key] = used.get(key, 0) + taken.quantity
    wanted: dict[str, float] = {}
    perhaps: dict[str, float] = {}
    for own in terms.parts:
        left = own.quantity - used.get(("", own.part), 0)
        if left > 0:
            wanted[own.part] = wanted.get(own.part, 0) + left
    for line, is_due in _still_open(run):
        for need in line.parts:
            left = need.quantity - used.get((line.id, need.part), 0)
            sure = part_wanted(run, need) if is_due else None
            if left > 0 and sure is not False:
                into = wanted if sure else perhaps
                into[need.part] = into.get(need.part, 0) + left
    return wanted, perhaps


def tools_of_job(run: Run, terms: OrderTerms = _NO_TERMS) -> tuple[dict[str, int], dict[str, int]]:
    """How many of each tool the steps still to be done want for certain, and how many more open questions may want.

    Of each tool that is the most that any one step wants, or the ``terms`` of the order.
    """
    wanted: dict[str, int] = {need.tool: need.quantity for need in terms.tools}
    most = dict(wanted)
    for line, is_due in _still_open(run):
        for need in line.tools:
            most[need.tool] = max(most.get(need.tool, 0), need.quantity)
            if is_due:
                wanted[need.tool] = max(wanted.get(need.tool, 0), need.quantity)
    more = {tool: n - wanted.get(tool, 0) for tool, n in most.items()}
    return wanted, {tool: n for tool, n in more.items() if n > 0}


def _still_open(run: Run) -> Iterator[tuple[RunsheetLine, bool]]:
    """The lines that are due, and those that hang on an open question; true with those that are due."""
    states = {p.line: p.state for p in run.progress.lines}
    for line in (*run.lines, *run.rules.laid.folded):
        state = states.get(line.id, "open question")
        if state in ("due", "open question"):
            yield line, state == "due"


def what_to_carry(
    jobs: Iterable[tuple[str, Run, Job, OrderTerms]], lists: Catalogue, technician: str
) -> ToCarry:
    """What several orders of a technician, each given with its job and terms, want together, against the van."""
    parts: dict[str, list[tuple[str, float, float]]] = {}
    tools: dict[str, list[tuple[str, int, int]]] = {}
    for order, run, job, terms in jobs:
        sure, maybe = parts_of_job(run, job, terms)
        for part in sorted(sure.keys() | maybe.keys()):
            parts.setdefault(part, []).append((order, sure.get(part, 0), maybe.get(part, 0)))
        now, more = tools_of_job(run, terms)
        for tool in sorted(now.keys() | more.keys()):
            tools.setdefault(tool, []).append((order, now.get(tool, 0), more.get(tool, 0)))
    return ToCarry(
        parts=_parts(parts, lists, technician),
        tools=_tools(tools, lists, technician),
    )


def _parts(
    found: Mapping[str, list[tuple[str, float, float]]], lists: Catalogue, technician: str
) -> tuple[PartToCarry, ...]:
    known = {part.code: part for part in lists.parts}
    out = []
    for code, asked in found.items():
        in_van = sum(s.quantity for s in lists.van_stock if (s.technician, s.part) == (technician, code))
        wanted, perhaps = sum(sure for _, sure, _ in asked), sum(maybe for _, _, maybe in asked)
        short = max(0.0, wanted - in_van)
        out.append(
            PartToCarry(
                part=code,
                name=known[code].name if code in known else code,
                unit=known[code].unit if code in known else "each",
                wanted=wanted,
                perhaps=perhaps,
                in_van=in_van,
                short=short,
                perhaps_short=max(0.0, wanted + perhaps - in_van) - short,
                orders=tuple(order for order, _, _ in asked),
            )
        )
    return tuple(sorted(out, key=lambda p: (p.short == 0, p.perhaps_short == 0, p.name)))


def _tools(
    found: Mapping[str, list[tuple[str, int, int]]], lists: Catalogue, technician: str
) -> tuple[ToolToCarry, ...]:
    names = {tool.code: tool.name for tool in lists.tools}
    out = []
    for code, asked in found.items():
        in_van = sum(t.quantity for t in lists.van_tools if (t.technician, t.tool) == (technician, code))
        wanted, most = max(now for _, now, _ in asked), max(now + more for _, now, more in asked)
        short = max(0, wanted - in_van)
        out.append(
            ToolToCarry(
                tool=code,
                name=names.get(code, code),
                wanted=wanted,
                perhaps=most - wanted,
                in_van=in_van,
                short=short,
                perhaps_short=max(0, most - in_van) - short,
                orders=tuple(order for order, _, _ in asked),
            )
        )
    return tuple(sorted(out, key=lambda t: (t.short == 0, t.perhaps_short == 0, t.name)))
