"""Ratings and the tone of comments, against the lexicon's own published examples and counting by hand."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.evidence.customers_said import (
    MOST_COMMENTS,
    TONE_FROM,
    CustomerWords,
    customers_said,
    tone_score,
)
from reedling.core.statistics.intervals import wilson_interval

# Sentences of the package's own demonstration (vaderSentiment 3.3.2), with the compound scores its authors give; from memory.
PUBLISHED = [
    ("VADER is smart, handsome, and funny.", 0.8316),
    ("VADER is smart, handsome, and funny!", 0.8439),
    ("VADER is very smart, handsome, and funny.", 0.8545),
    ("VADER is VERY SMART, handsome, and FUNNY.", 0.9227),
    ("VADER is not smart, handsome, nor funny.", -0.7424),
    ("The book was good.", 0.4404),
    ("At least it isn't a horrible book.", 0.431),
    ("The plot was good, but the characters are uncompelling and the dialog is not great.", -0.7042),
    ("Today SUX!", -0.5461),
]


@pytest.mark.parametrize(("text", "score"), PUBLISHED)
def test_the_published_examples_come_out(text: str, score: float) -> None:
    assert tone_score(text) == pytest.approx(score, abs=1e-4)


T0 = datetime(2026, 3, 2, 8, tzinfo=UTC)
COMMENTS = ("", "  ", "Very helpful, thank you.", "Terrible mess left behind.", "Came at nine.")
WORDS = st.lists(
    st.tuples(st.none() | st.integers(1, 5), st.sampled_from(COMMENTS), st.integers(0, 400)), max_size=50
)


def said(rows: Sequence[tuple[int | None, str, int]]) -> list[CustomerWords]:
    return [
        CustomerWords(order=f"WO-{n:03}", at=T0 + timedelta(days=day), rating=rating, comment=comment)
        for n, (rating, comment, day) in enumerate(rows)
    ]


@given(WORDS)
def test_what_was_said_is_counted_and_the_poorest_come_first(rows: list[tuple[int | None, str, int]]) -> None:
    words = said(rows)
    found = customers_said(len(words) + 3, words)
    rated = [one.rating for one in words if one.rating is not None]
    assert found.by_rating == tuple(rated.count(n) for n in (1, 2, 3, 4, 5))
    assert found.mean_rating == (pytest.approx(sum(rated) / len(rated)) if rated else None)
    commented = [one for one in words if one.comment.strip()]
    poor = [one for one in commented if tone_score(one.comment) <= -TONE_FROM]
    good = [one for one in commented if tone_score(one.comment) >= TONE_FROM]
    assert found.n_comments == len(commented)
    assert found.poor == wilson_interval(len(poor), len(commented))
    assert found.good == wilson_interval(len(good), len(commented))
    assert len(found.comments) == min(len(commented), MOST_COMMENTS)
    for one, other in zip(found.comments, found.comments[1:], strict=False):
        assert (one.score, other.words.at) <= (other.score, one.words.at) or one.score < other.score
    assert {one.tone for one in found.comments if one.words in poor} <= {"poor"}
