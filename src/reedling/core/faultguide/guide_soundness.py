"""What is wrong with a fault guide: figures that cannot be, codes that are not there, links that plans do not keep."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, field

from reedling.core.faultguide.links import GuideLinks, question_of
from reedling.core.faultguide.written_learning import check_label
from reedling.core.guidance.written_guides import GuideCheck, GuideRemedy, WrittenGuide
from reedling.errors import Problem


@dataclass(frozen=True, slots=True, kw_only=True)
class KnownToGuides:
    """What a guide may name: causes and remedies by code, with their labels, incident types, and what plans offer.

    ``taken`` is another guide that is in force for the same incident type, if there is one.
    """

    causes: Mapping[str, str]
    remedies: Mapping[str, str]
    incident_types: Collection[str]
    links: GuideLinks = field(default_factory=GuideLinks)
    taken: str = ""


def guide_problems(guide: WrittenGuide, known: KnownToGuides) -> tuple[Problem, ...]:
    """Everything wrong with a fault guide, errors and warnings."""
    return (
        *_whole(guide, known),
        *_causes(guide, known),
        *(p for i, check in enumerate(guide.checks) for p in _check(guide, i, check, known)),
        *_asked_twice(guide, known),
        *(p for i, remedy in enumerate(guide.remedies) for p in _remedy(guide, i, remedy, known)),
    )


def _whole(guide: WrittenGuide, known: KnownToGuides) -> Iterator[Problem]:
    if not guide.title.strip():
        yield _error("guides.title", "/title", "The fault guide has no title.")
    if guide.incident_type not in known.incident_types:
        yield _error(
            "guides.incident_type",
            "/incident_type",
            f"There is no incident type {guide.incident_type or 'chosen'}.",
            hint="Choose the one whose orders the guide is for.",
        )
    elif known.taken:
        yield _error(
            "guides.another",
            "/incident_type",
            f"{known.taken} is the fault guide in force for {guide.incident_type}.",
            hint="Change that one, or withdraw it first.",
        )
    if len(guide.causes) < 2:
        yield _error(
            "guides.causes", "/causes", "A fault guide tells at least two causes apart.", hint="Add causes."
        )
    elif sum(max(c.chance, 0.0) for c in guide.causes) <= 0:
        yield _error("guides.chances", "/causes", "No cause has a chance above 0.")
    if not guide.remedies:
        yield _error("guides.remedies", "/remedies", "The fault guide has no remedy.")
    if not 0 < guide.weight <= 1000:
        yield _error(
            "guides.weight", "/weight", "The author's figures count for more than 0 and up to 1,000 jobs."
        )
    for name, words in (("prove_minutes", "proof"), ("last_resort_minutes", "last resort")):
        if not getattr(guide, name) > 0:
            yield _error("guides.minutes", f"/{name}", f"The minutes of the {words} must be above 0.")


def _causes(guide: WrittenGuide, known: KnownToGuides) -> Iterator[Problem]:
    counted = Counter(c.cause for c in guide.causes)
    for i, cause in enumerate(guide.causes):
        label = known.causes.get(cause.cause)
        if label is None:
            yield _error("guides.cause", f"/causes/{i}", f"There is no cause {cause.cause} in the list.")
        elif counted[cause.cause] > 1:
            yield _error("guides.cause", f"/causes/{i}", f"“{label}” stands there twice.")
        if not 0 <= cause.chance <= 1:
            yield _error(
                "guides.chances", f"/causes/{i}/chance", "How often it is the cause lies between 0 and 100 %."
            )
        if guide.remedies and not any(r.fixes.get(cause.cause, 0.0) > 0 for r in guide.remedies):
            yield _error(
                "guides.no_remedy",
                f"/causes/{i}",
                f"No remedy is said to help with “{label or cause.cause}”.",
                hint="Say how often a remedy puts it right, or add one.",
                severity="warning",
            )


def _check(guide: WrittenGuide, i: int, check: GuideCheck, known: KnownToGuides) -> Iterator[Problem]:
    words = check_label(check, known.links)
    if not check.look and not check.label.strip():
        yield _error("guides.check", f"/checks/{i}", "The check says nothing of what to look at.")
    if check.look and check.look not in known.links.looks:
        yield _error(
            "guides.drift",
            f"/checks/{i}/look",
            f"“{words}” is linked to {question_of(check.look)}, and no plan of the incident type asks that any more.",
            hint="Link it to another question, or say what to look at and take the link off.",
        )
    if check.minutes is not None and not check.minutes > 0:
        yield _error("guides.minutes", f"/checks/{i}/minutes", "The minutes must be above 0.")
    if any(not 0 <= p <= 1 for p in check.yes.values()):
        yield _error("guides.chances", f"/checks/{i}/yes", "A chance lies between 0 and 100 %.")
    chances = {check.yes.get(c.cause, 0.5) for c in guide.causes}
    if len(guide.causes) > 1 and len(chances) == 1:
        yield _error(
            "guides.tells_nothing",
            f"/checks/{i}",
            f"“{words}” is as likely with every cause: on its own figures it tells nothing.",
            hint="Say with which causes it is more often so.",
            severity="warning",
        )


def _asked_twice(guide: WrittenGuide, known: KnownToGuides) -> Iterator[Problem]:
    """Checks that look at the answer to one question: the model takes checks as apart from each other."""
    first: dict[str, GuideCheck] = {}
    for i, check in enumerate(guide.checks):
        question = question_of(check.look)
        if question and first.setdefault(question, check) is not check:
            words, other = (check_label(c, known.links) for c in (check, first[question]))
            yield _error(
                "guides.asked_twice",
                f"/checks/{i}/look",
                f"“{words}” and “{other}” look at the answer to one question, which then counts twice.",
                hint="Keep the one that tells the causes apart better.",
                severity="warning",
            )


def _remedy(guide: WrittenGuide, i: int, remedy: GuideRemedy, known: KnownToGuides) -> Iterator[Problem]:
    label = known.remedies.get(remedy.remedy)
    if label is None:
        yield _error("guides.remedy", f"/remedies/{i}", f"There is no remedy {remedy.remedy} in the list.")
    if remedy.step and remedy.step not in known.links.steps:
        yield _error(
            "guides.drift",
            f"/remedies/{i}/step",
            f"“{label or remedy.remedy}” is linked to step {remedy.step}, and no plan of the incident type has that "
            "any more.",
            hint="Link it to another step, or take the link off.",
        )
    if remedy.minutes is not None and not remedy.minutes > 0:
        yield _error("guides.minutes", f"/remedies/{i}/minutes", "The minutes must be above 0.")
    if remedy.cost_minutes < 0:
        yield _error("guides.minutes", f"/remedies/{i}/cost_minutes", "The cost cannot be below 0.")
    if any(not 0 <= p <= 1 for p in remedy.fixes.values()):
        yield _error("guides.chances", f"/remedies/{i}/fixes", "A chance lies between 0 and 100 %.")
    if not any(remedy.fixes.get(c.cause, 0.0) > 0 for c in guide.causes):
        yield _error(
            "guides.remedy_idle",
            f"/remedies/{i}",
            f"“{label or remedy.remedy}” helps with no cause.",
            severity="warning",
        )


def _error(code: str, path: str, message: str, *, hint: str = "", severity: str = "error") -> Problem:
    return Problem(code=code, path=path, message=message, severity=severity, hint=hint)
