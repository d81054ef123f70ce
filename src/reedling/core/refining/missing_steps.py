"""What technicians do again and again though no step asks for it: proposed as a step, with their own words."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from reedling.core.guidance.likeness import words_of
from reedling.core.guidance.phases import Phase
from reedling.core.guidance.plans import Plan
from reedling.core.logic.conditions import number_text
from reedling.core.refining.changes import AddWholeStep
from reedling.core.refining.proposals import Proposal
from reedling.core.statistics.intervals import wilson_interval
from reedling.core.statistics.resampling import median_interval

FEWEST_ADDED = 5
"""Jobs in which the same was done before it is proposed."""
ADDED_SHARE = 0.02
"""And surely in more than this share of the jobs."""
ALIKE = 0.6
"""Two texts tell the same where they share so much of their words (Jaccard's coefficient)."""
FEWEST_LETTERS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class DoneBeside:
    """Something that one job did and no step asked for, with its minutes."""

    order: str
    phase: Phase
    text: str
    minutes: float


def proposals_of_missing_steps(
    document: str, revision: str, plan: Plan, n_jobs: int, added: Sequence[DoneBeside]
) -> tuple[Proposal, ...]:
    """What the jobs of a plan did beside it often enough to make it a step.

    Texts are taken together where they share most of their words; what a step of the plan says already is left out.
    """
    found = []
    said = [_words(step.text) for step in plan.steps]
    for group in groups_of(added):
        orders = tuple(dict.fromkeys(one.order for one in group))
        share = wilson_interval(len(orders), n_jobs)
        text = Counter(one.text.strip() for one in group).most_common(1)[0][0]
        if len(orders) < FEWEST_ADDED or share.low <= ADDED_SHARE:
            continue
        if any(_alike(_words(text), words) for words in said):
            continue
        taken = median_interval([one.minutes for one in group])
        assert taken is not None
        phase = Counter(one.phase for one in group).most_common(1)[0][0]
        ranked = sorted(one.minutes for one in group)
        low, high = ranked[len(ranked) // 10], ranked[-1 - len(ranked) // 10]
        quoted = list(dict.fromkeys(f"“{one.text.strip()}”" for one in group))[:3]
        found.append(
            Proposal(
                kind="add a step",
                document=document,
                revision=revision,
                step="-".join(sorted(_words(text)))[:60],
                part="",
                sentence=f"Done beside the steps in {len(orders)} of {n_jobs} jobs "
                f"({round(share.low * 100)}–{round(share.high * 100)} %): {', '.join(quoted)}.",
                effect=f"The plan would say so, and plan its {number_text(taken.value)} min "
                f"({number_text(taken.low)}–{number_text(taken.high)}).",
                rule=f"At least {FEWEST_ADDED} jobs, and surely more than {round(ADDED_SHARE * 100)} % of them, did it in words "
                f"that share most of theirs.",
                goes_away="It goes once a step of the plan says so, or fewer jobs do it.",
                change=AddWholeStep(
                    step="-".join(sorted(_words(text)))[:60],
                    phase=phase,
                    text=text[:1].upper() + text[1:],
                    likely=taken.value,
                    low=min(low, taken.value),
                    high=max(high, taken.value),
                ),
                n_jobs=n_jobs,
                orders=orders,
                weight=taken.value * len(orders),
            )
        )
    return tuple(sorted(found, key=lambda p: (-p.weight, p.key)))


def groups_of(added: Sequence[DoneBeside]) -> Iterator[list[DoneBeside]]:
    """What tells the same together: each joins the first group that it is like, in the order recorded."""
    groups: list[list[DoneBeside]] = []
    for one in added:
        words = _words(one.text)
        group = next((g for g in groups if words and _alike(words, _words(g[0].text))), None)
        if group is None:
            groups.append([one])
        else:
            group.append(one)
    yield from groups


def _words(text: str) -> frozenset[str]:
    return frozenset(word for word in words_of(text) if len(word) >= FEWEST_LETTERS)


def _alike(one: frozenset[str], other: frozenset[str]) -> bool:
    return bool(one | other) and len(one & other) / len(one | other) >= ALIKE
