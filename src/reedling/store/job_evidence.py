"""What finished jobs say, laid out for those who look at many of them together: filters, proposals, fault guides."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import ScalarSelect, case, func, select
from sqlalchemy.orm import Session

from reedling.core.evidence.cross_filter import (
    NO_PHOTOS,
    JobColumns,
    JobFacts,
    PhotoCounts,
    columns_of,
    count_photos,
    facet_values,
)
from reedling.core.evidence.customers_said import CustomerWords
from reedling.core.evidence.haste import HASTY_FROM_MINUTES
from reedling.core.evidence.jobs import EvidenceRead
from reedling.core.evidence.outcomes import OrderOutcome
from reedling.core.evidence.readings import KeptReading
from reedling.core.evidence.trust import StepPace
from reedling.core.faultguide.learning import ClosedJob, seen_on
from reedling.core.orders.photo_looks import PhotoDoubt, photo_doubts
from reedling.core.pastfixes.solved import FaultCall, Remedied, SolvedJob
from reedling.core.refining.missing_steps import DoneBeside
from reedling.core.refining.part_proposals import PartJob, wanted_a_part
from reedling.core.refining.proposals import ReadingJob, StepJob
from reedling.core.refining.recurring_notes import NoteAtStep
from reedling.store.job_figures import outcomes_of
from reedling.store.job_tables import (
    JobChoiceRow,
    JobPartRow,
    JobReadingRow,
    JobSourceRow,
    JobSummaryRow,
    JobTriedRow,
    StepRecordRow,
)
from reedling.store.pictures import kept_look
from reedling.store.tables import AssetRow, EventRow, OrderRow, PictureRow, SiteRecordRow


@dataclass(frozen=True, slots=True)
class JobEvidence:
    """Reads what is kept of finished jobs; :class:`reedling.store.summaries.Summaries` writes it."""

    session: Session

    def columns(self, incident_type: str, documents: Sequence[str]) -> JobColumns:
        """The finished jobs of an incident type as filters see them.

        Of what they were issued with, the revisions of these documents tell them apart.
        """
        issued: dict[str, list[str]] = {}
        sources = (
            select(JobSourceRow.order_id, JobSourceRow.document_id, JobSourceRow.revision)
            .join(JobSummaryRow, JobSummaryRow.order_id == JobSourceRow.order_id)
            .where(JobSummaryRow.incident_type_id == incident_type, JobSourceRow.document_id.in_(documents))
            .order_by(JobSourceRow.document_id)
        )
        for order, document, revision in self.session.execute(sources):
            issued.setdefault(order, []).append(f"{document} {revision}")
        photos = self._photos(incident_type)
        query = select(
            JobSummaryRow.order_id,
            JobSummaryRow.finished_at,
            JobSummaryRow.fixed,
            JobSummaryRow.doubtful_finish,
            JobSummaryRow.minutes_on_site,
            JobSummaryRow.n_visits,
            JobSummaryRow.n_findings,
            JobSummaryRow.n_helped,
            JobSummaryRow.model,
            JobSummaryRow.district,
            JobSummaryRow.symptom,
            JobSummaryRow.cause,
            JobSummaryRow.remedy,
            JobSummaryRow.return_reasons,
            JobSummaryRow.technician_id,
            JobSummaryRow.travel_minutes,
            JobSummaryRow.km,
        ).where(JobSummaryRow.incident_type_id == incident_type)
        return columns_of(
            JobFacts(
                order=row.order_id,
                finished_at=row.finished_at,
                values=facet_values(
                    model=row.model,
                    district=row.district,
                    symptom=row.symptom,
                    issued=issued.get(row.order_id, ()),
                    cause=row.cause,
                    remedy=row.remedy,
                    return_reasons=row.return_reasons,
                    finished_at=row.finished_at,
                ),
                fixed=row.fixed,
                doubtful=row.doubtful_finish,
                minutes=row.minutes_on_site,
                n_visits=row.n_visits,
                n_findings=row.n_findings,
                n_helped=row.n_helped,
                technician=row.technician_id,
                travel_minutes=row.travel_minutes,
                km=row.km,
                photos=photos.get(row.order_id, NO_PHOTOS),
            )
            for row in self.session.execute(query)
        )

    def _photos(self, incident_type: str) -> dict[str, PhotoCounts]:
        """The photos of each finished job of an incident type that were looked at, and what is to be doubted of them."""
        query = (
            select(
                PictureRow.order_id,
                PictureRow.blur,
                PictureRow.light,
                PictureRow.fingerprint,
                PictureRow.same_as,
            )
            .join(JobSummaryRow, JobSummaryRow.order_id == PictureRow.order_id)
            .where(JobSummaryRow.incident_type_id == incident_type)
        )
        doubts: dict[str, list[tuple[PhotoDoubt, ...]]] = {}
        for order, blur, light, fingerprint, same_as in self.session.execute(query):
            look = kept_look(blur, light, fingerprint)
            if look is not None:
                doubts.setdefault(order, []).append(photo_doubts(look, is_same=bool(same_as)))
        return {order: count_photos(of_order) for order, of_order in doubts.items()}

    def finished_since(self, incident_type: str, read: EvidenceRead | None) -> tuple[int, int]:
        """How many jobs of an incident type are finished, and how many of them since its evidence was read."""
        later = JobSummaryRow.finished_at > read.at if read else JobSummaryRow.finished_at.is_not(None)
        query = select(func.count(), func.count(case((later, 1)))).where(
            JobSummaryRow.incident_type_id == incident_type
        )
        n_jobs, n_since = self.session.execute(query).one()
        return n_jobs, n_since

    def issued_with(self, document: str, *, most: int) -> tuple[str, ...]:
        """The latest finished jobs that were issued with a document, at whatever revision."""
        query = (
            select(JobSourceRow.order_id)
            .join(JobSummaryRow, JobSummaryRow.order_id == JobSourceRow.order_id)
            .where(JobSourceRow.document_id == document)
            .order_by(JobSummaryRow.finished_at.desc(), JobSummaryRow.order_id)
            .limit(most)
        )
        return tuple(self.session.scalars(query))

    def latest(self, *, most: int) -> tuple[str, ...]:
        """The latest finished jobs, whatever they were issued with."""
        query = select(JobSummaryRow.order_id).order_by(
            JobSummaryRow.finished_at.desc(), JobSummaryRow.order_id
        )
        return tuple(self.session.scalars(query.limit(most)))

    def customer_words(self, incident_type: str) -> tuple[CustomerWords, ...]:
        """What the customer of each finished job of an incident type said last, where anything was said."""
        query = (
            select(EventRow.order_id, EventRow.payload)
            .join(JobSummaryRow, JobSummaryRow.order_id == EventRow.order_id)
            .where(EventRow.kind == "customer said", JobSummaryRow.incident_type_id == incident_type)
            .order_by(EventRow.order_id, EventRow.number)
        )
        last = {row.order_id: row.payload for row in self.session.execute(query)}
        return tuple(
            CustomerWords(
                order=order,
                at=datetime.fromisoformat(payload["at"]),
                rating=payload.get("rating"),
                comment=payload.get("comment") or "",
            )
            for order, payload in last.items()
        )

    def done_beside(self, document: str) -> tuple[DoneBeside, ...]:
        """What finished jobs that were issued with a document did and no step asked for, in the order recorded."""
        issued = select(JobSourceRow.order_id).where(JobSourceRow.document_id == document)
        query = (
            select(EventRow.order_id, EventRow.payload)
            .join(SiteRecordRow, SiteRecordRow.order_id == EventRow.order_id)
            .where(
                SiteRecordRow.kind == "step added",
                EventRow.kind == "step added",
                EventRow.payload["record"].as_string() == SiteRecordRow.id,
                EventRow.order_id.in_(issued),
            )
            .order_by(SiteRecordRow.at, SiteRecordRow.order_id, SiteRecordRow.id)
        )
        return tuple(
            DoneBeside(
                order=order, phase=payload["phase"], text=payload["text"], minutes=float(payload["minutes"])
            )
            for order, payload in self.session.execute(query)
        )

    def notes_at_steps(self, document: str, revision: str, *, most: int = 2_000) -> tuple[NoteAtStep, ...]:
        """The notes that the latest finished jobs that were issued with a revision of a document wrote at its steps."""
        query = (
            select(EventRow.order_id, EventRow.payload)
            .where(EventRow.kind == "note written", EventRow.order_id.in_(_latest(document, revision, most)))
            .order_by(EventRow.order_id, EventRow.number)
        )
        notes = []
        for order, payload in self.session.execute(query):
            of, _, step = str(payload.get("line") or "").partition(":")
            if of == document and step:
                notes.append(NoteAtStep(order=order, step=step.partition("@")[0], text=payload["text"]))
        return tuple(notes)

    def step_jobs(self, document: str, revision: str, *, most: int = 2_000) -> Mapping[str, list[StepJob]]:
        """What the latest finished jobs that were issued with a revision of a document said of each of its steps."""
        query = (
            select(
                StepRecordRow.order_id,
                StepRecordRow.step,
                StepRecordRow.wanted,
                StepRecordRow.minutes,
                StepRecordRow.out_of_limit,
                StepRecordRow.helped,
                JobSummaryRow.model,
            )
            .join(JobSummaryRow, JobSummaryRow.order_id == StepRecordRow.order_id)
            .where(
                StepRecordRow.document_id == document,
                StepRecordRow.order_id.in_(_latest(document, revision, most)),
            )
            .order_by(JobSummaryRow.finished_at.desc(), JobSummaryRow.order_id)
        )
        out: dict[str, list[StepJob]] = {}
        for row in self.session.execute(query):
            out.setdefault(row.step, []).append(
                StepJob(
                    order=row.order_id,
                    model=row.model,
                    wanted=row.wanted,
                    minutes=row.minutes,
                    out_of_limit=row.out_of_limit,
                    helped=row.helped,
                )
            )
        return out

    def reading_jobs(
        self, document: str, revision: str, *, not_causes: Collection[str], most: int = 2_000
    ) -> Mapping[str, list[ReadingJob]]:
        """What the latest finished jobs that were issued with a revision of a document read at each of its questions.

        Only of jobs whose cause is known and one of the causes; repeats are left out. Oldest first, by question as the
        document names it.
        """
        query = (
            select(JobReadingRow.order_id, JobReadingRow.question, JobReadingRow.value, JobSummaryRow.cause)
            .join(JobSummaryRow, JobSummaryRow.order_id == JobReadingRow.order_id)
            .where(
                JobReadingRow.question.startswith(f"{document}:", autoescape=True),
                JobReadingRow.each == "",
                JobSummaryRow.cause.not_in(("", *not_causes)),
                JobReadingRow.order_id.in_(_latest(document, revision, most)),
            )
            .order_by(JobSummaryRow.finished_at, JobSummaryRow.order_id, JobReadingRow.id)
        )
        out: dict[str, list[ReadingJob]] = {}
        for order, question, value, cause in self.session.execute(query):
            own = out.setdefault(question.removeprefix(f"{document}:"), [])
            own.append(ReadingJob(order=order, value=value, cause=cause))
        return out

    def part_jobs(self, incident_type: str, *, most: int = 2_000) -> list[PartJob]:
        """The parts that the latest finished jobs of an incident type used, and whether one had to be fetched."""
        query = (
            select(JobSummaryRow.order_id, JobSummaryRow.return_reasons)
            .where(JobSummaryRow.incident_type_id == incident_type)
            .order_by(JobSummaryRow.finished_at.desc(), JobSummaryRow.order_id)
            .limit(most)
        )
        rows = self.session.execute(query).all()
        used = self.parts_used(incident_type)
        return [
            PartJob(
                order=row.order_id,
                parts=used.get(row.order_id, {}),
                fetched=wanted_a_part(row.return_reasons),
            )
            for row in rows
        ]

    def closed_jobs(
        self,
        incident_type: str,
        *,
        mends: Collection[tuple[str, str]],
        checks: Collection[tuple[str, str]],
        most: int = 5_000,
    ) -> list[ClosedJob]:
        """The latest finished jobs of an incident type with what was found and seen.

        ``mends`` are the steps that put something right and ``checks`` those that look for the cause, by document and
        step; what was seen is told as :func:`reedling.core.faultguide.learning.seen_on` does.
        """
        of_type = JobSummaryRow.incident_type_id == incident_type
        rows = self.session.execute(
            select(JobSummaryRow.order_id, JobSummaryRow.cause, JobSummaryRow.remedy)
            .where(of_type)
            .order_by(JobSummaryRow.finished_at.desc(), JobSummaryRow.order_id)
            .limit(most)
        ).all()
        query = select(JobChoiceRow.order_id, JobChoiceRow.question, JobChoiceRow.value)
        chosen = self.session.execute(
            query.join(JobSummaryRow, JobSummaryRow.order_id == JobChoiceRow.order_id).where(of_type)
        )
        seen = seen_on(
            ((row.order_id, row.question, row.value) for row in chosen),
            ((r.order, r.question, r.out) for r in self.readings(incident_type)),
        )
        tried: dict[str, dict[str, bool]] = {}
        of_guides = select(JobTriedRow).join(JobSummaryRow, JobSummaryRow.order_id == JobTriedRow.order_id)
        for one in self.session.scalars(of_guides.where(of_type)):
            tried.setdefault(one.order_id, {})[f"{one.guide}:{one.remedy}"] = one.helped
        minutes: dict[str, float] = {}
        taken = (
            select(
                StepRecordRow.order_id,
                StepRecordRow.document_id,
                StepRecordRow.step,
                StepRecordRow.minutes,
                StepRecordRow.planned_minutes,
            )
            .join(JobSummaryRow, JobSummaryRow.order_id == StepRecordRow.order_id)
            .where(of_type, StepRecordRow.wanted.is_(True))
        )
        diagnosed: dict[str, float] = {}
        mended: dict[str, set[str]] = {}
        for row in self.session.execute(taken):
            if (row.document_id, row.step) in mends and row.minutes is not None:
                minutes[row.order_id] = minutes.get(row.order_id, 0.0) + row.minutes
                mended.setdefault(row.order_id, set()).add(f"{row.document_id}:{row.step}")
            elif (row.document_id, row.step) in checks:
                diagnosed[row.order_id] = diagnosed.get(row.order_id, 0.0) + row.planned_minutes
        return [
            ClosedJob(
                order=row.order_id,
                cause=row.cause,
                remedy=row.remedy,
                minutes=minutes.get(row.order_id),
                diagnosed=diagnosed.get(row.order_id, 0.0),
                seen=seen.get(row.order_id, {}),
                tried=tried.get(row.order_id, {}),
                mended=frozenset(mended.get(row.order_id, ())),
            )
            for row in rows
        ]

    def solved_jobs(self) -> tuple[SolvedJob, ...]:
        """Every finished job that was coded, with its call and its fix, in the order they were finished."""
        query = (
            select(
                JobSummaryRow.order_id,
                JobSummaryRow.finished_at,
                JobSummaryRow.cause,
                JobSummaryRow.remedy,
                JobSummaryRow.fix_confirmed,
                JobSummaryRow.model,
                OrderRow.report,
                OrderRow.symptom,
                OrderRow.asset_id,
                AssetRow.equipment,
            )
            .join(OrderRow, OrderRow.id == JobSummaryRow.order_id)
            .outerjoin(AssetRow, AssetRow.id == OrderRow.asset_id)
            .where(JobSummaryRow.cause != "", JobSummaryRow.remedy != "")
            .order_by(JobSummaryRow.finished_at, JobSummaryRow.order_id)
        )
        return tuple(
            SolvedJob(
                order=row.order_id,
                call=FaultCall(
                    report=row.report,
                    symptom=row.symptom,
                    model=row.model,
                    equipment=row.equipment or "",
                    asset=row.asset_id,
                ),
                fix=Remedied(cause=row.cause, remedy=row.remedy),
                finished_at=row.finished_at,
                confirmed=row.fix_confirmed,
            )
            for row in self.session.execute(query)
        )

    def readings(self, incident_type: str, *, most: int | None = None) -> tuple[KeptReading, ...]:
        """Every number that the finished jobs of an incident type, or the latest of them, read or worked out, in the order
        they were finished."""
        query = (
            select(
                JobReadingRow.question,
                JobReadingRow.each,
                JobReadingRow.value,
                JobReadingRow.out,
                JobSummaryRow.order_id,
                JobSummaryRow.asset_id,
                JobSummaryRow.model,
                JobSummaryRow.technician_id,
                JobSummaryRow.finished_at,
            )
            .join(JobSummaryRow, JobSummaryRow.order_id == JobReadingRow.order_id)
            .where(
                JobSummaryRow.incident_type_id == incident_type
                if most is None
                else JobSummaryRow.order_id.in_(_latest_of(incident_type, most))
            )
            .order_by(JobSummaryRow.finished_at, JobReadingRow.id)
        )
        return tuple(
            KeptReading(
                question=row.question,
                each=row.each,
                value=row.value,
                out=row.out,
                order=row.order_id,
                asset=row.asset_id,
                model=row.model,
                technician=row.technician_id,
                at=row.finished_at,
            )
            for row in self.session.execute(query)
        )

    def step_paces(self, incident_type: str, *, most: int) -> tuple[StepPace, ...]:
        """How long the steps took that the latest finished jobs of an incident type did, where their times can be, in
        the order the jobs were finished; of steps that are long enough to be hasty."""
        query = (
            select(
                StepRecordRow.document_id,
                StepRecordRow.step,
                JobSummaryRow.technician_id,
                StepRecordRow.order_id,
                StepRecordRow.minutes / StepRecordRow.planned_minutes,
            )
            .join(JobSummaryRow, JobSummaryRow.order_id == StepRecordRow.order_id)
            .where(
                JobSummaryRow.order_id.in_(_latest_of(incident_type, most)),
                StepRecordRow.minutes.is_not(None),
                StepRecordRow.planned_minutes >= HASTY_FROM_MINUTES,
            )
            .order_by(JobSummaryRow.finished_at, JobSummaryRow.order_id)
        )
        return tuple(
            StepPace(f"{document}:{step}", technician, order, share)
            for document, step, technician, order, share in self.session.execute(query)
            if share is not None
        )

    def watched(self, incident_type: str) -> tuple[tuple[OrderOutcome, ...], frozenset[str]]:
        """All orders on assets that had a job of an incident type, and which of them are such finished jobs."""
        of_type = JobSummaryRow.incident_type_id == incident_type
        assets = select(JobSummaryRow.asset_id).where(of_type)
        jobs = frozenset(self.session.scalars(select(JobSummaryRow.order_id).where(of_type)))
        return outcomes_of(self.session, OrderRow.asset_id.in_(assets)), jobs

    def parts_used(self, incident_type: str) -> Mapping[str, Mapping[str, float]]:
        """What each finished order of a type took, by part; an order that took nothing is there too."""
        of_type = JobSummaryRow.incident_type_id == incident_type
        done = select(JobSummaryRow.order_id).where(of_type)
        out: dict[str, dict[str, float]] = {order: {} for order in self.session.scalars(done)}
        query = (
            select(JobPartRow.order_id, JobPartRow.part, JobPartRow.quantity)
            .join(JobSummaryRow, JobSummaryRow.order_id == JobPartRow.order_id)
            .where(of_type)
        )
        for order, part, quantity in self.session.execute(query):
            out[order][part] = quantity
        return out


def _latest_of(incident_type: str, most: int) -> ScalarSelect[str]:
    """The latest finished jobs of an incident type."""
    return (
        select(JobSummaryRow.order_id)
        .where(JobSummaryRow.incident_type_id == incident_type)
        .order_by(JobSummaryRow.finished_at.desc(), JobSummaryRow.order_id)
        .limit(most)
        .scalar_subquery()
    )


def _latest(document: str, revision: str, most: int) -> ScalarSelect[str]:
    """The latest finished jobs that were issued with a revision of a document."""
    return (
        select(JobSourceRow.order_id)
        .join(JobSummaryRow, JobSummaryRow.order_id == JobSourceRow.order_id)
        .where(JobSourceRow.document_id == document, JobSourceRow.revision == revision)
        .order_by(JobSummaryRow.finished_at.desc(), JobSummaryRow.order_id)
        .limit(most)
        .scalar_subquery()
    )
