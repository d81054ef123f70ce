"""Choices of jobs that somebody keeps by name, for everybody in the office."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from reedling.core.evidence.cross_filter import Facet
from reedling.errors import InvalidInput

LONGEST_NAME = 60
MOST_VIEWS = 40
"""Views that are kept of one incident type."""

Choices = Mapping[Facet, tuple[str, ...]]
"""The values chosen, by facet; a facet without any is not chosen in."""


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptView:
    """Choices of the jobs of an incident type under a name, by whom and when."""

    incident_type: str
    name: str
    choices: Choices
    person: str
    at: datetime


def named_view(
    incident_type: str, name: str, choices: Mapping[Facet, tuple[str, ...]], person: str, at: datetime
) -> KeptView:
    """A view to be kept.

    Raises
    ------
    InvalidInput
        ``kept_views.name`` without a name, or with one that is too long; ``kept_views.empty`` where nothing is chosen.
    """
    name = " ".join(name.split())
    if not 1 <= len(name) <= LONGEST_NAME:
        raise InvalidInput(
            "kept_views.name", f"a view has a name of 1 to {LONGEST_NAME} letters.", where="View"
        )
    held = {facet: values for facet, values in choices.items() if values}
    if not held:
        raise InvalidInput(
            "kept_views.empty",
            "nothing is chosen that could be kept.",
            where=name,
            hint="Choose a bar first.",
        )
    return KeptView(incident_type=incident_type, name=name, choices=held, person=person, at=at)
