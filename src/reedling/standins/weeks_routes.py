"""Letting weeks pass in a demo, over the network."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict

from reedling.services.context import Context
from reedling.standins.weeks import PassingWeeks


class WeeksAsked(BaseModel):
    """How many weeks are to pass."""

    model_config = ConfigDict(extra="forbid")
    weeks: int


class WeeksPassed(BaseModel):
    """What day it is in the demo, and how far the weeks are that are passing.

    ``n_done`` of ``n_calls`` calls are carried out; ``n_failed`` could not be by the guidance in force.
    """

    now: datetime
    is_passing: bool
    n_done: int
    n_calls: int
    n_failed: int
    trouble: str


def add_weeks(router: APIRouter) -> None:
    """Add the routes to a router that says who may use them."""

    @router.get("/weeks")
    def weeks(request: Request) -> WeeksPassed:
        """How far the weeks are that are passing."""
        return _told(request)

    @router.post("/weeks", status_code=202)
    def let_weeks_pass(asked: WeeksAsked, request: Request) -> WeeksPassed:
        """Let weeks pass: calls come in and are carried out with the guidance in force, behind this answer."""
        _passing(request).begin(_context(request), asked.weeks)
        return _told(request)


def _told(request: Request) -> WeeksPassed:
    passing = _passing(request)
    passed = passing.passed
    return WeeksPassed(
        now=_context(request).clock(),
        is_passing=passing.is_passing,
        n_done=passed.n_done,
        n_calls=passed.n_calls,
        n_failed=passed.n_failed,
        trouble=passing.trouble,
    )


def _context(request: Request) -> Context:
    context = request.app.state.context
    assert isinstance(context, Context)
    return context


def _passing(request: Request) -> PassingWeeks:
    passing = request.app.state.passing_weeks
    assert isinstance(passing, PassingWeeks)
    return passing
