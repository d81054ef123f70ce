"""The command line: demo, export, import, schema; broken files are named and nothing comes in."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import get_args

import pytest

from reedling.cli import main
from reedling.core.guidance.phases import Phase
from reedling.core.guidance.revisions import DocumentKind
from reedling.core.people import ROLES


def run(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch, *words: object
) -> tuple[int, str, str]:
    monkeypatch.setattr(sys, "argv", ["reedling", *(str(w) for w in words)])
    with pytest.raises(SystemExit) as ended:
        main()
    said = capsys.readouterr()
    return int(ended.value.code or 0), said.out, said.err


def tree(folder: Path) -> dict[str, str]:
    return {p.relative_to(folder).as_posix(): p.read_text("utf-8") for p in folder.rglob("*.json")}


def test_export_and_import_round_trip_without_a_difference(
    demo_dir: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    first, second = tmp_path / "one", tmp_path / "two"
    assert run(capsys, monkeypatch, "export", first, "--data", demo_dir)[0] == 0
    code, out, _ = run(capsys, monkeypatch, "import", first, "--data", tmp_path / "fresh")
    assert (code, out) == (0, "Revisions: 18 added, 0 changed, 0 as they were.\n")
    assert run(capsys, monkeypatch, "export", second, "--data", tmp_path / "fresh")[0] == 0
    assert tree(first) == tree(second)


def test_a_broken_file_is_named_and_nothing_is_imported(
    demo_dir: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "pack"
    run(capsys, monkeypatch, "export", folder, "--data", demo_dir)
    plan = folder / "documents/WP-002/A.json"
    plan.write_text(plan.read_text("utf-8").replace('"likely": 12.0', '"likely": "long"', 1), "utf-8")
    code, _, err = run(capsys, monkeypatch, "import", folder, "--data", tmp_path / "fresh")
    assert code == 1
    assert err.startswith("documents/WP-002/A.json#/content/steps/2/minutes/likely: ")
    assert "got 'long'" in err
    assert err.rstrip().endswith("Nothing was imported. Mend the files and import again.")
    _, out, _ = run(capsys, monkeypatch, "export", tmp_path / "after", "--data", tmp_path / "fresh")
    assert not (tmp_path / "after/documents").exists(), out


def test_an_export_replaces_an_earlier_one_and_touches_nothing_else(
    demo_dir: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "pack"
    run(capsys, monkeypatch, "export", folder, "--data", demo_dir)
    before = sorted(p.relative_to(folder) for p in folder.rglob("*"))
    (folder / "README.md").write_text("Ours")
    assert run(capsys, monkeypatch, "export", folder, "--data", demo_dir)[0] == 0
    assert sorted(p.relative_to(folder) for p in folder.rglob("*")) == sorted([*before, Path("README.md")])
    foreign = folder / "documents" / "WP-001" / "Q.json"
    foreign.write_text("{}")
    code, _, told = run(capsys, monkeypatch, "export", folder, "--data", demo_dir)
    assert (code, foreign.exists()) == (1, True)
    assert "documents/WP-001/Q.json was not written by an export" in told


def test_a_missing_order_file_is_named(
    demo_dir: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "pack"
    run(capsys, monkeypatch, "export", folder, "--data", demo_dir)
    gone = tmp_path / "none.json"
    code, _, told = run(capsys, monkeypatch, "match", "--library", folder, "--order", gone)
    assert code == 1
    assert f"there is no file {gone}" in told


def test_the_demo_is_kept_until_it_is_reset(
    demo_dir: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    code, out, _ = run(capsys, monkeypatch, "demo", "--data", demo_dir)
    assert (code, out) == (0, f"The data in {demo_dir} is kept. Start afresh with --reset.\n")


def test_the_schema_is_json(capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch) -> None:
    code, out, _ = run(capsys, monkeypatch, "schema")
    assert code == 0
    assert set(json.loads(out)["content"]) == set(get_args(DocumentKind))


def test_a_role_that_does_not_exist_is_refused(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    words = ("add-person", "ann", "Ann", "--role", "wizard", "--password", "x", "--data", tmp_path)
    code, _, err = run(capsys, monkeypatch, *words)
    assert code == 2
    assert all(role in err for role in ROLES)
    words = (
        "add-person",
        "ann",
        "Ann",
        "--role",
        "planner",
        "--password",
        "marsh harrier over reeds",
        "--data",
        tmp_path,
    )
    assert run(capsys, monkeypatch, *words)[:2] == (0, "Ann can sign in as ann.\n")


def plan_with_a_dead_branch(folder: Path) -> None:
    """Make the last remedy of the rake plan need a pressure both under 90 and over 120 bar."""
    plan = folder / "documents/WP-001/B.json"
    data = json.loads(plan.read_text("utf-8"))
    bar = {"kind": "comparison", "question": "bar", "upper": None}
    clauses = [{**bar, "operator": "below", "value": 90}, {**bar, "operator": "above", "value": 120}]
    step = next(s for s in data["content"]["steps"] if s["id"] == "other")
    step["condition"] = {"kind": "all", "parts": clauses}
    plan.write_text(json.dumps(data), "utf-8")


BLANK = (
    "documents/FM-001/A.json#/content/steps/1/repeat: warning: “Each pump” repeats by the asset's pumps, by "
    "name. Where that is blank, the technician is asked to list each pump on site. Fill it in for every "
    "asset. [repeats.blank]\n"
)


@pytest.mark.parametrize("form", ["text", "json", "sarif"])
def test_check_names_a_step_nobody_can_reach_and_exits_1(
    form: str,
    demo_dir: Path,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    folder = tmp_path / "pack"
    run(capsys, monkeypatch, "export", folder, "--data", demo_dir)
    assert run(capsys, monkeypatch, "check", folder)[:2] == (0, BLANK + "0 errors, 1 warning.\n")
    plan_with_a_dead_branch(folder)
    code, out, _ = run(capsys, monkeypatch, "check", folder, "--format", form)
    assert code == 1
    message = (
        "“Apply remedy for the cause found” can never be asked: it needs both that pressure is below "
        "90 bar and that pressure is above 120 bar."
    )
    file, pointer = "documents/WP-001/B.json", "/content/steps/7/condition"
    if form == "text":
        assert out == f"{BLANK}{file}#{pointer}: error: {message} [reach.never]\n1 error, 1 warning.\n"
    elif form == "json":
        errors = [p for p in json.loads(out) if p["severity"] == "error"]
        assert [(p["path"], p["message"]) for p in errors] == [(f"{file}#{pointer}", message)]
    else:
        result = json.loads(out)["runs"][0]["results"][1]
        assert (result["ruleId"], result["level"], result["message"]["text"]) == (
            "reach.never",
            "error",
            message,
        )
        location = result["locations"][0]
        assert location["physicalLocation"]["artifactLocation"]["uri"] == file
        assert location["logicalLocations"][0]["fullyQualifiedName"] == pointer


def test_check_reports_files_that_cannot_be_read(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "documents/WP-001").mkdir(parents=True)
    (tmp_path / "documents/WP-001/A.json").write_text("{", "utf-8")
    code, out, _ = run(capsys, monkeypatch, "check", tmp_path)
    assert code == 1
    assert "library.json: error: this file is missing." in out
    assert "documents/WP-001/A.json: error: this is not JSON" in out
    assert run(capsys, monkeypatch, "check", tmp_path, "--format", "xml")[0] == 2


PACK = Path(__file__).parents[2] / "src/reedling/demo/library"
SURVEY = {"equipment": "station", "model": "ST2", "symptom": "half-yearly", "day": "2026-06-01"}


def test_match_prints_what_an_order_gets_and_why(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    order = tmp_path / "order.json"
    order.write_text(json.dumps(SURVEY))
    code, out, _ = run(capsys, monkeypatch, "match", "--library", PACK, "--order", order)
    found = json.loads(out)
    assert code == 0
    assert found["match"]["incident_type"] == "IT-004"
    assert [(t["document"], t["because"]) for t in found["match"]["taken"]] == [
        ("WP-005", ["DT-001 row 4"]),
        ("WP-004", ["DT-001 row 7"]),
    ]
    assert found["match"]["notes"] == [
        "Confirm asset by its plate is part of Half-yearly pump survey and is done once."
    ]
    phases = [s["phase"] for s in found["steps"]]
    assert phases == sorted(phases, key=list(get_args(Phase)).index)
    assert [t["misses"] for t in found["trace"]] == sorted(t["misses"] for t in found["trace"])
    assert len(found["trace"]) == 7


def test_match_takes_many_orders_as_json_lines_and_tells_which_line_is_wrong(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    orders = tmp_path / "orders.jsonl"
    lines = [json.dumps(SURVEY), "", "not json", json.dumps({"equipment": "ship"}), json.dumps({"color": 1})]
    orders.write_text("\n".join([*lines, json.dumps({"equipment": "conveyor", "symptom": "stalls"})]))
    code, out, _ = run(capsys, monkeypatch, "match", "--library", PACK, "--order", orders)
    told = [json.loads(line) for line in out.splitlines()]
    assert code == 1
    assert [t["match"]["incident_type"] for t in told if "match" in t] == ["IT-004", None]
    assert [(t["line"], t["code"]) for t in told if "error" in t] == [
        (3, "json.invalid"),
        (4, "match.unknown"),
        (5, "content.invalid"),
    ]
    assert "there is no equipment ship" in told[2]["error"]


@pytest.mark.slow
def test_a_backup_is_written_restored_and_looked_over(
    demo_dir: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    archive, again = tmp_path / "kept.zip", tmp_path / "again"
    code, out, _ = run(capsys, monkeypatch, "backup", archive, "--data", demo_dir)
    assert (code, "read back and equal" in out) == (0, True)
    code, out, _ = run(capsys, monkeypatch, "restore", archive, again)
    assert (code, out.startswith(f"{again} holds the database and")) == (0, True)
    code, out, _ = run(capsys, monkeypatch, "doctor", "--data", again)
    assert (code, out.startswith("Nothing is wrong: the database, and")) == (0, True)
    next((again / "pictures").iterdir()).unlink()
    code, out, _ = run(capsys, monkeypatch, "doctor", "--data", again)
    assert (code, "the file is missing" in out) == (1, True)
    assert run(capsys, monkeypatch, "mend-texts", "--data", again)[:2] == (0, "0 texts mended.\n")
    code, out, _ = run(capsys, monkeypatch, "recount", "--data", again)
    assert (code, out.endswith("finished jobs counted.\n")) == (0, True)
    code, _, err = run(capsys, monkeypatch, "restore", archive, again)
    assert (code, "nothing is written over" in err) == (1, True)


ADD_ANN = ("add-person", "ann", "Ann Reed", "--role", "approver", "--password", "marsh harrier over reeds")


@pytest.mark.slow
def test_people_are_managed_from_the_command_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    data = ("--data", tmp_path / "own")
    assert run(capsys, monkeypatch, *ADD_ANN, *data)[0] == 0
    code, out, _ = run(capsys, monkeypatch, "people", "invite", "bo", "Bo Finch", "--role", "planner", *data)
    assert (code, "/invitation/" in out, "works once" in out) == (0, True, True)
    assert run(capsys, monkeypatch, "people", "change", "bo", "--role", "engineer", *data)[0] == 0
    code, out, _ = run(capsys, monkeypatch, "people", "list", *data)
    assert "ann: Ann Reed, approver, administrator" in out
    assert "bo: Bo Finch, engineer, invited until" in out
    assert run(capsys, monkeypatch, "people", "end-sessions", "bo", *data)[1] == "0 sign-ins ended.\n"
    assert "/invitation/" in run(capsys, monkeypatch, "people", "reset", "bo", *data)[1]
    code, _, err = run(capsys, monkeypatch, "people", "remove", "ann", *data)
    assert (code, "this is the last administrator" in err) == (1, True)
    assert run(capsys, monkeypatch, "people", "remove", "bo", *data)[0] == 0
    assert "bo: Bo Finch, engineer, removed" in run(capsys, monkeypatch, "people", "list", *data)[1]
    weak = ("add-person", "cy", "Cy", "--role", "planner", "--password", "password12", *data)
    code, _, err = run(capsys, monkeypatch, *weak)
    assert (code, "it is easy to guess" in err) == (1, True)


def test_a_demo_is_not_reset_over_a_folder_of_ones_own(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    data = ("--data", tmp_path / "own")
    run(capsys, monkeypatch, *ADD_ANN, *data)
    code, _, err = run(capsys, monkeypatch, "demo", "--reset", *data)
    assert (code, "this is not the folder of a demo" in err) == (1, True)
    assert "ann" in run(capsys, monkeypatch, "people", "list", *data)[1]
