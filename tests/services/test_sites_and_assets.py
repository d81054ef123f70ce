"""Sites and assets are added, changed and removed; orders keep what they knew."""

from __future__ import annotations

from dataclasses import replace

import pytest

from reedling.core.guidance.catalogue import AssetField
from reedling.core.guidance.plans import Step
from reedling.core.guidance.questions import Tick
from reedling.core.logic.conditions import Comparison
from reedling.core.runsheet.job_runs import job_progress
from reedling.core.runsheet.job_state import Job
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.exchange.content import dump_value
from reedling.exchange.list_sheets import write_sheet
from reedling.services.actions.catalogue import put_entry, put_sheet, remove_entry
from reedling.services.actions.documents import create_document
from reedling.services.actions.drafts import patch_draft
from reedling.services.actions.orders import log_order
from reedling.services.actions.orders_by_hand import change_order
from reedling.services.actions.register import (
    remove_register_entry,
    write_register_entry,
    write_register_sheet,
)
from reedling.services.actions.releases import release, send_for_review
from reedling.services.context import Context
from reedling.services.shared.lists import EntryUses, ListPage
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.documents import plan_document
from reedling.services.views.lists import list_page, register_page
from tests.conftest import INES, LODE, MAREK, ODA, RAKE

SITE = {"code": "lock", "name": "Lock", "district": "North", "tags": ["tidal", "unlit", "tidal"]}


def etag(context: Context, name: str) -> str:
    return register_page(context, name).etag  # type: ignore[arg-type]


def entry(page: ListPage, code: str) -> dict[str, object]:
    return next(e for e in page.entries if e["code"] == code)


def order_for(context: Context, asset: str) -> str:
    return log_order(context, MAREK, OrderToMatch(asset=asset, symptom="stalls"), "").id


def test_a_site_and_its_asset_are_added_and_an_order_is_matched_on_them(context: Context) -> None:
    sites = write_register_entry(context, INES, "sites", None, SITE, etag(context, "sites"))
    made = entry(sites, "lock")
    assert made["tags"] == ["tidal", "unlit"]
    assert made["zone"] == LODE.zone  # that of most sites
    asset = {"code": "AS-9", "name": "Rake 9", "site": "lock", "equipment": "rake", "model": "WR2"}
    assets = write_register_entry(context, INES, "assets", None, asset, etag(context, "assets"))
    assert "AS-9" not in assets.used
    assert register_page(context, "sites").used["lock"] == EntryUses(total=1, words="AS-9")
    order = order_for(context, "AS-9")
    with context.store.reading() as unit:
        known = unit.orders.get(order)
        assert known is not None
        assert known.matched_on is not None
        assert known.matched_on.tags == ("tidal", "unlit")
    assert register_page(context, "assets").used["AS-9"] == EntryUses(total=1, words="1 order")


def test_an_order_keeps_what_was_known_when_the_site_changes(context: Context) -> None:
    order = order_for(context, RAKE.code)
    page = register_page(context, "sites")
    changed = {**entry(page, LODE.code), "tags": ["by boat"], "customer": "Somebody else"}
    write_register_entry(context, INES, "sites", LODE.code, changed, page.etag)
    with context.store.reading() as unit:
        kept, now = unit.orders.get(order), unit.register.asset(RAKE.code)
        assert kept is not None
        assert kept.matched_on is not None
        assert now is not None
        assert kept.matched_on.tags == LODE.tags
        assert now.site.tags == ("by boat",)


def test_what_is_in_use_is_neither_renamed_nor_removed(context: Context) -> None:
    order_for(context, RAKE.code)
    sites, assets = register_page(context, "sites"), register_page(context, "assets")
    with pytest.raises(Conflict, match=f"{LODE.code} cannot be removed: {RAKE.code} refers to it"):
        remove_register_entry(context, INES, "sites", LODE.code, sites.etag)
    with pytest.raises(Conflict, match=f"{RAKE.code} cannot be changed: 1 order refers to it"):
        write_register_entry(
            context, INES, "assets", RAKE.code, {**entry(assets, RAKE.code), "code": "AS-2"}, assets.etag
        )


