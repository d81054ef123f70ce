"""Gaps, overlaps and the coverage map, against counting every combination and against a solver."""

from __future__ import annotations

import itertools
import random
from datetime import date

import pytest
import z3
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.guidance.catalogue import Catalogue, EquipmentClass, Meter, Model, Symptom
from reedling.core.guidance.decision_tables import (
    Cell,
    Column,
    ColumnKind,
    DecisionTable,
    NeverTogether,
    Row,
)
from reedling.core.matching.applicability import Guidance, guidance_of, match_order
from reedling.core.matching.coverage import coverage_map
from reedling.core.matching.domain import Domain, Surroundings, domain_of
from reedling.core.matching.gaps import Box, BoxIndex, gaps_of, is_covered, meet, n_combinations
from reedling.core.matching.lookup import bits_of
from reedling.core.matching.order_facts import OrderFacts
from reedling.core.matching.table_checks import find_gaps, row_findings, says_what_to_do
from tests.examples import examples

SIZES = (3, 4, 2, 3)
WHOLE: Box = tuple((1 << n) - 1 for n in SIZES)
POINTS = list(itertools.product(*(range(n) for n in SIZES)))


def has(box: Box, point: tuple[int, ...]) -> bool:
    return all(mask >> p & 1 for mask, p in zip(box, point, strict=True))


boxes = st.lists(st.tuples(*(st.integers(1, (1 << n) - 1) for n in SIZES)), max_size=10)


@pytest.mark.slow
@settings(max_examples=examples(300), deadline=None)
@given(boxes)
def test_gaps_are_all_that_no_box_has_and_do_not_overlap(given_boxes: list[Box]) -> None:
    """Against counting: every one of the 72 combinations is in a box or in exactly one gap."""
    found = list(gaps_of(WHOLE, given_boxes).boxes())
    for point in POINTS:
        covered = any(has(b, point) for b in given_boxes)
        assert sum(has(g, point) for g in found) == (0 if covered else 1)
    assert is_covered(WHOLE, given_boxes) == (not found)
    diagram = gaps_of(WHOLE, given_boxes)
    for point in POINTS:
        assert diagram.box_of(point) == next((g for g in found if has(g, point)), None)
    assert sum(map(n_combinations, found)) == sum(not any(has(b, p) for b in given_boxes) for p in POINTS)


@settings(max_examples=examples(200), deadline=None)
@given(boxes, boxes)
def test_the_index_finds_the_boxes_that_meet_another(held: list[Box], asked: list[Box]) -> None:
    index = BoxIndex.of(held)
    for box in asked:
        met = [n for n, other in enumerate(held) if meet(other, box) is not None]
        assert list(bits_of(index.meeting(box))) == met


@settings(max_examples=examples(40), deadline=None)
@given(boxes)
def test_a_solver_finds_nothing_outside_the_boxes_and_gaps(given_boxes: list[Box]) -> None:
    """Z3 as a second way: with boxes and gaps both denied, no combination is left."""
    axes = [z3.Int(f"axis{i}") for i in range(len(SIZES))]

    def inside(box: Box) -> z3.BoolRef:
        return z3.And(
            *(
                z3.Or(*(axis == v for v in range(n) if mask >> v & 1))
                for axis, mask, n in zip(axes, box, SIZES, strict=True)
            )
        )

    solver = z3.Solver()
    for axis, n in zip(axes, SIZES, strict=True):
        solver.add(axis >= 0, axis < n)
    gaps = list(gaps_of(WHOLE, given_boxes).boxes())
    solver.push()
    solver.add(*(z3.Not(inside(b)) for b in (*given_boxes, *gaps)))
    assert solver.check() == z3.unsat
    solver.pop()
    for gap in gaps:
        solver.push()
        solver.add(inside(gap), z3.Or(*(inside(b) for b in given_boxes)))
        assert solver.check() == z3.unsat
        solver.pop()


def test_a_gap_is_told_by_as_few_axes_as_it_takes() -> None:
    """One box takes half of the first axis: the gap is the other half, whatever the rest is."""
    assert list(gaps_of((3, 15, 7), [(1, 15, 7)]).boxes()) == [(2, 15, 7)]


