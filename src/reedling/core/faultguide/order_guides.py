"""The fault guide of an order: the figures it was issued with, and what its checks and remedies are on its runsheet."""

from __future__ import annotations

from dataclasses import dataclass, replace

from reedling.core.faultguide.guides import FaultGuide


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderGuide:
    """A fault guide as an order was issued with it, learned from ``n_jobs`` closed jobs by then.

    ``labels`` are of the causes; ``looks`` and ``lines`` say for each check the answer that tells it and the line that
    asks it, ``remedies`` and ``remedy_lines`` for each remedy its code and the line that does it; empty for none.
    """

    document: str
    revision: str
    title: str
    n_jobs: int
    guide: FaultGuide
    labels: tuple[str, ...]
    looks: tuple[str, ...]
    lines: tuple[str, ...]
    remedies: tuple[str, ...]
    remedy_lines: tuple[str, ...]


DIGITS = 4
"""Chances travel with so many digits."""


def rounded(guide: FaultGuide) -> FaultGuide:
    """The guide with its chances rounded for travelling; those of the causes still sum to 1."""
    chances = [round(c, DIGITS) for c in guide.chances]
    total = sum(chances)
    return replace(
        guide,
        chances=tuple(c / total for c in chances),
        checks=tuple(replace(c, yes=tuple(round(y, DIGITS) for y in c.yes)) for c in guide.checks),
        repairs=tuple(replace(r, fixes=tuple(round(f, DIGITS) for f in r.fixes)) for r in guide.repairs),
    )
