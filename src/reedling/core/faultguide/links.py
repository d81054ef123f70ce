"""What of work plans a fault guide may be linked to: looks, which are answers to questions, and steps."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field

from reedling.core.guidance.phases import Phase
from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.questions import Computed, OneOf, Question, Reading, YesNo


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """An answer that tells of the cause: in words, with the step that asks, its likely minutes and its phase."""

    label: str
    step: str
    minutes: float
    phase: Phase


@dataclass(frozen=True, slots=True, kw_only=True)
class StepLink:
    """A step of a plan: what it says, its likely minutes, its phase."""

    text: str
    minutes: float
    phase: Phase


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideLinks:
    """What a guide may be linked to, by look and by ``document:step``."""

    looks: Mapping[str, Look] = field(default_factory=dict)
    steps: Mapping[str, StepLink] = field(default_factory=dict)


def links_in(plans: Iterable[tuple[str, Plan]]) -> GuideLinks:
    """The looks and steps of plans, by their documents, with their standard steps and forms filled in.

    A look is ``question=option`` for one of several, ``question=yes`` for yes or no, ``question!`` for a reading
    outside its limits; the question is named ``document:question``.
    """
    looks: dict[str, Look] = {}
    steps: dict[str, StepLink] = {}
    for document, plan in plans:
        for step in plan.steps:
            steps[f"{document}:{step.id}"] = StepLink(
                text=step.text, minutes=step.minutes.likely, phase=step.phase
            )
            for question in step.questions:
                looks.update(_looks(document, step, question))
    return GuideLinks(looks=looks, steps=steps)


def _looks(document: str, step: Step, question: Question) -> Iterator[tuple[str, Look]]:
    asked = f"{document}:{question.id}"

    def look(words: str) -> Look:
        return Look(label=words, step=f"{document}:{step.id}", minutes=step.minutes.likely, phase=step.phase)

    match question:
        case OneOf():
            for option in question.options:
                words = f"{option.label[:1].lower()}{option.label[1:]}"
                yield f"{asked}={option.id}", look(f"{question.label}: {words}")
        case YesNo():
            yield f"{asked}=yes", look(f"{question.label}: yes")
        case Reading() | Computed() if question.limits.any_set:
            yield f"{asked}!", look(f"{question.label} outside its limits")


def question_of(look: str) -> str:
    """The question that a look is an answer to.

    >>> question_of("WP-001:seat=scored"), question_of("WP-001:bar!")
    ('WP-001:seat', 'WP-001:bar')
    """
    return look.rstrip("!").partition("=")[0]