def test_what_nothing_refers_to_is_renamed_and_removed(context: Context) -> None:
    page = register_page(context, "assets")
    renamed = write_register_entry(
        context, INES, "assets", RAKE.code, {**entry(page, RAKE.code), "code": "AS-77"}, page.etag
    )
    assert [e["code"] for e in renamed.entries] == ["AS-77"]
    assert remove_register_entry(context, INES, "assets", "AS-77", renamed.etag).entries == []
    sites = register_page(context, "sites")
    assert remove_register_entry(context, INES, "sites", LODE.code, sites.etag).entries == []


def test_bad_entries_are_refused_whole_and_nothing_is_lost(context: Context) -> None:
    page = register_page(context, "assets")
    with pytest.raises(InvalidInput, match="2 things are wrong") as refused:
        write_register_entry(context, INES, "assets", None, {"code": "AS-3", "name": "X"}, page.etag)
    assert [p.path for p in refused.value.problems] == ["/site", "/equipment"]
    with pytest.raises(InvalidInput) as unknown:
        write_register_entry(context, INES, "assets", None, {"code": "AS-3", "colour": "red"}, page.etag)
    assert unknown.value.code == "content.invalid"
    with pytest.raises(NotFound):
        write_register_entry(context, INES, "assets", "AS-404", {"code": "AS-404"}, page.etag)
    with pytest.raises(NotFound):
        remove_register_entry(context, INES, "sites", "nowhere", etag(context, "sites"))
    assert register_page(context, "assets") == page
    write_register_entry(context, INES, "sites", None, SITE, etag(context, "sites"))
    with pytest.raises(Conflict, match="somebody changed this list since you read it"):
        write_register_entry(context, INES, "sites", None, {**SITE, "code": "weir"}, '"sites-stale"')


def test_a_step_may_hang_on_the_priority_and_the_contract(context: Context) -> None:
    """Facts of the order decide before anybody sets off; what is not known leaves the step open."""
    full = {"code": "full-care", "name": "Full care"}
    put_entry(context, INES, "contracts", None, full, list_page(context, "contracts").etag)
    made = create_document(context, INES, "plan", "Call ahead")
    urgent = Comparison(question="order.priority", operator="is", value="At once")
    covered = Comparison(question="site.contract", operator="is", value="full-care")
    steps = [
        Step(id="ring", phase="Arrive", text="Ring control", questions=(Tick(id="rung"),), condition=urgent),
        Step(id="bill", phase="Leave", text="Sign the bill", questions=(Tick(id="bill"),), condition=covered),
    ]
    patch = [{"op": "add", "path": "/steps", "value": [dump_value(s) for s in steps]}]
    patch_draft(context, INES, made, patch, plan_document(context, made).etag)
    send_for_review(context, INES, made, "")
    release(context, ODA, made)
    sites = register_page(context, "sites")
    covered_site = {**entry(sites, LODE.code), "contract": "full-care"}
    write_register_entry(context, INES, "sites", LODE.code, covered_site, sites.etag)

    def wanted(priority: str) -> dict[str, str]:
        asked = OrderToMatch(asset=RAKE.code, symptom="stalls", priority=priority)
        order = log_order(context, MAREK, asked, "")
        change_order(context, MAREK, order.id, "added", made, "To be sure.")
        with context.store.reading() as unit:
            held = unit.orders.get(order.id)
        assert held is not None
        return {p.line: p.state for p in job_progress(held.runsheet, Job()).lines}

    ring, bill = f"{made}:ring", f"{made}:bill"
    assert wanted("At once") == {ring: "due", bill: "due"}
    assert wanted("Can wait") == {ring: "hidden", bill: "due"}
    contracts = list_page(context, "contracts").used["full-care"]
    assert contracts == EntryUses(total=2, words=f"{made} A and {LODE.code}")


def test_lists_are_kept_from_losing_what_assets_and_orders_refer_to(context: Context) -> None:
    order_for(context, RAKE.code)
    symptoms, models = list_page(context, "symptoms"), list_page(context, "models")
    assert symptoms.used["stalls"] == EntryUses(total=1, words="1 order")
    assert models.used["WR2"] == EntryUses(total=1, words=RAKE.code)
    with pytest.raises(Conflict, match=f"WR2 cannot be removed: {RAKE.code} refers to it"):
        remove_entry(context, INES, "models", "WR2", models.etag)
    equipment = list_page(context, "equipment")
    parent = put_entry(
        context, INES, "equipment", None, {"code": "gate", "name": "Gate", "parent": "plant"}, equipment.etag
    )
    assert "gate" in parent.used["plant"].words


