"""Defects as SARIF 2.1.0 (OASIS), so that a code host can show them beside the files.

Written, not read. Losses: witnesses are put into the message; fixes are left out.
"""

from __future__ import annotations

import json
from collections.abc import Iterable

from reedling import __version__
from reedling.errors import Problem

LEVELS = {"error": "error", "warning": "warning"}


def generate_sarif(problems: Iterable[Problem]) -> str:
    """A SARIF log of problems whose paths are ``file#pointer``."""
    found = list(problems)
    rules = sorted({p.code for p in found})
    log = {
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [
            {
                "tool": {
                    "driver": {
                        "name": "reedling check",
                        "version": __version__,
                        "rules": [{"id": rule} for rule in rules],
                    }
                },
                "results": [_result(p, rules) for p in found],
            }
        ],
    }
    return json.dumps(log, ensure_ascii=False, indent=2)


def _result(problem: Problem, rules: list[str]) -> dict[str, object]:
    file, _, pointer = problem.path.partition("#")
    location: dict[str, object] = {"physicalLocation": {"artifactLocation": {"uri": file}}}
    if pointer:
        location["logicalLocations"] = [{"fullyQualifiedName": pointer}]
    return {
        "ruleId": problem.code,
        "ruleIndex": rules.index(problem.code),
        "level": LEVELS.get(problem.severity, "note"),
        "message": {"text": f"{problem.message} {problem.hint}".strip()},
        "locations": [location],
    }
