"""How long things take on this machine. Run by `make bench`; it asserts nothing."""

from __future__ import annotations

import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from reedling.core.checking.plan_checks import check_plan
from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.proofs import Limits, Reading
from reedling.core.logic.conditions import Comparison
from reedling.core.runsheet.lines import Source, compile_runsheet
from reedling.core.runsheet.progress import follow


def seconds(act: Callable[[], object], times: int = 5) -> float:
    """Median seconds of several runs."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def long_plan(n: int) -> Plan:
    """A plan of so many steps, every second one a branch of the one before."""
    steps = []
    for i in range(n):
        branch = i % 2 == 1
        steps.append(
            Step(
                id=f"s{i}",
                phase="Diagnose",
                text="Read it",
                minutes=Minutes(likely=5),
                proofs=(Reading(id=f"q{i}", label="Reading", unit="bar", limits=Limits(low=90)),),
                under=f"s{i - 1}" if branch else None,
                condition=Comparison(question=f"q{i - 1}", operator="below", value=90.0) if branch else None,
            )
        )
    return Plan(title="Long", steps=tuple(steps))


def main() -> None:
    """Print a table."""
    print(f"{'what':58} {'median':>10}")
    for n in (50, 300, 1000):
        sheet = compile_runsheet([(Source(document="W", revision="A", title="Long"), long_plan(n))])
        answers = {f"W:q{i}": 84.0 for i in range(n)}
        took = seconds(lambda sheet=sheet, answers=answers: follow(sheet, answers))  # type: ignore[misc]
        print(f"{f'progress of a runsheet of {n} steps, all answered':58} {took * 1000:8.1f} ms")
    for n in (50, 300, 1000):
        plan = long_plan(n)
        took = seconds(lambda plan=plan: check_plan(plan), 3)  # type: ignore[misc]
        print(f"{f'full check of a plan of {n} steps, {n // 2} conditions':58} {took * 1000:8.1f} ms")
    command = str(Path(sys.executable).parent / "reedling")
    folder = Path(tempfile.mkdtemp())
    took = seconds(
        lambda: subprocess.run(
            [command, "demo", "--data", folder, "--reset"], check=True, capture_output=True
        ),
        1,
    )
    print(f"{'load the demo and play its 60 orders':58} {took:8.1f} s")
    took = seconds(
        lambda: subprocess.run([command, "demo", "--data", folder], check=True, capture_output=True), 3
    )
    print(f"{'start again with the data kept, up to serving':58} {took:8.1f} s")
    shutil.rmtree(folder)


if __name__ == "__main__":
    main()
