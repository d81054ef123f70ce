"""What is asked and known on a sheet: in one pass, and again where one answer is taken away."""

from __future__ import annotations

import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.questions import (
    Computed,
    Instruction,
    Limits,
    MeterReading,
    Question,
    Raise,
    Reading,
    Scan,
    TextEntry,
    Tick,
    YesNo,
)
from reedling.core.logic.conditions import Answer, Comparison, Condition, Conjunction, Disjunction, Negation
from reedling.core.logic.units import Quantity
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Source
from reedling.core.runsheet.progress import offered_answers, take_up, write_backs
from reedling.core.runsheet.standing import Entered, rules_of, settle, settle_again, without
from tests.examples import examples
from tests.plans import sheet_of
from tests.runs import consequence_of, follow


def low(question: str = "bar", value: float = 90.0) -> Comparison:
    return Comparison(question=question, operator="below", value=value)


def one_step(*questions: Question, **fields: object) -> Plan:
    return Plan(
        title="t",
        steps=(Step(id="s", phase="Diagnose", text="Look", questions=questions, **fields),),  # type: ignore[arg-type]
    )


BAR = Reading(id="bar", label="Pressure", unit="bar", units=("psi", "kPa"), limits=Limits(low=90))


def missing(plan: Plan, answers: dict[str, Answer], **more: object) -> tuple[str, ...]:
    return follow(sheet_of(plan), answers, **more).lines[0].missing  # type: ignore[arg-type]


def test_a_hidden_question_is_not_missing_and_its_answer_does_not_count() -> None:
    why = TextEntry(id="why", label="Why", condition=low())
    deep = Tick(id="deep", label="Deep", condition=Comparison(question="why", operator="answered"))
    plan = one_step(BAR, why, deep)
    assert missing(plan, {}) == ("W:bar",)
    assert missing(plan, {"W:bar": 84.0}) == ("W:why",)
    assert missing(plan, {"W:bar": 84.0, "W:why": "leak"}) == ("W:deep",)
    assert missing(plan, {"W:bar": 100.0, "W:why": "leak"}) == ()


def test_a_question_is_required_always_never_or_under_a_condition() -> None:
    plan = one_step(
        BAR,
        TextEntry(id="note", label="Note", required="never"),
        TextEntry(id="sign", label="Who", required="when", required_when=low()),
    )
    assert missing(plan, {}) == ("W:bar",)
    assert missing(plan, {"W:bar": 84.0}) == ("W:sign",)
    assert missing(plan, {"W:bar": 95.0}) == ()


def test_what_nobody_has_to_answer_settles_when_its_step_is_done() -> None:
    note = TextEntry(id="note", label="Note", required="never")
    plan = Plan(
        title="t",
        steps=(
            Step(id="s", phase="Diagnose", text="Look", questions=(note,)),
            Step(
                id="read",
                phase="Diagnose",
                text="Read the note",
                condition=Comparison(question="note", operator="answered"),
            ),
        ),
    )
    sheet = sheet_of(plan)
    assert follow(sheet, {}).lines[1].state == "open question"
    assert follow(sheet, {}, done=["W:s"]).lines[1].state == "hidden"


def test_a_reading_counts_in_its_own_unit_whatever_it_was_entered_in() -> None:
    """1,200 psi are 82.7 bar (NIST SP 811: 1 psi = 6.894757 kPa), which is below 90 bar."""
    plan = one_step(BAR, TextEntry(id="why", label="Why", condition=low()))
    entered: dict[str, Answer] = {"W:bar": Quantity(value=1200.0, unit="psi")}
    assert missing(plan, entered) == ("W:why",)
    found = consequence_of(sheet_of(plan), entered, "W:bar")
    assert found is not None
    assert found.sentence.startswith("82.7371")
    assert found.severity == "Act"


def test_a_meter_below_the_last_reading_stands_only_with_a_reason() -> None:
    plan = one_step(MeterReading(id="h", label="Hours run", meter="hours"))
    sheet = compile_runsheet(
        [(Source(document="W", revision="A", title="t"), plan)], facts={"meter.hours": 130.0}
    )
    run = take_up(sheet, {"W:h": 112.0})
    assert follow(sheet, {"W:h": 112.0}).lines[0].missing == ("W:h",)
    found = consequence_of(sheet, {"W:h": 112.0}, "W:h")
    assert found is not None
    assert (found.asks_reason, found.sentence) == (True, "112 h is below the last reading, 130 h. Say why.")
    assert follow(sheet, {"W:h": 112.0}, reasons={"W:h": "Meter replaced"}).lines[0].missing == ()
    assert follow(sheet, {"W:h": 131.0}).lines[0].missing == ()
    assert [(b.field, b.before, b.after) for b in write_backs(run)] == [("meter.hours", 130.0, 112.0)]