LISTS = Catalogue(
    equipment=(
        EquipmentClass(code="plant", name="Any plant"),
        EquipmentClass(code="rake", name="Rake", parent="plant"),
        EquipmentClass(code="pump", name="Pump", parent="plant"),
        EquipmentClass(code="gate", name="Gate", parent="plant"),
    ),
    models=(
        Model(code="WR2", name="WR 2", equipment="rake"),
        Model(code="WR3", name="WR 3", equipment="rake"),
        Model(code="HM", name="HM", equipment="pump"),
    ),
    symptoms=(
        Symptom(code="stalls", label="Stalls"),
        Symptom(code="trips", label="Trips"),
        Symptom(code="leaks", label="Leaks"),
    ),
    meters=(Meter(code="hours", name="Hours run"),),
)
KINDS: tuple[ColumnKind, ...] = ("equipment", "model", "symptom", "site tag", "day", "meter")
COLUMNS = tuple(Column(kind=k, meter="hours" if k == "meter" else "") for k in KINDS)
TITLES = {f"W{n}": f"Plan {n}" for n in range(10)}


def is_(*values: str) -> Cell:
    return Cell(values=values)


def made(
    *rows: tuple[dict[str, Cell], tuple[str, ...]], apart: tuple[NeverTogether, ...] = ()
) -> tuple[Guidance, Domain]:
    table = DecisionTable(
        title="t",
        columns=COLUMNS,
        rows=tuple(Row(id=f"r{n}", cells=c, documents=d) for n, (c, d) in enumerate(rows, 1)),
        never_together=apart,
    )
    guidance = guidance_of([("T", "A", table)], (), lists=LISTS, titles=TITLES)
    domain = domain_of(
        [c for c, _ in rows],
        COLUMNS,
        LISTS,
        guidance.naming,
        around=Surroundings(tag_sets=frozenset({("tidal",), ("tidal", "unlit")})),
    )
    return guidance, domain


def every_order(domain: Domain) -> list[OrderFacts]:
    """One order for each combination of the domain."""
    out = []
    for values in itertools.product(*(axis.values for axis in domain.axes)):
        facts = OrderFacts()
        for value in values:
            facts = value.put(facts)
        out.append(facts)
    return out


def random_rows(rng: random.Random) -> list[tuple[dict[str, Cell], tuple[str, ...]]]:
    choices = {
        "equipment": [is_("rake"), is_("plant"), Cell(operator="not", values=("rake",)), is_("pump", "gate")],
        "model": [is_("WR2"), Cell(operator="not", values=("WR3",)), is_("HM")],
        "symptom": [is_("stalls"), is_("trips", "leaks"), Cell(operator="not", values=("stalls",))],
        "site tag": [is_("tidal"), Cell(operator="not", values=("unlit",))],
        "day": [
            Cell(operator="between", values=("11-01", "02-28")),
            Cell(operator="above", values=("2026-06-01",)),
        ],
        "meter hours": [
            Cell(operator="above", values=(4000.0,)),
            Cell(operator="between", values=(1000.0, 4000.0)),
        ],
    }
    return [
        (
            {key: rng.choice(choices[key]) for key in rng.sample(list(choices), rng.randint(0, 3))},
            (f"W{rng.randint(1, 3)}",),
        )
        for _ in range(rng.randint(1, 8))
    ]


@pytest.mark.parametrize("seed", range(25))
def test_gaps_of_tables_are_the_orders_that_match_no_row(seed: int) -> None:
    """Against trying an order for every combination of a small domain."""
    guidance, domain = made(*random_rows(random.Random(seed)))
    speaking = [r for r in guidance.rows if says_what_to_do(r.row)]
    orders = {f"O{n}": facts for n, facts in enumerate(every_order(domain))}
    served = {
        o
        for o, facts in orders.items()
        if any(guidance.rows[n] in speaking for n in guidance.lookup.rows(facts))
    }
    gaps = find_gaps(guidance.rows, domain, orders)
    told = [o for gap in gaps.gaps for o in gap.orders]
    assert sorted(told) == sorted(set(orders) - served)
    assert sorted(o for cell in gaps.cells for o in cell.orders) == sorted(told)
    assert gaps.n_in_gaps == len(told)
    assert sum(g.n_combinations for g in gaps.gaps) == len(told)
    assert all(
        not (set(guidance.lookup.rows(g.witness)) & {guidance.rows.index(r) for r in speaking})
        for g in gaps.gaps
    )


