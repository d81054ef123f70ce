"""Whether a revision can be tried on some of the orders, and what that would take."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.guidance.documents import Revision
from reedling.core.guidance.plans import Plan
from reedling.core.refining.trial_jobs import past_jobs
from reedling.core.refining.trials import ONE_IN, TrialPlan, plan_trial
from reedling.errors import Conflict, InvalidInput
from reedling.services.shared.bundles import open_revisions
from reedling.services.shared.trials import columns_of_plan
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialAsked:
    """Which orders are to get a revision, and how many minutes a job a difference must be to be worth finding.

    One in ``one_in`` orders, or all of ``districts`` where any is named.
    """

    one_in: int = 2
    districts: tuple[str, ...] = ()
    worth_minutes: float = 10.0


def to_be_tried(unit: Unit, document: str) -> tuple[Revision, Revision]:
    """The revision in review that may be tried, and the one in force that the other orders keep getting.

    Raises
    ------
    Conflict
        ``trials.none_waiting``, ``trials.none_in_force``, ``trials.kind``, ``trials.approved``, ``trials.together`` or
        ``trials.applies_when``, each with the way out.
    """
    going = open_revisions(unit, document)
    revision, before = unit.documents.open_revision(document), unit.documents.released(document)
    if revision is None or revision.state != "In review":
        raise Conflict(
            "trials.none_waiting",
            "no revision of it is in review.",
            where=document,
            hint="Send one for review first.",
        )
    if revision.kind != "plan":
        raise Conflict(
            "trials.kind",
            "only a work plan can be tried on some of the orders.",
            where=document,
            hint="Release it to all, or give it back.",
        )
    if before is None:
        raise Conflict(
            "trials.none_in_force",
            "nothing of it is in force to hold it against.",
            where=document,
            hint="Release it to all.",
        )
    if revision.effective_on is not None:
        raise Conflict(
            "trials.approved",
            f"it is approved and takes effect on {revision.effective_on}.",
            where=document,
            hint="Give it back first.",
        )
    others = [r.document for r in going if r.document != document]
    if others:
        raise Conflict(
            "trials.together",
            f"it needs {', '.join(others)}, which was never released.",
            where=document,
            hint="Release that first; a trial is of one document.",
        )
    new, old = revision.content, before.content
    assert isinstance(new, Plan)
    assert isinstance(old, Plan)
    if new.applies_when != old.applies_when:
        raise Conflict(
            "trials.applies_when",
            "it goes on other orders than the revision in force, and a trial holds the same orders against each other.",
            where=f"{document}, goes on orders when",
            hint="Release it to all, or leave out this change.",
        )
    return revision, before


def offered(unit: Unit, document: str, before: str, asked: TrialAsked, now: datetime) -> TrialPlan:
    """What a trial of a plan would take, by the jobs with the revision in force.

    Raises
    ------
    InvalidInput
        ``trials.share`` where all orders would get it, or none; ``trials.too_few_jobs``, ``trials.worth`` as
        :func:`reedling.core.refining.trials.plan_trial`.
    """
    past = past_jobs(columns_of_plan(unit, document), document, before, now)
    share = 1 / asked.one_in if asked.one_in in ONE_IN else 0.0
    if asked.districts:
        known = {site.district for site in unit.register.sites()} - {""}
        unknown = sorted(set(asked.districts) - known)
        if unknown:
            raise InvalidInput(
                "trials.share",
                f"there is no district {unknown[0]}.",
                where="Districts",
                hint=f"There are {', '.join(sorted(known))}.",
            )
        share = past.share_in(asked.districts)
    if not 0 < share < 1:
        where = "Districts" if asked.districts else "Share of the orders"
        raise InvalidInput(
            "trials.share",
            "a trial gives it to some of the orders, and others keep the one in force.",
            where=where,
            hint="Choose districts that had some of the jobs, not all of them."
            if asked.districts
            else f"Give it to one in {ONE_IN.start} to one in {ONE_IN.stop - 1} orders.",
        )
    return plan_trial(
        past.spread,
        len(past.over_expected),
        share=share,
        worth_minutes=asked.worth_minutes,
        weekly=past.weekly,
    )
