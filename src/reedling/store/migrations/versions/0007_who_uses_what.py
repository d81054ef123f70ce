"""Titles of revisions, and which documents they refer to, in columns of their own."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape."""
    op.add_column("revisions", sa.Column("title", sa.String(), server_default="", nullable=False))
    op.create_table(
        "revision_uses",
        sa.Column("revision_id", sa.Integer(), nullable=False),
        sa.Column("document", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["revision_id"], ["revisions.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("revision_id", "document"),
    )
    op.create_index("revision_uses_by_document", "revision_uses", ["document"])
    connection = op.get_bind()
    for number, text in connection.execute(sa.text("SELECT id, content FROM revisions")).all():
        content = json.loads(text)
        connection.execute(
            sa.text("UPDATE revisions SET title = :title WHERE id = :number"),
            {"title": content.get("title", ""), "number": number},
        )
        for document in sorted(set(_named(content))):
            connection.execute(
                sa.text("INSERT INTO revision_uses (revision_id, document) VALUES (:number, :document)"),
                {"number": number, "document": document},
            )


def _named(content: dict[str, Any]) -> Iterator[str]:
    """The documents that a plan, an incident type or a decision table of this time refers to."""
    for step in content.get("steps", ()):
        yield from (step[key] for key in ("standard", "form") if step.get(key))
    for form in content.get("forms", ()):
        yield form if isinstance(form, str) else form["form"]
    yield from content.get("plans", ())
    for row in content.get("rows", ()):
        yield from row.get("documents", ())
    for pair in content.get("never_together", ()):
        yield from (pair["first"], pair["second"])
    for relation in content.get("after", ()):
        yield from (relation["document"], relation["earlier"])


def downgrade() -> None:
    """Take the database back."""
    op.drop_table("revision_uses")
    op.drop_column("revisions", "title")
