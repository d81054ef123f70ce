"""The lists that guidance refers to by code."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.guidance.catalogue import Catalogue
from reedling.exchange.content import CATALOGUES, dump_value
from reedling.store.tables import CatalogueRow


@dataclass(frozen=True, slots=True)
class Catalogues:
    """Repository of the catalogue."""

    session: Session

    def get(self) -> Catalogue:
        """The whole catalogue; lists never written are empty."""
        rows = self.session.scalars(select(CatalogueRow))
        return CATALOGUES.validate_python({row.name: row.entries for row in rows})

    def replace(self, catalogue: Catalogue) -> None:
        """Put this catalogue in the place of the one before."""
        for name, entries in dump_value(catalogue).items():
            self.session.merge(CatalogueRow(name=name, entries=entries))
