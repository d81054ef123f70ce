"""Routine work: what the page counts is what a list kept by hand of every visit says."""

from __future__ import annotations

import csv
import io
import random
from collections import Counter
from dataclasses import dataclass, field, replace
from datetime import UTC, date, datetime, timedelta
from uuid import uuid4
from zoneinfo import ZoneInfo

import pytest

from reedling.core.evidence.routine_work import WORK_STATES, RoutineChoices, WorkState
from reedling.core.runsheet.events import (
    Answered,
    Arrived,
    Coded,
    FieldEvent,
    HeadedOut,
    LeftSite,
    StepDone,
    StepSkipped,
)
from reedling.services.actions.drafts import patch_draft
from reedling.services.actions.orders import cancel_order, log_order, plan_visit
from reedling.services.actions.submissions import submit_events
from reedling.services.actions.summaries import recount
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.desk import desk
from reedling.services.views.orders import order_page
from reedling.services.views.routine_work import piece_lines, routine_csv, routine_page
from reedling.services.views.shelf import incident_type_page
from tests.conftest import INES, LODE, MAREK, RAKE, RUNA, FakeClock
from tests.services.test_drafts_and_release import drafted, released

WINDOW = 6
ZONE = ZoneInfo("Pacific/Auckland")
"""Half a day ahead of the clock: a day on site is seldom the day in UTC."""
BEGAN = datetime(2026, 5, 1, 20, 0, tzinfo=UTC)
END = BEGAN + timedelta(days=40)
ANSWERS: dict[str, tuple[str, bool | str]] = {
    "lock": ("locked", True),
    "valve": ("seat", "scored"),
    "fit": ("fitted", True),
    "run": ("runs", True),
}


@dataclass
class ByHand:
    """What somebody with a notebook would have written down of a visit."""

    last_day: date
    is_open: bool = True
    is_cancelled: bool = False
    finished: date | None = None
    done: dict[str, date] = field(default_factory=dict)
    left_out: dict[str, str] = field(default_factory=dict)
    low: bool = False

    @property
    def wanted(self) -> list[str]:
        """The steps that it asks for, as far as it has come: the valve where the pressure was low, the seat after it."""
        known = "read" in self.done and self.low
        valve = ["valve"] if known else []
        return ["lock", "read", *valve, *(["fit"] if "valve" in self.done else []), "run"]

    def state(self, step: str, today: date) -> WorkState:
        """What became of a step."""
        if step in self.done:
            return "done" if self.done[step] <= self.last_day else "done late"
        if step in self.left_out:
            return "skipped"
        if not self.is_open:
            return "missed"
        return "to come" if today <= self.last_day else "overdue"


def on_site(at: datetime) -> date:
    return at.astimezone(ZONE).date()


def in_force(context: Context) -> None:
    made = drafted(context)
    etag = incident_type_page(context, made).incident_type.etag
    patch_draft(context, INES, made, [{"op": "replace", "path": "/due_within_days", "value": WINDOW}], etag)
    with context.store.writing() as unit:
        unit.register.put_site(replace(LODE, zone=ZONE.key), replaces=LODE.code)
        unit.register.put_asset(replace(RAKE, code="AS-2", name="Rake 2"))
    released(context, made)


def visit(context: Context, clock: FakeClock, rng: random.Random, order: str, kept: ByHand) -> None:
    """One trip: some or all of the steps that are left, done or left out, over up to three days."""
    plan_visit(context, MAREK, order, "runa", clock.now + timedelta(hours=1))
    clock.forward(hours=2)
    events: list[FieldEvent] = [HeadedOut(at=clock.now), Arrived(at=clock.now)]
    stops_at = rng.choice((1, 2, 99))
    for n, step in enumerate(("lock", "read", "valve", "fit", "run")):
        if step in kept.done or step in kept.left_out or step not in kept.wanted:
            continue
        if n >= stops_at:
            break
        clock.forward(hours=rng.uniform(0, 30))
        line = f"WP-001:{step}"
        if step != "lock" and rng.random() < 0.25:
            reason = rng.choice(("No light", "=1+1"))
            events.append(StepSkipped(at=clock.now, line=line, reason=reason))
            kept.left_out[step] = reason
            continue
        if step == "read":
            kept.low = rng.random() < 0.6
        question, value = ANSWERS.get(step) or ("bar", 60.0 if kept.low else 100.0)
        events.append(Answered(at=clock.now, question=f"WP-001:{question}", value=value))
        events.append(StepDone(at=clock.now, line=line))
        kept.done[step] = on_site(clock.now)
    is_whole = all(step in kept.done or step in kept.left_out for step in kept.wanted)
    if is_whole:
        events.append(Coded(at=clock.now, cause="debris", remedy="cleared"))
        events.append(LeftSite(at=clock.now, outcome="finished"))
        kept.is_open, kept.finished = False, on_site(clock.now)
    else:
        events.append(LeftSite(at=clock.now, outcome="return needed", reason="more time"))
    submit_events(context, RUNA, order, str(uuid4()), events)


