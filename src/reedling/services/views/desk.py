"""What waits for somebody today, in the order of what it costs to wait."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

import structlog

from reedling.core.guidance.documents import RevisionHeading
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.people import Person
from reedling.services.context import Context
from reedling.services.shared.guides import drifted_guides
from reedling.services.views.completions import inbox
from reedling.services.views.gains import changes_done
from reedling.services.views.help import open_help
from reedling.services.views.proposals import proposals_page
from reedling.services.views.routine_work import overdue_visits
from reedling.services.views.trials import TrialView, trials

_log = structlog.get_logger("reedling")

Cost = Literal[
    "somebody on site waits", "work is held up", "a fault may spread", "time is lost", "nothing hurries"
]
"""What it costs to let something wait, the dearest first."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DeskLine:
    """One thing that waits: what, where it opens, since when, and what it costs to wait."""

    what: str
    detail: str
    to: str
    since: datetime | None
    cost: Cost


@dataclass(frozen=True, slots=True, kw_only=True)
class TypeOnDesk:
    """An incident type: jobs finished since its evidence was last read, when and by whom that was, proposals that wait, and what
    the last change did, if there was one."""

    document: str
    title: str
    n_jobs: int
    n_since: int
    read_at: datetime | None
    read_by: str
    n_proposals: int
    last_change: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Desk:
    """What waits, the dearest to wait first, and every incident type, the longest unread first."""

    lines: tuple[DeskLine, ...]
    incident_types: tuple[TypeOnDesk, ...]


def get_desk_ready(context: Context) -> None:
    """Work out what a desk rests on, and keep it: at a million step records the first to ask would wait ten seconds.

    What goes wrong is told in the log alone; whoever opens the desk is told of it then.
    """
    try:
        with context.reading() as unit:
            engineer = next((p for p in unit.people.all() if p.role in ("engineer", "approver")), None)
        if engineer:
            desk(context, engineer)
    except Exception as trouble:  # It is ahead of the work and must not end the server.
        _log.warning("desk not ready", trouble=str(trouble))


MOST_ANSWERS_SHOWN = 5
ANSWER_STAYS = timedelta(days=7)
"""How long the answer of a technician stays on the desk of who asked."""


