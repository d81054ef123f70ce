"""How often the field wanted each step of a plan, for the roll-up."""

from __future__ import annotations

from collections.abc import Mapping

from reedling.core.evidence.steps import step_evidence
from reedling.core.rollup.branches import BranchEvidence
from reedling.core.runsheet.job import OrderState
from reedling.store.unit import Unit

CLOSED: tuple[OrderState, ...] = ("Finished", "Reviewed")


def branch_chances(unit: Unit, plan: str) -> Mapping[str, BranchEvidence]:
    """Of the finished jobs with this plan, how many wanted each of its steps."""
    found = step_evidence(unit.orders.step_records_of(plan, CLOSED))
    return {
        step: BranchEvidence(n_wanted=e.wanted.n_hits, n_jobs=e.wanted.n_total)
        for (document, step), e in found.items()
        if document == plan
    }
