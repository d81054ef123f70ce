"""Small plans for tests, written out as an engineer would."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from reedling.core.guidance.plans import AppliesWhen, Minutes, Plan, Step
from reedling.core.guidance.questions import Limits, OneOf, Option, Reading, Tick, YesNo
from reedling.core.guidance.skills import PartNeed, SkillNeed
from reedling.core.logic.conditions import Comparison
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Runsheet, Source

START = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)


def at(minutes: float) -> datetime:
    """An instant so many minutes after the start."""
    return START + timedelta(minutes=minutes)


def gauge(high: float = 120, low: float | None = 90) -> Reading:
    """A pressure gauge with limits in bar."""
    return Reading(id="bar", label="Pressure", unit="bar", limits=Limits(low=low, high=high))


def rake_plan() -> Plan:
    """A plan with a reading, a branch that hangs on it, a remedy with a part, and a proof."""
    return Plan(
        title="Rake stalls",
        applies_when=AppliesWhen(equipment="rake", symptoms=("stalls",)),
        steps=(
            Step(
                id="lock",
                phase="Make safe",
                text="Lock the drive",
                minutes=Minutes(likely=10),
                questions=(Tick(id="locked"),),
                skills=(SkillNeed(skill="permit", level="Solo"),),
            ),
            Step(
                id="read",
                phase="Diagnose",
                text="Read the pressure",
                minutes=Minutes(likely=10),
                questions=(gauge(),),
            ),
            Step(
                id="valve",
                phase="Diagnose",
                text="Check the valve",
                minutes=Minutes(likely=15),
                under="read",
                condition=Comparison(question="bar", operator="below", value=90.0),
                chance=0.4,
                questions=(
                    OneOf(
                        id="seat",
                        label="Seat",
                        options=(Option(id="sound", label="Sound"), Option(id="scored", label="Scored")),
                    ),
                ),
                skills=(SkillNeed(skill="hydraulics", level="Solo"),),
            ),
            Step(
                id="fit",
                phase="Put right",
                text="Fit a seat",
                minutes=Minutes(likely=30),
                condition=Comparison(question="seat", operator="is", value="scored"),
                questions=(Tick(id="fitted"),),
                parts=(PartNeed(part="RV-SEAT", quantity=1),),
            ),
            Step(
                id="run",
                phase="Prove",
                text="Run it three times",
                minutes=Minutes(likely=12),
                questions=(YesNo(id="runs", label="It runs"),),
            ),
        ),
    )


def sheet_of(plan: Plan, document: str = "W", revision: str = "A") -> Runsheet:
    """The runsheet of one plan."""
    return compile_runsheet([(Source(document=document, revision=revision, title=plan.title), plan)])
