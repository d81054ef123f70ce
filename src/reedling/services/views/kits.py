"""The kit for an incident type: parts from what past jobs took, or as tools from the author's figures."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

from reedling.core.guidance.catalogue import Catalogue, Part, Tool
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import fill_in
from reedling.core.rollup.kits import Kit, KitPart, KitTool, ToolKit, kit_from_chances, kit_from_use, tool_kit
from reedling.core.rollup.plan_totals import PlanTotals, total_plans
from reedling.core.statistics.intervals import Share, wilson_interval
from reedling.services.context import Context
from reedling.services.shared.current import current_revision
from reedling.services.shared.uses import shared_being_written
from reedling.store.unit import Unit

MIN_JOBS = 5
"""From so many finished jobs on, a kit rests on what they took."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LikelyPart:
    """A part an incident type may take: what the author says, what the field says, where it is.

    ``taken`` is the share of finished jobs that took it; ``chance`` is the author's, nothing where no step names it.
    ``vans`` carry it, out of ``n_vans``.
    """

    part: str
    name: str
    unit: str
    chance: float | None
    taken: Share
    in_kit: float | None
    stocked: tuple[str, ...]
    vans: tuple[str, ...]
    substitutes: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class LikelyTool:
    """A tool that an incident type may want: how many of it at once, how likely, whether it is in the kit, where it is."""

    tool: str
    name: str
    quantity: int
    chance: float
    in_kit: bool
    stocked: tuple[str, ...]
    vans: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class KitPage:
    """The kit for an incident type, and every part and tool it may take; ``n_jobs`` are finished.

    ``carry`` is what goes into the kit, in words; ``finished`` is the share of them that the kit would have done for; of none before it rests on them.
    ``tools_enough`` is how likely a job wants no tool that the kit leaves out, by the author's figures.
    """

    document: str
    title: str
    kit: Kit
    carry: tuple[str, ...]
    finished: Share
    parts: tuple[LikelyPart, ...]
    tools: tuple[LikelyTool, ...]
    tools_enough: float
    n_jobs: int
    n_vans: int


def kit_page(context: Context, document: str, goal: float) -> KitPage:
    """The kit that finishes at least ``goal`` of the jobs of an incident type the first time."""
    with context.reading() as unit:
        revision = current_revision(unit, document, ("incident type",))
        incident = revision.content
        assert isinstance(incident, IncidentType)
        totals = _totals(unit, incident)
        said = _said(totals, incident)
        used = unit.kept_of_jobs(("parts used", document), partial(_used, document=document))
        enough = len(used.jobs) >= MIN_JOBS
        kit = (
            unit.kept_of_jobs(("kit", document, goal), lambda _: kit_from_use(used.jobs, goal))
            if enough
            else kit_from_chances(said.values(), goal)
        )
        with_it = tool_kit(_tools_said(totals, incident), goal)
        lists = unit.catalogues.get()
        parts = {p.code: p for p in lists.parts}
        tools = {t.code: t for t in lists.tools}
        return KitPage(
            document=document,
            title=incident.title,
            kit=kit,
            carry=(
                *(parts.get(p.part, Part(code=p.part, name=p.part)).amount(p.quantity) for p in kit.parts),
                *(
                    tools.get(t.tool, Tool(code=t.tool, name=t.tool)).amount(t.quantity)
                    for t in with_it.tools
                ),
            ),
            finished=wilson_interval(round(kit.finished * kit.n_jobs), kit.n_jobs),
            parts=_likely(unit, said, used, kit),
            tools=_likely_tools(lists, with_it),
            tools_enough=with_it.enough,
            n_jobs=len(used.jobs),
            n_vans=len({s.technician for s in lists.van_stock} | {t.technician for t in lists.van_tools}),
        )


@dataclass(frozen=True, slots=True)
class _Used:
    """What each finished job took, by part, and in how many jobs each part was taken."""

    jobs: tuple[Mapping[str, float], ...]
    n_with: Counter[str]


def _used(unit: Unit, *, document: str) -> _Used:
    jobs = tuple(unit.job_evidence.parts_used(document).values())
    return _Used(jobs, Counter(part for job in jobs for part in job))


def _totals(unit: Unit, incident: IncidentType) -> PlanTotals:
    plans = [
        fill_in(p, shared_being_written(unit, p)).plan
        for d in (*incident.plans, *incident.forms)
        if isinstance(p := unit.documents.content_of(d), Plan)
    ]
    return total_plans(plans)


def _tools_said(totals: PlanTotals, incident: IncidentType) -> tuple[KitTool, ...]:
    """What the author's figures say of each tool; tools of the type itself are always wanted."""
    said = {
        t.tool: KitTool(tool=t.tool, quantity=t.most, share=1.0 if t.always else t.chance)
        for t in totals.tools
    }
    for need in incident.tools:
        held = said[need.tool].quantity if need.tool in said else 0
        said[need.tool] = KitTool(tool=need.tool, quantity=max(need.quantity, held), share=1.0)
    return tuple(said.values())


def _likely_tools(lists: Catalogue, found: ToolKit) -> tuple[LikelyTool, ...]:
    known = {tool.code: tool for tool in lists.tools}
    vans: dict[str, list[str]] = {}
    for held in lists.van_tools:
        if held.quantity > 0:
            vans.setdefault(held.tool, []).append(held.technician)
    return tuple(
        LikelyTool(
            tool=t.tool,
            name=known[t.tool].name if t.tool in known else t.tool,
            quantity=t.quantity,
            chance=t.share,
            in_kit=t in found.tools,
            stocked=known[t.tool].stocked if t.tool in known else (),
            vans=tuple(sorted(vans.get(t.tool, ()))),
        )
        for t in (*found.tools, *found.left_out)
    )


def _said(totals: PlanTotals, incident: IncidentType) -> dict[str, KitPart]:
    """What the author's figures say of each part; parts of the type itself are always wanted."""
    out = {
        t.part: KitPart(part=t.part, quantity=t.most, share=1.0 if t.always else t.chance)
        for t in totals.parts
    }
    for need in incident.parts:
        held = out.get(need.part)
        more = need.quantity + (held.quantity if held else 0)
        out[need.part] = KitPart(part=need.part, quantity=more, share=1.0)
    return out


def _likely(unit: Unit, said: dict[str, KitPart], used: _Used, kit: Kit) -> tuple[LikelyPart, ...]:
    lists = unit.catalogues.get()
    parts = {p.code: p for p in lists.parts}
    names = {code: p.name for code, p in parts.items()}
    carried: dict[str, list[str]] = {}
    for stock in lists.van_stock:
        if stock.quantity > 0:
            carried.setdefault(stock.part, []).append(stock.technician)
    in_kit = {p.part: p.quantity for p in kit.parts}
    codes = dict.fromkeys((*said, *sorted(used.n_with)))
    made = [
        LikelyPart(
            part=code,
            name=names.get(code, code),
            unit=parts[code].unit if code in parts else "each",
            chance=said[code].share if code in said else None,
            taken=wilson_interval(used.n_with[code], len(used.jobs)),
            in_kit=in_kit.get(code),
            stocked=parts[code].stocked if code in parts else (),
            vans=tuple(sorted(carried.get(code, ()))),
            substitutes=tuple(names.get(s, s) for s in parts[code].substitutes) if code in parts else (),
        )
        for code in codes
    ]
    return tuple(sorted(made, key=lambda p: (-p.taken.n_hits, -(p.chance or 0), p.part)))
