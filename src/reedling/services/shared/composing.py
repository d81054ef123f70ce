"""Put together the runsheet of an order from documents."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
from reedling.core.guidance.decision_tables import After, earlier_of
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.plans import Link, Plan
from reedling.core.guidance.reuse import SharedPlans
from reedling.core.logic.conditions import Answer
from reedling.core.register.assets import Asset
from reedling.core.runsheet.arranging import plan_of
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Runsheet, Source
from reedling.services.shared.uses import shared_in_force
from reedling.store.unit import Unit


def compose(
    unit: Unit,
    taken: Sequence[Revision],
    asset: Asset,
    facts: Mapping[str, Answer],
    *,
    after: Sequence[After],
    shared: SharedPlans | None = None,
) -> Runsheet:
    """The runsheet of these documents for an asset; standard steps and forms as in force unless given."""
    lists = unit.catalogues.get()
    sheet = compile_runsheet(
        (
            (Source(document=r.document, revision=r.letter, title=r.content.title), r.content)
            for r in taken
            if isinstance(r.content, Plan)
        ),
        shared=shared or shared_in_force(unit),
        facts=facts,
        last=unit.job_figures.last_answers(asset.code),
        names=fact_names(lists),
        after=earlier_of(after),
    )
    links = tuple(dict.fromkeys((*sheet.links, *_links_at_hand(lists, sheet, asset))))
    return replace(sheet, links=links, cost_kinds=lists.cost_kinds)


def _links_at_hand(lists: Catalogue, sheet: Runsheet, asset: Asset) -> Iterator[Link]:
    """Documents of the asset's class and those above it, and of the parts and tools that steps take."""
    classes = {c.code: c for c in lists.equipment}
    for code in EquipmentTree.of(lists.equipment).lineage(asset.equipment):
        yield from classes[code].links if code in classes else ()
    taken = {need.part for line in sheet.lines for need in line.parts}
    for part in lists.parts:
        yield from part.links if part.code in taken else ()
    used = {need.tool for line in sheet.lines for need in line.tools}
    for tool in lists.tools:
        yield from tool.links if tool.code in used else ()


def issued_documents(sheet: Runsheet) -> list[str]:
    """The documents that were put on an order, without the forms and standard steps inside them."""
    sources = {s.document for s in sheet.sources}
    return [d for d in dict.fromkeys(plan_of(line) for line in sheet.lines) if d in sources]
