"""What changed between two contents of one document, in words."""

from __future__ import annotations

from reedling.core.faultguide.guide_differences import compare_guides
from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.differences import Difference, compare_incident_types, compare_plans
from reedling.core.guidance.documents import Content
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.core.matching.cells import naming_of
from reedling.core.matching.table_differences import compare_tables
from reedling.errors import InvalidInput
from reedling.services.shared.guides import known_to_guides, labels_of
from reedling.services.shared.known_documents import known_to_tables
from reedling.store.unit import Unit


def differences_between(unit: Unit, document: str, old: Content, new: Content) -> tuple[Difference, ...]:
    """What changed from the one to the other.

    Raises
    ------
    InvalidInput
        ``revisions.kind`` where they are not of one kind of document.
    """
    if isinstance(old, Plan) and isinstance(new, Plan):
        return compare_plans(old, new)
    if isinstance(old, IncidentType) and isinstance(new, IncidentType):
        return compare_incident_types(old, new, unit.catalogues.get())
    if isinstance(old, DecisionTable) and isinstance(new, DecisionTable):
        naming = naming_of(unit.catalogues.get(), incident_types=known_to_tables(unit).incident_types)
        return compare_tables(old, new, naming)
    if isinstance(old, WrittenGuide) and isinstance(new, WrittenGuide):
        links = known_to_guides(unit, new, document).links
        words = labels_of(unit.catalogues.get()) | {key: look.label for key, look in links.looks.items()}
        return compare_guides(old, new, words)
    raise InvalidInput("revisions.kind", "only revisions of one document compare.", where=document)
