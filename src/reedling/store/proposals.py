"""What was decided on proposals."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import cast

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.refining.decisions import Decided, ProposalState
from reedling.store.tables import ProposalRow


@dataclass(frozen=True, slots=True)
class DecidedProposals:
    """Repository of decisions on proposals; the last one of each stands."""

    session: Session

    def all(self) -> Mapping[str, Decided]:
        """Every decision, by the proposal's key."""
        return {
            row.key: Decided(
                key=row.key,
                state=cast(ProposalState, row.state),
                n_jobs=row.n_jobs,
                at=row.at,
                person=row.person_id,
                reason=row.reason,
                until=row.until,
                document=row.document_id,
                letter=row.letter,
                promised=row.promised,
            )
            for row in self.session.scalars(select(ProposalRow).order_by(ProposalRow.at))
        }

    def put(self, decided: Decided) -> None:
        """Keep a decision in place of the one before."""
        self.session.merge(
            ProposalRow(
                key=decided.key,
                state=decided.state,
                n_jobs=decided.n_jobs,
                at=decided.at,
                person_id=decided.person,
                reason=decided.reason,
                until=decided.until,
                document_id=decided.document,
                letter=decided.letter,
                promised=decided.promised,
            )
        )
        self.session.flush()

    def forget(self, key: str) -> None:
        """Take a decision back."""
        row = self.session.get(ProposalRow, key)
        if row is not None:
            self.session.delete(row)
            self.session.flush()
