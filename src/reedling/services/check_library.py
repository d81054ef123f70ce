"""Check every open or released plan of a library pack, without a database."""

from __future__ import annotations

from dataclasses import replace

from reedling.core.checking.draft import plan_defects
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.soundness import incident_type_problems
from reedling.errors import Problem
from reedling.exchange.library_pack import LibraryPack

CHECKED = ("Draft", "In review", "Released")


def check_library(pack: LibraryPack) -> tuple[Problem, ...]:
    """Every problem of the revisions that are in force or on their way, by file and pointer."""
    plans = frozenset(head.document for head, _ in pack.revisions if head.kind == "plan")
    out: list[Problem] = []
    for head, content in pack.revisions:
        if head.state not in CHECKED:
            continue
        if isinstance(content, Plan):
            found = [d.problem for d in plan_defects(content, pack.catalogue)]
        else:
            found = list(incident_type_problems(content, plans))
        file = f"documents/{head.document}/{head.letter}.json"
        out += [replace(p, path=f"{file}#/content{p.path}") for p in found]
    return tuple(out)
