"""The lists that guidance refers to, sites and assets, each with what refers to its entries."""

from __future__ import annotations

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.references import ListName
from reedling.core.register.assets import RegisterName
from reedling.services.context import Context
from reedling.services.shared.catalogue import catalogue_page_of
from reedling.services.shared.lists import (
    ListPage,
)
from reedling.services.shared.register import register_page_of


def register_page(context: Context, name: RegisterName) -> ListPage:
    """All sites, or all assets."""
    with context.reading() as unit:
        return register_page_of(unit, name)


def list_page(context: Context, name: ListName) -> ListPage:
    """A list as it stands."""
    with context.reading() as unit:
        return catalogue_page_of(unit, name)


def catalogue(context: Context) -> Catalogue:
    """The lists that guidance refers to."""
    with context.reading() as unit:
        return unit.catalogues.get()
