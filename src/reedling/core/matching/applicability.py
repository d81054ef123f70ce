"""Matching an order's facts with the applies-when of every plan."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
from reedling.core.guidance.plans import Plan
from reedling.core.logic.conditions import lower_first


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderFacts:
    """What is known of an order when it comes in: codes of its equipment, model and symptom."""

    equipment: str
    model: str
    symptom: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A released plan that might be put on an order."""

    document: str
    revision: str
    plan: Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class CellTrace:
    """One cell of a plan's applies-when: what it wants, what the order has, whether they meet."""

    column: str
    wanted: str
    got: str
    met: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class MatchTrace:
    """Why a plan was taken, or why not: ``misses`` is the number of cells that failed."""

    document: str
    revision: str
    title: str
    matched: bool
    misses: int
    cells: tuple[CellTrace, ...]
    sentence: str


def match_plans(
    facts: OrderFacts, candidates: Iterable[Candidate], catalogue: Catalogue
) -> tuple[MatchTrace, ...]:
    """Every candidate with its trace: matches first, then near misses, then the rest.

    All plans that apply are taken (collect). Within each group the order is that of the
    document identities, so the same order always gets the same runsheet.
    """
    tree = EquipmentTree.of(catalogue.equipment)
    traces = [_trace(facts, candidate, catalogue, tree) for candidate in candidates]
    return tuple(sorted(traces, key=lambda t: (t.misses, t.document)))


def _trace(facts: OrderFacts, candidate: Candidate, catalogue: Catalogue, tree: EquipmentTree) -> MatchTrace:
    cells = _cells(facts, candidate.plan, catalogue, tree)
    failed = [c for c in cells if not c.met]
    if not failed:
        wants = [f"{c.column} {c.got}" for c in cells if c.wanted != "any"]
        text = "It applies: " + (", ".join(wants) + "." if wants else "it is for every order.")
    else:
        away = "One cell away" if len(failed) == 1 else f"{len(failed)} cells away"
        text = (
            f"{away}: " + "; ".join(f"{c.column} is {c.got}, the plan wants {c.wanted}" for c in failed) + "."
        )
    return MatchTrace(
        document=candidate.document,
        revision=candidate.revision,
        title=candidate.plan.title,
        matched=not failed,
        misses=len(failed),
        cells=cells,
        sentence=text,
    )


def _cells(facts: OrderFacts, plan: Plan, catalogue: Catalogue, tree: EquipmentTree) -> tuple[CellTrace, ...]:
    wanted = plan.applies_when
    models = {m.code: m.name for m in catalogue.models}
    symptoms = {s.code: lower_first(s.label) for s in catalogue.symptoms}

    def names(codes: tuple[str, ...], labels: dict[str, str]) -> str:
        return " or ".join(labels.get(code, code) for code in codes) or "any"

    return (
        CellTrace(
            column="equipment",
            wanted=lower_first(tree.name(wanted.equipment)) if wanted.equipment else "any",
            got=lower_first(tree.name(facts.equipment)),
            met=wanted.equipment is None or tree.is_a(facts.equipment, wanted.equipment),
        ),
        CellTrace(
            column="model",
            wanted=names(wanted.models, models),
            got=models.get(facts.model, facts.model),
            met=not wanted.models or facts.model in wanted.models,
        ),
        CellTrace(
            column="symptom",
            wanted=names(wanted.symptoms, symptoms),
            got=symptoms.get(facts.symptom, facts.symptom),
            met=not wanted.symptoms or facts.symptom in wanted.symptoms,
        ),
    )


def choose_incident_type(matched: Iterable[MatchTrace], uses: Mapping[str, tuple[str, ...]]) -> str | None:
    """The incident type that the matched plans speak for most specifically.

    ``uses`` gives the plans of each incident type. A matched plan counts one for each cell that
    asks for something, so a plan for every order decides nothing; ties go to the first identity.
    Nothing when no incident type uses a plan that asks for something and matched.
    """
    weight = {t.document: sum(c.wanted != "any" for c in t.cells) for t in matched if t.matched}
    scores = {code: max((weight.get(p, 0) for p in plans), default=0) for code, plans in uses.items()}
    best = sorted((-score, code) for code, score in scores.items() if score > 0)
    return best[0][1] if best else None
