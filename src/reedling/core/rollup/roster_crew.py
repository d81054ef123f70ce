"""Who on the roster meets a set of needs, on a day and in a district."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from reedling.core.guidance.catalogue import Holding
from reedling.core.guidance.skills import Level, SkillNeed, level_rank


@dataclass(frozen=True, slots=True, kw_only=True)
class Lacking:
    """A need that a technician does not meet: what they hold of it, and until when."""

    skill: str
    level: Level
    held: Level | None
    expired_on: date | None


@dataclass(frozen=True, slots=True, kw_only=True)
class CrewMember:
    """A technician against all needs: whether they meet them, what is lacking, what runs out first.

    ``next_expiry`` is the first day on which a certificate they need expires.
    """

    technician: str
    district: str
    meets: bool
    lacking: tuple[Lacking, ...]
    next_expiry: date | None


@dataclass(frozen=True, slots=True, kw_only=True)
class DistrictCrew:
    """One district on two days: who can do it on the first, and who of them is left on the second.

    ``lost`` can on the first day and no longer on the second, ``nearly`` lack one thing on the first.
    """

    district: str
    today: tuple[str, ...]
    later: tuple[str, ...]
    lost: tuple[CrewMember, ...]
    nearly: tuple[CrewMember, ...]
    n_technicians: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Expiry:
    """A day on which somebody who could do it no longer can, and how many are left after it."""

    technician: str
    district: str
    skill: str
    last_day: date
    n_left: int


@dataclass(frozen=True, slots=True, kw_only=True)
class RosterCrew:
    """Who can meet the needs on ``today`` and on ``later``, by district; and what runs out when."""

    needs: tuple[SkillNeed, ...]
    today: date
    later: date
    districts: tuple[DistrictCrew, ...]
    expiries: tuple[Expiry, ...]


def highest_needs(needs: Iterable[SkillNeed]) -> tuple[SkillNeed, ...]:
    """Each skill once, at the highest level asked for."""
    best: dict[str, Level] = {}
    for need in needs:
        held = best.get(need.skill)
        if held is None or level_rank(need.level) > level_rank(held):
            best[need.skill] = need.level
    return tuple(SkillNeed(skill=s, level=level) for s, level in best.items())


def roster_crew(
    roster: Sequence[Holding],
    needs: Iterable[SkillNeed],
    today: date,
    later: date,
    *,
    technicians: Mapping[str, str] | None = None,
) -> RosterCrew:
    """Who on the roster meets all the needs, on two days, by district.

    ``technicians`` gives districts by name for those who may hold nothing at all.
    """
    wanted = highest_needs(needs)
    districts = dict(technicians or {}) | {h.technician: h.district for h in roster}
    of: dict[str, list[Holding]] = {name: [] for name in districts}
    for holding in roster:
        of[holding.technician].append(holding)
    first = {t: _member(t, districts[t], of[t], wanted, today) for t in sorted(of)}
    second = {t: _member(t, districts[t], of[t], wanted, later) for t in sorted(of)}
    out = []
    for district in sorted(set(districts.values())):
        here = [t for t in first if districts[t] == district]
        able = [t for t in here if first[t].meets]
        out.append(
            DistrictCrew(
                district=district,
                today=tuple(able),
                later=tuple(t for t in here if second[t].meets),
                lost=tuple(second[t] for t in able if not second[t].meets),
                nearly=tuple(first[t] for t in here if len(first[t].lacking) == 1),
                n_technicians=len(here),
            )
        )
    return RosterCrew(
        needs=wanted,
        today=today,
        later=later,
        districts=tuple(out),
        expiries=_expiries(of, districts, wanted, today),
    )


def _member(
    technician: str, district: str, held: Sequence[Holding], needs: Sequence[SkillNeed], on: date
) -> CrewMember:
    lacking = []
    for need in needs:
        if any(h.holds(need.skill, need.level, on) for h in held):
            continue
        same = [h for h in held if h.skill == need.skill]
        best = max(same, key=lambda h: level_rank(h.level), default=None)
        past = best is not None and best.expires_on is not None and best.expires_on < on
        lacking.append(
            Lacking(
                skill=need.skill,
                level=need.level,
                held=best.level if best else None,
                expired_on=best.expires_on if best and past else None,
            )
        )
    skills = {n.skill for n in needs}
    ends = [h.expires_on for h in held if h.skill in skills and h.expires_on and h.expires_on >= on]
    return CrewMember(
        technician=technician,
        district=district,
        meets=not lacking,
        lacking=tuple(lacking),
        next_expiry=min(ends, default=None),
    )


def _expiries(
    of: Mapping[str, Sequence[Holding]],
    districts: Mapping[str, str],
    needs: Sequence[SkillNeed],
    today: date,
) -> tuple[Expiry, ...]:
    """Last days of those who can do it today, in order, with how many are left after each."""
    ends: list[tuple[date, str, str]] = []
    n_able = 0
    for technician, held in of.items():
        if not _member(technician, districts[technician], held, needs, today).meets:
            continue
        n_able += 1
        lasts = []
        for need in needs:
            good = [h for h in held if h.holds(need.skill, need.level, today)]
            if all(h.expires_on is not None for h in good):
                lasts.append((max(h.expires_on for h in good if h.expires_on), need.skill))
        if lasts:
            last, skill = min(lasts)
            ends.append((last, technician, skill))
    ends.sort()
    return tuple(
        Expiry(
            technician=t,
            district=districts[t],
            skill=skill,
            last_day=last,
            n_left=n_able - sum(other <= last for other, _, _ in ends),
        )
        for last, t, skill in ends
    )
