"""Choices of jobs that are kept by name."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from reedling.core.evidence.cross_filter import FACETS
from reedling.core.evidence.kept_views import KeptView
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import KeptViewRow

KEPT_VIEWS = row_mapping(KeptView, KeptViewRow, elsewhere=("choices",))


@dataclass(frozen=True, slots=True)
class KeptViews:
    """Repository of the views kept of each incident type."""

    session: Session

    def of(self, incident_type: str) -> tuple[KeptView, ...]:
        """The views of an incident type, by name."""
        query = (
            select(KeptViewRow)
            .where(KeptViewRow.incident_type_id == incident_type)
            .order_by(KeptViewRow.name)
        )
        return tuple(
            KEPT_VIEWS.read(
                row, choices={facet: tuple(row.choices[facet]) for facet in FACETS if facet in row.choices}
            )
            for row in self.session.scalars(query)
        )

    def put(self, view: KeptView) -> None:
        """Keep a view, in place of the one of its name."""
        self.session.merge(
            KEPT_VIEWS.new_row(view, choices={facet: list(values) for facet, values in view.choices.items()})
        )
        self.session.flush()

    def remove(self, incident_type: str, name: str) -> None:
        """Keep a view no longer."""
        self.session.execute(
            delete(KeptViewRow).where(KeptViewRow.incident_type_id == incident_type, KeptViewRow.name == name)
        )
