"""What is kept of questions about all orders is what would be worked out anew, whatever changed in between."""

from __future__ import annotations

import contextlib
import random
from collections.abc import Callable
from dataclasses import replace

import pytest

from reedling.core.matching.table_editing import AddRow, SetTexts
from reedling.core.register.assets import MeterState
from reedling.errors import ReedlingError
from reedling.services.actions.catalogue import put_entry
from reedling.services.actions.documents import begin_draft
from reedling.services.actions.drafts import discard_draft, edit_table_draft
from reedling.services.actions.orders import cancel_order, log_order
from reedling.services.actions.orders_by_hand import change_order
from reedling.services.actions.register import write_register_entry
from reedling.services.actions.releases import release, send_for_review
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.coverage import coverage, who_would_notice
from reedling.services.views.lists import list_page, register_page
from reedling.services.views.tables import table_document
from reedling.store.unit import Store
from tests.conftest import INES, MAREK, ODA, RAKE
from tests.examples import IS_DEEP
from tests.services.test_decision_tables import plans, table

__all__ = ["plans", "table"]


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(6 if IS_DEEP else 3))
def test_kept_answers_are_those_worked_out_anew(
    context: Context, table: str, plans: tuple[str, str], seed: int
) -> None:
    rng = random.Random(seed)
    n_kept = 0
    for _ in range(30):
        with contextlib.suppress(ReedlingError):
            rng.choice(_acts(context, table, plans, rng))()
        fresh = replace(context, store=Store(context.store.engine, context.store.pictures_dir))
        for across in ("symptom", "incident type"):
            assert coverage(context, across) == coverage(fresh, across)
            assert coverage(context, across, draft=table) == coverage(fresh, across, draft=table)
        n_kept = max(n_kept, len(context.store.kept.answers))
        assert who_would_notice(context, table) == who_would_notice(fresh, table)
    assert n_kept > 3


def _acts(
    context: Context, table: str, plans: tuple[str, str], rng: random.Random
) -> list[Callable[[], object]]:
    def view_tag() -> str:
        return table_document(context, table).etag

    def order() -> str:
        with context.reading() as unit:
            return rng.choice([o.id for o in unit.orders.facts()] or ["none"])

    def write() -> None:
        view = table_document(context, table)
        row = rng.choice(view.rows).id
        text = rng.choice(("stalls", "any"))
        edit_table_draft(context, INES, table, SetTexts(row=row, column=2, texts=((text,),)), view.etag)

    def relabel() -> None:
        page = list_page(context, "symptoms")
        entry = {**page.entries[0], "label": f"Stalls {rng.randrange(99)}"}
        put_entry(context, INES, "symptoms", entry["code"], entry, page.etag)

    def remodel() -> None:
        page = register_page(context, "assets")
        entry = {**page.entries[0], "name": f"Rake {rng.randrange(99)}"}
        write_register_entry(context, INES, "assets", RAKE.code, entry, page.etag)

    def read_meter() -> None:
        with context.writing() as unit:
            unit.register.add_meter_reading(
                MeterState(asset=RAKE.code, meter="hours", value=rng.random(), at=context.clock())
            )

    asked = OrderToMatch(asset=RAKE.code, symptom="stalls")
    return [
        lambda: log_order(context, MAREK, asked, "It stalls"),
        lambda: cancel_order(context, MAREK, order(), "Not needed"),
        lambda: change_order(context, MAREK, order(), "removed", plans[0], "Done already"),
        lambda: begin_draft(context, INES, table),
        write,
        write,
        lambda: edit_table_draft(context, INES, table, AddRow(), view_tag()),
        lambda: discard_draft(context, INES, table, view_tag()),
        lambda: send_for_review(context, INES, table, ""),
        lambda: release(context, ODA, table),
        relabel,
        remodel,
        read_meter,
    ]
