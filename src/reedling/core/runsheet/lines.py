"""The runsheet: the frozen result of matching and expanding for one order."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace

from reedling.core.guidance.phases import Phase, phase_rank
from reedling.core.guidance.plans import Link, Minutes, Plan, Repeat, Step, question_names
from reedling.core.guidance.questions import Question, SafetyNote
from reedling.core.guidance.reuse import FilledPlan, Library, fill_in, rename_question
from reedling.core.guidance.skills import PartNeed, SkillNeed
from reedling.core.logic.conditions import Answer, Condition, QuestionName, rename_questions, sentence


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
    colon, and the identity within the document. ``when`` is the condition in words. ``standard``
    names the standard step, with its revision, that the step reuses. Formulas see the questions of
    their own ``scope`` by name. ``each`` is the pump, phase or door that a repeated line is for.
    """

    id: str
    document: str
    revision: str
    step: str
    phase: Phase
    text: str
    detail: str
    minutes: Minutes
    proofs: tuple[Question, ...]
    skills: tuple[SkillNeed, ...]
    parts: tuple[PartNeed, ...]
    under: str | None
    condition: Condition | None
    when: str
    safety: str = ""
    links: tuple[Link, ...] = ()
    pictures: tuple[str, ...] = ()
    standard: str = ""
    scope: str = ""
    repeat: Repeat | None = None
    each: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Runsheet:
    """What one order is to be carried out by. It never changes under a technician's feet.

    ``facts`` are what is known of the order, its asset, site and customer when it is issued;
    ``last`` are the answers of the asset's last visit, by question. ``phrases`` are ready for notes.
    """

    sources: tuple[Source, ...]
    lines: tuple[Line, ...]
    facts: Mapping[str, Answer] = field(default_factory=dict)
    last: Mapping[str, Answer] = field(default_factory=dict)
    phrases: tuple[str, ...] = ()
    links: tuple[Link, ...] = ()


def compile_runsheet(
    plans: Iterable[tuple[Source, Plan]],
    *,
    library: Library | None = None,
    facts: Mapping[str, Answer] | None = None,
    last: Mapping[str, Answer] | None = None,
    names: Mapping[str, QuestionName] | None = None,
) -> Runsheet:
    """Expand plans into one runsheet: by phase, then in the order of the plans, then of steps.

    Standard steps and forms are filled in from the ``library``, and become sources too. ``names``
    says how conditions speak of facts.
    """
    shelf = library or Library()
    pairs = tuple((source, fill_in(plan, shelf)) for source, plan in plans)
    lines = [line for source, filled in pairs for line in _lines(source, filled, names or {})]
    asked = {q.id for line in lines for q in line.proofs if q.prefill == "last"}
    return Runsheet(
        sources=(*(source for source, _ in pairs), *_reused(pairs, shelf)),
        lines=tuple(sorted(lines, key=lambda line: phase_rank(line.phase))),
        facts=dict(facts or {}),
        last={q: a for q, a in (last or {}).items() if q.split("@", 1)[0] in asked},
        phrases=tuple(dict.fromkeys(p for _, filled in pairs for p in filled.plan.phrases)),
        links=tuple(dict.fromkeys(link for _, filled in pairs for link in filled.plan.links)),
    )


def _reused(pairs: tuple[tuple[Source, FilledPlan], ...], shelf: Library) -> Iterator[Source]:
    used = dict.fromkeys(d for _, filled in pairs for d in filled.reused)
    for document in used:
        shared = shelf.standards.get(document) or shelf.forms[document]
        yield Source(document=document, revision=shared.revision, title=shared.plan.title)


def within(document: str, identity: str) -> str:
    """An identity of a document as the runsheet speaks of it.

    >>> within("WP-014", "pressure")
    'WP-014:pressure'
    """
    return f"{document}:{identity}"


def _lines(source: Source, filled: FilledPlan, facts: Mapping[str, QuestionName]) -> Iterator[Line]:
    names = {**facts, **question_names(filled.plan)}
    for step in filled.plan.steps:
        yield _line(source, filled, step, sentence(step.condition, names) if step.condition else "")


def _line(source: Source, filled: FilledPlan, step: Step, when: str) -> Line:
    origin = filled.origins[step.id]

    def own(identity: str) -> str:
        return within(source.document, identity)

    return Line(
        id=own(step.id),
        document=origin.document or source.document,
        revision=origin.revision or source.revision,
        step=origin.step,
        phase=step.phase,
        text=step.text,
        detail=step.detail,
        minutes=step.minutes,
        proofs=(*_safety(step, own), *(rename_question(proof, own) for proof in step.proofs)),
        skills=step.skills,
        parts=tuple(replace(p, condition=rename_questions(p.condition, own)) for p in step.parts),
        under=own(step.under) if step.under else None,
        condition=rename_questions(step.condition, own),
        when=when,
        safety=step.safety,
        links=step.links,
        pictures=step.pictures,
        standard=origin.standard,
        scope=own(origin.scope),
        repeat=step.repeat,
    )


def _safety(step: Step, own: Callable[[str], str]) -> Iterator[Question]:
    """The note comes first: it is read before anything is touched."""
    if step.safety.strip():
        yield SafetyNote(id=f"{own(step.id)}!", label=step.safety.strip())
