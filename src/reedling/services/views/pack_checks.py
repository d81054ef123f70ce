"""Check every open or released document of a library pack, without a database."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from datetime import date

from reedling.core.checking.draft import draft_defects
from reedling.core.faultguide.guide_soundness import KnownToGuides, guide_problems
from reedling.core.faultguide.links import links_in
from reedling.core.guidance.catalogue_soundness import catalogue_problems
from reedling.core.guidance.decision_tables import After, DecisionTable
from reedling.core.guidance.documents import UNRELEASED_STATES, Content
from reedling.core.guidance.incident_type_soundness import incident_type_problems
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import Shared, SharedPlans, fill_in
from reedling.core.guidance.revisions import RevisionState
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.core.matching.table_soundness import Known, table_problems
from reedling.errors import Problem
from reedling.exchange.library_pack import LibraryPack, PackedRevision

CHECKED = (*UNRELEASED_STATES, "Released")

BEING_WRITTEN: tuple[RevisionState, ...] = (*UNRELEASED_STATES, "Released")

IN_FORCE: tuple[RevisionState, ...] = ("Released",)


def check_library(pack: LibraryPack, today: date) -> tuple[Problem, ...]:
    """Every problem of the revisions that are in force or on their way, by file and pointer."""
    plans = frozenset(head.document for head, _ in pack.revisions if head.kind == "plan")
    forms = frozenset(head.document for head, _ in pack.revisions if head.kind == "form")
    in_force_plans, in_force_forms = (frozenset(released_in(pack, kind)) for kind in ("plan", "form"))
    written = shared_in_pack(pack.revisions, BEING_WRITTEN)
    in_force = shared_in_pack(pack.revisions, IN_FORCE)
    out = [replace(p, path=f"catalogue{p.path}") for p in catalogue_problems(pack.catalogue)]
    for head, content in pack.revisions:
        if head.state not in CHECKED:
            continue
        if isinstance(content, Plan):
            shared = in_force if head.state == "Released" else written
            found = [
                d.problem
                for d in draft_defects(content, pack.catalogue, kind=head.kind, shared=shared, today=today)
            ]
        elif isinstance(content, DecisionTable):
            found = list(table_problems(content, pack.catalogue, known_in_pack(pack, but=head.document)))
        elif isinstance(content, WrittenGuide):
            states = IN_FORCE if head.state == "Released" else BEING_WRITTEN
            found = list(guide_problems(content, known_guides_in_pack(pack, content, states)))
        else:
            # What is in force names what is in force; a draft may name what is on its way.
            known = (in_force_plans, in_force_forms) if head.state == "Released" else (plans, forms)
            found = list(incident_type_problems(content, *known, pack.catalogue))
        file = f"documents/{head.document}/{head.letter}.json"
        out += [replace(p, path=f"{file}#/content{p.path}") for p in found]
    return tuple(out)


def known_guides_in_pack(
    pack: LibraryPack, guide: WrittenGuide, states: Sequence[RevisionState]
) -> KnownToGuides:
    """What a fault guide of a pack may name, with the plans of its incident type at the first of these states."""
    contents = best_of(pack.revisions, states)
    incident = contents[guide.incident_type][1] if guide.incident_type in contents else None
    plans = incident.plans if isinstance(incident, IncidentType) else ()
    shared = shared_in_pack(pack.revisions, states)
    return KnownToGuides(
        causes={c.code: c.label for c in pack.catalogue.causes},
        remedies={r.code: r.label for r in pack.catalogue.remedies},
        incident_types=frozenset(d for d, (head, _) in contents.items() if head.kind == "incident type"),
        links=links_in(
            (document, fill_in(plan, shared).plan)
            for document in plans
            if document in contents and isinstance(plan := contents[document][1], Plan)
        ),
    )


def best_of(
    revisions: Iterable[tuple[PackedRevision, Content]], states: Sequence[RevisionState]
) -> dict[str, tuple[PackedRevision, Content]]:
    """The documents of a pack, each at the first of these states that it has."""
    best: dict[str, tuple[PackedRevision, Content]] = {}
    for head, content in revisions:
        if head.state not in states:
            continue
        held = best.get(head.document)
        if held is None or states.index(head.state) < states.index(held[0].state):
            best[head.document] = (head, content)
    return best


def released_in(pack: LibraryPack, kind: str) -> Iterator[str]:
    """The documents of a kind that a pack brings into force."""
    return (head.document for head, _ in pack.revisions if head.kind == kind and head.state == "Released")


def known_in_pack(pack: LibraryPack, *, but: str = "") -> Known:
    """What the tables of a pack may name, and what its other tables in force declare."""
    states: dict[str, set[str]] = {}
    types: dict[str, str] = {}
    after: list[After] = []
    for head, content in pack.revisions:
        if isinstance(content, DecisionTable):
            after += content.after if head.state == "Released" and head.document != but else ()
            continue
        states.setdefault(head.document, set()).add(head.state)
        if isinstance(content, IncidentType):
            types[head.document] = content.title
    return Known(
        documents={
            d: "in force" if "Released" in s else "on its way" if s & {*UNRELEASED_STATES} else "withdrawn"
            for d, s in states.items()
        },
        incident_types=types,
        after=tuple(after),
    )


def shared_in_pack(
    revisions: Iterable[tuple[PackedRevision, Content]], states: Sequence[RevisionState]
) -> SharedPlans:
    """The standard steps and forms of a pack, each at the first of these states that it has."""
    best = best_of(revisions, states)

    def of_kind(kind: str) -> dict[str, Shared]:
        return {
            d: Shared(document=d, revision=head.letter, plan=content)
            for d, (head, content) in best.items()
            if head.kind == kind and isinstance(content, Plan)
        }

    return SharedPlans(standards=of_kind("standard step"), forms=of_kind("form"))