@pytest.mark.parametrize("seed", range(25))
def test_findings_about_rows_hold_on_every_order(seed: int) -> None:
    """A dead row matches none of them, an idle one adds to none, an overlap's witness has both rows."""
    guidance, domain = made(*random_rows(random.Random(seed)))
    orders = every_order(domain)
    hits = [set(guidance.lookup.rows(facts)) for facts in orders]
    place = {r.words: n for n, r in enumerate(guidance.rows)}
    found = row_findings(guidance.rows, domain)
    dead = {f.rows[0] for f in found if f.kind == "dead"}
    assert dead == {words for words, n in place.items() if not any(n in hit for hit in hits)}
    for finding in found:
        rows = [place[r] for r in finding.rows]
        if finding.kind == "idle":
            assert all(rows[1] in hit for hit in hits if rows[0] in hit)
        if finding.kind == "overlap":
            assert finding.witness is not None
            assert set(rows) <= set(guidance.lookup.rows(finding.witness))
    pairs = {
        frozenset((a.words, b.words))
        for a, b in itertools.combinations(guidance.rows, 2)
        if says_what_to_do(a.row)
        and says_what_to_do(b.row)
        and a.row.documents != b.row.documents
        and any({place[a.words], place[b.words]} <= hit for hit in hits)
    }
    assert {frozenset(f.rows) for f in found if f.kind == "overlap"} == pairs


def test_rows_that_clash_are_told_with_an_order_that_is_refused() -> None:
    apart = (NeverTogether(first="W1", second="W2"),)
    guidance, domain = made(
        ({"equipment": is_("rake")}, ("W1",)),
        ({"symptom": is_("stalls")}, ("W2",)),
        apart=apart,
    )
    (clash,) = [f for f in row_findings(guidance.rows, domain, never_together=apart) if f.kind == "clash"]
    assert clash.sentence == ("T row 1 and T row 2 ask for W1 and W2, which never go together: rake, stalls.")
    assert clash.witness is not None
    assert match_order(guidance, clash.witness).refused


def test_a_row_that_is_always_refused_is_told_so() -> None:
    """Rows 2, 3 and 4 between them cover all that row 1 speaks for, and none goes with it."""
    apart = (NeverTogether(first="W1", second="W2"),)
    guidance, domain = made(
        ({"equipment": is_("rake"), "symptom": is_("stalls")}, ("W1",)),
        ({"model": is_("WR2")}, ("W2",)),
        ({"model": is_("WR3"), "symptom": is_("stalls", "leaks")}, ("W2",)),
        ({"symptom": is_("stalls")}, ("W2",)),
        apart=apart,
    )
    refused = [f for f in row_findings(guidance.rows, domain, never_together=apart) if f.kind == "refused"]
    assert next(f.sentence for f in refused) == (
        "T row 1 is refused on every order: T row 2 and T row 3 and T row 4 ask for what it never goes with."
    )


def test_a_model_of_another_class_makes_a_row_dead() -> None:
    guidance, domain = made(({"equipment": is_("pump"), "model": is_("WR3")}, ("W1",)))
    (dead,) = row_findings(guidance.rows, domain)
    assert dead.sentence == "T row 1 can never match: no pump is a model WR 3."


