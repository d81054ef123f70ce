"""What changed between two revisions."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.guidance.differences import Difference
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.revisions import DocumentKind, RevisionState
from reedling.errors import NotFound
from reedling.services.context import Context
from reedling.services.shared.comparing import differences_between
from reedling.services.shared.current import document_at_hand
from reedling.services.shared.uses import shared_being_written
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
        differences = differences_between(unit, document, first.content, second.content)
        facts = fact_names(unit.catalogues.get())
        plans = [
            PlanRevision(
                document=document,
                letter=r.letter,
                state=r.state,
                note=r.note,
                content=r.content,
                steps=step_views(r.content, shared_being_written(unit, r.content), facts),
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
