"""What a desk rests on is there before anybody asks for it."""

from __future__ import annotations

from pathlib import Path

import pytest

from reedling.services.context import Context
from reedling.services.shared import suggesting
from reedling.services.views.desk import desk, get_desk_ready
from reedling.wiring import open_context
from tests.conftest import INES


def worked_out_again(*_: object, **__: object) -> None:
    raise AssertionError("it was worked out already")


def test_after_it_is_got_ready_a_desk_works_nothing_out_again(
    demo_dir: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    context = open_context(demo_dir)
    get_desk_ready(context)
    monkeypatch.setattr(suggesting, "_suggested_by_jobs", worked_out_again)
    assert any(of_type.n_jobs for of_type in desk(context, INES).incident_types)
    with pytest.raises(AssertionError):
        desk(open_context(demo_dir), INES)


def test_where_nobody_is_there_yet_nothing_is_worked_out(tmp_path: Path) -> None:
    get_desk_ready(open_context(tmp_path / "data"))


def test_what_goes_wrong_ahead_of_the_work_ends_nothing(
    context: Context, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("reedling.services.views.desk.desk", worked_out_again)
    get_desk_ready(context)