def test_an_answer_raises_findings_with_owner_and_days() -> None:
    dry = YesNo(
        id="dry",
        label="Seal dry",
        raises=(
            Raise(
                when=Comparison(question="dry", operator="is", value=False),
                severity="Watch",
                says="water in the chamber",
                owner="keeper",
                due_days=21,
            ),
        ),
    )
    sheet = sheet_of(one_step(dry))
    assert follow(sheet, {"W:dry": True}).findings == ()
    (found,) = follow(sheet, {"W:dry": False}).findings
    assert (found.severity, found.owner, found.due_days) == ("Watch", "keeper", 21)
    assert found.sentence == "Seal dry: water in the chamber."


def test_a_computed_value_follows_readings_that_come_later() -> None:
    """The sum stands first on the sheet and is worked out all the same once both are there."""
    plan = one_step(
        Computed(id="sum", label="Sum", formula="a + b", unit="A"),
        Reading(id="a", label="A", unit="A"),
        Reading(id="b", label="B", unit="mA"),
    )
    sheet = sheet_of(plan)
    assert follow(sheet, {"W:a": 1.0}).computed == {}
    assert follow(sheet, {"W:a": 1.0, "W:b": 500.0}).computed == {"W:sum": 1.5}


def test_values_that_need_each_other_stay_unknown_and_nothing_hangs() -> None:
    plan = one_step(
        Computed(id="a", label="A", formula="b + 1", unit=""),
        Computed(id="b", label="B", formula="a + 1", unit=""),
    )
    assert follow(sheet_of(plan), {}).computed == {}
    assert missing(plan, {}) == ()


def test_an_instruction_asks_for_nothing() -> None:
    assert missing(one_step(Instruction(id="i", label="Mind the step")), {}) == ()


def test_facts_decide_before_anybody_sets_off() -> None:
    plan = one_step(
        Tick(
            id="t", label="New pack", condition=Comparison(question="asset.model", operator="is", value="PP2")
        )
    )
    source = Source(document="W", revision="A", title="t")
    for facts, asked in (({"asset.model": "PP2"}, ("W:t",)), ({"asset.model": "PP1"}, ()), ({}, ())):
        sheet = compile_runsheet([(source, plan)], facts=facts)
        assert follow(sheet, {}).lines[0].asked == asked


def test_what_is_known_is_offered_and_never_taken_for_an_answer() -> None:
    rated = Reading(id="rated", label="Rated", unit="A", prefill="asset.rated", write_back="asset.rated")
    last = Reading(id="gap", label="Gap", unit="mm", prefill="last", highest=5)
    plate = Scan(id="plate", label="Plate")
    source = Source(document="W", revision="A", title="t")
    sheet = compile_runsheet(
        [(source, one_step(rated, last, plate))],
        facts={"asset.rated": 31.5, "asset.serial": "P1"},
        last={"W:gap": 9.0, "W:gone": 1.0},
    )
    run = take_up(sheet, {})
    assert offered_answers(run) == {"W:rated": 31.5}  # the last gap no longer fits, so it is not offered
    assert follow(sheet, {}).lines[0].missing == ("W:rated", "W:gap", "W:plate")
    assert write_backs(take_up(sheet, {"W:rated": 31.5})) == ()
    (back,) = write_backs(take_up(sheet, {"W:rated": 33.0}))
    assert (back.field, back.before, back.after) == ("asset.rated", 31.5, 33.0)


QUESTIONS = tuple(f"q{i}" for i in range(8))


