"""What waits for somebody, counted beside each verb of the loop."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.orders.states import UNREAD, WITHOUT_A_TECHNICIAN
from reedling.services.context import Context


@dataclass(frozen=True, slots=True, kw_only=True)
class Waiting:
    """``author`` counts revisions in review, ``run`` orders without a technician, loose records and
    site records, ``review``
    completions nobody has read and help threads that wait for an answer, ``refine`` drafts of documents already in force."""

    author: int
    run: int
    review: int
    refine: int


def count_waiting(context: Context) -> Waiting:
    """Count what waits."""
    with context.reading() as unit:
        return Waiting(
            author=unit.documents.n_in_state("In review"),
            run=unit.orders.count(WITHOUT_A_TECHNICIAN)
            + unit.loose_records.n_open()
            + unit.site_records.n_waiting(),
            review=unit.orders.count((UNREAD,)) + unit.help.n_waiting(),
            refine=unit.documents.n_in_state("Draft", first_letters=False),
        )
