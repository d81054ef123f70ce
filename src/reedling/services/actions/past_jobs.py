"""Take in many jobs that are over, at once: a history, each job by the same rules as one that comes in by itself."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from reedling.core.changes import Change
from reedling.core.evidence.job_summary import JobSummary
from reedling.core.evidence.steps import step_records
from reedling.core.orders.orders import Order
from reedling.core.orders.receipts import Picture, Receipt
from reedling.core.runsheet.events import FieldEvent
from reedling.core.runsheet.job_state import Job
from reedling.services.context import Context
from reedling.services.shared.first_time import note_returns, related_symptoms, summary_of
from reedling.services.shared.recording import digest_of
from reedling.services.shared.trials import TakenByTrial


@dataclass(frozen=True, slots=True, kw_only=True)
class PastSubmission:
    """What a device recorded at one time and how the order stood after it."""

    receipt: Receipt
    person: str
    events: tuple[FieldEvent, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PastJob:
    """An order as it stands at the end, with all that was recorded on it and done to it.

    ``job`` is what its events add up to; ``pictures`` are those it took, each with its bytes; ``trials`` took the order.
    """

    order: Order
    job: Job
    submissions: tuple[PastSubmission, ...]
    changes: tuple[Change, ...]
    pictures: tuple[tuple[Picture, bytes], ...]
    trials: tuple[TakenByTrial, ...] = ()

    @property
    def received_at(self) -> datetime | None:
        """When the last of it was received."""
        return self.submissions[-1].receipt.received_at if self.submissions else None


def take_in_past_jobs(context: Context, jobs: Sequence[PastJob], numbers: Mapping[str, int]) -> None:
    """Write a history, all or nothing. ``numbers`` are the last ones that were given out, by prefix.

    What was recorded was held against the rules by whoever made the history; nothing of these orders is in the
    store yet. Readings that are written back to assets are not among it: such jobs come in one by one.
    """
    with context.writing() as unit:
        with unit.together():
            for past in jobs:
                unit.orders.add(past.order)
        with unit.together():
            for past in jobs:
                for sent in past.submissions:
                    unit.recorded.add_submission(sent.receipt, sent.person, digest=digest_of(sent.events))
        with unit.together():
            for past in jobs:
                number = 0
                for sent in past.submissions:
                    unit.recorded.add_events(
                        past.order.id, sent.receipt.submission, sent.person, sent.events, after=number
                    )
                    number += len(sent.events)
                unit.help.keep(past.order.id, past.order.technician or "", past.job)
                unit.site_records.keep(past.order.id, past.order.technician or "", past.job)
                unit.changes.add(past.changes)
                for by in past.trials:
                    unit.trials.take(by.trial, past.order.id, tried=by.tried)
                for picture, data in past.pictures:
                    unit.pictures.add(picture, data)
        related = related_symptoms(unit)
        summaries: list[JobSummary] = []
        with unit.together():
            for past in jobs:
                records = step_records(past.order.id, past.order.runsheet, past.job)
                summary = summary_of(past.order, past.job, records, past.received_at)
                unit.recorded.add_step_records(
                    records, incident_type=past.order.incident_type, closed=summary is not None
                )
                unit.summaries.add_codes(past.order.id, _events(past))
                if summary is not None:
                    unit.summaries.add_in_short(summary)
                    summaries.append(summary)
        unit.summaries.note_ways(visit for one in summaries for visit in one.visits)
        unit.summaries.count_records()
        unit.summaries.keep_answers(sorted(summaries, key=lambda one: (one.finished_at, one.order)))
        note_returns(unit, {past.order.asset.code for past in jobs}, related)
        for prefix, number in numbers.items():
            unit.reserve_number(prefix, number)


def _events(past: PastJob) -> Iterable[FieldEvent]:
    return (event for submission in past.submissions for event in submission.events)
