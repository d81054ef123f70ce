"""Fault guides with what closed jobs make of them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import date
from functools import partial

from reedling.core.faultguide.guide_soundness import KnownToGuides
from reedling.core.faultguide.learning import ClosedJob, LearnedGuide
from reedling.core.faultguide.links import GuideLinks, links_in, question_of
from reedling.core.faultguide.order_guides import OrderGuide, rounded
from reedling.core.faultguide.written_learning import learn_written
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import fill_in
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.services.shared.uses import shared_being_written, shared_in_force
from reedling.store.unit import Unit

NOT_CAUSES = ("unknown", "nothing-found")
"""Codes of causes that say that none was found."""


def labels_of(lists: Catalogue) -> dict[str, str]:
    """Causes and remedies in words, by code."""
    return {c.code: c.label for c in lists.causes} | {r.code: r.label for r in lists.remedies}


def guide_in_force(unit: Unit, incident_type: str) -> Revision | None:
    """The fault guide in force of an incident type, if there is one."""
    return next(
        (
            revision
            for revision in unit.documents.all_released("fault guide")
            if isinstance(revision.content, WrittenGuide) and revision.content.incident_type == incident_type
        ),
        None,
    )


def guide_at_hand(unit: Unit, incident_type: str) -> Revision | None:
    """The fault guide of an incident type: the one in force, else the one being written."""
    held = guide_in_force(unit, incident_type)
    if held is not None:
        return held
    for document in unit.documents.of_kind("fault guide"):
        revision = unit.documents.open_revision(document)
        content = revision.content if revision is not None else None
        if isinstance(content, WrittenGuide) and content.incident_type == incident_type:
            return revision
    return None


def known_to_guides(unit: Unit, guide: WrittenGuide, document: str) -> KnownToGuides:
    """What a fault guide may name, with the plans of its incident type as they are being written."""
    lists = unit.catalogues.get()
    other = guide_in_force(unit, guide.incident_type)
    return KnownToGuides(
        causes={c.code: c.label for c in lists.causes},
        remedies={r.code: r.label for r in lists.remedies},
        incident_types=unit.documents.of_kind("incident type"),
        links=links_being_written(unit, guide.incident_type),
        taken=other.document if other is not None and other.document != document else "",
    )


def links_being_written(unit: Unit, incident_type: str) -> GuideLinks:
    """What the plans of an incident type offer to link to, at the revisions to work on."""
    incident = unit.documents.content_of(incident_type) if incident_type else None
    plans = incident.plans if isinstance(incident, IncidentType) else ()
    contents = ((plan, unit.documents.content_of(plan)) for plan in plans)
    return links_in(
        (document, fill_in(plan, shared_being_written(unit, plan)).plan)
        for document, plan in contents
        if isinstance(plan, Plan)
    )


def links_in_force(unit: Unit, incident_type: str) -> GuideLinks:
    """As :func:`links_being_written`, of what is in force."""
    return links_in(plans_in_force(unit, incident_type))


def plans_in_force(unit: Unit, incident_type: str) -> Iterator[tuple[str, Plan]]:
    """The plans of an incident type that are in force, with their standard steps and forms filled in."""
    revision = unit.documents.released(incident_type)
    incident = revision.content if revision is not None else None
    shared = shared_in_force(unit)
    for document in incident.plans if isinstance(incident, IncidentType) else ():
        plan = unit.documents.released(document)
        if plan is not None and isinstance(plan.content, Plan):
            yield document, fill_in(plan.content, shared).plan


def closed_jobs_of(unit: Unit, incident_type: str, links: GuideLinks) -> list[ClosedJob]:
    """The closed jobs of an incident type, with what was seen at the steps that look for the cause.

    The rest of what was answered follows from what was done, and tells nothing beforehand.
    """

    def of_phase(phase: str) -> set[tuple[str, str]]:
        pairs = (key.partition(":") for key, step in links.steps.items() if step.phase == phase)
        return {(document, step) for document, _, step in pairs}

    jobs = unit.job_evidence.closed_jobs(
        incident_type, mends=of_phase("Put right"), checks=of_phase("Diagnose")
    )
    asked = {question_of(look) for look, told in links.looks.items() if told.phase == "Diagnose"}
    return [
        replace(job, seen={look: value for look, value in job.seen.items() if _tells(look, asked)})
        for job in jobs
    ]


def _tells(look: str, asked: set[str]) -> bool:
    question = question_of(look)
    return question in asked or question.startswith("FG-")


def learned_guide(unit: Unit, revision: Revision) -> LearnedGuide | None:
    """A fault guide with what closed jobs show; nothing where it has no cause with a chance."""
    guide = revision.content
    assert isinstance(guide, WrittenGuide)
    key = (revision.document, revision.letter, revision.version, *_versions(unit, guide.incident_type))
    return unit.kept_of_jobs(
        ("written guide", *key), partial(_learn, guide=guide, document=revision.document), apart=True
    )


def _learn(unit: Unit, *, guide: WrittenGuide, document: str) -> LearnedGuide | None:
    links = links_in_force(unit, guide.incident_type)
    return learn_written(
        guide,
        document,
        _also(links, links_being_written(unit, guide.incident_type)),
        closed_jobs_of(unit, guide.incident_type, links),
        unknown=NOT_CAUSES,
        labels=labels_of(unit.catalogues.get()),
    )


def _versions(unit: Unit, incident_type: str) -> Iterator[tuple[str, str, int]]:
    """What the plans of an incident type were when they were last written."""
    incident = unit.documents.content_of(incident_type) if incident_type else None
    plans = incident.plans if isinstance(incident, IncidentType) else ()
    for at_hand in unit.documents.at_hand(*plans).values():
        yield at_hand.revision.document, at_hand.revision.letter, at_hand.revision.version


def drifted_guides(unit: Unit) -> Iterator[tuple[Revision, int]]:
    """The fault guides in force that are linked to what no plan in force has any more, with how many such links."""
    for revision in unit.documents.all_released("fault guide"):
        guide = revision.content
        assert isinstance(guide, WrittenGuide)
        links = links_in_force(unit, guide.incident_type)
        gone = [c.look for c in guide.checks if c.look and c.look not in links.looks]
        gone += [r.step for r in guide.remedies if r.step and r.step not in links.steps]
        if gone:
            yield revision, len(gone)


def order_guide(unit: Unit, incident_type: str, day: date) -> OrderGuide | None:
    """The fault guide that an order of an incident type gets, with what closed jobs show.

    It is worked out once a day: no order is logged the slower because a job was finished.
    """
    revision = guide_in_force(unit, incident_type)
    if revision is None:
        return None
    key = ("order guide", revision.document, revision.letter, day)
    return unit.kept_of_guidance(key, lambda at: _order_guide(at, revision, incident_type))


def _order_guide(unit: Unit, revision: Revision, incident_type: str) -> OrderGuide | None:
    found = learned_guide(unit, revision)
    if found is None or not isinstance(revision.content, WrittenGuide):
        return None
    written = revision.content
    looks = links_in_force(unit, incident_type).looks
    labels = labels_of(unit.catalogues.get())
    return OrderGuide(
        document=revision.document,
        revision=revision.letter,
        title=written.title,
        n_jobs=found.n_jobs,
        guide=rounded(found.guide),
        labels=tuple(labels.get(cause, cause) for cause in found.guide.causes),
        looks=tuple(check.look for check in written.checks),
        lines=tuple(looks[c.look].step if c.look in looks else "" for c in written.checks),
        remedies=tuple(remedy.remedy for remedy in written.remedies),
        remedy_lines=tuple(remedy.step for remedy in written.remedies),
    )


def _also(first: GuideLinks, second: GuideLinks) -> GuideLinks:
    """The links of the first, and those that only the second has."""
    return GuideLinks(
        looks={**second.looks, **first.looks},
        steps={**second.steps, **first.steps},
    )
