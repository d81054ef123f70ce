"""Words that callers use for a symptom and its entry in the list does not have.

References
----------
.. [1] Benjamini, Y. and Hochberg, Y. (1995). Controlling the false discovery rate: a practical and powerful approach to
   multiple testing. Journal of the Royal Statistical Society B 57(1), 289-300: all words are held to it together.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from scipy.special import bdtrc

from reedling.core.guidance.catalogue import Symptom
from reedling.core.guidance.likeness import words_of
from reedling.core.guidance.references import ListName
from reedling.core.refining.changes import AddSynonym
from reedling.core.refining.in_words import share_in_words
from reedling.core.refining.proposals import Proposal
from reedling.core.refining.recurring_notes import MOST_QUOTED, TELLING_LETTERS
from reedling.core.statistics.discoveries import FALSE_DISCOVERY_RATE, false_discovery_adjusted
from reedling.core.statistics.intervals import wilson_interval

SYMPTOMS: ListName = "symptoms"
"""The list that a proposal of a synonym would change, by its name."""
FEWEST_REPORTS = 6
"""Orders whose report has a word before it is told."""
FEWEST_PHRASES = 3
"""And so many reports that differ: a word of one phrase alone tells nothing by itself."""
TELLING_SHARE = 0.6
"""Surely more than this share of the orders with the word are of the symptom."""
MINUTES_OF_WORD = 1.0
"""What looking for a symptom under another word is taken to cost, where proposals are ranked."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Reported:
    """What was reported with an order, and the symptom it was logged under."""

    order: str
    symptom: str
    text: str


def proposals_of_missing_words(
    symptoms: Sequence[Symptom], reports: Iterable[Reported]
) -> Iterator[Proposal]:
    """The words of reports that tell one symptom from all others, and that no symptom has in its label or synonyms.

    Each word is held against the share of the symptom among all reports by a binomial test, all words together to a
    false-discovery rate of :data:`FALSE_DISCOVERY_RATE`.
    """
    known = {word for s in symptoms for text in (s.label, *s.synonyms) for word in words_of(text)}
    labels = {s.code: s.label for s in symptoms}
    with_word: dict[str, list[Reported]] = defaultdict(list)
    n_of = Counter[str]()
    for report in reports:
        n_of[report.symptom] += 1
        for word in set(words_of(report.text)):
            if len(word) >= TELLING_LETTERS and word.isalpha() and word not in known:
                with_word[word].append(report)
    tested: list[tuple[float, Proposal | None]] = []
    for word, those in sorted(with_word.items()):
        if len(those) < FEWEST_REPORTS:
            continue
        own = _of_one_symptom(those)
        symptom = own[0].symptom
        p = float(bdtrc(len(own) - 1, len(those), n_of[symptom] / n_of.total()))
        tested.append((p, _proposal(word, those, own, labels.get(symptom, ""))))
    adjusted = false_discovery_adjusted([p for p, _ in tested])
    for p, (_, proposal) in zip(adjusted, tested, strict=True):
        if proposal is not None and p <= FALSE_DISCOVERY_RATE:
            yield replace(proposal, p_value=p)


def _proposal(word: str, those: Sequence[Reported], own: Sequence[Reported], label: str) -> Proposal | None:
    """That the symptom of ``own`` is given the word; nothing where too few reports have it or it tells too little."""
    share = wilson_interval(len(own), len(those))
    phrases = tuple(dict.fromkeys(report.text.strip() for report in own))
    if not label or len(own) < FEWEST_REPORTS or len(phrases) < FEWEST_PHRASES or share.low <= TELLING_SHARE:
        return None
    quoted = " ".join(f"“{phrase}”" for phrase in phrases[:MOST_QUOTED])
    return Proposal(
        kind="add a synonym",
        document=SYMPTOMS,
        revision="",
        step="",
        part="",
        about=f"{own[0].symptom} {word}",
        sentence=f"“{word}” stands in reports of “{label}” and hardly of others: {share_in_words(share, 'order')} with "
        f"the word. {quoted}",
        effect=f"Whoever logs an order and types “{word}” would be offered “{label}”.",
        rule=f"At least {FEWEST_REPORTS} orders and {FEWEST_PHRASES} different reports have the word, surely more than "
        f"{round(TELLING_SHARE * 100)} % of them are of one symptom, and no symptom has it in its label or synonyms.",
        goes_away="It goes once a symptom has the word, or orders of other symptoms have it too.",
        change=AddSynonym(symptom=own[0].symptom, word=word),
        n_jobs=len(those),
        orders=tuple(report.order for report in own),
        weight=MINUTES_OF_WORD * len(own),
    )


def _of_one_symptom(reports: Sequence[Reported]) -> list[Reported]:
    """Those of the symptom that most of them have; of two that as many have, the first by its code."""
    by_symptom: dict[str, list[Reported]] = defaultdict(list)
    for report in reports:
        by_symptom[report.symptom].append(report)
    return by_symptom[min(by_symptom, key=lambda code: (-len(by_symptom[code]), code))]
