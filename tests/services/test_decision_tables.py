"""Decision tables as documents: written like a sheet, released, and deciding what orders get."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from reedling.core.guidance.catalogue import Contract, EquipmentClass, Holding, Part
from reedling.core.guidance.decision_tables import Column
from reedling.core.guidance.incident_types import Charges
from reedling.core.guidance.plans import AppliesWhen, Step
from reedling.core.guidance.questions import Tick
from reedling.core.matching.table_editing import AddColumn, AddRow, SetTexts
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.exchange.content import dump_value
from reedling.services.actions.catalogue import put_entry, remove_entry
from reedling.services.actions.documents import begin_draft, create_document, create_incident_type
from reedling.services.actions.drafts import discard_draft, edit_table_draft, patch_draft
from reedling.services.actions.orders import log_order, plan_visit
from reedling.services.actions.orders_by_hand import change_order
from reedling.services.actions.releases import release, send_for_review, withdraw
from reedling.services.context import Context
from reedling.services.shared.lists import EntryUses
from reedling.services.shared.matched import OrderToMatch
from reedling.services.shared.patches import Patch
from reedling.services.views.comparisons import compare_revisions
from reedling.services.views.coverage import coverage, map_cell, who_would_notice
from reedling.services.views.crew import crew_page
from reedling.services.views.documents import plan_document
from reedling.services.views.kits import kit_page
from reedling.services.views.lists import list_page
from reedling.services.views.orders import order_page
from reedling.services.views.shelf import incident_type_page
from reedling.services.views.tables import table_document, table_findings, tables
from reedling.services.views.trying import try_again, try_order
from tests.conftest import INES, MAREK, NOON, ODA, PIA, FakeClock
from tests.lists import LISTS

STALLS = OrderToMatch(asset="AS-1", symptom="stalls")


def write(context: Context, table: str, *lines: tuple[str, ...], row: str = "") -> None:
    """Type lines of cells below the last row, or from a row on."""
    etag = table_document(context, table).etag
    edit_table_draft(context, INES, table, SetTexts(row=row, column=0, texts=lines), etag)


def put_in_force(context: Context, document: str) -> None:
    send_for_review(context, INES, document, "")
    release(context, ODA, document)


def plan_in_force(context: Context, title: str) -> str:
    """A plan of one step that says nothing of itself."""
    document = create_document(context, INES, "plan", title)
    step = Step(id="only", phase="Leave", text=title, questions=(Tick(id="done"),))
    patch = [{"op": "add", "path": "/steps", "value": [dump_value(step)]}]
    patch_draft(context, INES, document, patch, plan_document(context, document).etag)
    put_in_force(context, document)
    return document


@pytest.fixture
def plans(context: Context) -> tuple[str, str]:
    return plan_in_force(context, "Lock the drive"), plan_in_force(context, "Sweep the site")


@pytest.fixture
def table(context: Context, plans: tuple[str, str]) -> str:
    made = create_document(context, INES, "decision table", "When plans apply")
    write(context, made, ("rake", "any", "stalls", plans[0]), ("", "", "", plans[1]))
    put_in_force(context, made)
    return made


def taken(context: Context, asked: OrderToMatch = STALLS, **more: str) -> list[str]:
    return [t.title for t in try_order(context, asked, **more).match.taken]


def test_a_table_is_written_sent_and_released_and_then_decides(context: Context, table: str) -> None:
    assert taken(context) == ["Lock the drive", "Sweep the site"]
    assert taken(context, OrderToMatch(asset="AS-1", symptom="leaks")) == ["Sweep the site"]
    (line,) = tables(context)
    assert (line.link.document, line.n_rows, line.in_force) == (table, 2, "A")


def test_a_draft_decides_nothing_but_can_be_tried(
    context: Context, table: str, plans: tuple[str, str]
) -> None:
    begin_draft(context, INES, table)
    first = table_document(context, table).rows[0].id
    write(context, table, ("rake", "WR 2", "leaks", plans[0]), row=first)
    assert taken(context) == ["Lock the drive", "Sweep the site"]
    assert taken(context, draft=table) == ["Sweep the site"]


def test_two_editors_do_not_overwrite_each_other(context: Context, table: str) -> None:
    begin_draft(context, INES, table)
    etag = table_document(context, table).etag
    edit_table_draft(context, PIA, table, AddRow(), etag)
    with pytest.raises(Conflict, match="Pia Sandoval saved meanwhile: added “row 3”"):
        edit_table_draft(context, INES, table, AddRow(), etag)
    assert len(table_document(context, table).rows) == 3


def test_an_edit_comes_with_the_patch_that_takes_it_back(context: Context, table: str) -> None:
    begin_draft(context, INES, table)
    before = table_document(context, table)
    column = AddColumn(column=Column(kind="meter", meter="hours"))
    saved = edit_table_draft(context, INES, table, column, before.etag)
    assert saved.table is not None
    assert saved.summary == "changed columns of the whole"
    undone = patch_draft(context, INES, table, saved.inverse, saved.table.etag)
    assert undone.table is not None
    assert undone.table.columns == before.columns


def test_a_row_that_names_a_withdrawn_document_keeps_the_table_from_review(
    context: Context, table: str, plans: tuple[str, str]
) -> None:
    with pytest.raises(Conflict, match=f"{table} in force refers to it"):
        withdraw(context, ODA, plans[0], "It hurts people.")
    begin_draft(context, INES, table)
    first = table_document(context, table).rows[0].id
    write(context, table, ("rake", "", "stalls", plans[1]), row=first)
    put_in_force(context, table)
    begin_draft(context, INES, table)
    write(context, table, ("rake", "", "leaks", plans[0]))
    withdraw(context, ODA, plans[0], "It hurts people.")
    with pytest.raises(InvalidInput, match=f"“{plans[0]}” is not a document here"):
        write(context, table, ("rake", "", "leaks", plans[0]))
    with pytest.raises(InvalidInput) as refused:
        send_for_review(context, INES, table, "")
    assert [(p.code, p.message) for p in refused.value.problems] == [
        ("tables.withdrawn", f"Row 3 names {plans[0]}, which is withdrawn.")
    ]


def test_a_ring_of_what_comes_after_what_is_told_across_tables(
    context: Context, table: str, plans: tuple[str, str]
) -> None:
    begin_draft(context, INES, table)
    first, second = plans
    etag = table_document(context, table).etag
    after = [{"document": first, "earlier": second}]
    patch_draft(context, INES, table, [{"op": "add", "path": "/after", "value": after}], etag)
    put_in_force(context, table)
    other = create_document(context, INES, "decision table", "More")
    after = [{"document": second, "earlier": first}]
    etag = table_document(context, other).etag
    saved = patch_draft(context, INES, other, [{"op": "add", "path": "/after", "value": after}], etag)
    assert saved.table is not None
    told = [p.problem for p in table_findings(context, other).problems]
    assert [p.message for p in told if p.code == "tables.ring"] == [
        f"What comes after what goes round in a ring: {second} after {first} after {second}."
    ] or [p.message for p in told if p.code == "tables.ring"] == [
        f"What comes after what goes round in a ring: {first} after {second} after {first}."
    ]


def test_who_would_notice_a_change_by_what_changes(
    context: Context, table: str, plans: tuple[str, str], clock: FakeClock
) -> None:
    past = [log_order(context, MAREK, STALLS, "").id for _ in range(3)]
    other = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="leaks"), "").id
    begin_draft(context, INES, table)
    assert who_would_notice(context, table).n_changed == 0
    first = table_document(context, table).rows[0].id
    write(context, table, ("rake", "any", "leaks", plans[0]), row=first)
    noticed = who_would_notice(context, table)
    assert (noticed.n_changed, noticed.n_orders, noticed.n_open_changed) == (4, 4, 4)
    assert [(g.change.sentence, [o.order for o in g.orders]) for g in noticed.groups] == [
        ("would no longer get Lock the drive", list(reversed(past))),
        ("would get Lock the drive", [other]),
    ]


def test_an_order_that_came_in_is_tried_on_what_was_known_then(
    context: Context, table: str, clock: FakeClock
) -> None:
    order = log_order(context, MAREK, replace(STALLS, priority="Today"), "").id
    clock.forward(days=200)
    again = try_again(context, order)
    assert again.facts.day == NOON.date()
    assert again.facts.priority == "Today"
    with pytest.raises(NotFound):
        try_again(context, "WO-9999")


def test_pairs_that_never_go_together_stop_the_order_until_one_is_left_out(
    context: Context, table: str, plans: tuple[str, str]
) -> None:
    begin_draft(context, INES, table)
    pair = [{"first": plans[0], "second": plans[1], "why": "the lock is in the way"}]
    etag = table_document(context, table).etag
    patch_draft(context, INES, table, [{"op": "add", "path": "/never_together", "value": pair}], etag)
    put_in_force(context, table)
    with pytest.raises(Conflict) as refused:
        log_order(context, MAREK, STALLS, "")
    assert refused.value.message == (
        f"Lock the drive ({table} row 1) and Sweep the site ({table} row 2) never go together: "
        "the lock is in the way."
    )
    order = log_order(context, MAREK, replace(STALLS, without=(plans[1],)), "")
    assert [s.title for s in order.runsheet.sources] == ["Lock the drive"]
    found = coverage(context, "symptom")
    assert [f.kind for f in found.findings] == ["refused"]


def test_the_map_counts_orders_and_opens_to_them(context: Context, table: str) -> None:
    stalled = log_order(context, MAREK, STALLS, "").id
    leaked = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="leaks"), "").id
    found = coverage(context, "symptom")
    cells = {(c.equipment, c.across): c for c in found.map.cells}
    assert (cells["rake", "stalls"].cover, cells["rake", "stalls"].n_orders) == ("one", 1)
    assert (cells["rake", "leaks"].cover, cells["rake", "leaks"].n_unserved) == ("gap", 1)
    assert [(g.sentence, g.orders) for g in found.gaps.cells] == [("leaks", (leaked,))]
    page = map_cell(context, "rake", "symptom", "stalls")
    assert [o.order for o in page.orders] == [stalled]
    assert [(r.table, r.number) for r in page.rows] == [(table, 1)]


def test_a_plan_is_added_and_taken_off_by_hand_and_counted(
    context: Context, table: str, plans: tuple[str, str]
) -> None:
    extra = plan_in_force(context, "Measure the gap")
    order = log_order(context, MAREK, STALLS, "").id
    with pytest.raises(InvalidInput, match="say why it is added"):
        change_order(context, MAREK, order, "added", extra, " ")
    change_order(context, MAREK, order, "added", extra, "The keeper asked for it.")
    change_order(context, MAREK, order, "removed", plans[1], "It was swept this morning.")
    page = order_page(context, order)
    assert [d.title for d in page.documents] == ["Lock the drive", "Measure the gap"]
    assert [(c.act, c.title, c.reason, c.person_name) for c in page.by_hand] == [
        ("added", "Measure the gap", "The keeper asked for it.", "Marek Tilse"),
        ("removed", "Sweep the site", "It was swept this morning.", "Marek Tilse"),
    ]
    signs = coverage(context, "symptom").by_hand
    assert {(s.act, s.title, s.equipment, s.symptom, s.n_of) for s in signs} == {
        ("added", "Measure the gap", "rake", "stalls", 1),
        ("removed", "Sweep the site", "rake", "stalls", 1),
    }
    with pytest.raises(Conflict, match="is on it already"):
        change_order(context, MAREK, order, "added", extra, "Again.")
    with pytest.raises(Conflict, match="is not on it"):
        change_order(context, MAREK, order, "removed", plans[1], "Again.")
    with pytest.raises(NotFound, match="no plan, form or standard step WP-999 is in force"):
        change_order(context, MAREK, order, "added", "WP-999", "Try.")


def test_what_was_issued_keeps_its_revision_when_something_is_added_by_hand(
    context: Context, table: str, plans: tuple[str, str]
) -> None:
    order = log_order(context, MAREK, STALLS, "").id
    extra = plan_in_force(context, "Measure the gap")
    begin_draft(context, INES, plans[0])
    etag = plan_document(context, plans[0]).etag
    patch_draft(context, INES, plans[0], [{"op": "replace", "path": "/title", "value": "Lock it"}], etag)
    put_in_force(context, plans[0])
    change_order(context, MAREK, order, "added", extra, "Asked for.")
    assert [(d.title, d.revision) for d in order_page(context, order).documents] == [
        ("Lock the drive", "A"),
        ("Sweep the site", "A"),
        ("Measure the gap", "A"),
    ]


def test_an_incident_type_is_taken_over_once_and_left_alone_after(
    context: Context, plans: tuple[str, str]
) -> None:
    incident = create_incident_type(context, INES, "Rake stalls", "rake")
    page = incident_type_page(context, incident)
    plan = page.plans[0].document
    first: Patch = [
        {"op": "add", "path": "/plans", "value": [plans[0]]},
        {"op": "add", "path": "/charges", "value": {"labour_per_hour": 50, "fixed": 20, "currency": "EUR"}},
        {"op": "add", "path": "/expected_minutes", "value": 75},
        {"op": "add", "path": "/skills", "value": [{"skill": "permit", "level": "Solo"}]},
    ]
    saved = patch_draft(context, INES, incident, first, page.incident_type.etag)
    assert saved.incident_type is not None
    assert saved.incident_type.problems == ()
    discard_draft(context, INES, plan, page.plans[0].etag)
    put_in_force(context, incident)
    table = create_document(context, INES, "decision table", "Types")
    write(context, table, ("rake", "", "stalls", incident))
    put_in_force(context, table)
    order = log_order(context, MAREK, STALLS, "")
    assert order.incident_type == incident
    assert [s.title for s in order.runsheet.sources] == ["Lock the drive"]
    assert order.terms.charges == Charges(labour_per_hour=50, fixed=20, currency="EUR")
    begin_draft(context, INES, incident)
    etag = incident_type_page(context, incident).incident_type.etag
    patch_draft(context, INES, incident, [{"op": "add", "path": "/expected_minutes", "value": 300}], etag)
    put_in_force(context, incident)
    assert order_page(context, order.id).line.planned_minutes == 75
    assert log_order(context, MAREK, STALLS, "").terms.expected_minutes == 300


def test_an_incident_type_that_somebody_names_brings_its_plans(
    context: Context, plans: tuple[str, str]
) -> None:
    with pytest.raises(InvalidInput, match="no incident type IT-9 is in force"):
        try_order(context, replace(STALLS, incident_type="IT-9"))
    with pytest.raises(InvalidInput, match="there is no priority Soonish"):
        try_order(context, replace(STALLS, priority="Soonish"))


def test_what_an_incident_type_takes_over_is_checked(context: Context) -> None:
    incident = create_incident_type(context, INES, "Rake stalls", "rake")
    page = incident_type_page(context, incident)
    wrong: Patch = [
        {"op": "add", "path": "/forms", "value": ["FM-9"]},
        {"op": "add", "path": "/category", "value": "none such"},
        {"op": "add", "path": "/charges", "value": {"labour_per_hour": -1, "fixed": 0, "currency": ""}},
        {"op": "add", "path": "/expected_minutes", "value": 0},
        {"op": "add", "path": "/skills", "value": [{"skill": "flying", "level": "Solo"}]},
        {"op": "add", "path": "/parts", "value": [{"part": "WINGS", "quantity": 1, "condition": None}]},
    ]
    saved = patch_draft(context, INES, incident, wrong, page.incident_type.etag)
    assert saved.incident_type is not None
    assert {p.code for p in saved.incident_type.problems} == {
        "incident_types.form",
        "incident_types.category",
        "incident_types.amount",
        "incident_types.skill",
        "incident_types.part",
    }


def test_revisions_of_a_table_compare_row_by_row(
    context: Context, table: str, plans: tuple[str, str]
) -> None:
    begin_draft(context, INES, table)
    first = table_document(context, table).rows[0].id
    write(context, table, ("rake", "WR 2", "stalls", plans[0]), row=first)
    write(context, table, ("rake", "", "leaks", plans[0]))
    told = compare_revisions(context, table, "A", "B").differences
    assert [(d.change, d.title, d.aspect, d.before, d.after) for d in told] == [
        ("changed", "row 1", "model", "any", "WR 2"),
        ("added", "row 3", "", "", f"equipment rake, symptom leaks: {plans[0]}"),
    ]


def roster(context: Context, *held: Holding) -> None:
    with context.store.writing() as unit:
        unit.catalogues.replace(replace(unit.catalogues.get(), roster=held))


def test_the_cover_of_a_document_asks_all_it_always_takes(context: Context) -> None:
    from tests.plans import rake_plan

    document = create_document(context, INES, "plan", "Rake stalls")
    from reedling.exchange.content import dump_value

    etag = plan_document(context, document).etag
    plan = dump_value(replace(rake_plan(), applies_when=AppliesWhen()))
    patch_draft(context, INES, document, [{"op": "replace", "path": "", "value": plan}], etag)
    roster(
        context,
        Holding(
            technician="Runa Ashdown",
            district="North Carrs",
            skill="permit",
            level="Solo",
            expires_on=date(2026, 7, 31),
        ),
    )
    page = crew_page(context, document, on=date(2026, 8, 1))
    assert [(n.skill, n.level) for n in page.crew.needs] == [("permit", "Solo")]
    assert [s.need.skill for s in page.sometimes] == ["hydraulics"]
    able = {d.district: (d.today, d.later) for d in page.crew.districts}
    assert able["North Carrs"] == (("Runa Ashdown",), ())
    assert not any(d.today for d in crew_page(context, document, with_branches=True).crew.districts)
    told = {d.problem.code: d.problem.message for d in plan_document(context, document).defects}
    assert told["crew.runs_out"] == (
        "After 31 Jul 2026 nobody can carry it out: then the last certificate runs out, permit of Runa Ashdown."
    )
    with pytest.raises(NotFound, match="asks for no skill"):
        crew_page(context, create_document(context, INES, "decision table", "T"))


def test_a_kit_rests_on_the_author_until_there_are_jobs(context: Context) -> None:
    incident = create_incident_type(context, INES, "Rake stalls", "rake")
    etag = incident_type_page(context, incident).incident_type.etag
    parts = [{"part": "RV-SEAT", "quantity": 2, "condition": None}]
    patch_draft(context, INES, incident, [{"op": "add", "path": "/parts", "value": parts}], etag)
    lists = list_page(context, "tools")
    put_entry(context, INES, "tools", None, {"code": "SLING", "name": "Sling"}, lists.etag)
    etag = incident_type_page(context, incident).incident_type.etag
    tools = [{"tool": "SLING", "quantity": 2}]
    patch_draft(context, INES, incident, [{"op": "add", "path": "/tools", "value": tools}], etag)
    page = kit_page(context, incident, 0.8)
    assert [(t.tool, t.quantity, t.chance, t.in_kit) for t in page.tools] == [("SLING", 2, 1.0, True)]
    assert "2 × Sling" in page.carry
    assert (page.kit.basis, page.kit.n_jobs) == ("author's figures", 0)
    assert [(p.part, p.quantity, p.share) for p in page.kit.parts] == [("RV-SEAT", 2, 1.0)]
    assert [(p.part, p.chance, p.taken.n_total) for p in page.parts] == [("RV-SEAT", 1.0, 0)]


def test_a_loop_in_the_tree_is_refused_and_named(context: Context) -> None:
    page = list_page(context, "equipment")
    entry = {"code": "plant", "name": "Any plant", "parent": "rake"}
    with pytest.raises(InvalidInput) as refused:
        put_entry(context, INES, "equipment", "plant", entry, page.etag)
    assert (
        refused.value.message == ("The equipment tree has a loop: Any plant below Rake below Any plant.")
        or refused.value.message == "The equipment tree has a loop: Rake below Any plant below Rake."
    )
    assert list_page(context, "equipment") == page


def test_an_entry_in_use_is_neither_renamed_nor_removed(context: Context, table: str) -> None:
    page = list_page(context, "symptoms")
    assert page.used == {"stalls": EntryUses(total=1, words=f"{table} A")}
    with pytest.raises(Conflict, match=f"stalls cannot be removed: {table} A refers to it"):
        remove_entry(context, INES, "symptoms", "stalls", page.etag)
    with pytest.raises(Conflict, match="stalls cannot be changed"):
        put_entry(context, INES, "symptoms", "stalls", {"code": "jams", "label": "Jams"}, page.etag)
    renamed = put_entry(context, INES, "symptoms", "stalls", {"code": "stalls", "label": "Jams"}, page.etag)
    assert [e["label"] for e in renamed.entries] == ["Jams", "Leaks"]
    assert [e["code"] for e in remove_entry(context, INES, "symptoms", "leaks", renamed.etag).entries] == [
        "stalls"
    ]


def test_a_list_somebody_changed_meanwhile_is_not_overwritten(context: Context) -> None:
    page = list_page(context, "parts")
    put_entry(context, INES, "parts", None, {"code": "OIL", "name": "Oil", "unit": "l"}, page.etag)
    with pytest.raises(Conflict, match="somebody changed this list since you read it"):
        put_entry(context, INES, "parts", None, {"code": "OIL-2", "name": "Oil"}, page.etag)


@pytest.mark.parametrize(
    ("name", "entry", "sentence"),
    [
        ("models", {"code": "X", "name": "X", "equipment": "gone"}, "There is no equipment class gone."),
        ("parts", {"code": "RV-SEAT", "name": "Again"}, "RV-SEAT stands 2 times."),
        ("parts", {"code": "P", "name": "P", "substitutes": ["P"]}, "P cannot stand in for itself."),
        ("contracts", {"code": " ", "name": "None"}, "An entry has no code."),
        (
            "van_stock",
            {"technician": "Runa", "part": "RV-SEAT", "quantity": -1},
            "A quantity is a number from 0 up.",
        ),
        (
            "van_stock",
            {"technician": "Runa", "part": "RV-SEAT", "quantity": float("nan")},
            "A quantity is a number from 0 up.",
        ),
        ("van_tools", {"technician": "Runa", "tool": "gone"}, "There is no tool gone."),
        (
            "roster",
            {"technician": "R", "district": "N", "skill": "x", "level": "Solo"},
            "There is no skill x.",
        ),
    ],
)
def test_an_entry_that_cannot_be_is_refused_with_its_reason(
    context: Context, name: str, entry: dict[str, object], sentence: str
) -> None:
    page = list_page(context, name)  # type: ignore[arg-type]
    with pytest.raises(InvalidInput) as refused:
        put_entry(context, INES, name, None, entry, page.etag)  # type: ignore[arg-type]
    assert refused.value.message == sentence


def test_a_step_planned_visit_still_takes_changes_by_hand_but_begun_work_does_not(
    context: Context, table: str, plans: tuple[str, str]
) -> None:
    order = log_order(context, MAREK, STALLS, "").id
    plan_visit(context, MAREK, order, "runa", NOON)
    change_order(context, MAREK, order, "removed", plans[1], "Not needed.")
    from reedling.core.runsheet.events import HeadedOut
    from reedling.services.actions.submissions import submit_events
    from tests.conftest import RUNA

    submission = "7f0f4a3e-5a0e-4a5e-9d53-5b1f6c6f0001"
    submit_events(context, RUNA, order, submission, [HeadedOut(at=NOON)])
    with pytest.raises(Conflict, match="a runsheet does not change once work has begun"):
        change_order(context, MAREK, order, "added", plans[1], "After all.")


def test_the_lists_of_tests_hold_nothing_that_is_refused() -> None:
    from reedling.core.guidance.catalogue_soundness import catalogue_problems

    assert catalogue_problems(LISTS) == ()
    twice = replace(LISTS, contracts=(Contract(code="a", name="A"), Contract(code="a", name="B")))
    assert [p.code for p in catalogue_problems(twice)] == ["catalogue.code"]
    loose = replace(LISTS, equipment=(*LISTS.equipment, EquipmentClass(code="x", name="X", parent="y")))
    assert [p.code for p in catalogue_problems(loose)] == ["catalogue.reference"]
    instead = replace(LISTS, parts=(Part(code="P", name="P", substitutes=("Q",)),))
    assert [p.message for p in catalogue_problems(instead)] == ["There is no part Q."]


def test_an_edit_is_answered_with_what_it_changed(context: Context, table: str) -> None:
    begin_draft(context, INES, table)
    before = table_document(context, table)
    edit = SetTexts(row=before.rows[0].id, column=0, texts=(("any",),))
    saved = edit_table_draft(context, INES, table, edit, before.etag).table
    assert saved is not None
    assert (saved.row_ids, saved.columns) == (None, None)
    assert [r.id for r in saved.rows] == [before.rows[0].id]
    added = edit_table_draft(context, INES, table, AddRow(after=before.rows[0].id), saved.etag).table
    assert added is not None
    assert added.row_ids is not None
    assert len(added.row_ids) == len(before.rows) + 1
    after = table_document(context, table)
    assert added.row_ids == tuple(r.id for r in after.rows)
    assert added.rows == (after.rows[1],)


def test_an_edit_may_begin_the_next_revision(context: Context, table: str) -> None:
    released = table_document(context, table)
    edit = AddRow()
    with pytest.raises(Conflict, match="there is no draft"):
        edit_table_draft(context, INES, table, edit, released.etag)
    with pytest.raises(Conflict, match="Your change is not saved yet"):
        edit_table_draft(context, INES, table, edit, '"somebody-else"', begin=True)
    assert table_document(context, table).state == "Released"
    saved = edit_table_draft(context, INES, table, edit, released.etag, begin=True)
    assert saved.table is not None
    assert (saved.table.letter, saved.table.state) == ("B", "Draft")
    now = table_document(context, table)
    assert (now.letter, now.etag, len(now.rows)) == ("B", saved.table.etag, len(released.rows) + 1)
    taken_back = patch_draft(context, INES, table, saved.inverse, now.etag)
    assert taken_back.table is not None
    assert table_document(context, table).rows == released.rows
