"""How often the field wanted each step of a plan, for the roll-up."""

from __future__ import annotations

from collections.abc import Mapping

from reedling.core.rollup.branches import BranchEvidence
from reedling.store.unit import Unit


def branch_chances(unit: Unit, plan: str) -> Mapping[str, BranchEvidence]:
    """Of the finished jobs with this plan, how many wanted each of its steps."""
    return {
        step: BranchEvidence(n_wanted=counts.n_wanted, n_jobs=counts.n_jobs)
        for step, counts in unit.job_figures.step_counts_of(plan).items()
    }
