"""Matching: which documents an order gets and, for every row, why or why not."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

from hypothesis import given
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
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import AppliesWhen
from reedling.core.matching.applicability import (
    Guidance,
    guidance_of,
    match_order,
    serving_rows,
    trace_rows,
)
from reedling.core.matching.lookup import look_up
from reedling.core.matching.order_facts import OrderFacts

LISTS = Catalogue(
    equipment=(
        EquipmentClass(code="plant", name="Any plant"),
        EquipmentClass(code="rake", name="Weed-screen rake", parent="plant"),
        EquipmentClass(code="pump", name="Pump", parent="plant"),
    ),
    models=(
        Model(code="WR2", name="WR 2", equipment="rake"),
        Model(code="WR3", name="WR 3", equipment="rake"),
    ),
    symptoms=(Symptom(code="stalls", label="Stalls"), Symptom(code="trips", label="Trips on overload")),
    meters=(Meter(code="hours", name="Hours run"),),
)
ORDER = OrderFacts(equipment="rake", model="WR2", symptom="stalls", day=date(2026, 9, 24))
TITLES = {
    "W1": "Rake stalls",
    "W2": "Prove dead",
    "W3": "Hose inspection",
    "W4": "Pump trips",
    "W5": "Leave it tidy",
    "F1": "Isolation form",
}
COLUMNS: tuple[ColumnKind, ...] = ("equipment", "model", "incident type", "symptom", "day")


def table(*rows: tuple[dict[str, Cell], tuple[str, ...]], **more: object) -> DecisionTable:
    return DecisionTable(
        title="When plans apply",
        columns=tuple(Column(kind=k) for k in COLUMNS),
        rows=tuple(Row(id=f"r{n}", cells=c, documents=d) for n, (c, d) in enumerate(rows, 1)),
        **more,  # type: ignore[arg-type]
    )


def is_(*values: str) -> Cell:
    return Cell(values=values)


WINTER = Cell(operator="between", values=("11-01", "02-28"))
TABLE = table(
    ({"equipment": is_("rake"), "symptom": is_("stalls")}, ("W1",)),
    ({"equipment": is_("plant")}, ("W2",)),
    ({"equipment": is_("rake"), "model": is_("WR3"), "symptom": is_("stalls")}, ("W3",)),
    ({"equipment": is_("pump"), "symptom": is_("trips")}, ("W4",)),
    ({"symptom": is_("stalls"), "day": WINTER}, ("W3",)),
    ({}, ("W5",)),
)


def guidance(
    *tables: DecisionTable,
    own: tuple[tuple[str, str, AppliesWhen], ...] = (),
    types: dict[str, IncidentType] | None = None,
    inside: dict[str, tuple[str, ...]] | None = None,
) -> Guidance:
    given = [(f"T{n}", "A", t) for n, t in enumerate(tables, 1)]
    return guidance_of(given, own, lists=LISTS, titles=TITLES, incident_types=types, parts_of=inside)


def documents(made: Guidance, facts: OrderFacts = ORDER) -> list[str]:
    return [t.document for t in match_order(made, facts).taken]


def test_every_row_that_matches_is_taken_in_the_order_of_the_rows() -> None:
    """DMN 1.3, 8.2.8: hit policy C, collect, gives the outputs of all rules that match."""
    assert documents(guidance(TABLE)) == ["W1", "W2", "W5"]


def test_a_class_takes_in_all_that_stand_below_it() -> None:
    pump = OrderFacts(equipment="pump", symptom="trips", day=ORDER.day)
    assert documents(guidance(TABLE), pump) == ["W2", "W4", "W5"]


def test_near_misses_come_before_far_ones_each_with_its_reason() -> None:
    told = [(t.number, t.misses, t.sentence) for t in trace_rows(guidance(TABLE), ORDER)]
    assert told == [
        (1, 0, "It applies: equipment weed-screen rake, symptom stalls."),
        (2, 0, "It applies: equipment weed-screen rake."),
        (6, 0, "It applies: it is for every order."),
        (3, 1, "One cell away: model is WR 2, the row wants WR 3."),
        (5, 1, "One cell away: day is 24 Sep 2026, the row wants 1 Nov to 28 Feb."),
        (
            4,
            2,
            "2 cells away: equipment is weed-screen rake, the row wants pump; "
            "symptom is stalls, the row wants trips on overload.",
        ),
    ]


def test_of_many_rows_that_missed_only_the_nearest_are_told() -> None:
    assert [t.number for t in trace_rows(guidance(TABLE), ORDER, keep=1)] == [1, 2, 6, 3]


def test_what_is_not_known_meets_only_any_not_even_not() -> None:
    not_wr3 = table(({"model": Cell(operator="not", values=("WR3",))}, ("W1",)))
    assert documents(guidance(not_wr3)) == ["W1"]
    assert documents(guidance(not_wr3), OrderFacts(equipment="rake", symptom="stalls")) == []


def test_a_document_asked_for_twice_is_taken_once_and_says_by_whom() -> None:
    made = guidance(TABLE, table(({}, ("W1",))))
    match = match_order(made, ORDER)
    assert [t.document for t in match.taken].count("W1") == 1
    assert match.notes == ("Rake stalls was asked for 2 times, by T1 row 1 and T2 row 1, and is done once.",)


def test_a_form_that_is_inside_a_plan_taken_is_not_filled_in_a_second_time() -> None:
    made = guidance(table(({}, ("F1", "W1"))), inside={"W1": ("F1",)})
    match = match_order(made, ORDER)
    assert [t.document for t in match.taken] == ["W1"]
    assert match.notes == ("Isolation form is part of Rake stalls and is done once.",)


def test_two_that_never_go_together_are_refused_with_both_rows() -> None:
    apart = table(
        ({"equipment": is_("rake")}, ("W1",)),
        ({"symptom": is_("stalls")}, ("W3",)),
        never_together=(NeverTogether(first="W1", second="W3", why="both strip the drive"),),
    )
    match = match_order(guidance(apart), ORDER)
    assert [r.sentence for r in match.refused] == [
        "Rake stalls (T1 row 1) and Hose inspection (T1 row 2) never go together: both strip the drive."
    ]
    assert match_order(guidance(apart), ORDER, without=("W3",)).refused == ()


def test_what_a_plan_says_of_itself_is_a_row_too() -> None:
    made = guidance(own=(("W1", "B", AppliesWhen(equipment="rake", models=("WR2",))),))
    (trace,) = trace_rows(made, ORDER)
    assert (trace.table, trace.number, trace.matched) == ("W1", 0, True)
    (missed,) = trace_rows(made, OrderFacts(equipment="rake", model="WR3"))
    assert missed.sentence == "One cell away: model is WR 3, the plan wants WR 2."


def test_a_plan_that_says_nothing_of_itself_goes_on_no_order_by_itself() -> None:
    assert documents(guidance(own=(("W1", "A", AppliesWhen()),))) == []


TYPES = {
    "I1": IncidentType(title="Rake stalls under load", plans=("W1", "W2"), forms=("F1",)),
    "I2": IncidentType(title="Anything", plans=("W5",)),
}


def test_the_incident_type_is_the_one_whose_rows_ask_most() -> None:
    assert match_order(guidance(TABLE, types=TYPES), ORDER).incident_type == "I1"


def test_a_row_may_name_the_incident_type_and_rows_may_ask_for_it() -> None:
    """What an incident type brings by itself comes behind the rows; what rows name is left to them."""
    named = table(
        ({"symptom": is_("stalls")}, ("I1",)),
        ({"incident type": is_("I1")}, ("W4",)),
        ({"symptom": is_("trips")}, ("W2",)),
    )
    match = match_order(guidance(named, types=TYPES), ORDER)
    assert match.incident_type == "I1"
    assert [t.document for t in match.taken] == ["W4", "W1", "F1"]
    assert match.taken[1].because == ("it comes with I1",)


def test_an_incident_type_that_somebody_chose_stands() -> None:
    chosen = OrderFacts(equipment="pump", symptom="trips", incident_type="I2")
    match = match_order(guidance(TABLE, types=TYPES), chosen)
    assert match.incident_type == "I2"


def test_ties_between_incident_types_go_to_the_first_identity() -> None:
    twins = {"I9": TYPES["I1"], "I1": TYPES["I1"]}
    assert match_order(guidance(TABLE, types=twins), ORDER).incident_type == "I1"


def test_a_document_that_is_not_in_force_is_not_put_on_an_order() -> None:
    assert documents(guidance(table(({}, ("W99", "W5"))))) == ["W5"]


def test_never_together_holds_for_what_is_inside_another_document() -> None:
    """A form inside a plan, and a plan beside it; or two forms inside two plans."""
    apart = (NeverTogether(first="F1", second="W2", why="One lock only"),)
    rows = (({"symptom": is_("stalls")}, ("W1",)), ({"symptom": is_("stalls")}, ("W2",)))
    made = guidance(table(*rows, never_together=apart), inside={"W1": ("F1",)})
    (refused,) = match_order(made, ORDER).refused
    assert refused.sentence == (
        "Isolation form (part of Rake stalls) and Prove dead (T1 row 2) never go together: One lock only."
    )
    both = guidance(
        table(*rows, never_together=(NeverTogether(first="F1", second="W5"),)),
        inside={"W1": ("F1",), "W2": ("W5",)},
    )
    assert len(match_order(both, ORDER).refused) == 1
    assert match_order(both, ORDER, without=("W2",)).refused == ()


def test_a_row_serves_when_it_puts_something_in_force_on_an_order() -> None:
    """Over every row of a table against what an order that only it speaks for really gets."""
    types = {
        "IT1": IncidentType(title="One", plans=("W5",)),
        "IT2": IncidentType(title="Two", plans=("GONE",)),
        "IT3": IncidentType(title="Three", plans=("W1",)),
    }
    rows = [
        ({"symptom": is_("stalls")}, ("W1",)),
        ({"symptom": is_("stalls")}, ("GONE",)),
        ({"symptom": is_("stalls")}, ("GONE", "W2")),
        ({"symptom": is_("stalls")}, ("IT1",)),
        ({"symptom": is_("stalls")}, ("IT2",)),
        ({"symptom": is_("stalls")}, ()),
    ]
    for row in rows:
        made = guidance(table(row), types=types)
        serves = any(r.table == "T1" for r in serving_rows(made))
        assert serves == bool(match_order(made, ORDER).taken), row
    made = guidance(table(*rows), types=types)
    by_itself = {r.table for r in serving_rows(made)} - {"T1"}
    assert by_itself == {"IT1"}
    assert match_order(made, OrderFacts(equipment="pump", incident_type="IT1")).taken != ()
    assert match_order(made, OrderFacts(equipment="pump", incident_type="IT3")).taken == ()


def test_a_row_that_names_an_incident_type_serves_by_the_rows_that_ask_for_it() -> None:
    types = {"IT3": IncidentType(title="Three", plans=("W1",))}
    rows = (({"symptom": is_("stalls")}, ("IT3",)), ({"incident type": is_("IT3")}, ("W1",)))
    made = guidance(table(*rows), types=types)
    assert [t.document for t in match_order(made, ORDER).taken] == ["W1"]
    assert [r.number for r in serving_rows(made)] == [1, 2]
    gone = guidance(
        table(rows[0], ({"incident type": is_("IT3")}, ("GONE",))),
        types=types | {"IT3": IncidentType(title="Three", plans=("GONE",))},
    )
    assert match_order(gone, ORDER).taken == ()
    assert serving_rows(gone) == ()


CELLS = st.fixed_dictionaries(
    {},
    optional={
        "equipment": st.sampled_from([is_("rake"), is_("pump"), is_("plant")]),
        "model": st.sampled_from([is_("WR2"), is_("WR2", "WR3")]),
        "incident type": st.sampled_from([is_("IT1"), is_("IT2")]),
        "symptom": st.sampled_from([is_("stalls"), is_("trips")]),
    },
)


@given(
    st.lists(
        st.tuples(CELLS, st.lists(st.sampled_from(["W1", "W2", "GONE"]), max_size=2).map(tuple)), max_size=5
    ),
    st.lists(st.sampled_from(["W1", "W5", "GONE"]), max_size=2).map(tuple),
    st.lists(st.sampled_from(["W2", "W4", "GONE"]), max_size=2).map(tuple),
)
def test_what_counts_as_served_is_what_an_order_really_gets(
    rows: list[tuple[dict[str, Cell], tuple[str, ...]]], first: tuple[str, ...], second: tuple[str, ...]
) -> None:
    """Every order there can be, of a type or of none, against what matching puts on it."""
    types = {"IT1": IncidentType(title="1", plans=first), "IT2": IncidentType(title="2", plans=second)}
    made = guidance(table(*rows), types=types)
    serving = serving_rows(made)
    columns = dict.fromkeys(c for r in serving for c in r.columns)
    lookup = look_up([r.row.cells for r in serving], columns, made.tree)
    for equipment, model in (("rake", "WR2"), ("rake", "WR3"), ("rake", ""), ("pump", ""), ("plant", "")):
        for symptom in ("stalls", "trips"):
            for incident_type in ("", "IT1", "IT2"):
                order = OrderFacts(
                    equipment=equipment, model=model, symptom=symptom, incident_type=incident_type
                )
                # Without a type of its own an order takes the one that its rows speak for.
                chosen = match_order(made, order).incident_type or ""
                typed = replace(order, incident_type=chosen)
                assert bool(lookup.mask(typed)) == bool(match_order(made, order).taken)
