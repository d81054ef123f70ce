"""Notes that recur and documents put on by hand: proposed where they are planted, and gone once the guidance says so."""

from __future__ import annotations

import random
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.decision_tables import Cell, Column, DecisionTable, Row
from reedling.core.guidance.plans import Plan, step_by_id
from reedling.core.refining.changes import AddRowForKind, changed, has_row
from reedling.core.refining.missing_rows import ByHand, proposals_of_missing_rows
from reedling.core.refining.proposals import PlanEvidence, Proposal
from reedling.core.refining.recurring_notes import NoteAtStep, proposals_of_notes
from tests.core.refining.test_proposals import PLAN, world

USUAL = (
    "As expected.",
    "Nothing unusual seen.",
    "Wet weather today.",
    "Keeper was present.",
    "Gauge read twice.",
)
PLANTED = ("Cover bolts rusted, drilled one out.", "One bolt sheared: rusted.", "Rusted cover again")


def notes_in(seed: int, evidence: PlanEvidence, planted: float) -> list[NoteAtStep]:
    """Notes of one sort or another at every step, and where it is planted one thing at the valve."""
    rng = random.Random(seed)
    notes = []
    for step, jobs in evidence.steps.items():
        for job in jobs:
            if job.wanted and rng.random() < 0.2:
                notes.append(NoteAtStep(order=job.order, step=step, text=rng.choice(USUAL)))
            if job.wanted and step == "valve" and rng.random() < planted:
                notes.append(NoteAtStep(order=job.order, step=step, text=rng.choice(PLANTED)))
    return notes


def words_told(evidence: PlanEvidence, notes: list[NoteAtStep]) -> list[Proposal]:
    return list(proposals_of_notes(evidence, notes))


@pytest.mark.slow
def test_what_is_noted_again_and_again_at_one_step_is_told_there() -> None:
    held = 0
    for seed in range(40):
        evidence = world(seed, n=200)
        found = [p for p in words_told(evidence, notes_in(seed, evidence, 0.35)) if p.step == "valve"]
        held += any(p.about == "rusted" for p in found)
        for proposal in found:
            draft = changed(PLAN, proposal.change)
            assert isinstance(draft, Plan)
            step = step_by_id(draft, "valve")
            assert step is not None
            assert "Noted on site: “" in step.detail
            again = replace(evidence, plan=draft)
            told = words_told(again, notes_in(seed, evidence, 0.35))
            assert proposal.about not in {p.about for p in told if p.step == "valve"}, "the step says it now"
    assert held >= 38


def test_few_notes_are_nothing_and_every_job_that_shows_it_is_named() -> None:
    evidence = world(3, n=200)
    notes = notes_in(3, evidence, 0.35)
    (found,) = [p for p in words_told(evidence, notes) if p.about == "rusted"]
    wrote = {n.order for n in notes if n.step == "valve" and "usted" in n.text}
    assert set(found.orders) == wrote
    assert f"of {sum(j.wanted for j in evidence.steps['valve'])} jobs" in found.sentence
    few = [n for n in notes if n.order in set(list(wrote)[:5])]
    assert "rusted" not in {p.about for p in words_told(evidence, few)}
    elsewhere = [replace(n, step="run") for n in notes if n.step == "valve"]
    both = [p for p in words_told(evidence, [*notes, *elsewhere]) if p.step == "valve"]
    assert len(both) <= len(words_told(evidence, notes))


@given(st.lists(st.tuples(st.integers(0, 30), st.sampled_from((*PLANTED, *USUAL, "", "of it"))), max_size=60))
def test_no_job_is_counted_twice_for_one_word(held: list[tuple[int, str]]) -> None:
    evidence = world(1, n=31)
    notes = [NoteAtStep(order=f"o{n}", step="read", text=text) for n, text in held]
    for found in words_told(evidence, notes):
        assert len(set(found.orders)) == len(found.orders) <= found.n_jobs
        assert all(any(n.order == o and found.about in n.text.lower() for n in notes) for o in found.orders)


