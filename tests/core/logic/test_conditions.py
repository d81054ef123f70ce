"""Conditions: evaluation in three values, and the sentences they print as."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.logic.conditions import (
    OPERATORS,
    Answer,
    Comparison,
    Condition,
    Conjunction,
    Disjunction,
    Negation,
    Operator,
    QuestionName,
    comparisons,
    evaluate,
    number_text,
    rename_questions,
    sentence,
)

NAMES = {
    "p": QuestionName(label="Pressure", unit="bar"),
    "oil": QuestionName(label="Oil level", options={"low": "Low", "ok": "In the glass"}),
    "found": QuestionName(label="Debris found"),
}


def below(value: float) -> Comparison:
    return Comparison(question="p", operator="below", value=value)


@pytest.mark.parametrize(
    ("operator", "value", "upper", "answer", "expected"),
    [
        ("below", 90.0, None, 89.9, True),
        ("below", 90.0, None, 90.0, False),
        ("at most", 90.0, None, 90.0, True),
        ("above", 90.0, None, 90.0, False),
        ("at least", 90.0, None, 90.0, True),
        ("between", 90.0, 120.0, 90.0, True),
        ("between", 90.0, 120.0, 120.1, False),
        ("is", "low", None, "low", True),
        ("is not", "low", None, "ok", True),
        ("is one of", ("low", "dry"), None, "dry", True),
        ("is one of", ("low", "dry"), None, "ok", False),
        ("includes", "rust", None, ("rust", "weed"), True),
        ("includes", "rust", None, ("weed",), False),
        ("answered", None, None, "anything", True),
    ],
)
def test_each_operator_compares_as_its_word_says(
    operator: Operator,
    value: float | str | tuple[str, ...] | None,
    upper: float | None,
    answer: Answer,
    expected: bool,
) -> None:
    c = Comparison(question="q", operator=operator, value=value, upper=upper)
    assert evaluate(c, {"q": answer}) is expected


@pytest.mark.parametrize("operator", list(OPERATORS))
def test_an_unanswered_question_leaves_every_operator_unknown(operator: Operator) -> None:
    assert evaluate(Comparison(question="q", operator=operator, value=1.0, upper=2.0), {}) is None


@pytest.mark.parametrize("operator", [k for k, row in OPERATORS.items() if row.numeric])
@pytest.mark.parametrize("answer", ["ninety", True, ("a",)])
def test_a_numeric_comparison_with_something_else_is_false_not_a_crash(
    operator: Operator, answer: Answer
) -> None:
    assert evaluate(Comparison(question="q", operator=operator, value=1.0, upper=2.0), {"q": answer}) is False


def test_no_condition_is_always_true() -> None:
    assert evaluate(None, {}) is True


def test_joined_conditions_read_as_a_sentence() -> None:
    both = Conjunction(parts=(below(90), Comparison(question="oil", operator="is not", value="low")))
    assert sentence(both, NAMES) == "pressure is below 90 bar and oil level is not low"


def test_nested_conditions_are_bracketed_where_it_matters() -> None:
    either = Disjunction(
        parts=(
            below(90),
            Conjunction(parts=(below(120), Comparison(question="found", operator="is", value=True))),
        )
    )
    assert (
        sentence(either, NAMES)
        == "pressure is below 90 bar or (pressure is below 120 bar and debris found is yes)"
    )


def test_the_other_forms_have_their_sentences() -> None:
    assert sentence(Negation(part=below(90)), NAMES) == "not (pressure is below 90 bar)"
    assert sentence(None, NAMES) == "always"
    assert (
        sentence(Comparison(question="gone", operator="is", value="x"), NAMES)
        == "a question that is gone is …"
    )
    assert (
        sentence(Comparison(question="p", operator="between", value=90.0, upper=120.5), NAMES)
        == "pressure is between 90 and 120.5 bar"
    )
    assert (
        sentence(Comparison(question="oil", operator="is one of", value=("low", "ok")), NAMES)
        == "oil level is “low” or “in the glass”"
    )
    assert sentence(Comparison(question="found", operator="answered"), NAMES) == "debris found is answered"


def test_a_sentence_starts_small_but_leaves_abbreviations_alone() -> None:
    plc = {"q": QuestionName(label="PLC fault")}
    assert sentence(Comparison(question="q", operator="is", value=False), plc) == "PLC fault is no"


def leaves() -> st.SearchStrategy[Condition]:
    return st.builds(
        Comparison,
        question=st.sampled_from("abc"),
        operator=st.sampled_from(["below", "at least"]),
        value=st.sampled_from([1.0, 2.0, 3.0]),
    )


def trees() -> st.SearchStrategy[Condition]:
    return st.recursive(
        leaves(),
        lambda inner: st.one_of(
            st.builds(Conjunction, parts=st.lists(inner, max_size=3).map(tuple)),
            st.builds(Disjunction, parts=st.lists(inner, max_size=3).map(tuple)),
            st.builds(Negation, part=inner),
        ),
        max_leaves=8,
    )


ANSWERS = st.dictionaries(st.sampled_from("abc"), st.sampled_from([0.5, 1.0, 2.5, 3.0]))


@given(trees(), ANSWERS, ANSWERS)
def test_more_answers_never_overturn_a_settled_condition(
    tree: Condition, known: dict[str, float], more: dict[str, float]
) -> None:
    before = evaluate(tree, known)
    if before is not None:
        assert evaluate(tree, {**more, **known}) is before


@given(trees(), st.dictionaries(st.just("a"), st.just(1.0)).map(lambda _: {"a": 1.0, "b": 2.0, "c": 3.0}))
def test_with_every_answer_known_nothing_is_unknown(tree: Condition, answers: dict[str, float]) -> None:
    assert evaluate(tree, answers) is not None


@given(trees(), ANSWERS)
def test_renaming_questions_changes_no_truth(tree: Condition, answers: dict[str, float]) -> None:
    renamed = rename_questions(tree, lambda q: f"W:{q}")
    assert evaluate(renamed, {f"W:{q}": a for q, a in answers.items()}) is evaluate(tree, answers)
    assert [f"W:{c.question}" for c in comparisons(tree)] == [c.question for c in comparisons(renamed)]


def test_numbers_are_written_without_noise() -> None:
    assert [number_text(x) for x in (0.1 + 0.2, 1e6, -0.5)] == ["0.3", "1000000", "−0.5"]