def test_a_sheet_of_parts_is_told_of_first_and_then_written(context: Context) -> None:
    page = list_page(context, "parts")
    text = "code,name,unit\nRV-SEAT,Seat set,each\nOIL,Oil,l\n"
    told = put_sheet(context, INES, "parts", text, page.etag, only_tell=True)
    assert (told.added, told.changed, told.same) == (["OIL"], ["RV-SEAT"], [])
    assert list_page(context, "parts") == page
    done = put_sheet(context, INES, "parts", text, page.etag)
    assert [(e["code"], e["name"]) for e in done.page.entries][-1] == ("OIL", "Oil")
    kept = entry(page, "RV-SEAT")["stocked"]
    assert entry(done.page, "RV-SEAT") == {**entry(page, "RV-SEAT"), "name": "Seat set", "stocked": kept}
    again = put_sheet(context, INES, "parts", text, done.page.etag)
    assert (again.added, again.changed, again.same) == ([], [], ["RV-SEAT", "OIL"])
    with pytest.raises(Conflict, match="somebody changed this list"):
        put_sheet(context, INES, "parts", text, page.etag)


def test_a_sheet_with_something_wrong_writes_nothing(context: Context) -> None:
    page = list_page(context, "models")
    with pytest.raises(InvalidInput, match="There is no equipment class crane"):
        put_sheet(context, INES, "models", "code,name,equipment\nX1,X 1,rake\nX2,X 2,crane\n", page.etag)
    with pytest.raises(InvalidInput, match="X1 stands 2 times in the sheet"):
        put_sheet(context, INES, "models", "code,name,equipment\nX1,A,rake\nX1,B,rake\n", page.etag)
    assert list_page(context, "models") == page


def test_a_sheet_of_assets_and_one_of_sites_go_out_and_come_back(context: Context) -> None:
    fields = (AssetField(code="amps", name="Rated current", unit="A", number=True),)
    with context.store.writing() as unit:
        unit.catalogues.replace(replace(unit.catalogues.get(), fields=fields))
    sites, assets = register_page(context, "sites"), register_page(context, "assets")
    same = write_register_sheet(context, INES, "sites", write_sheet("sites", sites.entries), sites.etag)
    assert (same.added, same.changed, same.same) == ([], [], [LODE.code])
    text = f"code,name,site,equipment,fields.amps\nAS-2,Rake 2,{LODE.code},rake,31.5\n{RAKE.code},,,,12\n"
    with pytest.raises(InvalidInput, match="things are wrong") as refused:
        write_register_sheet(context, INES, "assets", text, assets.etag)
    assert {p.message for p in refused.value.problems} == {
        "Line 3: The asset has no name.",
        "Line 3: The asset stands at no site.",
        "Line 3: The asset is of no class.",
    }
    assert register_page(context, "assets") == assets
    good = text.replace(f"{RAKE.code},,,,12", f"{RAKE.code},Rake 1,{LODE.code},rake,12")
    done = write_register_sheet(context, INES, "assets", good, assets.etag)
    assert (done.added, done.changed) == (["AS-2"], [RAKE.code])
    assert entry(done.page, "AS-2")["fields"] == {"amps": 31.5}
    assert entry(done.page, RAKE.code)["model"] == RAKE.model
    with pytest.raises(InvalidInput, match="Line 2: Rated current is a number"):
        write_register_sheet(context, INES, "assets", good.replace("31.5", "much"), done.page.etag)
    bare = write_register_sheet(
        context, INES, "assets", "code,fields.amps\nAS-2,\n", done.page.etag, only_tell=True
    )
    assert bare.changed == ["AS-2"]
    back = write_register_sheet(
        context, INES, "assets", write_sheet("assets", done.page.entries), done.page.etag
    )
    assert back.same == ["AS-2", RAKE.code] or back.same == [RAKE.code, "AS-2"]
