"""Which documents an order gets: every row that speaks for it, merged, with the reason for each."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
from reedling.core.guidance.decision_tables import (
    After,
    Cell,
    Column,
    DecisionTable,
    NeverTogether,
    Row,
)
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import AppliesWhen
from reedling.core.matching.cells import Naming, cell_words, fact_words, meets, naming_of
from reedling.core.matching.lookup import RowLookup, bits_of, look_up
from reedling.core.matching.order_facts import OrderFacts, fact_of

KEPT_TRACES = 40
"""How many rows that did not match are kept with an order: the nearest."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RowInForce:
    """A row with where it stands: its table, the table's revision, and its number from 1.

    What a plan says of itself when it applies is a row too; its table is the plan.
    """

    table: str
    revision: str
    number: int
    row: Row
    columns: tuple[Column, ...]

    @property
    def words(self) -> str:
        """How a sentence speaks of it."""
        return f"{self.table} row {self.number}" if self.number else f"{self.table} itself"


@dataclass(frozen=True, slots=True, kw_only=True)
class Guidance:
    """All that decides what an order gets: rows, incident types, and what goes with what.

    ``titles`` names every document that may be put on an order; a row that names another puts
    nothing on. ``in_rows`` are those that some row names, ``users`` the incident types of each plan.
    ``asks_for_type`` is whether some row has a cell for the incident type.
    """

    rows: tuple[RowInForce, ...]
    lookup: RowLookup
    tree: EquipmentTree
    naming: Naming
    titles: Mapping[str, str]
    incident_types: Mapping[str, IncidentType] = field(default_factory=dict)
    never_together: tuple[NeverTogether, ...] = ()
    after: tuple[After, ...] = ()
    parts_of: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    in_rows: frozenset[str] = frozenset()
    users: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    asks_for_type: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class CellTrace:
    """One cell of a row: what it wants, what the order has, whether they meet."""

    column: str
    wanted: str
    got: str
    met: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedDocument:
    """A document by its title."""

    document: str
    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MatchTrace:
    """Why a row was taken, or why not: ``misses`` is the number of cells that failed.

    ``number`` is 0 for what a document says of itself.
    """

    table: str
    revision: str
    row: str
    number: int
    documents: tuple[NamedDocument, ...]
    matched: bool
    misses: int
    cells: tuple[CellTrace, ...]
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Taken:
    """A document that an order gets, and in words where it is from."""

    document: str
    title: str
    because: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Refused:
    """Two documents that never go together and that both were asked for, by these rows."""

    first: str
    second: str
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Match:
    """What an order gets: documents in the order of the rows that bring them.

    Where ``refused`` is not empty the order cannot be issued until one of each pair is left out.
    ``notes`` say what was asked for twice and is done once.
    """

    incident_type: str | None
    taken: tuple[Taken, ...]
    refused: tuple[Refused, ...]
    notes: tuple[str, ...] = ()


def guidance_of(
    tables: Iterable[tuple[str, str, DecisionTable]],
    own: Iterable[tuple[str, str, AppliesWhen]],
    *,
    lists: Catalogue,
    titles: Mapping[str, str],
    incident_types: Mapping[str, IncidentType] | None = None,
    parts_of: Mapping[str, tuple[str, ...]] | None = None,
) -> Guidance:
    """Make ready what decides: tables and documents with what they say of themselves.

    ``tables`` and ``own`` give document, revision and content. ``parts_of`` gives, by document, those
    that are filled in with it.
    """
    given = list(tables)
    rows = [
        RowInForce(table=document, revision=revision, number=n, row=row, columns=table.columns)
        for document, revision, table in given
        for n, row in enumerate(table.rows, 1)
    ]
    rows += [
        own_row(document, revision, cells) for document, revision, cells in own if cells != AppliesWhen()
    ]
    columns = dict.fromkeys(c for r in rows for c in r.columns)
    tree = EquipmentTree.of(lists.equipment)
    types = dict(incident_types or {})
    return Guidance(
        asks_for_type=any("incident type" in r.row.cells for r in rows),
        rows=tuple(rows),
        lookup=look_up([r.row.cells for r in rows], columns, tree),
        tree=tree,
        naming=naming_of(lists, incident_types={d: t.title for d, t in types.items()}),
        titles=titles,
        incident_types=types,
        never_together=tuple(p for _, _, t in given for p in t.never_together),
        after=tuple(a for _, _, t in given for a in t.after),
        parts_of=parts_of or {},
        in_rows=frozenset(d for r in rows for d in r.row.documents),
        users=_users(types),
    )


