"""Words of reports that tell one symptom from the others, against counting them one by one."""

from __future__ import annotations

import random
import re
from collections import Counter
from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import binomtest

from reedling.core.guidance.catalogue import Symptom
from reedling.core.refining.changes import AddSynonym, with_synonym
from reedling.core.refining.missing_words import (
    FEWEST_PHRASES,
    FEWEST_REPORTS,
    TELLING_SHARE,
    Reported,
    proposals_of_missing_words,
)
from reedling.core.refining.recurring_notes import TELLING_LETTERS
from reedling.core.statistics.discoveries import FALSE_DISCOVERY_RATE
from reedling.core.statistics.intervals import wilson_interval
from tests.examples import examples

SYMPTOMS = (
    Symptom(code="stalls", label="Stalls", synonyms=("jams half way",)),
    Symptom(code="trips", label="Trips on overload"),
    Symptom(code="frozen", label="Reading frozen"),
)
WORDS = ("judders", "breaker", "reading", "rakes", "jams", "Morning", "weed", "half")


def reports_of(rows: list[tuple[str, list[str]]]) -> list[Reported]:
    return [
        Reported(order=f"WO-{n}", symptom=symptom, text=" ".join(words))
        for n, (symptom, words) in enumerate(rows)
    ]


CODES = st.sampled_from([*(s.code for s in SYMPTOMS), "gone"])
ROWS = st.lists(st.tuples(CODES, st.lists(st.sampled_from(WORDS), min_size=1, max_size=3)), max_size=60)


@settings(max_examples=examples(150))
@given(ROWS)
def test_what_is_told_meets_every_part_of_its_rule(rows: list[tuple[str, list[str]]]) -> None:
    reports = reports_of(rows)
    for proposal in proposals_of_missing_words(SYMPTOMS, reports):
        change = proposal.change
        assert isinstance(change, AddSynonym)
        having = [r for r in reports if change.word in re.findall(r"\w+", r.text.lower())]
        own = [r for r in having if r.symptom == change.symptom]
        assert len(own) == max(Counter(r.symptom for r in having).values()) >= FEWEST_REPORTS
        assert (proposal.n_jobs, proposal.orders) == (len(having), tuple(r.order for r in own))
        assert len({r.text for r in own}) >= FEWEST_PHRASES
        assert wilson_interval(len(own), len(having)).low > TELLING_SHARE
        assert len(change.word) >= TELLING_LETTERS
        assert proposal.p_value <= FALSE_DISCOVERY_RATE
        said = " ".join(" ".join((s.label, *s.synonyms)) for s in SYMPTOMS).lower()
        assert change.word not in said.split()
        new = with_synonym(SYMPTOMS, change)
        assert new is not None
        assert proposal.about not in {p.about for p in proposals_of_missing_words(new, reports)}
        assert with_synonym(new, change) is None


@settings(max_examples=examples(150))
@given(ROWS)
def test_what_meets_the_rule_beyond_doubt_is_told(rows: list[tuple[str, list[str]]]) -> None:
    """Words that would be signals even were each of so many tested by itself: 8 are drawn from."""
    reports = reports_of(rows)
    told = {p.about for p in proposals_of_missing_words(SYMPTOMS, reports)}
    n_of = Counter(r.symptom for r in reports)
    for word, code in product(("judders", "breaker", "rakes", "morning"), n_of):
        having = [r for r in reports if word in re.findall(r"\w+", r.text.lower())]
        own = [r for r in having if r.symptom == code]
        surely = (
            code != "gone"
            and len(own) >= FEWEST_REPORTS
            and len({r.text for r in own}) >= FEWEST_PHRASES
            and wilson_interval(len(own), len(having)).low > TELLING_SHARE
            and binomtest(len(own), len(having), n_of[code] / len(reports), alternative="greater").pvalue
            <= FALSE_DISCOVERY_RATE / 8
        )
        assert not surely or f"{code} {word}" in told


def test_a_word_is_found_and_what_all_symptoms_share_is_not() -> None:
    rows = [("stalls", ["judders", "since", "Tuesday", str(n)]) for n in range(10)]
    rows += [("trips", ["since", "Tuesday", str(n)]) for n in range(10)]
    (found,) = proposals_of_missing_words(SYMPTOMS, reports_of(rows))
    assert found.change == AddSynonym(symptom="stalls", word="judders")
    assert found.sentence.startswith(
        "“judders” stands in reports of “Stalls” and hardly of others: 100 % (72–100) of 10 orders with the word."
    )


@pytest.mark.parametrize("shares", [(1, 1, 1), (8, 1, 1)])
def test_where_words_tell_nothing_hardly_anything_is_told(shares: tuple[int, int, int]) -> None:
    """Words drawn without regard to the symptom, also where nearly all orders are of one: at most 1 in 20 worlds err."""
    n_wrong = 0
    codes = [s.code for s in SYMPTOMS]
    for seed in range(200):
        rng = random.Random(seed)
        words = [f"word{chr(97 + n)}" for n in range(26)]
        rows = [
            (rng.choices(codes, shares)[0], [rng.choice(words), rng.choice(words), str(n)])
            for n in range(300)
        ]
        n_wrong += any(True for _ in proposals_of_missing_words(SYMPTOMS, reports_of(rows)))
    assert n_wrong <= 10
