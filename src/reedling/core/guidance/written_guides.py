"""A fault guide as an engineer writes it: causes, checks and remedies, each linked to the work plans it speaks of."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideCause:
    """A cause by its code, and the author's figure, 0 to 1, for how often it is the one; counted against the others."""

    cause: str
    chance: float = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideCheck:
    """Something to look at that is so or not.

    ``look`` links it to a question of a plan (see :func:`reedling.core.faultguide.links.looks_of`); empty where no plan
    asks it. ``label`` and ``minutes`` are those of the question and its step unless given here. ``yes`` gives the
    author's chance, 0 to 1, that it is so, by cause; where it is not said, it may as well be so as not.
    """

    id: str
    look: str = ""
    label: str = ""
    minutes: float | None = None
    yes: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideRemedy:
    """A remedy by its code; ``step`` links it to a step of a plan, as ``document:step``, empty for none.

    ``minutes`` are those of the step unless given here; ``cost_minutes`` is what its parts cost, in minutes. ``fixes``
    gives the author's chance, 0 to 1, that it puts the equipment right, by cause; where it is not said, it does not.
    """

    id: str
    remedy: str
    step: str = ""
    minutes: float | None = None
    cost_minutes: float = 0.0
    fixes: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenGuide:
    """A fault guide of one incident type.

    The author's figures count for ``weight`` jobs against what closed jobs show. After each remedy ``prove_minutes``
    show whether it helped; sending for a specialist costs ``last_resort_minutes``. A figure for a cause that the guide
    does not have (any more) is passed over.
    """

    title: str
    summary: str = ""
    incident_type: str = ""
    causes: tuple[GuideCause, ...] = ()
    checks: tuple[GuideCheck, ...] = ()
    remedies: tuple[GuideRemedy, ...] = ()
    weight: float = 5.0
    prove_minutes: float = 10.0
    last_resort_minutes: float = 240.0


def plans_linked(guide: WrittenGuide) -> tuple[str, ...]:
    """The plans that checks and remedies are linked to, each once."""
    links = (*(c.look for c in guide.checks), *(r.step for r in guide.remedies))
    return tuple(dict.fromkeys(link.partition(":")[0] for link in links if link))
