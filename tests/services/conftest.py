"""A longer history than the demo's of tests, played once for all who look at proposals, guides and gains."""

from __future__ import annotations

import shutil
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import pytest

from reedling.services.context import Context
from reedling.standins.field import FULL, play_demo
from reedling.wiring import open_context
from tests.conftest import FakeClock

NOW = datetime(2026, 6, 1, 10, 0, tzinfo=UTC)


@pytest.fixture(scope="session")
def history(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("history")
    context = replace(open_context(folder), clock=lambda: NOW)
    play_demo(context, "reedling-demo", extent=replace(FULL, n_calls=320, is_wide=False, trial_days_ago=None))
    return folder


@pytest.fixture
def played(history: Path, tmp_path: Path) -> tuple[Context, FakeClock]:
    shutil.copytree(history, tmp_path / "data")
    clock = FakeClock(NOW)
    return replace(open_context(tmp_path / "data"), clock=clock), clock
