"""What changed between two revisions, in words: moved is moved, not removed and added."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan, Step, question_names
from reedling.core.guidance.proofs import OneOf, Proof, Reading, wanted_range
from reedling.core.logic.conditions import QuestionName, number_text, sentence

Change = Literal["added", "removed", "moved", "changed"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """One change. ``place`` is a step identity, or empty for the document itself.

    ``aspect`` says what of the place changed ("text", "minutes", …); ``before`` and ``after``
    are in words.
    """

    change: Change
    place: str
    title: str
    aspect: str = ""
    before: str = ""
    after: str = ""


def compare_plans(older: Plan, newer: Plan) -> tuple[Difference, ...]:
    """Every change from the older plan to the newer, in the newer plan's order.

    Steps are paired by identity. A step counts as moved when it left its phase or the step it
    hangs on, or when it is outside the longest run of steps that kept their order.
    """
    old_steps = {s.id: s for s in older.steps}
    new_steps = {s.id: s for s in newer.steps}
    kept = [s.id for s in newer.steps if s.id in old_steps]
    in_order = set(_longest_in_order([s.id for s in older.steps if s.id in new_steps], kept))
    out = [
        *_scalars(
            "", "the plan", {"title": (older.title, newer.title), "summary": (older.summary, newer.summary)}
        )
    ]
    if older.applies_when != newer.applies_when:
        out.append(Difference(change="changed", place="", title="the plan", aspect="applies when"))
    for step in newer.steps:
        before = old_steps.get(step.id)
        if before is None:
            out.append(Difference(change="added", place=step.id, title=step.text, after=step.phase))
            continue
        if before.phase != step.phase or before.under != step.under or step.id not in in_order:
            out.append(_moved(before, step, older, newer))
        out.extend(_step_changes(before, step, question_names(older), question_names(newer)))
    out.extend(
        Difference(change="removed", place=s.id, title=s.text, before=s.phase)
        for s in older.steps
        if s.id not in new_steps
    )
    return tuple(out)


def compare_incident_types(older: IncidentType, newer: IncidentType) -> tuple[Difference, ...]:
    """Every change from the older incident type to the newer."""
    return tuple(
        _scalars(
            "",
            "the incident type",
            {
                "title": (older.title, newer.title),
                "summary": (older.summary, newer.summary),
                "equipment": (older.equipment or "any", newer.equipment or "any"),
                "work plans": (", ".join(older.plans), ", ".join(newer.plans)),
            },
        )
    )


def _moved(before: Step, after: Step, older: Plan, newer: Plan) -> Difference:
    return Difference(
        change="moved",
        place=after.id,
        title=after.text,
        before=_place_text(before, older),
        after=_place_text(after, newer),
    )


def _place_text(step: Step, plan: Plan) -> str:
    number = [s.id for s in plan.steps].index(step.id) + 1
    above = next((s.text for s in plan.steps if s.id == step.under), None)
    return f"{step.phase}, step {number}" + (f", under “{above}”" if above else "")


def _scalars(place: str, title: str, pairs: Mapping[str, tuple[str, str]]) -> Iterator[Difference]:
    for aspect, (before, after) in pairs.items():
        if before != after:
            yield Difference(
                change="changed", place=place, title=title, aspect=aspect, before=before, after=after
            )


def _step_changes(
    before: Step, after: Step, old_names: Mapping[str, QuestionName], new_names: Mapping[str, QuestionName]
) -> Iterator[Difference]:
    yield from _scalars(
        after.id,
        after.text,
        {
            "text": (before.text, after.text),
            "detail": (before.detail, after.detail),
            "minutes": (_minutes_text(before), _minutes_text(after)),
            "proof": (_proofs_text(before.proofs), _proofs_text(after.proofs)),
            "condition": (sentence(before.condition, old_names), sentence(after.condition, new_names)),
            "skills": (_skills_text(before), _skills_text(after)),
            "parts": (_parts_text(before), _parts_text(after)),
        },
    )


def _minutes_text(step: Step) -> str:
    m = step.minutes
    text = f"{number_text(m.likely)} min"
    if m.low is not None or m.high is not None:
        ends = [number_text(x) if x is not None else "…" for x in (m.low, m.high)]
        text += f" ({ends[0]}–{ends[1]})"
    return text


def _proofs_text(proofs: Sequence[Proof]) -> str:
    texts = []
    for proof in proofs:
        text = f"{proof.kind.replace('_', ' ')} “{proof.label}”"
        if isinstance(proof, Reading):
            text += f" in {proof.unit}" + (f", {wanted_range(proof)}" if wanted_range(proof) else "")
        if isinstance(proof, OneOf):
            text += ": " + ", ".join(o.label for o in proof.options)
        texts.append(text)
    return "; ".join(texts) or "none"


def _skills_text(step: Step) -> str:
    return ", ".join(f"{n.skill} {n.level}" for n in step.skills) or "none"


def _parts_text(step: Step) -> str:
    return ", ".join(f"{number_text(n.quantity)} × {n.part}" for n in step.parts) or "none"


def _longest_in_order(older: Sequence[str], newer: Sequence[str]) -> list[str]:
    """The longest subsequence of ``newer`` that keeps the order of ``older`` (same items)."""
    rank = {item: i for i, item in enumerate(older)}
    best: list[list[str]] = []
    for i, item in enumerate(newer):
        runs = [best[j] for j in range(i) if rank[newer[j]] < rank[item]]
        best.append([*max(runs, key=len, default=[]), item])
    return max(best, key=len, default=[])
