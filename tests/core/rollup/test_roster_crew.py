"""Cover: who meets a set of needs today and later, by district, and what runs out when."""

from __future__ import annotations

from datetime import date

from reedling.core.guidance.catalogue import Holding
from reedling.core.guidance.skills import Level, SkillNeed
from reedling.core.rollup.roster_crew import highest_needs, roster_crew

TODAY, MARCH = date(2027, 1, 15), date(2027, 3, 31)


def holds(
    who: str, skill: str, level: Level = "Solo", until: date | None = None, at: str = "North"
) -> Holding:
    return Holding(technician=who, district=at, skill=skill, level=level, expires_on=until)


ROSTER = (
    holds("Ada", "permit", until=MARCH),
    holds("Ada", "hydraulics", "Coach"),
    holds("Bo", "permit", until=date(2027, 2, 28)),
    holds("Bo", "hydraulics"),
    holds("Cy", "permit", until=date(2026, 12, 31), at="South"),
    holds("Cy", "hydraulics", at="South"),
    holds("Di", "permit", until=date(2028, 1, 1), at="South"),
    holds("Di", "hydraulics", "Assisted", at="South"),
)
NEEDS = (SkillNeed(skill="permit", level="Solo"), SkillNeed(skill="hydraulics", level="Solo"))


def test_who_can_do_it_today_in_each_district() -> None:
    crew = roster_crew(ROSTER, NEEDS, TODAY, MARCH)
    assert [(d.district, d.today) for d in crew.districts] == [("North", ("Ada", "Bo")), ("South", ())]
    assert sum(len(d.today) for d in crew.districts) == 2


def test_who_is_left_when_a_permit_has_run_out_in_march() -> None:
    """The day of expiry still counts; the day after it does not."""
    last = roster_crew(ROSTER, NEEDS, TODAY, MARCH).districts[0]
    assert (last.later, [m.technician for m in last.lost]) == (("Ada",), ["Bo"])
    after = roster_crew(ROSTER, NEEDS, TODAY, date(2027, 4, 1)).districts[0]
    assert after.later == ()
    assert {m.technician: m.lacking[0].expired_on for m in after.lost} == {
        "Ada": MARCH,
        "Bo": date(2027, 2, 28),
    }


def test_what_runs_out_first_and_how_many_are_left_after_it() -> None:
    told = roster_crew(ROSTER, NEEDS, TODAY, MARCH).expiries
    assert [(e.technician, e.last_day, e.n_left) for e in told] == [
        ("Bo", date(2027, 2, 28), 1),
        ("Ada", MARCH, 0),
    ]


def test_who_lacks_one_thing_only_and_what() -> None:
    south = roster_crew(ROSTER, NEEDS, TODAY, MARCH).districts[1]
    assert [(m.technician, m.lacking[0].skill, m.lacking[0].held) for m in south.nearly] == [
        ("Cy", "permit", "Solo"),
        ("Di", "hydraulics", "Assisted"),
    ]


def test_a_skill_asked_for_twice_counts_at_its_highest_level() -> None:
    assert highest_needs((SkillNeed(skill="a", level="Assisted"), SkillNeed(skill="a", level="Coach"))) == (
        SkillNeed(skill="a", level="Coach"),
    )


def test_somebody_who_holds_nothing_is_counted_in_their_district() -> None:
    crew = roster_crew(ROSTER, NEEDS, TODAY, MARCH, technicians={"Eve": "West"})
    west = crew.districts[-1]
    assert (west.district, west.today, west.n_technicians) == ("West", (), 1)


def test_without_needs_everybody_can() -> None:
    crew = roster_crew(ROSTER, (), TODAY, MARCH)
    assert sum(len(d.today) for d in crew.districts) == 4
    assert crew.expiries == ()