def _users(incident_types: Mapping[str, IncidentType]) -> Mapping[str, tuple[str, ...]]:
    out: dict[str, tuple[str, ...]] = {}
    for code, incident in incident_types.items():
        for plan in incident.plans:
            out[plan] = (*out.get(plan, ()), code)
    return out


def own_row(document: str, revision: str, applies: AppliesWhen) -> RowInForce:
    """What a document says of itself when it applies, as a row."""
    cells = {
        "equipment": Cell(values=(applies.equipment,)) if applies.equipment else None,
        "model": Cell(values=applies.models) if applies.models else None,
        "symptom": Cell(values=applies.symptoms) if applies.symptoms else None,
    }
    return RowInForce(
        table=document,
        revision=revision,
        number=0,
        row=Row(id="", cells={k: c for k, c in cells.items() if c}, documents=(document,)),
        columns=(Column(kind="equipment"), Column(kind="model"), Column(kind="symptom")),
    )


def match_order(guidance: Guidance, facts: OrderFacts, *, without: Iterable[str] = ()) -> Match:
    """What an order gets; ``without`` names documents that are to be left out.

    The incident type is the one the facts name, else the one its rows speak for most closely.
    Given it, rows that ask for an incident type are asked too, and what it brings by itself comes
    behind what rows bring. A document asked for twice is taken once; so is a form or standard step
    that another document taken has in it.
    """
    places = guidance.lookup.rows(facts)
    chosen = facts.incident_type or choose_incident_type(guidance, places)
    if chosen and not facts.incident_type:
        places = guidance.lookup.rows(replace(facts, incident_type=chosen))
    left_out = set(without)
    reasons: dict[str, list[str]] = {}
    for place in places:
        found = guidance.rows[place]
        for document in found.row.documents:
            if document in guidance.titles and document not in left_out:
                reasons.setdefault(document, []).append(found.words)
    incident = guidance.incident_types.get(chosen or "")
    for document in (*incident.plans, *incident.forms) if incident else ():
        if document in guidance.titles and document not in left_out and document not in guidance.in_rows:
            reasons.setdefault(document, []).append(f"it comes with {chosen}")
    inside = {part: whole for whole in reasons for part in guidance.parts_of.get(whole, ())}
    notes = [
        f"{guidance.titles[d]} was asked for {len(by)} times, by {' and '.join(by)}, and is done once."
        for d, by in reasons.items()
        if len(by) > 1
    ]
    notes += [
        f"{guidance.titles[d]} is part of {guidance.titles[inside[d]]} and is done once."
        for d in reasons
        if d in inside
    ]
    taken = tuple(
        Taken(document=d, title=guidance.titles[d], because=tuple(by))
        for d, by in reasons.items()
        if d not in inside
    )
    return Match(
        incident_type=chosen or None,
        taken=taken,
        refused=tuple(never_together_on(guidance, reasons)),
        notes=tuple(notes),
    )


def serving_rows(guidance: Guidance) -> tuple[RowInForce, ...]:
    """The rows that put something in force on an order, with one for each incident type that does by itself.

    A row that names only what is not in force serves nobody. One that names an incident type serves by
    what that brings: what it names where no row does, and what rows bring that ask for it.
    """
    own = {
        code: tuple(
            d
            for d in (*incident.plans, *incident.forms)
            if d in guidance.titles and d not in guidance.in_rows
        )
        for code, incident in guidance.incident_types.items()
    }
    asked_for = {
        str(code)
        for r in guidance.rows
        if any(d in guidance.titles for d in r.row.documents)
        for cell in [r.row.cells.get("incident type")]
        if cell is not None and cell.operator == "is"
        for code in cell.values
    }
    serving = tuple(
        r
        for r in guidance.rows
        if any(d in guidance.titles or own.get(d) or d in asked_for for d in r.row.documents)
    )
    by_itself = (
        RowInForce(
            table=code,
            revision="",
            number=0,
            row=Row(id="", cells={"incident type": Cell(values=(code,))}, documents=documents),
            columns=(Column(kind="incident type"),),
        )
        for code, documents in own.items()
        if documents
    )
    return (*serving, *by_itself)


