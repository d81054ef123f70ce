"""Weeks that pass in a demo: calls come in as before, carried out with what is in force, and nothing is lost by it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from reedling.core.guidance.plans import Minutes
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.job_state import job_state
from reedling.core.runsheet.lines import RunsheetLine
from reedling.errors import Conflict, InvalidInput
from reedling.services.actions.backups import back_up, restore
from reedling.standins.diaries import LONGEST_VISIT
from reedling.standins.field_kinds import KINDS
from reedling.standins.field_truth import asks_for_help, truly_slow
from reedling.standins.weeks import MOST_WEEKS, PassingWeeks
from reedling.store.folder import DataFolder
from reedling.wiring import open_context


def test_calls_come_in_as_often_as_before_and_are_carried_out(demo_dir: Path, tmp_path: Path) -> None:
    context = open_context(demo_dir)
    now = context.clock()
    with context.reading() as unit:
        before = unit.orders.facts()
    lately = [o for o in before if o.logged_at > now - timedelta(days=120)]
    passing = PassingWeeks()
    passing.begin(context, 6)
    with pytest.raises(Conflict, match="passing already"):
        passing.begin(context, 6)
    passing.wait()
    assert not passing.is_passing
    assert (passing.passed.n_failed, passing.trouble) == (0, "")
    assert passing.passed.n_done == passing.passed.n_calls == round(len(lately) * 42 / 120)
    assert timedelta(days=42) <= context.clock() - now < timedelta(days=42, minutes=10)

    again = open_context(demo_dir)
    assert again.clock() - datetime.now(UTC) > timedelta(days=41), "a restart keeps the day"
    back_up(DataFolder(demo_dir), tmp_path / "demo.zip", now=again.clock())
    restore(tmp_path / "demo.zip", tmp_path / "restored")
    assert DataFolder(tmp_path / "restored").days_ahead() == 42, "a backup keeps it too"

    with again.reading() as unit:
        old = {o.id for o in before}
        new = [o for o in unit.orders.find() if o.id not in old]
        assert passing.passed.n_done <= len(new) <= 1.5 * passing.passed.n_done, (
            "and some were called to again"
        )
        for order in new:
            assert now - timedelta(days=1) < order.logged_at < again.clock()
            job = replay(order.runsheet, unit.recorded.events(order.id))
            if not job.visits or job_state(job) == "Return needed":
                # The next visit, on a morning up to three days later or when its technician is free, would not be
                # over by the end.
                waits_since = job.visits[-1].left_at if job.visits else order.logged_at
                assert waits_since is not None
                assert waits_since + timedelta(days=8) > again.clock() - LONGEST_VISIT
            else:
                assert job_state(job) == "Finished"
                assert job.finished_at is not None
                assert job.finished_at < again.clock()


@pytest.mark.parametrize("weeks", [0, -1, MOST_WEEKS + 1])
def test_no_weeks_and_too_many_are_refused(demo_dir: Path, weeks: int) -> None:
    with pytest.raises(InvalidInput):
        PassingWeeks().begin(open_context(demo_dir), weeks)


def test_time_is_let_pass_in_a_demo_only(tmp_path: Path) -> None:
    with pytest.raises(InvalidInput, match="in a demo only"):
        PassingWeeks().begin(open_context(tmp_path / "real"), 4)


def test_engineers_let_weeks_pass_and_stay_signed_in(sign_in: Callable[[str], TestClient]) -> None:
    ines = sign_in("ines")
    started = ines.post("/standins/weeks", json={"weeks": 5})
    assert started.status_code == 202
    told = ines.get("/standins/weeks").json()
    while told["is_passing"]:
        told = ines.get("/standins/weeks").json()
    assert told["n_done"] == told["n_calls"] > 0
    assert datetime.fromisoformat(told["now"]) - datetime.now(UTC) > timedelta(days=34)
    assert ines.get("/api/v1/session").status_code == 200
    for name in ("marek", "runa"):
        assert sign_in(name).post("/standins/weeks", json={"weeks": 1}).status_code == 403
    assert ines.post("/standins/weeks", json={"weeks": 1, "more": 1}).status_code == 422


def pressure(revision: str, letters: int, *, pictures: tuple[str, ...] = ()) -> RunsheetLine:
    return RunsheetLine(
        id="WP-001:pressure",
        document="WP-001",
        revision=revision,
        step="pressure",
        phase="Diagnose",
        text="Read hydraulic pressure at stall",
        detail="x" * letters,
        minutes=Minutes(likely=10),
        questions=(),
        skills=(),
        parts=(),
        under=None,
        condition=None,
        when="",
        pictures=pictures,
    )


def test_in_truth_a_step_helps_once_it_explains_and_not_by_its_letter_alone() -> None:
    kind = KINDS[0]
    as_b = pressure("B", 172)
    for later in ("C", "D", "AA"):
        same = replace(as_b, revision=later)
        assert asks_for_help(same, "WR3") == asks_for_help(as_b, "WR3") > 0.1
        assert truly_slow(kind, same, "WR3") == truly_slow(kind, as_b, "WR3") > 1.5
        for explained in (pressure(later, 230), pressure(later, 172, pictures=("a",))):
            assert asks_for_help(explained, "WR3") < 0.05
            assert truly_slow(kind, explained, "WR3") == 1.0
