"""What the changes of guidance did, each against the revision before it, and all of them over a year."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

from reedling.core.evidence.revision_gains import RevisionGain, YearSaved, revision_gain, year_saved
from reedling.core.guidance.documents import OPEN_REVISION_STATES, DocumentAtHand, RevisionStanding
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.revisions import RevisionState
from reedling.services.context import Context
from reedling.services.views.documents import letter_in_force
from reedling.store.unit import Unit

YEAR = timedelta(days=365)


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
    now = context.clock()
    with context.reading() as unit:
        plans = [
            (incident.document, content.title, plan)
            for incident in unit.documents.all_released("incident type")
            if isinstance(content := incident.content, IncidentType)
            for plan in content.plans
        ]
        at_hand = unit.documents.at_hand(*(plan for _, _, plan in plans))
        known = [(incident, title, at_hand[plan]) for incident, title, plan in plans if plan in at_hand]
        found = [change for of in known for change in _changes(unit, *of, now)]
        being_refined = tuple(
            BeingRefined(
                incident_type=incident,
                document=held.revision.document,
                title=held.revision.content.title,
                letter=held.revision.letter,
                state=held.revision.state,
                in_force=in_force,
                changed_at=held.revision.changed_at,
            )
            for incident, _, held in known
            if held.revision.state in OPEN_REVISION_STATES
            and (in_force := letter_in_force(held.standings)) is not None
        )
    return ChangesDone(
        changes=tuple(
            sorted(found, key=lambda c: c.released_at.timestamp() if c.released_at else 0, reverse=True)
        ),
        year=year_saved(change.gain for change in found),
        being_refined=being_refined,
    )


def _changes(
    unit: Unit, incident: str, title: str, at_hand: DocumentAtHand, now: datetime
) -> list[ChangeDone]:
    plan = at_hand.revision.document
    released = [s for s in at_hand.standings if s.released_at is not None]
    day = now.replace(hour=0, minute=0, second=0, microsecond=0)
    return [
        ChangeDone(
            incident_type=incident,
            incident_type_title=title,
            document=plan,
            title=at_hand.revision.content.title,
            older=older.letter,
            newer=newer.letter,
            released_at=newer.released_at,
            released_by=newer.released_by,
            note=newer.note,
            gain=(gain := _gain(unit, incident, plan, older, newer, day)),
            returns_to=older.letter
            if newer.state == "Released" and gain.verdict == "made it worse"
            else None,
        )
        for older, newer in pairwise(released)
    ]


def _gain(
    unit: Unit, incident: str, plan: str, older: RevisionStanding, newer: RevisionStanding, day: datetime
) -> RevisionGain:
    return unit.kept_of_jobs(
        ("gain", incident, plan, older.letter, newer.letter, day),
        lambda at: revision_gain(
            at.job_evidence.columns(incident, (plan,)),
            f"{plan} {older.letter}",
            f"{plan} {newer.letter}",
            year_from=day - YEAR,
        ),
    )
