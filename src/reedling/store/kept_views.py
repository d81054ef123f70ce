"""Choices of jobs that are kept by name."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from reedling.core.evidence.cross_filter import FACETS
from reedling.core.evidence.kept_views import KeptView
from reedling.store.tables import KeptViewRow


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
            KeptView(
                incident_type=row.incident_type_id,
                name=row.name,
                choices={facet: tuple(row.choices[facet]) for facet in FACETS if facet in row.choices},
                person=row.person_id,
                at=row.at,
            )
            for row in self.session.scalars(query)
        )

    def put(self, view: KeptView) -> None:
        """Keep a view, in place of the one of its name."""
        self.session.merge(
            KeptViewRow(
                incident_type_id=view.incident_type,
                name=view.name,
                choices={facet: list(values) for facet, values in view.choices.items()},
                person_id=view.person,
                at=view.at,
            )
        )
        self.session.flush()

    def remove(self, incident_type: str, name: str) -> None:
        """Keep a view no longer."""
        self.session.execute(
            delete(KeptViewRow).where(KeptViewRow.incident_type_id == incident_type, KeptViewRow.name == name)
        )
