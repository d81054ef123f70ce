"""The full demo: enough kinds of work, sound, each its own, and a simulated truth that fits what the plans ask."""

from __future__ import annotations

import itertools
import json
import random
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from datetime import date
from importlib.resources import files

import pytest

from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.questions import OneOf, Question, Reading, YesNo, answer_problem
from reedling.core.guidance.reuse import fill_in
from reedling.demo.loader import demo_pack
from reedling.exchange.library_pack import LibraryPack
from reedling.services.views.pack_checks import IN_FORCE, check_library, shared_in_pack
from reedling.standins.field_kinds import KINDS, SURVEY
from reedling.standins.field_truth import Kind, true_answer
from reedling.standins.wider import WIDER_KINDS, WIDER_ROUTINES

TODAY = date(2026, 6, 1)
EVERY_KIND: tuple[Kind, ...] = (*KINDS, SURVEY, *WIDER_KINDS, *(kind for kind, _ in WIDER_ROUTINES))


@pytest.fixture(scope="module")
def pack() -> LibraryPack:
    return demo_pack(TODAY, wide=True)


def documents(pack: LibraryPack, kind: str) -> dict[str, object]:
    return {
        head.document: content
        for head, content in pack.revisions
        if head.kind == kind and head.state == "Released"
    }


def test_the_full_demo_has_a_library_worth_the_name(pack: LibraryPack) -> None:
    assert len(documents(pack, "incident type")) >= 16
    assert len(documents(pack, "plan")) >= 20
    assert len(documents(pack, "form")) >= 12
    forms = [c for c in documents(pack, "form").values() if isinstance(c, Plan)]
    computed = [sum(q.kind == "computed" for s in form.steps for q in s.questions) for form in forms]
    assert sum(n > 0 for n in computed) >= 12


@pytest.mark.slow
def test_all_of_it_passes_the_checker(pack: LibraryPack) -> None:
    assert [p for p in check_library(pack, TODAY) if p.severity == "error"] == []


def test_no_plan_is_another_with_words_changed(pack: LibraryPack) -> None:
    """Few words of what two plans say are shared, standard steps aside."""
    words: dict[str, set[str]] = {}
    for document, plan in documents(pack, "plan").items():
        assert isinstance(plan, Plan)
        said = " ".join(f"{s.text} {s.detail}" for s in plan.steps if s.standard is None)
        words[document] = {word for word in said.lower().split() if len(word) > 4}
    for one, other in itertools.combinations(words, 2):
        shared = len(words[one] & words[other]) / max(1, min(len(words[one]), len(words[other])))
        assert shared < 0.45, (one, other)


def test_every_plan_proves_what_it_did_and_every_type_names_what_is_there(pack: LibraryPack) -> None:
    plans = documents(pack, "plan")
    for incident in documents(pack, "incident type").values():
        assert isinstance(incident, IncidentType)
        assert set(incident.plans) <= plans.keys()
        assert incident.summary
        phases = [s.phase for d in incident.plans if isinstance(p := plans[d], Plan) for s in p.steps]
        assert "Prove" in phases


def questions_of(pack: LibraryPack) -> dict[str, Question]:
    shared = shared_in_pack(pack.revisions, IN_FORCE)
    found: dict[str, Question] = {}
    for document, plan in documents(pack, "plan").items():
        assert isinstance(plan, Plan)
        for step in fill_in(plan, shared).plan.steps:
            found.update({f"{document}:{q.id}": q for q in step.questions})
    return found


def told(kind: Kind) -> Iterator[tuple[str, object]]:
    for trouble in kind.troubles:
        yield from trouble.answers.items()


def test_the_truth_answers_questions_that_are_asked_with_answers_that_fit(pack: LibraryPack) -> None:
    asked = questions_of(pack)
    codes = {c.code for c in pack.catalogue.causes}, {r.code for r in pack.catalogue.remedies}
    parts = {p.code for p in pack.catalogue.parts}
    rng = random.Random(1)
    for kind in EVERY_KIND:
        for trouble in kind.troubles:
            assert trouble.cause in codes[0]
            assert trouble.remedy in codes[1]
            assert {taken.part for taken in trouble.takes} <= parts
            for key in trouble.answers:
                question = asked.get(key)
                assert question is not None, f"{trouble.cause}: nothing asks {key}"
                assert isinstance(question, Reading | YesNo | OneOf), key
                placed = replace(question, id=key)
                for _ in range(300):
                    value = true_answer(placed, trouble, rng, {})
                    assert value is not None
                    assert answer_problem(question, value, {}) is None, (key, value)


def test_a_reading_that_the_truth_does_not_tell_is_one_that_fits(pack: LibraryPack) -> None:
    rng = random.Random(2)
    for key, question in questions_of(pack).items():
        for _ in range(100 if isinstance(question, Reading) else 0):
            value = true_answer(replace(question, id=f"any/{key}"), EVERY_KIND[0].troubles[0], rng, {})
            assert value is not None
            assert answer_problem(question, value, {}) is None, (key, value)


def test_every_incident_type_has_calls_and_assets_that_call(pack: LibraryPack) -> None:
    """By the register as it is shipped: each class of equipment an incident type is for stands somewhere."""
    standing = Counter(
        asset["equipment"]
        for name in ("register", "wider")
        for asset in json.loads(files("reedling.demo").joinpath(f"{name}.json").read_text("utf-8"))["assets"]
    )
    called = {kind.equipment for kind in EVERY_KIND}
    for incident in documents(pack, "incident type").values():
        assert isinstance(incident, IncidentType)
        assert incident.equipment in called
        assert standing[incident.equipment or ""] >= 10, incident.title
