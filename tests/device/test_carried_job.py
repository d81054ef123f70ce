"""A job carried on by the device is the job the server makes of the same events, to the last value."""

from __future__ import annotations

import ast
import json
import shutil
import subprocess
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import pytest

from reedling.core.orders.states import state_after
from reedling.core.runsheet.events import FieldEvent
from reedling.core.runsheet.job import record
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.run_view import job_view
from reedling.core.runsheet.standing import Entered, settle
from reedling.device import plain
from reedling.device.carried_job import take_up
from reedling.errors import ReedlingError
from reedling.exchange.content import EVENTS, RUNSHEETS, dump_value
from reedling.wiring import open_context
from tests.device.corpus import Case, generated_cases, recorded_case

ROOT = Path(__file__).parents[2]


def demo_cases(folder: Path) -> Iterator[Case]:
    """Every order of the demo, with what was recorded."""
    with open_context(folder, demo=True).reading() as unit:
        for order in unit.orders.find():
            yield recorded_case(order.id, order.runsheet, unit.recorded.events(order.id))


@pytest.fixture(scope="session")
def cases(played_demo: Path) -> tuple[Case, ...]:
    found = (*demo_cases(played_demo), *generated_cases(240, 100))
    assert len(found) >= 400
    kinds = {q.kind for case in found for line in job_run(case.runsheet, Job()).lines for q in line.questions}
    assert len(kinds) >= 15
    return found


def carried_by_server(case: Case) -> tuple[list[str | None], Any]:
    """The refusal of each event, or nothing, and the view at the end; by the server's own reading and writing."""
    job = Job()
    refusals: list[str | None] = []
    for event in case.events:
        try:
            job = record(case.runsheet, job, event)
        except ReedlingError as refusal:
            refusals.append(str(refusal))
        else:
            refusals.append(None)
    view = {
        "job": dump_value(job),
        "run": dump_value(job_view(case.runsheet, job)),
        "state": state_after("Planned", job),
    }
    return refusals, in_order(view)


def in_order(view: Any) -> Any:
    """With the one set in it sorted: a set comes out in any order."""
    view["run"]["may_be_skipped"].sort()
    return view


def as_json(case: Case) -> dict[str, Any]:
    return {
        "runsheet": json.dumps(dump_value(case.runsheet)),
        "events": [json.dumps([EVENTS.dump_python(event, mode="json")]) for event in case.events],
    }


def test_plain_data_is_what_the_server_reads_and_writes(cases: Sequence[Case]) -> None:
    for case in cases:
        data = json.loads(json.dumps(dump_value(case.runsheet)))
        assert plain.load(type(case.runsheet), data) == RUNSHEETS.validate_python(data) == case.runsheet
        assert plain.dump(case.runsheet) == data
        for event in case.events:
            sent = EVENTS.dump_python(event, mode="json")
            assert plain.load(FieldEvent, sent) == event  # type: ignore[arg-type]
            assert plain.dump(event) == sent


def test_the_device_carries_a_job_on_as_the_server_does(cases: Sequence[Case]) -> None:
    refused = 0
    for case in cases:
        refusals, view = carried_by_server(case)
        sent = as_json(case)
        carried = take_up(sent["runsheet"], json.dumps(dump_value(Job())), "Planned")
        told = [json.loads(carried.record(events)) for events in sent["events"]]
        assert [t and t["detail"] for t in told] == refusals, case.name
        assert in_order(json.loads(carried.view())) == view, case.name
        # Put down halfway and taken up again from what it was: the same.
        again = take_up(sent["runsheet"], json.dumps(json.loads(carried.view())["job"]), "Planned")
        assert in_order(json.loads(again.view())) == view, case.name
        refused += sum(1 for r in refusals if r)
    assert refused > 500


def test_after_every_event_the_sheet_stands_as_if_settled_anew(cases: Sequence[Case]) -> None:
    """Each event settles only what hangs on it; repeats, formulas and branches among them."""
    n_settled = 0
    for case in cases:
        job = Job()
        for event in case.events:
            try:
                job = record(case.runsheet, job, event)
            except ReedlingError:
                continue
            run = job_run(case.runsheet, job)
            anew = settle(run.rules, Entered(job.answers, job.done, job.skipped))
            assert run.standing == anew, (case.name, event)
            n_settled += 1
    assert n_settled > 4_000


def test_events_are_recorded_all_or_none() -> None:
    case = next(generated_cases(1, 0))
    carried = take_up(json.dumps(dump_value(case.runsheet)), json.dumps(dump_value(Job())), "Planned")
    both = [
        EVENTS.dump_python(case.events[0], mode="json"),
        {"kind": "headed out", "at": "2026-03-02T08:00:00Z"},
    ]
    refused = json.loads(carried.record(json.dumps(both)))
    assert refused["code"] == "jobs.order_of_events"
    assert json.loads(carried.view())["state"] == "Planned"


def test_a_key_of_a_newer_version_is_passed_over() -> None:
    case = next(generated_cases(1, 0))
    data = dump_value(case.runsheet)
    data["colour"] = "newer"
    del data["phrases"]
    assert plain.load(type(case.runsheet), data) == case.runsheet


@pytest.mark.slow
def test_the_browser_s_python_says_the_same(cases: Sequence[Case], tmp_path: Path) -> None:
    """The files as they are shipped, under Python for WebAssembly in Node."""
    expected = []
    for case in cases:
        refusals, view = carried_by_server(case)
        expected.append({**as_json(case), "refusals": refusals, "view": view})
    (tmp_path / "cases.json").write_text(
        json.dumps({"job": json.dumps(dump_value(Job())), "cases": expected})
    )
    node = shutil.which("node")
    assert node is not None
    done = subprocess.run(
        [node, "tests/rules.mjs", str(tmp_path / "cases.json")],
        cwd=ROOT / "web",
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, (done.stdout + done.stderr)[-2000:]
    assert f"{len(cases)} cases alike" in done.stdout


def test_what_a_phone_runs_is_imported_at_the_top_of_its_modules() -> None:
    """The memory that a phone goes on from holds no files to import from later; nor a clock or chance of the build."""
    node = shutil.which("node")
    assert node is not None
    listed = "import('./rules.mjs').then((m) => console.log(JSON.stringify(m.filesOfRules())))"
    files = json.loads(subprocess.check_output([node, "-e", listed], cwd=ROOT / "web", text=True))
    assert len(files) > 40
    for path, text in files.items():
        tree = ast.parse(text)
        inner = {
            node
            for function in ast.walk(tree)
            if isinstance(function, ast.FunctionDef | ast.Lambda)
            for node in ast.walk(function)
        }
        imports = [node for node in ast.walk(tree) if isinstance(node, ast.Import | ast.ImportFrom)]
        assert not inner & set(imports), path
        names = {alias.name for node in imports for alias in node.names}
        modules = {node.module for node in imports if isinstance(node, ast.ImportFrom)}
        assert not (names | modules) & {"random", "secrets", "time", "uuid"}, path
