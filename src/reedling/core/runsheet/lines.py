"""The runsheet: the frozen result of matching and expanding for one order."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from reedling.core.guidance.phases import Phase, phase_rank
from reedling.core.guidance.plans import Minutes, Plan, Step, question_names
from reedling.core.guidance.proofs import Proof
from reedling.core.guidance.skills import PartNeed, SkillNeed
from reedling.core.logic.conditions import Condition, rename_questions, sentence


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """A document revision that a runsheet was made from."""

    document: str
    revision: str
    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """One step as issued. ``(document, revision, step)`` says where it was written.

    ``id`` and the identities of its proofs are unique within the runsheet: the document, a
    colon, and the identity within the document. ``when`` is the condition in words.
    """

    id: str
    document: str
    revision: str
    step: str
    phase: Phase
    text: str
    detail: str
    minutes: Minutes
    proofs: tuple[Proof, ...]
    skills: tuple[SkillNeed, ...]
    parts: tuple[PartNeed, ...]
    under: str | None
    condition: Condition | None
    when: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Runsheet:
    """What one order is to be carried out by. It never changes under a technician's feet."""

    sources: tuple[Source, ...]
    lines: tuple[Line, ...]


def compile_runsheet(plans: Iterable[tuple[Source, Plan]]) -> Runsheet:
    """Expand plans into one runsheet: by phase, then in the order of the plans, then of steps."""
    pairs = tuple(plans)
    lines = [line for source, plan in pairs for line in _lines(source, plan)]
    return Runsheet(
        sources=tuple(source for source, _ in pairs),
        lines=tuple(sorted(lines, key=lambda line: phase_rank(line.phase))),
    )


def lines_by_id(runsheet: Runsheet) -> Mapping[str, Line]:
    """The lines by their identity."""
    return {line.id: line for line in runsheet.lines}


def find_proof(runsheet: Runsheet, question: str) -> tuple[Line, Proof] | None:
    """The line and proof that ask a question of this runsheet."""
    for line in runsheet.lines:
        for proof in line.proofs:
            if proof.id == question:
                return line, proof
    return None


def within(document: str, identity: str) -> str:
    """An identity of a document as the runsheet speaks of it.

    >>> within("WP-014", "pressure")
    'WP-014:pressure'
    """
    return f"{document}:{identity}"


def _lines(source: Source, plan: Plan) -> Iterable[Line]:
    names = question_names(plan)
    for step in plan.steps:
        yield _line(source, step, sentence(step.condition, names) if step.condition else "")


def _line(source: Source, step: Step, when: str) -> Line:
    def own(identity: str) -> str:
        return within(source.document, identity)

    return Line(
        id=own(step.id),
        document=source.document,
        revision=source.revision,
        step=step.id,
        phase=step.phase,
        text=step.text,
        detail=step.detail,
        minutes=step.minutes,
        proofs=tuple(replace(proof, id=own(proof.id)) for proof in step.proofs),
        skills=step.skills,
        parts=step.parts,
        under=own(step.under) if step.under else None,
        condition=rename_questions(step.condition, own),
        when=when,
    )
