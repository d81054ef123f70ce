"""Expanding plans into the runsheet of one order."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from functools import partial

from reedling.core.guidance.finish_rules import rename_rule
from reedling.core.guidance.plans import Plan, Step, names_in
from reedling.core.guidance.questions import Question, SafetyNote
from reedling.core.guidance.reuse import FilledPlan, SharedPlans, fill_in, rename_question
from reedling.core.logic.conditions import Answer, QuestionName, rename_questions, sentence
from reedling.core.runsheet.arranging import arrange_lines, merge_standard_steps
from reedling.core.runsheet.lines import Runsheet, RunsheetLine, Source, within


def compile_runsheet(
    plans: Iterable[tuple[Source, Plan]],
    *,
    shared: SharedPlans | None = None,
    facts: Mapping[str, Answer] | None = None,
    last: Mapping[str, Answer] | None = None,
    names: Mapping[str, QuestionName] | None = None,
    after: Mapping[str, Sequence[str]] | None = None,
) -> Runsheet:
    """Expand plans into one runsheet: by phase, then as ``after`` says, then in the order of the plans.

    ``after`` gives, by document, those whose steps come earlier within each phase. The same standard
    step from several plans is done once, in the earliest phase that wants it. Standard steps and forms are filled in
    from the ``shared`` plans, and become sources too. ``names`` says how conditions speak of facts.
    """
    shelf = shared or SharedPlans()
    pairs = tuple((source, fill_in(plan, shelf)) for source, plan in plans)
    lines = [line for source, filled in pairs for line in _lines(source, filled, names or {})]
    titles = {source.document: source.title for source, _ in pairs}
    asked = {q.id for line in lines for q in line.questions if q.prefill == "last"}
    return Runsheet(
        sources=(*(source for source, _ in pairs), *_reused(pairs, shelf)),
        lines=tuple(
            replace(line, asked_by=tuple(titles[d] for d in line.asked_by)) if line.asked_by else line
            for line in arrange_lines(merge_standard_steps(lines), after or {})
        ),
        facts=dict(facts or {}),
        last={q: a for q, a in (last or {}).items() if q.split("@", 1)[0] in asked},
        phrases=tuple(dict.fromkeys(p for _, filled in pairs for p in filled.plan.phrases)),
        finish=tuple(
            rename_rule(rule, partial(within, source.document))
            for source, filled in pairs
            for rule in filled.plan.finish
        ),
        links=tuple(dict.fromkeys(link for _, filled in pairs for link in filled.plan.links)),
    )


def _reused(pairs: tuple[tuple[Source, FilledPlan], ...], shelf: SharedPlans) -> Iterator[Source]:
    used = dict.fromkeys(d for _, filled in pairs for d in filled.reused)
    for document in used:
        shared = shelf.standards.get(document) or shelf.forms[document]
        yield Source(document=document, revision=shared.revision, title=shared.plan.title)


def _lines(source: Source, filled: FilledPlan, facts: Mapping[str, QuestionName]) -> Iterator[RunsheetLine]:
    names = names_in(filled.plan, facts)
    for step in filled.plan.steps:
        yield _line(source, filled, step, sentence(step.condition, names(step.id)) if step.condition else "")


def _line(source: Source, filled: FilledPlan, step: Step, when: str) -> RunsheetLine:
    origin = filled.origins[step.id]

    def own(identity: str) -> str:
        return within(source.document, identity)

    return RunsheetLine(
        id=own(step.id),
        document=origin.document or source.document,
        revision=origin.revision or source.revision,
        step=origin.step,
        phase=step.phase,
        text=step.text,
        detail=step.detail,
        minutes=step.minutes,
        questions=(*_safety(step, own), *(rename_question(question, own) for question in step.questions)),
        skills=step.skills,
        parts=tuple(replace(p, condition=rename_questions(p.condition, own)) for p in step.parts),
        tools=step.tools,
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