@st.composite
def conditions(draw: st.DrawFn, known: int, depth: int = 2) -> Condition | None:
    if known == 0:
        return None
    kind = draw(st.sampled_from(["none", "is", "answered", "all", "any", "not"] if depth else ["is"]))
    if kind == "none":
        return None
    if kind in ("is", "answered"):
        question = draw(st.sampled_from(QUESTIONS[:known]))
        value = draw(st.booleans()) if kind == "is" else None
        return Comparison(question=question, operator=kind, value=value)  # type: ignore[arg-type]
    if kind == "not":
        part = draw(conditions(known, depth - 1))
        return Negation(part=part) if part else None
    parts = tuple(p for _ in range(2) if (p := draw(conditions(known, depth - 1))) is not None)
    return (Conjunction if kind == "all" else Disjunction)(parts=parts)


@st.composite
def plans(draw: st.DrawFn) -> Plan:
    steps: list[Step] = []
    for i in range(0, len(QUESTIONS), 2):
        under = draw(st.sampled_from([None, *(s.id for s in steps)]))
        questions = tuple(
            YesNo(
                id=QUESTIONS[j],
                label=QUESTIONS[j],
                condition=draw(conditions(j)),
                required=draw(st.sampled_from(["always", "never"])),
            )
            for j in (i, i + 1)
        )
        steps.append(
            Step(
                id=f"s{i}",
                phase="Diagnose",
                text="x",
                under=under,
                condition=draw(conditions(i)),
                questions=questions,
            )
        )
    return Plan(title="t", steps=tuple(steps))


@settings(max_examples=examples(150), deadline=None)
@given(plans(), st.integers(0, 2**16))
def test_taking_an_answer_away_settles_as_if_it_had_never_been_given(plan: Plan, seed: int) -> None:
    """The quick way over dependents equals the slow way over the whole sheet."""
    rng = random.Random(seed)
    sheet = sheet_of(plan)
    answers: dict[str, Answer] = {f"W:{q}": rng.random() < 0.5 for q in QUESTIONS if rng.random() < 0.7}
    rules = rules_of(sheet, answers)
    standing = settle(rules, Entered(answers))
    for question in answers:
        fewer = settle(rules, Entered({q: a for q, a in answers.items() if q != question}))
        slow = {k: v for k, v in fewer.wanted.items() if v is not standing.wanted[k]}
        assert without(rules, Entered(answers), standing, question) == slow


@settings(max_examples=examples(150), deadline=None)
@given(plans(), st.integers(0, 2**16))
def test_what_is_settled_from_before_is_as_settled_anew(plan: Plan, seed: int) -> None:
    """Answers come, change and go, lines are done and left out and neither any more, in any order."""
    rng = random.Random(seed)
    sheet = sheet_of(plan)
    rules, lines = rules_of(sheet, {}), [line.id for line in sheet.lines]
    entered = Entered({})
    standing = settle(rules, entered)
    for _ in range(25):
        answers, done, skipped = dict(entered.answers), {*entered.done}, {*entered.skipped}
        for _ in range(rng.randint(1, 3)):
            question = f"W:{rng.choice(QUESTIONS)}"
            match rng.randrange(4):
                case 0:
                    answers.pop(question, None)
                case 1:
                    answers[question] = rng.random() < 0.5
                case 2:
                    done ^= {rng.choice(lines)}
                case _:
                    skipped ^= {rng.choice(lines)}
        before, entered = entered, Entered(answers, tuple(done), tuple(skipped))
        standing = settle_again(rules, entered, standing, before)
        assert standing == settle(rules, entered)


@settings(max_examples=examples(100), deadline=None)
@given(plans(), st.integers(0, 2**16))
def test_what_is_shown_is_true_and_what_is_hidden_does_not_count(plan: Plan, seed: int) -> None:
    rng = random.Random(seed)
    answers: dict[str, Answer] = {f"W:{q}": rng.random() < 0.5 for q in QUESTIONS if rng.random() < 0.7}
    sheet = sheet_of(plan)
    standing = settle(rules_of(sheet, answers), Entered(answers))
    for line in sheet.lines:
        for q in line.questions:
            if standing.wanted[q.id] is True:
                assert standing.wanted[line.id] is True
                assert standing.known[q.id] == answers.get(q.id)
            else:
                assert standing.known[q.id] is None


@pytest.mark.parametrize("n", [1, 7])
def test_the_rules_of_a_sheet_are_kept_while_its_names_are_the_same(n: int) -> None:
    sheet = sheet_of(one_step(BAR))
    assert rules_of(sheet, {"W:bar": float(n)}) is rules_of(sheet, {})