def test_the_map_tells_gap_part_one_and_several() -> None:
    guidance, domain = made(
        ({"equipment": is_("rake"), "model": is_("WR3"), "symptom": is_("stalls")}, ("W1",)),
        ({"equipment": is_("pump"), "symptom": is_("trips")}, ("W2",)),
        ({"equipment": is_("pump"), "symptom": is_("trips", "leaks")}, ("W3",)),
        ({}, ("W4",)),
    )
    orders = [OrderFacts(equipment="rake", model=m, symptom="stalls") for m in ("WR2", "WR2", "WR3")]
    found = coverage_map(guidance.rows, domain, orders, "symptom")
    cells = {(c.equipment, c.across): c for c in found.cells}
    assert {k: c.cover for k, c in cells.items() if c.cover != "gap"} == {
        ("rake", "stalls"): "part",
        ("pump", "trips"): "several",
        ("pump", "leaks"): "one",
    }
    stalls = cells["rake", "stalls"]
    assert (stalls.n_orders, stalls.n_unserved, stalls.rows) == (3, 2, ("T row 1",))
    assert found.equipment == ("rake", "pump", "gate")


def test_two_rows_that_never_meet_make_one_not_several() -> None:
    guidance, domain = made(
        ({"model": is_("WR2"), "symptom": is_("stalls")}, ("W1",)),
        ({"model": is_("WR3"), "symptom": is_("stalls")}, ("W2",)),
    )
    cells = coverage_map(guidance.rows, domain, [], "symptom").cells
    # An asset may have no model: it meets neither row, so that only part of the cell is served.
    assert next(c.cover for c in cells if (c.equipment, c.across) == ("rake", "stalls")) == "part"
    nameless = OrderFacts(equipment="rake", symptom="stalls")
    found = find_gaps(guidance.rows, domain, {"A": nameless})
    assert [g.orders for g in found.gaps if g.orders] == [("A",)]


def test_gaps_are_weighed_by_past_orders_and_say_where_they_are() -> None:
    guidance, domain = made(({"equipment": is_("rake"), "symptom": is_("stalls")}, ("W1",)))
    orders = {
        "A": OrderFacts(equipment="pump", model="HM", symptom="trips"),
        "B": OrderFacts(equipment="gate", symptom="leaks"),
        "C": OrderFacts(equipment="rake", model="WR2", symptom="stalls"),
    }
    gaps = find_gaps(guidance.rows, domain, orders)
    assert (gaps.n_orders, gaps.n_in_gaps) == (3, 2)
    assert [(c.sentence, c.orders) for c in gaps.cells] == [("gate, leaks", ("B",)), ("pump, trips", ("A",))]
    assert gaps.gaps[0].orders == ("A", "B")
    assert gaps.gaps[0].sentence == "pump or gate"
    assert gaps.gaps[1].sentence == "rake, trips or leaks"


def test_any_day_reading_or_customer_has_its_place_in_the_domain() -> None:
    """An order's own day is in the gap of its season, though the domain holds one day of each."""
    season = Cell(operator="between", values=("11-01", "02-28"))
    guidance, domain = made(
        ({"symptom": is_("stalls"), "day": season}, ("W1",)),
        ({"symptom": is_("trips"), "meter hours": Cell(operator="above", values=(4000.0,))}, ("W2",)),
    )
    place = domain.places()
    orders = {}
    for day in (date(2026, 8, 3), date(2026, 12, 24), date(2027, 2, 28), date(2024, 2, 29)):
        for hours in (-5.0, 3999.0, 4000.0, 4000.5, 80_000.0):
            for symptom in ("stalls", "trips"):
                facts = OrderFacts(
                    equipment="pump", model="HM", symptom=symptom, day=day, meters={"hours": hours}
                )
                assert None not in place(facts)
                orders[f"{day} {hours} {symptom}"] = facts
    gaps = find_gaps(guidance.rows, domain, orders)
    told = {o: gap.sentence for gap in gaps.gaps for o in gap.orders}
    assert set(told) == {o for o, f in orders.items() if not guidance.lookup.rows(f)}
    assert "outside 1 Nov to 28 Feb" in told["2026-08-03 3999.0 stalls"]
    assert "below 4000" in told["2026-08-03 3999.0 trips"]


def test_two_boxes_meet_where_all_axes_do() -> None:
    assert meet((3, 1), (2, 1)) == (2, 1)
    assert meet((1, 1), (2, 1)) is None
