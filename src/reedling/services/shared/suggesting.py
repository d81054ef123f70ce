"""Every proposal that the evidence of the guidance in force makes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial

from reedling.core.guidance.catalogue import Part
from reedling.core.guidance.decision_tables import Column, DecisionTable
from reedling.core.guidance.differences import Difference
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.refining.changes import AddSynonym, changed
from reedling.core.refining.missing_rows import proposals_of_missing_rows
from reedling.core.refining.missing_steps import proposals_of_missing_steps
from reedling.core.refining.missing_words import SYMPTOMS, proposals_of_missing_words
from reedling.core.refining.part_proposals import proposals_of_parts
from reedling.core.refining.proposals import PlanEvidence, Proposal
from reedling.core.refining.recurring_notes import proposals_of_notes
from reedling.core.refining.step_proposals import proposals_of_plan
from reedling.services.shared.by_hand import changed_by_hand
from reedling.services.shared.comparing import differences_between
from reedling.services.shared.guides import NOT_CAUSES
from reedling.store.unit import Unit

MOST_COUNTED = 100_000
"""Jobs of a plan that are counted."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Suggested:
    """A proposal, with the incident type whose jobs it rests on, the revision it would change, and how.

    One that would change a list has no ``base``.
    """

    proposal: Proposal
    incident_type: str
    base: Revision | None
    differences: tuple[Difference, ...]


def suggested(unit: Unit, incident_type: str = "") -> tuple[Suggested, ...]:
    """What the evidence suggests of every incident type in force, or one; each change of a document once."""
    found = dict[str, Suggested]()
    for incident in unit.documents.all_released("incident type"):
        if incident_type not in ("", incident.document):
            continue
        # By itself each, so that none holds up for long what else is worked out.
        of_jobs = unit.kept_of_jobs(
            ("suggested", incident.document), partial(_suggested_by_jobs, incident=incident), apart=True
        )
        for one in of_jobs:
            found.setdefault(one.proposal.key, one)
    if incident_type:
        return tuple(found.values())
    of_lists = unit.kept_of_jobs(("suggested", SYMPTOMS), _missing_words, apart=True)
    return (*found.values(), *_missing_rows(unit), *of_lists)


def _suggested_by_jobs(unit: Unit, *, incident: Revision) -> tuple[Suggested, ...]:
    return tuple(_suggested(unit, incident))


def _suggested(unit: Unit, incident: Revision) -> Iterator[Suggested]:
    content = incident.content
    assert isinstance(content, IncidentType)
    lists = unit.catalogues.get()
    models = {m.code: m.name for m in lists.models}
    causes = {c.code: c.label for c in lists.causes}
    parts = {p.code: p for p in lists.parts}
    named: set[str] = set()
    for document in content.plans:
        plan = unit.documents.released(document)
        if plan is None or not isinstance(plan.content, Plan):
            continue
        named |= {need.part for step in plan.content.steps for need in step.parts}
        evidence = PlanEvidence(
            document=document,
            revision=plan.letter,
            plan=plan.content,
            steps=unit.job_evidence.step_jobs(document, plan.letter),
            asked=unit.help.asked_at(document),
            readings=unit.job_evidence.reading_jobs(document, plan.letter, not_causes=NOT_CAUSES),
        )
        missing = proposals_of_missing_steps(
            document,
            plan.letter,
            plan.content,
            len(unit.job_evidence.issued_with(document, most=MOST_COUNTED)),
            unit.job_evidence.done_beside(document),
        )
        notes = proposals_of_notes(evidence, unit.job_evidence.notes_at_steps(document, plan.letter))
        for proposal in (*proposals_of_plan(evidence, models, causes), *missing, *notes):
            yield _suggesting(unit, proposal, incident.document, plan)
    asked_for = {need.part for need in content.parts}
    for proposal in proposals_of_parts(
        incident.document,
        incident.letter,
        unit.job_evidence.part_jobs(incident.document),
        named=named | asked_for,
        asked_for=asked_for,
        amount=lambda part, n: parts.get(part, Part(code=part, name=part)).amount(n),
    ):
        yield _suggesting(unit, proposal, incident.document, incident)


def _suggesting(unit: Unit, proposal: Proposal, incident_type: str, base: Revision) -> Suggested:
    new = changed(base.content, proposal.change)
    return Suggested(
        proposal=proposal,
        incident_type=incident_type,
        base=base,
        differences=() if new is None else differences_between(unit, base.document, base.content, new),
    )


def _missing_rows(unit: Unit) -> Iterator[Suggested]:
    """The rows that changes by hand suggest, in the first table in force that puts documents on orders by symptom."""
    tables = [
        t for t in unit.documents.all_released("decision table") if isinstance(t.content, DecisionTable)
    ]
    if not tables:
        return
    base = next((t for t in tables if "symptom" in {c.key for c in _columns(t)}), tables[0])
    table = base.content
    assert isinstance(table, DecisionTable)
    lists = unit.catalogues.get()
    classes = {entry.code: entry.name for entry in lists.equipment}
    symptoms = {entry.code: entry.label for entry in lists.symptoms}
    for proposal in proposals_of_missing_rows(
        base.document,
        base.letter,
        table,
        changed_by_hand(unit, base.released_at),
        kind_in_words=lambda equipment, symptom: (
            f"{classes.get(equipment, equipment)}, {symptoms.get(symptom, symptom)}"
        ),
    ):
        yield _suggesting(unit, proposal, "", base)


def _missing_words(unit: Unit) -> tuple[Suggested, ...]:
    """The synonyms of symptoms that reports suggest."""
    symptoms = unit.catalogues.get().symptoms
    out = []
    for proposal in proposals_of_missing_words(symptoms, unit.orders.reports()):
        assert isinstance(proposal.change, AddSynonym)
        held = next(s for s in symptoms if s.code == proposal.change.symptom)
        words = (*held.synonyms, proposal.change.word)
        difference = Difference(
            change="changed",
            place=held.code,
            title=held.label,
            aspect="synonyms",
            before=", ".join(held.synonyms),
            after=", ".join(words),
        )
        out.append(Suggested(proposal=proposal, incident_type="", base=None, differences=(difference,)))
    return tuple(out)


def _columns(revision: Revision) -> tuple[Column, ...]:
    return revision.content.columns if isinstance(revision.content, DecisionTable) else ()
