"""Where a fault guide stands on a job: the chances after what was seen and tried, and what to do next."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from math import fsum
from typing import Literal

from reedling.core.faultguide.guides import DoingKind, FaultGuide, posterior
from reedling.core.faultguide.links import question_of
from reedling.core.faultguide.next_doing import next_doing
from reedling.core.faultguide.order_guides import OrderGuide
from reedling.core.logic.conditions import Answer
from reedling.core.runsheet.site_records import GuidedWork

GuideStepState = Literal["open", "so", "not so", "helped", "did not help"]


@dataclass(frozen=True, slots=True, kw_only=True)
class CauseNow:
    """A cause with its chance before anything was seen and now."""

    cause: str
    label: str
    before: float
    now: float


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideStep:
    """A check or remedy of the guide on this job; ``line`` asks or does it, empty where none on the runsheet does.

    ``chance`` is that of being so, or of helping, as things stand; ``code`` is the remedy's.
    """

    act: DoingKind
    id: str
    label: str
    line: str
    minutes: float
    chance: float
    state: GuideStepState
    code: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideNow:
    """A fault guide on a job: causes, the likeliest first, checks and remedies, and what to do next with why.

    ``minutes`` are expected from here until it works. ``is_impossible`` says that no cause of the guide gives what was
    seen and tried, ``none_of_these`` what the technician said where none fits. Once a remedy helped nothing is next, and
    ``found`` is the cause that is likeliest with it.
    """

    title: str
    document: str
    revision: str
    n_jobs: int
    causes: tuple[CauseNow, ...]
    checks: tuple[GuideStep, ...]
    remedies: tuple[GuideStep, ...]
    next: GuideStep | None
    why: str
    minutes: float
    is_impossible: bool
    none_of_these: str | None
    found: str


def guide_now(
    order: OrderGuide,
    work: GuidedWork,
    known: Mapping[str, Answer],
    out: Iterable[str],
    lines: Iterable[str],
) -> GuideNow:
    """Where the guide of an order stands.

    ``known`` are the answers so far, by question, ``out`` the questions whose readings lie outside their limits, and
    ``lines`` those on the runsheet. What was said of a check in the guide itself goes before what an answer tells.
    """
    guide = order.guide
    answers = seen_of_checks(order, work, known, out)
    tried = {i: work.tried[r.id] for i, r in enumerate(guide.repairs) if r.id in work.tried}
    failed = [i for i, helped in tried.items() if not helped]
    helped = next((i for i, did in tried.items() if did), None)
    now = posterior(guide, answers, failed)
    at = guide.chances if now is None else now
    there = set(lines)
    checks = _checks(order, answers, at, there)
    remedies = _remedies(order, tried, at, there)
    ends = helped is not None or now is None or work.none_of_these is not None
    doing = next_doing(
        guide,
        at,
        [i for i in range(len(guide.checks)) if i not in answers],
        [i for i in range(len(guide.repairs)) if i not in tried],
    )
    coming: GuideStep | None = None
    if not ends:
        coming = (
            checks[doing.place]
            if doing.act == "check"
            else remedies[doing.place]
            if doing.act == "repair"
            else GuideStep(
                act="last resort",
                id="",
                label="Send for a specialist",
                line="",
                minutes=guide.last_resort_minutes,
                chance=1.0,
                state="open",
            )
        )
    ranked = sorted(range(len(guide.causes)), key=lambda i: -at[i])
    return GuideNow(
        title=order.title,
        document=order.document,
        revision=order.revision,
        n_jobs=order.n_jobs,
        causes=tuple(
            CauseNow(cause=guide.causes[i], label=order.labels[i], before=guide.chances[i], now=at[i])
            for i in ranked
        ),
        checks=checks,
        remedies=remedies,
        next=coming,
        why=_why(order, doing.act, doing.place, at) if coming is not None else "",
        minutes=doing.minutes if coming is not None else 0.0,
        is_impossible=now is None,
        none_of_these=work.none_of_these,
        found="" if helped is None else _found(guide, helped, at),
    )


def seen_of_checks(
    order: OrderGuide, work: GuidedWork, known: Mapping[str, Answer], out: Iterable[str]
) -> dict[int, bool]:
    """What was seen, by the place of the check; of a repeated question one answer that is so is enough."""
    by_question: dict[str, list[tuple[str, Answer]]] = {}
    for question, answer in known.items():
        by_question.setdefault(question.split("@", 1)[0], []).append((question, answer))
    outside = set(out)
    seen: dict[int, bool] = {}
    for i, (check, look) in enumerate(zip(order.guide.checks, order.looks, strict=True)):
        if check.id in work.seen:
            seen[i] = work.seen[check.id]
        elif held := by_question.get(question_of(look) if look else "", []):
            seen[i] = any(_is_so(look, question, answer, outside) for question, answer in held)
    return seen


def _is_so(look: str, question: str, answer: Answer, outside: set[str]) -> bool:
    if look.endswith("!"):
        return question in outside
    option = look.partition("=")[2]
    return answer is True if option == "yes" and isinstance(answer, bool) else answer == option


def _checks(
    order: OrderGuide, answers: Mapping[int, bool], at: tuple[float, ...], there: set[str]
) -> tuple[GuideStep, ...]:
    return tuple(
        GuideStep(
            act="check",
            id=check.id,
            label=check.label,
            line=order.lines[i] if order.lines[i] in there else "",
            minutes=check.minutes,
            chance=fsum(c * y for c, y in zip(at, check.yes, strict=True)),
            state="open" if i not in answers else "so" if answers[i] else "not so",
        )
        for i, check in enumerate(order.guide.checks)
    )


def _remedies(
    order: OrderGuide, tried: Mapping[int, bool], at: tuple[float, ...], there: set[str]
) -> tuple[GuideStep, ...]:
    return tuple(
        GuideStep(
            act="repair",
            id=repair.id,
            label=repair.label,
            line=order.remedy_lines[i] if order.remedy_lines[i] in there else "",
            minutes=repair.minutes,
            chance=fsum(c * f for c, f in zip(at, repair.fixes, strict=True)),
            state="open" if i not in tried else "helped" if tried[i] else "did not help",
            code=order.remedies[i],
        )
        for i, repair in enumerate(order.guide.repairs)
    )


def _found(guide: FaultGuide, helped: int, at: tuple[float, ...]) -> str:
    fixes = guide.repairs[helped].fixes
    return guide.causes[max(range(len(at)), key=lambda i: at[i] * fixes[i])]


def _why(order: OrderGuide, act: DoingKind, place: int, at: tuple[float, ...]) -> str:
    guide = order.guide
    if act == "repair":
        helps = fsum(c * f for c, f in zip(at, guide.repairs[place].fixes, strict=True))
        return f"It helps in {helps * 100:.0f} of 100, more for its minutes than anything else."
    if act == "last resort":
        return "Nothing that is left is worth its minutes."
    yes = guide.checks[place].yes
    so, not_so = (
        [c * (y if is_so else 1 - y) for c, y in zip(at, yes, strict=True)] for is_so in (True, False)
    )
    return f"If so, {_likeliest(order, so)}; if not, {_likeliest(order, not_so)}."


def _likeliest(order: OrderGuide, weights: list[float]) -> str:
    """The likeliest cause with its chance, in words."""
    total = fsum(weights)
    best = max(range(len(weights)), key=lambda i: weights[i])
    label = order.labels[best]
    words = f"{label[:1].lower()}{label[1:]}"
    return f"{words} ({weights[best] / total * 100:.0f} %)" if total > 0 else words
