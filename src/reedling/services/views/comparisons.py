"""What changed between two revisions."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.faultguide.guide_differences import compare_guides
from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.differences import Difference, compare_incident_types, compare_plans
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.revisions import DocumentKind, RevisionState
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.core.matching.cells import naming_of
from reedling.core.matching.table_differences import compare_tables
from reedling.errors import InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.shared.current import document_at_hand
from reedling.services.shared.guides import known_to_guides, labels_of
from reedling.services.shared.known_documents import known_to_tables
from reedling.services.shared.uses import library_being_written
from reedling.services.views.documents import (
    StepView,
    step_views,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanRevision:
    """One revision of a plan, to read."""

    document: str
    letter: str
    state: RevisionState
    note: str
    content: Plan
    steps: tuple[StepView, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionComparison:
    """What changed between two revisions; for a plan with both side by side.

    ``title`` is that of the document as it is worked on, ``letters`` are all its revisions, the oldest first.
    """

    document: str
    kind: DocumentKind
    title: str
    letters: tuple[str, ...]
    older: str
    newer: str
    differences: tuple[Difference, ...]
    older_plan: PlanRevision | None
    newer_plan: PlanRevision | None


def compare_revisions(
    context: Context, document: str, older: str = "", newer: str = ""
) -> RevisionComparison:
    """What changed between two revisions of a document, in words; between the last two unless others are named."""
    with context.reading() as unit:
        at_hand = document_at_hand(unit, document)
        letters = tuple(standing.letter for standing in at_hand.standings)
        newer = newer or letters[-1]
        older = older or letters[max(0, letters.index(newer) - 1 if newer in letters else 0)]
        first, second = (unit.documents.revision(document, letter) for letter in (older, newer))
        if first is None or second is None:
            missing = older if first is None else newer
            raise NotFound("revisions.unknown", f"{document} has no revision {missing}.")
        if isinstance(first.content, Plan) and isinstance(second.content, Plan):
            differences = compare_plans(first.content, second.content)
        elif isinstance(first.content, IncidentType) and isinstance(second.content, IncidentType):
            differences = compare_incident_types(first.content, second.content)
        elif isinstance(first.content, DecisionTable) and isinstance(second.content, DecisionTable):
            naming = naming_of(unit.catalogues.get(), incident_types=known_to_tables(unit).incident_types)
            differences = compare_tables(first.content, second.content, naming)
        elif isinstance(first.content, WrittenGuide) and isinstance(second.content, WrittenGuide):
            links = known_to_guides(unit, second.content, document).links
            words = labels_of(unit.catalogues.get()) | {key: look.label for key, look in links.looks.items()}
            differences = compare_guides(first.content, second.content, words)
        else:
            raise InvalidInput("revisions.kind", "only revisions of one document compare.", where=document)
        facts = fact_names(unit.catalogues.get())
        plans = [
            PlanRevision(
                document=document,
                letter=r.letter,
                state=r.state,
                note=r.note,
                content=r.content,
                steps=step_views(r.content, library_being_written(unit, r.content), facts),
            )
            for r in (first, second)
            if isinstance(r.content, Plan)
        ]
        return RevisionComparison(
            document=document,
            kind=at_hand.kind,
            title=at_hand.revision.content.title,
            letters=letters,
            older=older,
            newer=newer,
            differences=differences,
            older_plan=plans[0] if plans else None,
            newer_plan=plans[1] if plans else None,
        )