def what_speaks(guidance: Guidance, facts: OrderFacts) -> tuple[object, ...]:
    """The rows that speak for an order, before and after its incident type is chosen, and that type.

    All that :func:`match_order` makes of an order follows from it: two orders alike in it get the same.
    """
    mask = guidance.lookup.mask(facts)
    if facts.incident_type or not guidance.asks_for_type:
        return (facts.incident_type, mask)
    chosen = choose_incident_type(guidance, bits_of(mask))
    return (chosen, mask, guidance.lookup.mask(replace(facts, incident_type=chosen)) if chosen else mask)


def never_together_on(guidance: Guidance, reasons: Mapping[str, Sequence[str]]) -> Iterator[Refused]:
    """Pairs that never go together and are both on an order, also inside a document that is.

    ``reasons`` says of each document on it where it is from.
    """
    on_it = {d: ", ".join(by) for d, by in reasons.items()}
    for whole in reasons:
        for part in guidance.parts_of.get(whole, ()):
            on_it.setdefault(part, f"part of {guidance.titles[whole]}")
    for pair in dict.fromkeys(guidance.never_together):
        if pair.first in on_it and pair.second in on_it:
            first, second = (guidance.titles.get(d, d) for d in (pair.first, pair.second))
            yield Refused(
                first=pair.first,
                second=pair.second,
                sentence=f"{first} ({on_it[pair.first]}) and {second} ({on_it[pair.second]}) never go together"
                + (f": {pair.why}" if pair.why else "")
                + ".",
            )


def choose_incident_type(guidance: Guidance, places: Iterable[int]) -> str | None:
    """The incident type that the rows at these places speak for most closely.

    A row speaks for an incident type it names, and for those that use a plan it names. It counts one
    for each cell it fills in, so a row for every order decides nothing by its plans; ties go to a
    type that is named, then to the first identity.
    """
    best: tuple[int, int, str] | None = None
    for place in places:
        row = guidance.rows[place].row
        for document in row.documents:
            named = document in guidance.incident_types
            for code in (document,) if named else guidance.users.get(document, ()):
                if named or row.cells:
                    score = (-len(row.cells), -int(named), code)
                    best = score if best is None else min(best, score)
    return best[2] if best else None


def trace_rows(guidance: Guidance, facts: OrderFacts, *, keep: int | None = None) -> tuple[MatchTrace, ...]:
    """Every row with its reason: matches first, then near misses, then the rest.

    With ``keep``, of the rows that did not match only that many, the nearest.
    """
    counted = []
    for place, found in enumerate(guidance.rows):
        counted.append((sum(not met for _, _, met in _meetings(found, facts, guidance.tree)), place))
    counted.sort()
    if keep is not None:
        n_matched = sum(misses == 0 for misses, _ in counted)
        counted = counted[: n_matched + keep]
    return tuple(_trace(guidance, guidance.rows[place], facts) for _, place in counted)


def _meetings(
    found: RowInForce, facts: OrderFacts, tree: EquipmentTree
) -> Iterator[tuple[Column, Cell | None, bool]]:
    for column in found.columns:
        cell = found.row.cells.get(column.key)
        yield column, cell, cell is None or meets(cell, column, fact_of(facts, column), tree)


def _trace(guidance: Guidance, found: RowInForce, facts: OrderFacts) -> MatchTrace:
    naming = guidance.naming
    cells = tuple(
        CellTrace(
            column=naming.heading(column),
            wanted=cell_words(cell, column, naming),
            got=fact_words(column, fact_of(facts, column), naming),
            met=met,
        )
        for column, cell, met in _meetings(found, facts, guidance.tree)
    )
    failed = [c for c in cells if not c.met]
    if not failed:
        wants = [f"{c.column} {c.got}" for c in cells if c.wanted != "any"]
        text = "It applies: " + (", ".join(wants) + "." if wants else "it is for every order.")
    else:
        away = "One cell away" if len(failed) == 1 else f"{len(failed)} cells away"
        who = "row" if found.number else "plan"
        told = "; ".join(f"{c.column} is {c.got}, the {who} wants {c.wanted}" for c in failed)
        text = f"{away}: {told}."
    return MatchTrace(
        table=found.table,
        revision=found.revision,
        row=found.row.id,
        number=found.number,
        documents=tuple(
            NamedDocument(document=d, title=guidance.titles.get(d, guidance.naming.label("incident type", d)))
            for d in found.row.documents
        ),
        matched=not failed,
        misses=len(failed),
        cells=cells,
        sentence=text,
    )
