"""What is set for everybody."""

from __future__ import annotations

from reedling.core.orders.taking_along import TakingAlong, check_rule
from reedling.core.people import Person
from reedling.exchange.content import dump_value
from reedling.services.context import Context
from reedling.services.shared.kept_changes import keep_change


def taking_along(context: Context) -> TakingAlong:
    """Which orders a device takes along."""
    with context.reading() as unit:
        return unit.settings.taking_along()


def set_taking_along(context: Context, person: Person, rule: TakingAlong) -> TakingAlong:
    """Set which orders a device takes along; who changed it is kept.

    Raises
    ------
    InvalidInput
        ``taking_along.days``.
    """
    check_rule(rule)
    with context.writing() as unit:
        before = unit.settings.taking_along()
        unit.settings.set_taking_along(rule)
        keep_change(
            context,
            unit,
            person,
            "setting",
            "taking along",
            "changed",
            before=dump_value(before),
            after=dump_value(rule),
        )
        return rule
