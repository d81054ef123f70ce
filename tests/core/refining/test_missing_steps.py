"""What is done again and again beside the steps: found where it is, and not where technicians only write this and that."""

from __future__ import annotations

import random

from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.plans import Plan
from reedling.core.refining.changes import changed
from reedling.core.refining.missing_steps import DoneBeside, groups_of, proposals_of_missing_steps
from tests.core.refining.test_proposals import PLAN

OTHERS = [
    "wiped",
    "housing",
    "greased",
    "hinge",
    "swept",
    "platform",
    "tied",
    "hose",
    "painted",
    "bolt",
    "moved",
    "crate",
    "checked",
    "lamp",
    "oiled",
    "lock",
]


def field(seed: int, n: int = 150, planted: float = 0.0) -> list[DoneBeside]:
    """Jobs of which a tenth do something or other, and some, where it is planted, always the same."""
    rng = random.Random(seed)
    out = []
    for i in range(n):
        if rng.random() < 0.1:
            words = " ".join(rng.sample(OTHERS, 3))
            out.append(DoneBeside(order=f"WO-{i}", phase="Leave", text=words, minutes=rng.uniform(1, 9)))
        if rng.random() < planted:
            text = rng.choice(
                ("Cleaned the strainer basket", "cleaned strainer basket", "Cleaned the strainer basket too")
            )
            minutes = rng.uniform(6, 14)
            out.append(DoneBeside(order=f"WO-{i}", phase="Put right", text=text, minutes=minutes))
    return out


def test_a_hundred_fields_without_it_propose_nothing() -> None:
    assert sum(bool(proposals_of_missing_steps("W", "A", PLAN, 150, field(seed))) for seed in range(100)) <= 5


def test_what_one_job_in_eight_does_is_proposed_once_and_drafted() -> None:
    held = 0
    for seed in range(40):
        found = proposals_of_missing_steps("W", "A", PLAN, 150, field(seed, planted=0.12))
        if not found:
            continue
        held += 1
        (proposal,) = found
        assert "strainer" in proposal.sentence
        draft = changed(PLAN, proposal.change)
        assert isinstance(draft, Plan)
        new = next(s for s in draft.steps if s.id == proposal.step)
        assert (new.phase, new.text[:7]) == ("Put right", "Cleaned")
        assert 6 <= new.minutes.likely <= 14
        assert [s for s in draft.steps if s is not new] == list(PLAN.steps)
        assert changed(draft, proposal.change) is None, "it is there now"
        assert proposals_of_missing_steps("W", "B", draft, 150, field(seed, planted=0.12)) == ()
    assert held >= 38


TEXTS = st.lists(
    st.sampled_from(["wipe lens", "wipe the lens", "lens wiped", "grease bolt", "bolt grease", "", "of it"]),
    max_size=8,
)


@given(TEXTS)
def test_every_text_stands_in_one_group_in_the_order_recorded(texts: list[str]) -> None:
    added = [DoneBeside(order=f"WO-{i}", phase="Prove", text=text, minutes=1) for i, text in enumerate(texts)]
    groups = list(groups_of(added))
    assert sorted((one for group in groups for one in group), key=lambda one: one.order) == added
    for group in groups:
        assert [added.index(one) for one in group] == sorted(added.index(one) for one in group)
    assert sum(any("grease" in one.text for one in group) for group in groups) <= 1