TABLE = DecisionTable(
    title="When",
    columns=(Column(kind="equipment"), Column(kind="symptom")),
    rows=(
        Row(
            id="1",
            cells={"equipment": Cell(values=("rake",)), "symptom": Cell(values=("stalls",))},
            documents=("WP-001",),
        ),
    ),
)


def by_hand(n: int, n_of: int, *, symptom: str = "stalls", equipment: str = "conveyor") -> ByHand:
    return ByHand(
        act="added",
        document="WP-001",
        title="Rake stalls",
        equipment=equipment,
        symptom=symptom,
        orders=tuple(f"WO-{i}" for i in range(n)),
        reasons=("It has the same drive.",),
        n_of=n_of,
    )


def rows_for(table: DecisionTable, *put: ByHand) -> list[Proposal]:
    return list(proposals_of_missing_rows("DT-001", "A", table, put, kind_in_words=lambda e, s: f"{e}, {s}"))


def test_what_is_put_on_by_hand_often_enough_gets_a_row_and_then_no_more() -> None:
    (found,) = rows_for(TABLE, by_hand(4, 7))
    assert "57 % (25–84) of 7 orders for conveyor, stalls: “It has the same drive.”" in found.sentence
    assert "the 3 that went without it" in found.effect
    draft = changed(TABLE, found.change)
    assert isinstance(draft, DecisionTable)
    assert draft.rows[:1] == TABLE.rows
    assert draft.rows[1].documents == ("WP-001",)
    assert changed(draft, found.change) is None
    assert rows_for(draft, by_hand(4, 7)) == []
    assert rows_for(TABLE, by_hand(2, 2)) == [], "two are too few"
    assert rows_for(TABLE, by_hand(3, 60)) == [], "it is rare"
    assert rows_for(TABLE, replace(by_hand(4, 7), act="removed")) == []
    assert rows_for(TABLE, by_hand(9, 9, equipment="rake")) == [], "a row puts it there already"
    (row,) = TABLE.rows
    in_winter = replace(row, cells={**row.cells, "day": Cell(operator="between", values=("11-01", "02-28"))})
    assert rows_for(replace(TABLE, rows=(in_winter,)), by_hand(9, 9, equipment="rake")), "in summer none does"


CELLS = st.one_of(
    st.none(),
    st.builds(
        Cell,
        operator=st.sampled_from(("is", "not")),
        values=st.lists(st.sampled_from(("a", "b", "c")), min_size=1, max_size=2).map(tuple),
    ),
)


@given(
    st.lists(st.tuples(CELLS, CELLS, st.sampled_from(("W1", "W2"))), max_size=4),
    st.sampled_from(("a", "b", "c")),
    st.sampled_from(("a", "b", "c")),
    st.booleans(),
)
def test_a_drafted_row_is_there_afterwards_once_and_nothing_else_changes(
    rows: list[tuple[Cell | None, Cell | None, str]], equipment: str, symptom: str, has_columns: bool
) -> None:
    table = DecisionTable(
        title="t",
        columns=(Column(kind="equipment"), Column(kind="symptom")) if has_columns else (),
        rows=tuple(
            Row(
                id=f"by-hand-{i + 1}",
                cells={k: c for k, c in (("equipment", e), ("symptom", s)) if c is not None},
                documents=(d,),
            )
            for i, (e, s, d) in enumerate(rows)
        ),
    )
    change = AddRowForKind(equipment=equipment, symptom=symptom, document="W1")
    draft = changed(table, change)
    if has_row(table, change):
        assert draft is None
        return
    assert isinstance(draft, DecisionTable)
    assert has_row(draft, change)
    assert draft.rows[:-1] == table.rows
    assert len({row.id for row in draft.rows}) == len(draft.rows)
    assert {c.key for c in draft.columns} == {"equipment", "symptom"}
