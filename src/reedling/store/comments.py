"""Comments on places of documents."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.guidance.documents import Comment
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import CommentRow

COMMENTS = row_mapping(Comment, CommentRow)


@dataclass(frozen=True, slots=True)
class Comments:
    """Repository of comments."""

    session: Session

    def add(self, comment: Comment) -> None:
        """Keep a comment."""
        self.session.add(COMMENTS.new_row(comment))
        self.session.flush()

    def get(self, comment_id: str) -> Comment | None:
        """The comment, if there is one."""
        row = self.session.get(CommentRow, comment_id)
        return COMMENTS.read(row) if row else None

    def of(self, document: str) -> tuple[Comment, ...]:
        """All comments on a document, oldest first."""
        query = select(CommentRow).where(CommentRow.document_id == document)
        return tuple(
            COMMENTS.read(row) for row in self.session.scalars(query.order_by(CommentRow.at, CommentRow.id))
        )

    def settle(self, comment_id: str, person: str | None, at: datetime | None) -> None:
        """Mark a comment as settled, or as open again."""
        row = self.session.get(CommentRow, comment_id)
        assert row is not None
        row.settled_at, row.settled_by = at, person
        self.session.flush()