def desk(context: Context, person: Person) -> Desk:
    """What waits for an engineer or approver."""
    lines: list[DeskLine] = [
        DeskLine(
            what=f"{line.technician} asks: {line.step or line.asset}",
            detail=line.asset,
            to=f"/review/help/{line.thread}",
            since=line.asked_at,
            cost="somebody on site waits",
        )
        for line in open_help(context)
        if line.waits_for_office
    ]
    page = proposals_page(context)
    waiting = [view for view in page.proposals if view.state == "Open"]
    unread = inbox(context, limit=5)
    changes = changes_done(context)
    with context.reading() as unit:
        names = unit.people.names()
        loose = unit.loose_records.find(open_only=True)
        if loose:
            lines.append(
                DeskLine(
                    what=f"{_n(len(loose), 'record')} of phones to decide on",
                    detail="Work that its job could not take in, kept beside the order.",
                    to="/run",
                    since=loose[0].received_at,
                    cost="work is held up",
                )
            )
        beside = unit.site_records.find(waiting=True)
        if beside:
            lines.append(
                DeskLine(
                    what=f"{_n(len(beside), 'site record')} to settle",
                    detail="Parts in the technicians' words, equipment found, further work recommended.",
                    to="/run",
                    since=beside[0].at,
                    cost="time is lost",
                )
            )
        for heading in unit.documents.headings():
            if heading.state == "In review" and person.role == "approver":
                lines.append(
                    DeskLine(
                        what=f"Revision {heading.letter} of “{heading.title}” waits for approval",
                        detail=heading.document,
                        to=_where(heading),
                        since=None,
                        cost="work is held up",
                    )
                )
            elif heading.state == "Draft" and heading.letter != "A":
                lines.append(
                    DeskLine(
                        what=f"Draft {heading.letter} of “{heading.title}” is being written",
                        detail=heading.document,
                        to=_where(heading),
                        since=None,
                        cost="nothing hurries",
                    )
                )
        overdue = overdue_visits(context, unit)
        if overdue:
            lines.append(
                DeskLine(
                    what=f"{_n(len(overdue), 'routine visit')} overdue",
                    detail=f"The longest since {overdue[0].due_on:%-d %B}: {overdue[0].order}.",
                    to="/review/routine?state=overdue",
                    since=None,
                    cost="a fault may spread",
                )
            )
        lines += [
            DeskLine(
                what=f"“{revision.content.title}” and the plans have drifted apart",
                detail=f"{_n(n, 'link')} of {revision.document} {'leads' if n == 1 else 'lead'} to what no plan asks or does any more.",
                to=f"/refine/guides/{revision.document}",
                since=None,
                cost="time is lost",
            )
            for revision, n in drifted_guides(unit)
        ]
        lines += [
            DeskLine(
                what=f"{names.get(asked.technician, asked.technician)} answers: {asked.answer}",
                detail=f"{asked.order}. You asked: {asked.text}",
                to=f"/review/jobs/{asked.order}",
                since=asked.answered_at,
                cost="nothing hurries",
            )
            for asked in unit.questions_back.answered_to(person.id, MOST_ANSWERS_SHOWN)
            if asked.answered_at is not None and context.clock() - asked.answered_at < ANSWER_STAYS
        ]
        reads = unit.evidence_reads.all()
        counts = {
            incident.document: (
                incident.content,
                *unit.job_evidence.finished_since(incident.document, reads.get(incident.document)),
            )
            for incident in unit.documents.all_released("incident type")
        }
    lines += [
        DeskLine(
            what=f"Read {row.line.id}: {', '.join(row.reasons[:2])}",
            detail=f"{row.line.symptom_label}, {row.line.asset.name}, {row.line.site.name}",
            to=f"/review/jobs/{row.line.id}",
            since=row.line.finished_at,
            cost="a fault may spread",
        )
        for row in unread.rows[:3]
        if row.reasons
    ]
    if unread.total > 3:
        lines.append(
            DeskLine(
                what=f"{_n(unread.total, 'completion')} to read",
                detail=f"{len(unread.plain)} of them with nothing unusual about them.",
                to="/review",
                since=None,
                cost="time is lost",
            )
        )
    lines += [
        DeskLine(
            what=view.proposal.sentence,
            detail=f"{view.title}. {view.proposal.effect}",
            to=f"/refine#{view.key}",
            since=None,
            cost="time is lost",
        )
        for view in waiting[:3]
    ]
    if len(waiting) > 3:
        lines.append(
            DeskLine(
                what=f"{len(waiting) - 3} more proposals",
                detail="What the evidence suggests changing.",
                to="/refine",
                since=None,
                cost="nothing hurries",
            )
        )
    lines += [_of_trial(view) for view in trials(context) if view.trial.ended_at is None]
    order = {cost: n for n, cost in enumerate(_COSTS)}
    return Desk(
        lines=tuple(sorted(lines, key=lambda line: order[line.cost])),
        incident_types=tuple(
            sorted(
                (
                    TypeOnDesk(
                        document=document,
                        title=content.title,
                        n_jobs=n_jobs,
                        n_since=n_since,
                        read_at=read.at if (read := reads.get(document)) else None,
                        read_by=names.get(read.person, "") if read else "",
                        n_proposals=sum(view.incident_type == document for view in waiting),
                        last_change=next(
                            (c.gain.sentence for c in changes.changes if c.incident_type == document), ""
                        ),
                    )
                    for document, (content, n_jobs, n_since) in counts.items()
                    if isinstance(content, IncidentType)
                ),
                key=lambda t: (-t.n_since, t.document),
            )
        ),
    )


def _of_trial(view: TrialView) -> DeskLine:
    """A trial under way; once it has its answer, orders go on getting the worse revision until somebody decides."""
    return DeskLine(
        what=f"Trial of “{view.title}” {view.trial.letter}"
        + (" has its answer" if view.has_answer else " is under way"),
        detail=view.reading.sentence,
        to=f"/refine/trials/{view.trial.id}",
        since=view.trial.began_at,
        cost="time is lost" if view.has_answer else "nothing hurries",
    )


_COSTS: tuple[Cost, ...] = (
    "somebody on site waits",
    "work is held up",
    "a fault may spread",
    "time is lost",
    "nothing hurries",
)


def _where(heading: RevisionHeading) -> str:
    """Where a document opens."""
    if heading.kind == "decision table":
        return f"/match/tables/{heading.document}"
    if heading.kind == "fault guide":
        return f"/refine/guides/{heading.document}"
    folder = "" if heading.kind == "incident type" else "documents/"
    return f"/author/{folder}{heading.document}"


def _n(n: int, word: str) -> str:
    return f"1 {word}" if n == 1 else f"{n} {word}s"
