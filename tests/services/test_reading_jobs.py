"""What limits are judged by equals what the jobs themselves say."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from pathlib import Path

import pytest

from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.questions import Reading
from reedling.core.logic.conditions import comparisons
from reedling.core.refining.changes import MoveLimit
from reedling.core.refining.proposals import ReadingJob
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.job_runs import job_run
from reedling.services.actions.proposals import draft_proposal
from reedling.services.shared.guides import NOT_CAUSES
from reedling.services.views.proposals import proposals_page
from reedling.store.job_evidence import JobEvidence
from reedling.wiring import open_context
from tests.conftest import INES
from tests.core.refining.test_limit_proposals import field

pytestmark = pytest.mark.slow


def test_the_readings_of_a_plans_questions_are_those_of_its_jobs_one_after_the_other(demo_dir: Path) -> None:
    with open_context(demo_dir).reading() as unit:
        n_readings = 0
        for incident in unit.documents.all_released("incident type"):
            assert isinstance(incident.content, IncidentType)
            for document in incident.content.plans:
                plan = unit.documents.released(document)
                if plan is None:
                    continue
                expected: dict[str, list[tuple[datetime, str, ReadingJob]]] = {}
                for order in unit.orders.facts():
                    held = unit.orders.get(order.id)
                    assert held is not None
                    sources = {(s.document, s.revision) for s in held.runsheet.sources}
                    job = replay(held.runsheet, unit.recorded.events(order.id))
                    if (document, plan.letter) not in sources or job.finished_at is None:
                        continue
                    if not job.cause or job.cause in NOT_CAUSES:
                        continue
                    run = job_run(held.runsheet, job)
                    for line in run.lines:
                        for question in line.questions:
                            value = run.standing.known.get(question.id)
                            if question.kind in ("reading", "computed") and isinstance(value, int | float):
                                if line.each == "" and question.id.startswith(f"{document}:"):
                                    name = question.id.removeprefix(f"{document}:")
                                    found = ReadingJob(order=order.id, value=float(value), cause=job.cause)
                                    expected.setdefault(name, []).append((job.finished_at, order.id, found))
                kept = unit.job_evidence.reading_jobs(document, plan.letter, not_causes=NOT_CAUSES)
                assert kept == {
                    name: [found for _, _, found in sorted(jobs, key=lambda one: one[:2])]
                    for name, jobs in expected.items()
                }
                n_readings += sum(map(len, kept.values()))
        assert n_readings > 50


def test_a_limit_that_lies_too_low_is_told_and_drafted_with_what_hangs_on_it(
    demo_dir: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    jobs = [
        replace(job, cause="relief-valve" if job.cause == "seal" else "debris")
        for job in field(1, worn_below=97, n=400)
    ]

    def read(
        self: JobEvidence, document: str, revision: str, *, not_causes: object
    ) -> dict[str, list[ReadingJob]]:
        return {"bar": jobs} if document == "WP-001" else {}

    monkeypatch.setattr(JobEvidence, "reading_jobs", read)
    context = open_context(demo_dir)
    (view,) = (v for v in proposals_page(context).proposals if v.proposal.kind == "tighten a limit")
    assert isinstance(view.proposal.change, MoveLimit)
    limit = view.proposal.change.value
    assert {d.after for d in view.differences if "below" in d.after} != set()
    draft_proposal(context, INES, view.key)
    with context.reading() as unit:
        draft = unit.documents.open_revision("WP-001")
    assert draft is not None
    assert isinstance(draft.content, Plan)
    asked = {
        c.value
        for step in draft.content.steps
        for c in comparisons(step.condition)
        if c.question == "bar" and c.operator in ("below", "at least")
    }
    assert asked == {limit}
    (gauge,) = (q for s in draft.content.steps for q in s.questions if q.id == "bar")
    assert isinstance(gauge, Reading)
    assert gauge.limits.low == limit
