"""Proofs: what an answer says about its limits, and which answers fit."""

from __future__ import annotations

import pytest

from reedling.core.guidance.questions import (
    Limits,
    OneOf,
    Option,
    Photo,
    Place,
    Question,
    Reading,
    Severity,
    TextEntry,
    Tick,
    YesNo,
    answer_problem,
    answer_text,
    judge_reading,
    question_line,
    wanted_range,
)
from reedling.core.logic.conditions import Answer

FULL = Reading(id="r", label="Level", unit="m", limits=Limits(low_low=0.5, low=1, high=2, high_high=2.5))
SEAT = OneOf(id="o", label="Seat", options=(Option(id="a", label="Sound"), Option(id="b", label="Scored")))


@pytest.mark.parametrize(
    ("value", "place", "severity"),
    [
        (0.4, "below low-low", "Stop"),
        (0.5, "below low", "Act"),
        (0.99, "below low", "Act"),
        (1.0, "within", None),
        (2.0, "within", None),
        (2.01, "above high", "Act"),
        (2.5, "above high", "Act"),
        (2.51, "above high-high", "Stop"),
    ],
)
def test_a_value_on_a_limit_lies_within(value: float, place: Place, severity: Severity | None) -> None:
    verdict = judge_reading(FULL, value)
    assert (verdict.place, verdict.severity) == (place, severity)


def test_a_reading_of_160_f_against_150_f_fails() -> None:
    """Common practice, no source: a bearing at 160 °F against a limit of 150 °F is out of limits."""
    bearing = Reading(id="t", label="Bearing temperature", unit="°F", limits=Limits(high=150))
    verdict = judge_reading(bearing, 160)
    assert verdict.severity == "Act"
    assert verdict.sentence == "160 °F is above 150 °F."


@pytest.mark.parametrize(
    ("limits", "words"),
    [
        (Limits(low=90, high=120), "want 90 to 120 bar"),
        (Limits(low=90), "want 90 bar or more"),
        (Limits(high_high=160), "want 160 bar or less"),
        (Limits(), ""),
    ],
)
def test_limits_read_as_what_is_wanted(limits: Limits, words: str) -> None:
    assert wanted_range(Reading(id="r", label="P", unit="bar", limits=limits)) == words


@pytest.mark.parametrize(
    ("question", "answer", "fits"),
    [
        (Tick(id="t"), True, True),
        (Tick(id="t"), False, False),
        (YesNo(id="y", label="Y"), False, True),
        (YesNo(id="y", label="Y"), "no", False),
        (FULL, 1, True),
        (FULL, True, False),
        (FULL, float("nan"), False),
        (FULL, float("inf"), False),
        (FULL, "1.5", False),
        (SEAT, "b", True),
        (SEAT, "c", False),
        (TextEntry(id="x", label="X"), "  ", False),
        (Photo(id="p", label="P"), "id-1", True),
    ],
)
def test_an_answer_must_fit_its_question(question: Question, answer: Answer, fits: bool) -> None:
    assert (answer_problem(question, answer) is None) is fits


def test_a_misfit_is_told_with_what_was_wanted_and_got() -> None:
    assert answer_problem(SEAT, "c") == "“Seat” wants one of Sound, Scored, got 'c'."


def test_answers_are_written_down_as_people_would() -> None:
    pairs: list[tuple[Question, Answer]] = [
        (FULL, 1.5),
        (SEAT, "b"),
        (YesNo(id="y", label=""), False),
        (Tick(id="t"), True),
    ]
    assert [answer_text(p, a) for p, a in pairs] == ["1.5 m", "Scored", "no", "done"]


def test_the_proof_line_names_what_is_asked() -> None:
    questions = (Photo(id="p", label="Lock"), FULL, TextEntry(id="x", label="Permit number"))
    assert question_line(questions) == "photo of lock; level in m, want 1 to 2 m; permit number"


@pytest.mark.parametrize(
    ("milliamps", "place", "severity"),
    [
        (3.5, "below low-low", "Stop"),
        (3.7, "below low", "Act"),
        (3.8, "within", None),
        (12.0, "within", None),
        (20.5, "within", None),
        (20.7, "above high", "Act"),
        (21.1, "above high-high", "Stop"),
    ],
)
def test_the_fault_bands_of_a_current_loop(milliamps: float, place: Place, severity: Severity | None) -> None:
    """NAMUR NE 43, from memory: 3.8 to 20.5 mA measure, up to 3.6 and from 21.0 mA say that it failed."""
    bands = Limits(low_low=3.6, low=3.8, high=20.5, high_high=21.0)
    verdict = judge_reading(Reading(id="ma", label="Loop", unit="mA", limits=bands), milliamps)
    assert (verdict.place, verdict.severity) == (place, severity)
