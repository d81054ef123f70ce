"""Which symptoms are related: the same, or of one family."""

from __future__ import annotations

from collections.abc import Callable

from reedling.core.guidance.catalogue import Catalogue


def relation_of(catalogue: Catalogue) -> Callable[[str, str], bool]:
    """A test of two symptom codes; a symptom without a family is related to itself alone."""
    families = {s.code: s.family for s in catalogue.symptoms}

    def related(one: str, other: str) -> bool:
        family = families.get(one)
        return one == other or bool(family and family == families.get(other))

    return related
