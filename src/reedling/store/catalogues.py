"""The lists that guidance refers to by code."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.guidance.catalogue import Catalogue
from reedling.exchange.content import CATALOGUES, dump_value
from reedling.store.counters import CATALOGUE_WRITES, count_up, writes_of
from reedling.store.kept import Kept, only_reads
from reedling.store.tables import CatalogueRow


@dataclass(frozen=True, slots=True)
class Catalogues:
    """Repository of the catalogue."""

    session: Session
    kept: Kept

    def get(self) -> Catalogue:
        """The whole catalogue; lists never written are empty."""
        kept = self.kept.catalogue
        n_written = writes_of(self.session, CATALOGUE_WRITES)
        if kept is not None and kept[0] == n_written and only_reads(self.session):
            return kept[1]
        rows = self.session.scalars(select(CatalogueRow))
        read = CATALOGUES.validate_python({row.name: row.entries for row in rows})
        if only_reads(self.session):
            self.kept.catalogue = (n_written, read)
        return read

    def replace(self, catalogue: Catalogue) -> None:
        """Put this catalogue in the place of the one before."""
        for name, entries in dump_value(catalogue).items():
            self.session.merge(CatalogueRow(name=name, entries=entries))
        count_up(self.session, CATALOGUE_WRITES)
