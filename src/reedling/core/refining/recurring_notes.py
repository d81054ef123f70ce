"""What technicians write down at one step again and again: something its plan might say."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from reedling.core.guidance.likeness import words_of
from reedling.core.guidance.plans import Step
from reedling.core.refining.changes import AddToDetail
from reedling.core.refining.in_words import share_in_words
from reedling.core.refining.proposals import PlanEvidence, Proposal
from reedling.core.statistics.intervals import wilson_interval

FEWEST_NOTED = 6
"""Jobs whose notes share a word before it is told."""
NOTED_SHARE = 0.03
"""And surely more than this share of the jobs that did the step."""
TELLING_LETTERS = 5
"""Shorter words say too little."""
MOST_QUOTED = 3
MINUTES_OF_NOTE = 2.0
"""What writing a note is taken to cost, where proposals are ranked."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NoteAtStep:
    """A note that a technician wrote at a step of a plan."""

    order: str
    step: str
    text: str


def proposals_of_notes(evidence: PlanEvidence, notes: Sequence[NoteAtStep]) -> Iterator[Proposal]:
    """What notes at each step share: the word that most of them have, then the next among those without it.

    A word that the step says already is passed over, and one that stands in notes at the other steps as often.
    """
    by_step: dict[str, list[NoteAtStep]] = defaultdict(list)
    for note in notes:
        by_step[note.step].append(note)
    for step in evidence.plan.steps:
        wanted = {job.order for job in evidence.steps.get(step.id, ()) if job.wanted}
        own = [note for note in by_step[step.id] if note.order in wanted]
        others = [note for of, held in by_step.items() if of != step.id for note in held]
        yield from _of_step(evidence, step, own, others, len(wanted))


def _of_step(
    evidence: PlanEvidence,
    step: Step,
    own: Sequence[NoteAtStep],
    others: Sequence[NoteAtStep],
    n_jobs: int,
) -> Iterator[Proposal]:
    said = set(words_of(f"{step.text} {step.detail}"))
    left = list(own)
    while word := _commonest(left, others, said):
        those = [note for note in left if word in words_of(note.text)]
        left = [note for note in left if note not in those]
        said.add(word)
        orders = tuple(dict.fromkeys(note.order for note in those))
        share = wilson_interval(len(orders), n_jobs)
        if len(orders) < FEWEST_NOTED or share.low <= NOTED_SHARE:
            continue
        quoted = tuple(dict.fromkeys(note.text.strip() for note in those))[:MOST_QUOTED]
        shown = " ".join(f"“{text}”" for text in quoted)
        yield Proposal(
            kind="take up a note",
            document=evidence.document,
            revision=evidence.revision,
            step=step.id,
            part="",
            about=word,
            sentence=f"“{word}” stands in notes at “{step.text}” of {share_in_words(share)}: {shown}",
            effect="The step would say so beforehand, and crews would come prepared.",
            rule=f"Notes of at least {FEWEST_NOTED} jobs, and surely of more than {round(NOTED_SHARE * 100)} % of those that did "
            "the step, share a word that notes at the other steps have more rarely.",
            goes_away="It goes once the step says the word, or fewer jobs note it.",
            change=AddToDetail(step=step.id, text=f"Noted on site: {shown} Say here what to do about it."),
            n_jobs=n_jobs,
            orders=orders,
            weight=MINUTES_OF_NOTE * len(orders),
        )


def _commonest(own: Sequence[NoteAtStep], others: Sequence[NoteAtStep], said: set[str]) -> str:
    """The word that notes of most jobs have, if it is commoner here than elsewhere; empty for none."""
    here, elsewhere = _orders_by_word(own), _orders_by_word(others)
    n_here = max(1, len({note.order for note in own}))
    n_elsewhere = max(1, len({note.order for note in others}))
    able = [
        word
        for word, orders in here.items()
        if len(orders) >= FEWEST_NOTED
        and word not in said
        and len(orders) / n_here > len(elsewhere.get(word, ())) / n_elsewhere
    ]
    return max(able, key=lambda word: (len(here[word]), len(word), word), default="")


def _orders_by_word(notes: Sequence[NoteAtStep]) -> dict[str, set[str]]:
    out: dict[str, set[str]] = defaultdict(set)
    for note in notes:
        for word in words_of(note.text):
            if len(word) >= TELLING_LETTERS:
                out[word].add(note.order)
    return out
