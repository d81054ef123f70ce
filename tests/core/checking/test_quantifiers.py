"""Conditions across repeats: of any, of every, of the same one; said, checked and run alike."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.checking.plan_checks import check_plan
from reedling.core.guidance.plans import Plan, Repeat, Step, names_in
from reedling.core.guidance.questions import (
    AnyOf,
    Computed,
    Limits,
    Option,
    Question,
    Raise,
    Reading,
    Tick,
    YesNo,
    question_name,
)
from reedling.core.guidance.skills import PartNeed
from reedling.core.logic.conditions import (
    Answer,
    Comparison,
    Condition,
    Conjunction,
    Disjunction,
    Negation,
    OfRepeats,
    Repeated,
    evaluate,
    sentence,
    spread_over,
)
from reedling.core.logic.kleene import Truth, conjoin, disjoin, negate
from reedling.core.runsheet.progress import take_up, wanted_parts
from tests.examples import examples
from tests.plans import sheet_of

NAMES = ("North", "South")
PUMPS = Repeat(per="pump", over="named", names=NAMES)
T = Reading(id="t", label="Temperature", unit="°C", lowest=0, highest=200)
V = Reading(id="v", label="Vibration", unit="mm/s", lowest=0, highest=50)


def ask(question: str, operator: str, value: Answer | None, repeats: OfRepeats = "same") -> Comparison:
    return Comparison(question=question, operator=operator, value=value, repeats=repeats)  # type: ignore[arg-type]


HOT, SHAKES = ask("t", "above", 80.0), ask("v", "above", 7.0)


def plan_of(condition: Condition, *own: Question) -> Plan:
    return Plan(
        title="t",
        steps=(
            Step(id="pump", phase="Diagnose", text="Read it", questions=(T, V), repeat=PUMPS),
            Step(
                id="stop",
                phase="Put right",
                text="Stop it",
                condition=condition,
                questions=(Tick(id="k"), *own),
            ),
        ),
    )


def stands(condition: Condition, **answers: Answer) -> Truth:
    given_ = {f"W:{key.replace('_', '@')}": value for key, value in answers.items()}
    return take_up(sheet_of(plan_of(condition)), given_).standing.wanted["W:stop"]


TWO = {"t_North": 90.0, "v_North": 1.0, "t_South": 20.0, "v_South": 9.0}


@pytest.mark.parametrize(
    ("condition", "said", "truth"),
    [
        (
            Conjunction(parts=(HOT, SHAKES)),
            "for the same pump, temperature is above 80 °C and vibration is above 7 mm/s",
            False,
        ),
        (
            Conjunction(parts=(replace(HOT, repeats="any"), replace(SHAKES, repeats="any"))),
            "temperature of any pump is above 80 °C and vibration of any pump is above 7 mm/s",
            True,
        ),
        (HOT, "temperature of any pump is above 80 °C", True),
        (replace(HOT, repeats="every"), "temperature of every pump is above 80 °C", False),
        (Negation(part=HOT), "not (temperature of any pump is above 80 °C)", False),
    ],
)
def test_which_repeats_are_meant_is_said_and_run(condition: Condition, said: str, truth: bool) -> None:
    names = names_in(plan_of(condition))
    assert sentence(condition, names("stop")) == said
    assert stands(condition, **TWO) is truth
    assert "of any" not in sentence(HOT, names("pump"))


def test_against_a_repeated_question_compares_within_the_same_repeat() -> None:
    other = Reading(id="rated", label="Rated", unit="°C")
    plan = Plan(
        title="t",
        steps=(
            Step(id="pump", phase="Diagnose", text="Read it", questions=(T, other), repeat=PUMPS),
            Step(
                id="stop",
                phase="Put right",
                text="Stop it",
                condition=Comparison(question="t", operator="above", against="rated"),
            ),
        ),
    )
    answers: dict[str, Answer] = {"W:t@North": 50.0, "W:rated@North": 60.0, "W:t@South": 40.0}
    sheet = sheet_of(plan)
    assert take_up(sheet, {**answers, "W:rated@South": 45.0}).standing.wanted["W:stop"] is False
    assert take_up(sheet, {**answers, "W:rated@South": 30.0}).standing.wanted["W:stop"] is True


def test_parts_and_findings_outside_a_repeat_ask_of_its_repeats() -> None:
    own = Tick(id="seen", raises=(Raise(when=HOT, severity="Stop", says="Let it cool"),))
    plan = plan_of(HOT, own)
    stop = replace(plan.steps[1], parts=(PartNeed(part="SEAL", quantity=1, condition=HOT),))
    run = take_up(
        sheet_of(replace(plan, steps=(plan.steps[0], stop))),
        {"W:t@North": 90.0, "W:seen": True},
    )
    assert [f.severity for f in run.progress.findings] == ["Stop"]
    assert [p.part for p in wanted_parts(run, run.lines[-1])] == ["SEAL"]


OPERATORS = st.sampled_from(["above", "below", "is", "is not", "answered"])


@st.composite
def conditions(draw: st.DrawFn, depth: int = 3) -> Condition:
    """Any condition over a section of two questions, one question beside it, and all quantifiers."""
    kind = draw(st.integers(0, 3 if depth else 0))
    if kind == 0:
        question = draw(st.sampled_from(["t", "v", "plain"]))
        of = draw(st.sampled_from(["same", "same", "any", "every"]))
        if draw(st.integers(0, 5)) == 0 and question != "plain":
            against = draw(st.sampled_from(["t", "v", "plain"]))
            return Comparison(question=question, operator="above", against=against, repeats=of)  # type: ignore[arg-type]
        return ask(question, draw(OPERATORS), float(draw(st.integers(0, 2))), of)  # type: ignore[arg-type]
    if kind == 1:
        return Negation(part=draw(conditions(depth - 1)))
    parts = tuple(draw(conditions(depth - 1)) for _ in range(draw(st.integers(1, 3))))
    return Conjunction(parts=parts) if kind == 2 else Disjunction(parts=parts)


Path = tuple[int, ...]


def children(condition: Condition) -> tuple[Condition, ...]:
    if isinstance(condition, Comparison):
        return ()
    return (condition.part,) if isinstance(condition, Negation) else condition.parts


def paths(condition: Condition, at: Path = ()) -> Iterator[tuple[Path, Comparison]]:
    if isinstance(condition, Comparison):
        yield at, condition
    for i, child in enumerate(children(condition)):
        yield from paths(child, (*at, i))


def of_section(c: Comparison) -> bool:
    return c.question in ("t", "v") or c.against in ("t", "v")


def read_aloud(condition: Condition, answers: Mapping[str, Answer], names: tuple[str, ...]) -> Truth:
    """The rule as it is written: one repeat for all that say "same", chosen where they come together."""
    same = [at for at, c in paths(condition) if of_section(c) and c.repeats == "same"]
    meeting = tuple(
        steps[0] for steps in itertools.takewhile(lambda s: len(set(s)) == 1, zip(*same, strict=False))
    )

    def one(c: Comparison, name: str) -> Truth:
        def at(q: str | None) -> str | None:
            return f"{q}@{name}" if q in ("t", "v") else q

        return evaluate(replace(c, question=at(c.question) or "", against=at(c.against)), answers)

    def truth(node: Condition, at: Path, chosen: str) -> Truth:
        if same and at == meeting and not chosen:
            return disjoin(truth(node, at, name) for name in names)
        match node:
            case Comparison():
                if not of_section(node):
                    return evaluate(node, answers)
                if node.repeats == "same":
                    return one(node, chosen)
                return (conjoin if node.repeats == "every" else disjoin)(one(node, n) for n in names)
            case Negation():
                return negate(truth(node.part, (*at, 0), chosen))
            case Conjunction():
                return conjoin(truth(p, (*at, i), chosen) for i, p in enumerate(node.parts))
            case Disjunction():
                return disjoin(truth(p, (*at, i), chosen) for i, p in enumerate(node.parts))

    return truth(condition, (), "")


@given(conditions(), st.data(), st.integers(0, 3))
def test_a_condition_across_repeats_means_what_is_written(
    condition: Condition, data: st.DataObject, n: int
) -> None:
    names = ("A", "B", "C")[:n]
    answers: dict[str, Answer] = {}
    for key in (*(f"{q}@{name}" for q in ("t", "v") for name in names), "plain"):
        if data.draw(st.integers(0, 4)):
            answers[key] = float(data.draw(st.integers(0, 2)))
    repeated = {q: Repeated("pump", tuple(f"{q}@{name}" for name in names)) for q in ("t", "v")}
    assert evaluate(spread_over(condition, repeated), answers) is read_aloud(condition, answers, names)


def small_forms(condition: Condition) -> Plan:
    section = Step(
        id="pump",
        phase="Diagnose",
        text="Look at it",
        repeat=Repeat(per="pump", over="named", names=("A", "B")),
        questions=(
            YesNo(id="t", label="Hot"),
            YesNo(id="v", label="Shakes", condition=ask("t", "is", True)),
        ),
    )
    stop = Step(id="stop", phase="Put right", text="Stop", condition=condition)
    return Plan(
        title="t",
        steps=(
            section,
            Step(id="s", phase="Diagnose", text="Say", questions=(YesNo(id="plain", label="P"),)),
            stop,
        ),
    )


@st.composite
def yes_no_conditions(draw: st.DrawFn, depth: int = 2) -> Condition:
    kind = draw(st.integers(0, 3 if depth else 0))
    if kind == 0:
        of = draw(st.sampled_from(["same", "same", "any", "every"]))
        return ask(draw(st.sampled_from(["t", "v", "plain"])), "is", draw(st.booleans()), of)  # type: ignore[arg-type]
    if kind == 1:
        return Negation(part=draw(yes_no_conditions(depth - 1)))
    parts = tuple(draw(yes_no_conditions(depth - 1)) for _ in range(2))
    return Conjunction(parts=parts) if kind == 2 else Disjunction(parts=parts)


@settings(max_examples=examples(60))
@given(yes_no_conditions())
def test_what_the_checker_calls_never_is_never_in_any_run(condition: Condition) -> None:
    """All runs of two pumps are tried; one that is met is never called never."""
    plan = small_forms(condition)
    sheet = sheet_of(plan)
    ever = False
    for values in itertools.product((True, False), repeat=5):
        keys = ("W:t@A", "W:t@B", "W:v@A", "W:v@B", "W:plain")
        run = take_up(sheet, dict(zip(keys, values, strict=True)))
        ever = ever or run.standing.wanted["W:stop"] is True
    told = [d for d in check_plan(plan) if d.problem.code == "reach.never"]
    assert not (told and ever)
    if not ever and not _negated(condition):
        assert told


def _negated(condition: Condition) -> bool:
    """Whether something is asked to be false of all, or true of every one: there the checker may be silent."""
    return (
        any(c.repeats == "every" for _, c in paths(condition))
        or isinstance(condition, Negation)
        or any(_negated(child) for child in children(condition))
    )


A = Reading(id="a", label="A", unit="", lowest=0, highest=100)
B = Reading(id="b", label="B", unit="", lowest=0, highest=100)


@pytest.mark.parametrize(
    ("formula", "shown_when", "verdict"),
    [
        (
            "a * b",
            Disjunction(parts=(ask("p", "at most", 40.0), ask("p", "at least", 60.0))),
            "ends.no_prove",
        ),
        ("a * b", ask("p", "at least", 0.0), None),
        ("a * b + 1", ask("p", "above", 0.0), None),
        ("a / (b + 1)", ask("p", "at most", 100.0), None),
        ("a / (b + 1)", ask("p", "at most", 99.0), "ends.no_prove"),
        ("sqrt(a)", ask("p", "at most", 10.0), None),
        ("sqrt(a)", ask("p", "at most", 9.0), "ends.no_prove"),
        ("a ** 2 - b ** 2", ask("p", "above", -9999.0), "ends.no_prove"),
    ],
)
def test_a_way_round_the_proof_is_found_through_products_and_roots(
    formula: str, shown_when: Condition, verdict: str | None
) -> None:
    """By hand: the product of 0 and 0 is 0; the quotient is largest at 100 / 1; 10 is the root of 100."""
    value = Computed(id="p", label="P", formula=formula)
    plan = Plan(
        title="t",
        steps=(
            Step(id="read", phase="Diagnose", text="Read", questions=(A, B, value)),
            Step(id="prove", phase="Prove", text="Run it", questions=(Tick(id="k"),), condition=shown_when),
        ),
    )
    told = [d for d in check_plan(plan) if d.problem.code.startswith("ends.")]
    assert [d.problem.code for d in told] == ([verdict] if verdict else [])
    if told:
        assert told[0].witness is not None


def test_a_way_round_the_proof_is_found_through_repeats_that_differ() -> None:
    """Only a run in which one pump is hot and another shakes leaves the proof out."""
    hidden_by = Conjunction(parts=(replace(HOT, repeats="any"), replace(SHAKES, repeats="any")))
    plan = plan_of(HOT)
    prove = Step(
        id="prove", phase="Prove", text="Run", condition=Negation(part=hidden_by), questions=(Tick(id="p"),)
    )
    told = check_plan(replace(plan, steps=(plan.steps[0], prove)))
    assert "ends.no_prove" in [d.problem.code for d in told]


def test_limits_of_computed_values_are_held_against_what_can_come_out() -> None:
    value = Computed(id="p", label="P", formula="a - b", limits=Limits(low=-100, high=90))
    plan = Plan(title="t", steps=(Step(id="s", phase="Diagnose", text="Read", questions=(A, B, value)),))
    told = [d.problem for d in check_plan(plan) if d.problem.code == "limits.dead"]
    assert [p.path.rpartition("/")[2] for p in told] == ["low"]
    assert "it is worked out to −100" in told[0].message


def test_what_hangs_under_a_step_called_never_is_not_told_again() -> None:
    dead = Conjunction(parts=(ask("a", "above", 50.0), ask("a", "below", 10.0)))
    raising = Tick(id="k", raises=(Raise(when=ask("k", "is", True), severity="Act"),))
    plan = Plan(
        title="t",
        steps=(
            Step(id="s", phase="Diagnose", text="Read", questions=(A,)),
            Step(id="d", phase="Diagnose", text="Dead", condition=dead, questions=(raising,)),
        ),
    )
    assert [d.problem.code for d in check_plan(plan)] == ["reach.never"]


MANY = AnyOf(id="m", label="Marks", options=tuple(Option(id=o, label=f"Mark {o}") for o in "abc"))


@given(
    st.permutations("abc"),
    st.integers(0, 3),
    st.sampled_from(["is", "is not", "is exactly", "includes any", "includes all"]),
    st.sets(st.sampled_from("abc"), min_size=1),
)
def test_several_options_are_a_set_in_whatever_order_they_were_ticked(
    order: list[str], n: int, operator: str, wanted: set[str]
) -> None:
    ticked = tuple(order[:n])
    found = evaluate(ask("m", operator, tuple(sorted(wanted))), {"m": ticked})
    assert (
        found
        is {
            "is": set(ticked) == wanted,
            "is not": set(ticked) != wanted,
            "is exactly": set(ticked) == wanted,
            "includes any": bool(wanted & set(ticked)),
            "includes all": wanted <= set(ticked),
        }[operator]
    )


def test_the_sentence_says_which_way_several_options_are_meant() -> None:
    names = {"m": question_name(MANY)}
    said = {
        "is": "marks is exactly “mark a” and “mark b”",
        "is not": "marks is not exactly “mark a” and “mark b”",
        "is exactly": "marks is exactly “mark a” and “mark b”",
        "includes any": "marks includes any of “mark a” or “mark b”",
        "includes all": "marks includes all of “mark a” and “mark b”",
    }
    for operator, words in said.items():
        assert sentence(ask("m", operator, ("a", "b")), names) == words
