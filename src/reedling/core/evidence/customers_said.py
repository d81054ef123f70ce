"""What customers said of jobs: their ratings, and the tone of their comments by a published lexicon.

References
----------
.. [1] Hutto, C. J. and Gilbert, E. (2014). VADER: A parsimonious rule-based model for sentiment analysis of social
   media text. Eighth International AAAI Conference on Weblogs and Social Media. The lexicon and its rules are those of
   the package of that name; a compound score of at least 0.05 counts as good, of at most -0.05 as poor, as its
   authors propose.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Literal

from vaderSentiment.vaderSentiment import SentimentIntensityAnalyzer

from reedling.core.statistics.intervals import Share, wilson_interval

Tone = Literal["poor", "even", "good"]
TONE_FROM = 0.05
"""A score further from 0 than this is a tone."""
MOST_COMMENTS = 30
RATINGS = (1, 2, 3, 4, 5)


@dataclass(frozen=True, slots=True, kw_only=True)
class CustomerWords:
    """What a customer said of a job: a rating from 1 to 5, a comment, or both."""

    order: str
    at: datetime
    rating: int | None
    comment: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CommentInTone:
    """A comment with its tone; ``score`` from -1 (poor) to 1 (good)."""

    words: CustomerWords
    tone: Tone
    score: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CustomersSaid:
    """What the customers of some jobs said.

    ``by_rating`` counts ratings from 1 to 5, ``poor`` and ``good`` are shares of all comments. ``comments`` are the
    poorest first, of those alike the latest, at most :data:`MOST_COMMENTS` of ``n_comments``.
    """

    n_jobs: int
    by_rating: tuple[int, ...]
    mean_rating: float | None
    n_comments: int
    poor: Share
    good: Share
    comments: tuple[CommentInTone, ...]


def customers_said(n_jobs: int, words: Iterable[CustomerWords]) -> CustomersSaid:
    """Add up what was said of so many jobs, the last words of each."""
    held = list(words)
    ratings = Counter(one.rating for one in held if one.rating is not None)
    comments = sorted(
        (_in_tone(one) for one in held if one.comment.strip()),
        key=lambda one: (one.score, -one.words.at.timestamp(), one.words.order),
    )
    n_of = Counter(one.tone for one in comments)
    return CustomersSaid(
        n_jobs=n_jobs,
        by_rating=tuple(ratings[rating] for rating in RATINGS),
        mean_rating=sum(r * n for r, n in ratings.items()) / ratings.total() if ratings else None,
        n_comments=len(comments),
        poor=wilson_interval(n_of["poor"], len(comments)),
        good=wilson_interval(n_of["good"], len(comments)),
        comments=tuple(comments[:MOST_COMMENTS]),
    )


def _in_tone(words: CustomerWords) -> CommentInTone:
    score = tone_score(words.comment)
    return CommentInTone(words=words, tone=tone_of(score), score=score)


def tone_of(score: float) -> Tone:
    """The tone of a score from -1 to 1, as [1]_ divides them."""
    return "good" if score >= TONE_FROM else "poor" if score <= -TONE_FROM else "even"


@lru_cache(maxsize=10_000)
def tone_score(text: str) -> float:
    """The tone of a text, from -1 (poor) to 1 (good), 0 where no word of it is in the lexicon; the compound score of [1]_.

    >>> tone_score("Quick, clean, and very helpful.") > 0.4
    True
    """
    return float(_lexicon().polarity_scores(text)["compound"])


@lru_cache(maxsize=1)
def _lexicon() -> SentimentIntensityAnalyzer:
    return SentimentIntensityAnalyzer()
