"""What the changes of guidance did, each against the revision before it, and all of them over a year."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from itertools import pairwise

from reedling.core.evidence.revision_gains import (
    YEAR,
    RevisionGain,
    YearSaved,
    revision_gain,
    year_saved,
)
from reedling.core.guidance.documents import OPEN_REVISION_STATES, DocumentAtHand, RevisionStanding
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.revisions import RevisionState
from reedling.services.context import Context
from reedling.services.shared.job_columns import job_columns
from reedling.services.views.documents import letter_in_force
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeDone:
    """A change of a plan that was released, with what it did; ``returns_to`` is the revision to go back to, if that
    is still to be thought of: this one made it worse and is in force."""

    incident_type: str
    incident_type_title: str
    document: str
    title: str
    older: str
    newer: str
    released_at: datetime | None
    released_by: str | None
    note: str
    gain: RevisionGain
    returns_to: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class BeingRefined:
    """A plan in force whose next revision is being written or reviewed."""

    incident_type: str
    document: str
    title: str
    letter: str
    state: RevisionState
    in_force: str
    changed_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangesDone:
    """Every released change, the latest first, what they saved over the last year, and what is being written now."""

    changes: tuple[ChangeDone, ...]
    year: YearSaved | None
    being_refined: tuple[BeingRefined, ...]


def changes_done(context: Context) -> ChangesDone:
    """What became of every change of a plan since the first revision of it."""
    with context.reading() as unit:
        plans = tuple(_plans(unit))
        gains = gains_of_changes(unit, context.clock())
    found = [
        ChangeDone(
            incident_type=plan.incident_type,
            incident_type_title=plan.incident_type_title,
            document=plan.document,
            title=plan.at_hand.revision.content.title,
            older=older.letter,
            newer=newer.letter,
            released_at=newer.released_at,
            released_by=newer.released_by,
            note=newer.note,
            gain=gain,
            returns_to=older.letter
            if newer.state == "Released" and gain.verdict == "made it worse"
            else None,
        )
        for plan in plans
        for older, newer in plan.changes
        if (gain := gains.get((plan.incident_type, plan.document, newer.letter))) is not None
    ]
    return ChangesDone(
        changes=tuple(
            sorted(found, key=lambda c: c.released_at.timestamp() if c.released_at else 0, reverse=True)
        ),
        year=year_saved(change.gain for change in found),
        being_refined=tuple(
            BeingRefined(
                incident_type=plan.incident_type,
                document=plan.document,
                title=held.content.title,
                letter=held.letter,
                state=held.state,
                in_force=in_force,
                changed_at=held.changed_at,
            )
            for plan in plans
            if (held := plan.at_hand.revision).state in OPEN_REVISION_STATES
            and (in_force := letter_in_force(plan.at_hand.standings)) is not None
        ),
    )


def gains_of_changes(unit: Unit, now: datetime) -> dict[tuple[str, str, str], RevisionGain]:
    """What each released change did, by incident type, plan and the letter of the newer revision."""
    day = now.replace(hour=0, minute=0, second=0, microsecond=0)
    return unit.kept_of_jobs(("gains", day), partial(_gains, year_from=day - YEAR), apart=True)


@dataclass(frozen=True, slots=True, kw_only=True)
class _PlanOfType:
    """A plan of an incident type in force."""

    incident_type: str
    incident_type_title: str
    document: str
    at_hand: DocumentAtHand

    @property
    def changes(self) -> Iterator[tuple[RevisionStanding, RevisionStanding]]:
        """Each revision that was released, with the one released before it."""
        return pairwise(s for s in self.at_hand.standings if s.released_at is not None)


def _plans(unit: Unit) -> Iterator[_PlanOfType]:
    named = [
        (incident.document, content.title, plan)
        for incident in unit.documents.all_released("incident type")
        if isinstance(content := incident.content, IncidentType)
        for plan in content.plans
    ]
    at_hand = unit.documents.at_hand(*(plan for _, _, plan in named))
    for incident, title, plan in named:
        if plan in at_hand:
            yield _PlanOfType(
                incident_type=incident, incident_type_title=title, document=plan, at_hand=at_hand[plan]
            )


def _gains(unit: Unit, *, year_from: datetime) -> dict[tuple[str, str, str], RevisionGain]:
    return {
        (plan.incident_type, plan.document, newer.letter): revision_gain(
            job_columns(unit, plan.incident_type, (plan.document,)),
            f"{plan.document} {older.letter}",
            f"{plan.document} {newer.letter}",
            year_from=year_from,
        )
        for plan in _plans(unit)
        for older, newer in plan.changes
    }
