"""A runsheet as it is met: the lines, where they stand, and what each answer brought about."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from reedling.core.guidance.proofs import wanted_range
from reedling.core.logic.conditions import Answers
from reedling.core.runsheet.lines import Runsheet
from reedling.core.runsheet.progress import Consequence, Progress, consequences


@dataclass(frozen=True, slots=True, kw_only=True)
class RunView:
    """A runsheet with its progress. ``wanted`` gives the limits of each reading in words."""

    runsheet: Runsheet
    progress: Progress
    consequences: Mapping[str, Consequence]
    wanted: Mapping[str, str]


def run_view(runsheet: Runsheet, progress: Progress, answers: Answers) -> RunView:
    """Put a runsheet together with all that follows from its answers."""
    return RunView(
        runsheet=runsheet,
        progress=progress,
        consequences=consequences(runsheet, answers),
        wanted={
            proof.id: text
            for line in runsheet.lines
            for proof in line.proofs
            if proof.kind == "reading" and (text := wanted_range(proof))
        },
    )
