"""How fast orders are matched, beside a general-purpose rules engine over the same tables.

Run by `make bench`. Both find the same rows for the same orders, or the run stops; the engine is
zen-engine (MIT), with hit policy collect. The plain loop asks every cell of every row.
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from datetime import date

from reedling.core.guidance.catalogue import Catalogue, EquipmentClass, EquipmentTree, Model, Symptom
from reedling.core.guidance.decision_tables import Cell, CellOperator, Column, ColumnKind, DecisionTable, Row
from reedling.core.matching.applicability import guidance_of, match_order
from reedling.core.matching.cells import meets
from reedling.core.matching.coverage import coverage_map
from reedling.core.matching.domain import domain_of
from reedling.core.matching.impact import impact_of
from reedling.core.matching.lookup import look_up
from reedling.core.matching.order_facts import OrderFacts, fact_of
from reedling.core.matching.table_checks import find_gaps, row_findings
from tests.oracles.rules_engine import engine_of, inputs_of, rows_of

SIZES = (50, 200, 500, 5_000)
N_CLASSES, N_MODELS, N_SYMPTOMS = 40, 200, 60
KINDS: tuple[ColumnKind, ...] = ("equipment", "model", "symptom", "priority")
COLUMNS = tuple(Column(kind=k) for k in KINDS)
LINE = "{:54} {:>12} {:>12} {:>12} {:>9}"


def lists() -> Catalogue:
    """A register of a size a large organisation has."""
    groups = [EquipmentClass(code=f"g{n}", name=f"Group {n}") for n in range(8)]
    classes = [EquipmentClass(code=f"c{n}", name=f"Class {n}", parent=f"g{n % 8}") for n in range(N_CLASSES)]
    return Catalogue(
        equipment=(*groups, *classes),
        models=tuple(
            Model(code=f"m{n}", name=f"Model {n}", equipment=f"c{n % N_CLASSES}") for n in range(N_MODELS)
        ),
        symptoms=tuple(Symptom(code=f"s{n}", label=f"Symptom {n}") for n in range(N_SYMPTOMS)),
    )


def table(n_rows: int, seed: int = 7) -> DecisionTable:
    """Rows as people write them: a class and a symptom, now and then a model or how soon it is wanted."""
    rng = random.Random(seed)
    rows = []
    for n in range(n_rows):
        equipment = rng.randrange(N_CLASSES)
        cells = {
            "equipment": Cell(values=(f"c{equipment}" if rng.random() < 0.8 else f"g{equipment % 8}",)),
            "symptom": Cell(
                values=tuple(f"s{s}" for s in rng.sample(range(N_SYMPTOMS), rng.choice((1, 1, 2))))
            ),
        }
        if rng.random() < 0.3:
            own = [m for m in range(N_MODELS) if m % N_CLASSES == equipment]
            operator: CellOperator = "not" if rng.random() < 0.2 else "is"
            cells["model"] = Cell(operator=operator, values=(f"m{rng.choice(own)}",))
        if rng.random() < 0.1:
            cells["priority"] = Cell(operator="above", values=("This week",))
        rows.append(Row(id=f"r{n}", cells=cells, documents=(f"W{n % 300}",)))
    return DecisionTable(title="t", columns=COLUMNS, rows=tuple(rows))


def orders(n: int, seed: int = 11) -> list[OrderFacts]:
    """Orders of every kind."""
    rng = random.Random(seed)
    out = []
    for _ in range(n):
        model = rng.randrange(N_MODELS)
        out.append(
            OrderFacts(
                equipment=f"c{model % N_CLASSES}",
                model=f"m{model}",
                symptom=f"s{rng.randrange(N_SYMPTOMS)}",
                priority=rng.choice(("", "Can wait", "This week", "Today", "At once")),
                day=date(2026, 1, 1 + rng.randrange(28)),
            )
        )
    return out


def per_second(act: Callable[[], object], n: int) -> float:
    """How many of n go through in a second; the better of two runs."""
    best = 0.0
    for _ in range(2):
        start = time.perf_counter()
        act()
        best = max(best, n / (time.perf_counter() - start))
    return best


def plain(rows: DecisionTable, tree: EquipmentTree, facts: OrderFacts) -> list[str]:
    """Every cell of every row."""
    return [
        r.id
        for r in rows.rows
        if all(
            c.key not in r.cells or meets(r.cells[c.key], c, fact_of(facts, c), tree) for c in rows.columns
        )
    ]


def main() -> None:
    """Print two tables."""
    known = lists()
    tree = EquipmentTree.of(known.equipment)
    titles = {f"W{n}": f"Plan {n}" for n in range(300)}
    print()
    print(LINE.format("orders matched per second", "ours", "engine", "plain loop", "x engine"))
    for size in SIZES:
        rows = table(size)
        lookup = look_up([r.cells for r in rows.rows], rows.columns, tree)
        engine = engine_of(rows, tree)
        asked = orders(4_000)
        few = asked[: max(60, 40_000 // size)]
        inputs = [inputs_of(f, rows.columns) for f in few]
        for facts, given in zip(few, inputs, strict=True):
            ours = [rows.rows[n].id for n in lookup.rows(facts)]
            if ours != rows_of(engine, given):
                raise SystemExit(f"{size} rows: the engine finds other rows for {facts}.")
        mine = per_second(lambda: [lookup.rows(f) for f in asked], len(asked))  # noqa: B023
        theirs = per_second(lambda: [rows_of(engine, g) for g in inputs], len(few))  # noqa: B023
        looped = few[:60]
        slow = per_second(lambda: [plain(rows, tree, f) for f in looped], len(looped))  # noqa: B023
        what = f"rows found, {size:,} rows, {len(few):,} orders with equal results"
        print(LINE.format(what, f"{mine:,.0f}", f"{theirs:,.0f}", f"{slow:,.0f}", f"{mine / theirs:,.0f}x"))
    print()
    print(LINE.format("seconds", "ours", "", "", ""))
    for size in (500, 5_000):
        rows = table(size)
        guidance = guidance_of([("T", "A", rows)], (), lists=known, titles=titles)
        other = guidance_of([("T", "B", table(size, seed=8))], (), lists=known, titles=titles)
        domain = domain_of([r.cells for r in rows.rows], COLUMNS, known, guidance.naming)
        past = {f"O{n}": f for n, f in enumerate(orders(2_400))}
        for what, act in (
            ("make the lookup", lambda: look_up([r.cells for r in rows.rows], rows.columns, tree)),  # noqa: B023
            ("documents of 2,400 orders", lambda: [match_order(guidance, f) for f in past.values()]),  # noqa: B023
            ("gaps, weighed by 2,400 orders", lambda: find_gaps(guidance.rows, domain, past)),  # noqa: B023
            ("dead, idle and overlapping rows", lambda: row_findings(guidance.rows, domain)),  # noqa: B023
            ("coverage map", lambda: coverage_map(guidance.rows, domain, past.values(), "symptom")),  # noqa: B023
            ("who would notice, 2,400 orders", lambda: impact_of(guidance, other, past)),  # noqa: B023
        ):
            start = time.perf_counter()
            act()
            print(LINE.format(f"{what}, {size:,} rows", f"{time.perf_counter() - start:.2f}", "", "", ""))


if __name__ == "__main__":
    main()
