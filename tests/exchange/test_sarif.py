"""Defects as SARIF 2.1.0: the members the OASIS standard requires (sections 3.13, 3.14, 3.27)."""

from __future__ import annotations

import json

from reedling.errors import Problem
from reedling.exchange.sarif import generate_sarif

NEVER = Problem(
    code="reach.never",
    path="documents/WP-1/A.json#/content/steps/2/condition",
    message="It can never be asked.",
)
LOOK = Problem(
    code="steps.minutes",
    path="documents/WP-1/A.json#/content/steps/0/minutes",
    message="It has no minutes.",
    severity="warning",
    hint="Give some.",
)
WHOLE_FILE = Problem(code="library.head", path="library.json", message="this file is missing.")


def test_the_required_members_are_there() -> None:
    log = json.loads(generate_sarif([NEVER, LOOK, WHOLE_FILE]))
    assert log["version"] == "2.1.0"
    run = log["runs"][0]
    assert run["tool"]["driver"]["name"] == "reedling check"
    assert len(run["results"]) == 3
    assert all(result["message"]["text"] for result in run["results"])


def test_each_result_points_at_its_rule_file_and_place() -> None:
    run = json.loads(generate_sarif([LOOK, NEVER]))["runs"][0]
    rules = [rule["id"] for rule in run["tool"]["driver"]["rules"]]
    assert rules == ["reach.never", "steps.minutes"]
    for result in run["results"]:
        assert rules[result["ruleIndex"]] == result["ruleId"]
    first = run["results"][0]
    assert (first["level"], first["message"]["text"]) == ("warning", "It has no minutes. Give some.")
    place = first["locations"][0]
    assert place["physicalLocation"]["artifactLocation"]["uri"] == "documents/WP-1/A.json"
    assert place["logicalLocations"] == [{"fullyQualifiedName": "/content/steps/0/minutes"}]


def test_a_problem_of_a_whole_file_has_no_place_within_it() -> None:
    result = json.loads(generate_sarif([WHOLE_FILE]))["runs"][0]["results"][0]
    assert "logicalLocations" not in result["locations"][0]


def test_no_problems_make_an_empty_run() -> None:
    run = json.loads(generate_sarif([]))["runs"][0]
    assert run["results"] == []
    assert run["tool"]["driver"]["rules"] == []
