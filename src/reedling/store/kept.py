"""What was read before and cannot have changed since: kept in memory, filled by units that only read.

A unit that writes may see what is then rolled back, so it takes from here and puts nothing in.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date

from sqlalchemy.orm import Session

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.documents import Content
from reedling.core.orders.orders import OrderInShort

MOST_CONTENTS = 1_000
"""Contents of final revisions in memory; beyond it they are read again."""


@dataclass(slots=True)
class Kept:
    """``catalogue`` with the count of writes it is of; ``contents`` by document and letter, of revisions that
    are final; ``in_short`` what matching needs of orders, by order, of which only the state may be
    another one by now; ``brought_into_force_on`` the day on which it was last looked for revisions whose
    day has come."""

    catalogue: tuple[int, Catalogue] | None = None
    contents: dict[tuple[str, str], Content] = field(default_factory=dict)
    in_short: dict[str, OrderInShort] = field(default_factory=dict)
    brought_into_force_on: date | None = None

    def keep_content(self, session: Session, document: str, letter: str, content: Content) -> None:
        """Keep what a final revision says."""
        if only_reads(session):
            if len(self.contents) >= MOST_CONTENTS:
                self.contents.clear()
            self.contents[document, letter] = content


def only_reads(session: Session) -> bool:
    """Whether the unit of this session writes nothing."""
    return not session.info.get("writes", True)
