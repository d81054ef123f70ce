"""Trials of revisions, and the orders that they took."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from reedling.core.refining.trials import Trial
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import TrialOrderRow, TrialRow

TRIALS = row_mapping(Trial, TrialRow)


@dataclass(frozen=True, slots=True)
class Trials:
    """Repository of trials."""

    session: Session

    def add(self, trial: Trial) -> None:
        """Keep a trial that begins."""
        self.session.add(TRIALS.new_row(trial))
        self.session.flush()

    def save(self, trial: Trial) -> None:
        """Write back a trial that was read here."""
        self.session.merge(TRIALS.new_row(trial))
        self.session.flush()

    def all(self) -> tuple[Trial, ...]:
        """Every trial, the latest begun first."""
        return self._find()

    def under_way(self) -> Mapping[str, Trial]:
        """The trials that have not ended, by document."""
        return {trial.document: trial for trial in self._find(TrialRow.ended_at.is_(None))}

    def of_document(self, document: str) -> tuple[Trial, ...]:
        """The trials of a document, the latest begun first."""
        return self._find(TrialRow.document_id == document)

    def take(self, trial: str, order: str, *, tried: bool) -> None:
        """Keep that a trial took an order, with the revision on trial or beside it."""
        self.session.add(TrialOrderRow(trial_id=trial, order_id=order, tried=tried))
        self.session.flush()

    def orders(self, trial: str) -> Mapping[str, bool]:
        """The orders that a trial took, and whether each has the revision on trial."""
        query = select(TrialOrderRow.order_id, TrialOrderRow.tried).where(TrialOrderRow.trial_id == trial)
        return {row.order_id: row.tried for row in self.session.execute(query)}

    def taking(self, order: str) -> tuple[tuple[Trial, bool], ...]:
        """The trials that took an order, and whether it has the revision on trial; by document."""
        query = (
            select(TrialRow, TrialOrderRow.tried)
            .join(TrialOrderRow, TrialOrderRow.trial_id == TrialRow.id)
            .where(TrialOrderRow.order_id == order)
            .order_by(TrialRow.document_id)
        )
        return tuple((TRIALS.read(row), tried) for row, tried in self.session.execute(query))

    def _find(self, *where: ColumnElement[bool]) -> tuple[Trial, ...]:
        query = select(TrialRow).where(*where).order_by(TrialRow.began_at.desc(), TrialRow.id.desc())
        return tuple(TRIALS.read(row) for row in self.session.scalars(query))
