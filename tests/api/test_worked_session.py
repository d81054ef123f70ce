"""The session of docs/api.md, run as it stands there with curl against a real server."""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
from pathlib import Path

import pytest

from reedling.app import create_app
from reedling.services.actions.programs import add_program
from reedling.wiring import open_context, read_settings
from tests.browser.conftest import served

PAGE = Path(__file__).parents[2] / "docs" / "api.md"


def commands() -> list[str]:
    """Every command of the page, in order."""
    return re.findall(r"^```sh\n(.*?)^```", PAGE.read_text("utf-8"), re.M | re.S)


@pytest.mark.skipif(shutil.which("curl") is None, reason="there is no curl on this machine")
def test_the_worked_session_runs_as_it_is_written(demo_dir: Path, tmp_path: Path) -> None:
    context = open_context(demo_dir)
    with context.reading() as unit:
        ines = unit.people.get("ines")
    assert ines is not None
    token = add_program(context, ines, "Asset register", "engineer").token
    settings = read_settings({"REEDLING_DATA": str(demo_dir), "REEDLING_WEB": str(tmp_path)})
    with served(create_app(context, settings)) as port:
        environment = {**os.environ, "REEDLING": f"http://127.0.0.1:{port}", "TOKEN": token}
        told = [
            subprocess.run(
                ["sh", "-c", command],
                cwd=tmp_path,
                env=environment,
                capture_output=True,
                text=True,
                check=True,
            ).stdout
            for command in commands()
        ]
    types, _, saved, refused, trial, orders, sheet = told
    assert "IT-001" in {row["document"] for row in json.loads(types)}
    assert json.loads((tmp_path / "plan.json").read_text())["document"] == "WP-001"
    assert json.loads(saved)["plan"]["content"]["summary"] == "For rakes that stop in autumn."
    assert json.loads(saved)["plan"]["state"] == "Draft"
    assert (json.loads(refused)["status"], json.loads(refused)["code"]) == (412, "drafts.stale")
    assert json.loads(refused)["type"] == "/errors/drafts.stale"
    assert json.loads(trial)["incident_type"] == "IT-001"
    assert len(json.loads(orders)["rows"]) == 2
    assert sheet.startswith("document,step,text")
    with context.reading() as unit:
        edits = unit.documents.edits("WP-001", json.loads(saved)["plan"]["letter"])
        assert {unit.people.names()[e.person] for e in edits} == {"Asset register"}