@pytest.mark.parametrize("seed", range(6))
def test_every_count_is_that_of_a_notebook(context: Context, clock: FakeClock, seed: int) -> None:
    rng = random.Random(seed)
    clock.now = BEGAN
    in_force(context)
    notebook: dict[str, tuple[str, ByHand]] = {}
    for _ in range(9):
        clock.now = BEGAN + timedelta(hours=rng.uniform(0, 30 * 24))
        asset = rng.choice(("AS-1", "AS-2"))
        order = log_order(context, MAREK, OrderToMatch(asset=asset, symptom="stalls"), "Due.").id
        kept = ByHand(last_day=on_site(clock.now) + timedelta(days=WINDOW))
        notebook[order] = (asset, kept)
        for _ in range(rng.choice((0, 1, 1, 2, 3))):
            clock.forward(days=rng.uniform(0, 5))
            if kept.is_open:
                visit(context, clock, rng, order, kept)
        if kept.is_open and rng.random() < 0.3:
            cancel_order(context, MAREK, order, "Road under water")
            kept.is_open, kept.is_cancelled = False, True
    clock.now = END
    today = on_site(END)
    expected = [
        (order, step, kept.state(step, today), kept)
        for order, (_, kept) in notebook.items()
        for step in kept.wanted
    ]
    assert_page(context, expected, {})
    page = routine_page(context, {})
    visits = Counter(
        "missed"
        if kept.is_cancelled
        else ("done" if kept.finished <= kept.last_day else "done late")
        if kept.finished
        else ("overdue" if today > kept.last_day else "to come")
        for _, kept in notebook.values()
    )
    assert {state: n for state, n in page.visits.items() if n} == visits
    assert page.visits_in_time.n_hits == visits["done"]
    for order, (_, kept) in notebook.items():
        line = order_page(context, order).line
        assert (line.due_on, line.is_overdue) == (kept.last_day, kept.is_open and today > kept.last_day)
    overdue = sum(kept.is_open and today > kept.last_day for _, kept in notebook.values())
    words = [line.what for line in desk(context, INES).lines if "routine" in line.what]
    assert words == ([f"{overdue} routine visit{'s' * (overdue != 1)} overdue"] if overdue else [])
    recount(context)
    assert routine_page(context, {}) == page


def assert_page(
    context: Context, expected: list[tuple[str, str, WorkState, ByHand]], chosen: RoutineChoices
) -> None:
    """Page, pieces and sheet against the notebook, over all and narrowed by every month and kind of work."""
    choices: list[RoutineChoices] = [{}]
    choices += [{"month": month} for month in {f"{kept.last_day:%Y-%m}" for *_, kept in expected}]
    choices += [{"work": f"WP-001:{step}"} for step in {step for _, step, *_ in expected}]
    choices += [{"district": "North Carrs", "work": "WP-001:read"}, {"district": "Nowhere"}]
    for chosen in choices:
        met = [
            one
            for one in expected
            if chosen.get("month") in (None, f"{one[3].last_day:%Y-%m}")
            and chosen.get("work") in (None, f"WP-001:{one[1]}")
            and chosen.get("district") in (None, "North Carrs")
        ]
        page = routine_page(context, chosen)
        assert {s: n for s, n in page.work.items() if n} == Counter(state for _, _, state, _ in met)
        for kind in page.kinds:
            without = [
                one
                for one in expected
                if chosen.get("month") in (None, f"{one[3].last_day:%Y-%m}") and one[1] == kind.step
            ]
            assert {s: n for s, n in kind.counts.items() if n} == Counter(s for _, _, s, _ in without)
            assert (kind.in_time.n_hits, kind.in_time.n_total) == (
                sum(s == "done" for _, _, s, _ in without),
                sum(s != "to come" for _, _, s, _ in without),
            )
            assert Counter({r.reason: r.n for r in kind.reasons}) == Counter(
                kept.left_out[step] for _, step, s, kept in without if s == "skipped"
            )
        for state in (None, *WORK_STATES):
            lines = piece_lines(context, chosen, state, limit=200)
            wanted = sorted(
                (order, s, kept.left_out.get(step, "")) for order, step, s, kept in met if state in (None, s)
            )
            assert sorted((x.order, x.state, x.reason) for x in lines.lines) == wanted
            assert lines.total == len(wanted)
        rows = list(csv.DictReader(io.StringIO(routine_csv(context, chosen))))
        assert sorted((r["order"], r["step"], r["state"], r["done_on"]) for r in rows) == sorted(
            (order, step, s, kept.done[step].isoformat() if step in kept.done else "")
            for order, step, s, kept in met
        )
        assert not any(r["reason"].startswith("=") for r in rows), "a spreadsheet runs no reason"


def test_orders_of_a_type_that_is_not_routine_are_not_followed(context: Context) -> None:
    released(context, drafted(context))
    log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "Stops.")
    page = routine_page(context, {})
    assert (sum(page.visits.values()), page.kinds) == (0, ())
    assert page.visits_in_time.share is None
