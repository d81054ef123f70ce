"""Who changed what: kept for lists, places, orders, people and drafts thrown away; and taken back."""

from __future__ import annotations

import copy
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from reedling.errors import Conflict, NotFound
from reedling.services.actions.catalogue import put_entry, put_sheet, remove_entry
from reedling.services.actions.documents import create_document
from reedling.services.actions.drafts import discard_draft
from reedling.services.actions.orders import cancel_order, log_order, plan_visit
from reedling.services.actions.register import remove_register_entry, write_register_entry
from reedling.services.actions.undo import undo_change
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.changes import changes_of, changes_of_list
from reedling.services.views.lists import list_page, register_page
from tests.conftest import INES, MAREK, PIA, RAKE
from tests.examples import examples
from tests.services.test_sites_and_assets import SITE

OIL = {"code": "OIL", "name": "Oil", "unit": "l"}


def newest(context: Context, name: Any = "parts") -> Any:
    return changes_of_list(context, name).changes[0]


def test_a_changed_entry_says_who_when_from_what_to_what(context: Context) -> None:
    page = put_entry(context, INES, "parts", None, OIL, list_page(context, "parts").etag)
    put_entry(context, PIA, "parts", "OIL", {**OIL, "name": "Hydraulic oil"}, page.etag)
    changed, added = changes_of_list(context, "parts").changes[:2]
    assert (added.person_name, added.key, added.act) == ("Ines Varga", "OIL", "added")
    assert (changed.person_name, changed.act, changed.at) == ("Pia Sandoval", "changed", context.clock())
    assert [(f.field, f.before, f.after) for f in changed.fields] == [("name", "Oil", "Hydraulic oil")]
    assert [c.act for c in changes_of_list(context, "parts", code="OIL").changes] == ["changed", "added"]
    assert changes_of_list(context, "models").changes == ()


def test_a_sheet_is_one_change_and_is_taken_back_as_one(context: Context) -> None:
    before = list_page(context, "parts")
    text = "code,name,unit\nOIL,Oil,l\nGREASE,Grease,kg\n"
    after = put_sheet(context, INES, "parts", text, before.etag).page
    batch = newest(context).batch
    assert {c.key for c in changes_of_list(context, "parts").changes if c.batch == batch} == {"OIL", "GREASE"}
    assert undo_change(context, PIA, "parts", batch).entries == before.entries
    again = newest(context)
    assert (again.person_name, again.note, again.act) == ("Pia Sandoval", "took back", "removed")
    assert undo_change(context, INES, "parts", again.batch).entries == after.entries


def test_what_changed_again_since_is_not_taken_back_and_says_what(context: Context) -> None:
    page = put_entry(context, INES, "parts", None, OIL, list_page(context, "parts").etag)
    first = newest(context).batch
    put_entry(context, PIA, "parts", "OIL", {**OIL, "name": "Hydraulic oil"}, page.etag)
    held = list_page(context, "parts")
    with pytest.raises(Conflict, match="OIL changed again since"):
        undo_change(context, INES, "parts", first)
    assert list_page(context, "parts") == held
    with pytest.raises(NotFound, match="there is no such change"):
        undo_change(context, INES, "models", first)


def test_sites_and_assets_keep_and_take_back_their_changes_too(context: Context) -> None:
    sites = write_register_entry(context, INES, "sites", None, SITE, register_page(context, "sites").etag)
    moved = next(c for c in changes_of_list(context, "sites").changes)
    assert (moved.key, moved.act) == (SITE["code"], "added")
    assert SITE["code"] not in {e["code"] for e in undo_change(context, INES, "sites", moved.batch).entries}
    page = register_page(context, "assets")
    remove_register_entry(context, INES, "assets", RAKE.code, page.etag)
    gone = newest(context, "assets")
    assert undo_change(context, INES, "assets", gone.batch).entries == page.entries
    assert sites.entries


def test_planning_cancelling_and_drafts_thrown_away_leave_a_trace(context: Context) -> None:
    order = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "").id
    plan_visit(context, MAREK, order, "runa", context.clock())
    plan_visit(context, MAREK, order, "teo", context.clock())
    cancel_order(context, MAREK, order, "Caller rang off")
    acts = changes_of(context, "order", order).changes
    assert [(c.act, c.person_name) for c in acts] == [
        ("cancelled", "Marek Tilse"),
        ("planned", "Marek Tilse"),
        ("planned", "Marek Tilse"),
    ]
    assert ("technician", "runa", "teo") in [(f.field, f.before, f.after) for f in acts[1].fields]
    form = create_document(context, INES, "form", "Odd one")
    from reedling.services.views.documents import plan_document

    discard_draft(context, PIA, form, plan_document(context, form).etag)
    (gone,) = changes_of(context, "draft").changes
    assert (gone.person_name, gone.act, gone.key) == ("Pia Sandoval", "thrown away", form)
    with context.store.reading() as unit:
        assert unit.changes.of_batch(gone.batch)[0].before["title"] == "Odd one"


ACTS = st.lists(
    st.tuples(st.sampled_from(["put", "remove"]), st.sampled_from("ABCD"), st.sampled_from(["x", "y", "z"])),
    max_size=8,
)


@pytest.mark.slow
@settings(
    max_examples=examples(40), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(acts=ACTS)
def test_taking_back_every_change_in_turn_gives_the_list_of_the_beginning(
    context: Context, acts: list[tuple[str, str, str]]
) -> None:
    """Against the list as it was before each change, kept aside."""
    kept: list[tuple[str, list[dict[str, Any]]]] = []
    for act, code, name in acts:
        page = list_page(context, "contracts")
        held = {e["code"] for e in page.entries}
        if act == "remove" and code not in held:
            continue
        if act == "put":
            entry = {"code": code, "name": name}
            after = put_entry(context, INES, "contracts", code if code in held else None, entry, page.etag)
        else:
            after = remove_entry(context, INES, "contracts", code, page.etag)
        if after.entries != page.entries:
            kept.append((newest(context, "contracts").batch, copy.deepcopy(page.entries)))
    for batch, entries in reversed(kept):
        found = undo_change(context, PIA, "contracts", batch).entries
        assert sorted(found, key=str) == sorted(entries, key=str)
