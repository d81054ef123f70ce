"""Kleene's strong three-valued logic against its published truth tables.

Source: S. C. Kleene, Introduction to Metamathematics (1952), section 64. The tables are written
from memory; the last test checks them against the other definition of the same logic, minimum and
maximum over false < unknown < true.
"""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.logic.kleene import Truth, conjoin, disjoin, negate

T, F, U = True, False, None
RANK: dict[Truth, int] = {F: 0, U: 1, T: 2}
TRUTH: dict[int, Truth] = {0: F, 1: U, 2: T}

AND = {(T, T): T, (T, U): U, (T, F): F, (U, T): U, (U, U): U, (U, F): F, (F, T): F, (F, U): F, (F, F): F}
OR = {(T, T): T, (T, U): T, (T, F): T, (U, T): T, (U, U): U, (U, F): U, (F, T): T, (F, U): U, (F, F): F}
NOT = {T: F, U: U, F: T}


@pytest.mark.parametrize(("pair", "expected"), AND.items())
def test_and_follows_the_table(pair: tuple[Truth, Truth], expected: Truth) -> None:
    assert conjoin(pair) is expected


@pytest.mark.parametrize(("pair", "expected"), OR.items())
def test_or_follows_the_table(pair: tuple[Truth, Truth], expected: Truth) -> None:
    assert disjoin(pair) is expected


@pytest.mark.parametrize(("truth", "expected"), NOT.items())
def test_not_follows_the_table(truth: Truth, expected: Truth) -> None:
    assert negate(truth) is expected


@given(st.lists(st.sampled_from([T, F, U]), min_size=1, max_size=6))
def test_and_is_the_minimum_and_or_the_maximum(truths: list[Truth]) -> None:
    assert conjoin(truths) is TRUTH[min(RANK[t] for t in truths)]
    assert disjoin(truths) is TRUTH[max(RANK[t] for t in truths)]


@given(st.lists(st.sampled_from([T, F, U]), max_size=6))
def test_de_morgan_holds(truths: list[Truth]) -> None:
    assert negate(conjoin(truths)) is disjoin(negate(t) for t in truths)


def test_learning_more_never_changes_what_was_settled() -> None:
    """Monotone in information: replacing an unknown leaves a known result as it was."""
    for pair in itertools.product([T, F, U], repeat=2):
        for filled in itertools.product(*([t] if t is not None else [T, F] for t in pair)):
            for join in (conjoin, disjoin):
                if join(pair) is not None:
                    assert join(filled) is join(pair)
