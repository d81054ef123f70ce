"""Which documents, customers and site tags a decision table may name."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from reedling.core.guidance.decision_tables import (
    DecisionTable,
)
from reedling.core.guidance.documents import OPEN_REVISION_STATES, RevisionHeading
from reedling.core.guidance.revisions import PLAN_KINDS, RevisionState
from reedling.core.matching.cell_reading import Vocabulary, vocabulary_of
from reedling.core.matching.table_soundness import Availability, Known
from reedling.store.unit import Unit

BEING_WRITTEN: frozenset[RevisionState] = frozenset(OPEN_REVISION_STATES)


def known_to_tables(unit: Unit, *, but: str = "", going: Iterable[str] = ()) -> Known:
    """What tables may name, and what tables in force but one declare.

    Documents in ``going`` are taken to be in force, since they are released together.
    """
    together = set(going)
    documents: dict[str, Availability] = {}
    types: dict[str, str] = {}
    for document, revisions in _nameable(unit).items():
        states = {r.state for r in revisions}
        if "Released" in states or document in together:
            documents[document] = "in force"
        else:
            documents[document] = "on its way" if states & BEING_WRITTEN else "withdrawn"
        if revisions[0].kind == "incident type":
            types[document] = _now(revisions).title
    after = tuple(
        a
        for r in unit.documents.all_released("decision table")
        if r.document != but and isinstance(r.content, DecisionTable)
        for a in r.content.after
    )
    return Known(documents=documents, incident_types=types, after=after)


def incident_type_titles(unit: Unit) -> dict[str, str]:
    """Every incident type by title, as it is being written, else in force, else as it was last."""
    return {
        document: _now(revisions).title
        for document, revisions in _nameable(unit).items()
        if revisions[0].kind == "incident type"
    }


def document_titles(unit: Unit) -> dict[str, str]:
    """Every document a row may name, by title as it is being written or in force."""
    return {
        document: _now(revisions).title
        for document, revisions in _nameable(unit).items()
        if {r.state for r in revisions} & {*BEING_WRITTEN, "Released"}
    }


def _nameable(unit: Unit) -> dict[str, list[RevisionHeading]]:
    """The revisions of every document a row may name, by kind as lists of documents show them."""
    found: dict[str, list[RevisionHeading]] = {}
    for heading in unit.documents.headings():
        found.setdefault(heading.document, []).append(heading)
    order = {kind: n for n, kind in enumerate((*PLAN_KINDS, "incident type"))}
    known = {d: r for d, r in found.items() if r[0].kind in order}
    return dict(sorted(known.items(), key=lambda pair: (order[pair[1][0].kind], pair[0])))


def _now(revisions: Sequence[RevisionHeading]) -> RevisionHeading:
    """The one being written if there is one, else the one in force, else the last."""
    rank = {**dict.fromkeys(OPEN_REVISION_STATES, 0), "Released": 1}
    return min(reversed(revisions), key=lambda r: rank.get(r.state, 2))


def vocabulary(unit: Unit) -> Vocabulary:
    """What may be typed into cells here."""
    sites = unit.register.sites()
    return vocabulary_of(
        unit.catalogues.get(),
        documents=document_titles(unit),
        incident_types=unit.documents.of_kind("incident type"),
        customers=sorted({s.customer for s in sites if s.customer}),
        tags=sorted({t for s in sites for t in s.tags}),
    )
