"""A list of the catalogue as its page shows it."""

from __future__ import annotations

from reedling.core.guidance.references import ListName
from reedling.exchange.content import dump_value
from reedling.services.shared.lists import (
    ListPage,
    page_of,
    uses_of_entries,
)
from reedling.store.unit import Unit


def catalogue_page_of(unit: Unit, name: ListName) -> ListPage:
    """One list, with what refers to each of its entries."""
    uses = uses_of_entries(unit)
    used = {entry.code: found.counted() for entry, found in uses.items() if entry.listed == name}
    return page_of(name, dump_value(unit.catalogues.get())[name], used)
