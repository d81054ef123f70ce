"""What was decided on proposals."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.refining.decisions import Decided
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import ProposalRow

DECIDED = row_mapping(Decided, ProposalRow)


@dataclass(frozen=True, slots=True)
class DecidedProposals:
    """Repository of decisions on proposals; the last one of each stands."""

    session: Session

    def all(self) -> Mapping[str, Decided]:
        """Every decision, by the proposal's key."""
        return {
            row.key: DECIDED.read(row)
            for row in self.session.scalars(select(ProposalRow).order_by(ProposalRow.at))
        }

    def put(self, decided: Decided) -> None:
        """Keep a decision in place of the one before."""
        self.session.merge(DECIDED.new_row(decided))
        self.session.flush()

    def forget(self, key: str) -> None:
        """Take a decision back."""
        row = self.session.get(ProposalRow, key)
        if row is not None:
            self.session.delete(row)
            self.session.flush()
