"""Documents that people put on orders of one kind by hand: a row of a decision table is missing."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Literal

from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.refining.changes import AddRowForKind, has_row
from reedling.core.refining.in_words import share_in_words
from reedling.core.refining.proposals import Proposal
from reedling.core.statistics.intervals import wilson_interval

FEWEST_BY_HAND = 3
"""Orders on which it was put by hand before a row is proposed."""
BY_HAND_SHARE = 0.15
"""And surely more than this share of the orders of the kind."""
MINUTES_BY_HAND = 4.0
"""What putting a document on an order by hand is taken to cost, where proposals are ranked."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ByHand:
    """A document that people keep adding to, or taking off, orders of one kind: a row may be missing.

    ``n_of`` is how many orders of this equipment and symptom there were.
    """

    act: Literal["added", "removed"]
    document: str
    title: str
    equipment: str
    symptom: str
    orders: tuple[str, ...]
    reasons: tuple[str, ...]
    n_of: int


def proposals_of_missing_rows(
    document: str,
    revision: str,
    table: DecisionTable,
    by_hand: Iterable[ByHand],
    *,
    kind_in_words: Callable[[str, str], str],
) -> Iterator[Proposal]:
    """The rows that changes by hand since the table came into force suggest.

    ``kind_in_words`` says an equipment and a symptom in words.
    """
    for put in (one for one in by_hand if one.act == "added"):
        share = wilson_interval(len(put.orders), put.n_of)
        change = AddRowForKind(equipment=put.equipment, symptom=put.symptom, document=put.document)
        if len(put.orders) < FEWEST_BY_HAND or share.low <= BY_HAND_SHARE or has_row(table, change):
            continue
        kind = kind_in_words(put.equipment, put.symptom)
        reasons = " ".join(f"“{reason}”" for reason in put.reasons[:3])
        n_without = put.n_of - len(put.orders)
        yield Proposal(
            kind="add a row",
            document=document,
            revision=revision,
            step="",
            part="",
            about=f"{put.document} {put.equipment} {put.symptom}",
            sentence=f"“{put.title}” was put by hand on {share_in_words(share, 'order')} for {kind}: {reasons}",
            effect="It would be on such orders by itself"
            + (f", also on those like the {n_without} that went without it." if n_without else "."),
            rule=f"At least {FEWEST_BY_HAND} orders, and surely more than {round(BY_HAND_SHARE * 100)} % of the kind, got it by "
            "hand since the table came into force.",
            goes_away="It goes once a row puts it there, or it is put on fewer by hand.",
            change=change,
            n_jobs=put.n_of,
            orders=put.orders,
            weight=MINUTES_BY_HAND * len(put.orders),
        )
