"""What authors add: acts, comments, illustrations, meters, fields.

Revision: 0002
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.tables import Instant

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database forward."""
    op.create_table(
        "comments",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("document_id", sa.String(), nullable=False),
        sa.Column("letter", sa.String(), nullable=False),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("settled_at", Instant(), nullable=True),
        sa.Column("settled_by", sa.String(), nullable=True),
        sa.ForeignKeyConstraint(["document_id"], ["documents.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.ForeignKeyConstraint(
            ["settled_by"],
            ["people.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("comments", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_comments_document_id"), ["document_id"], unique=False)

    op.create_table(
        "illustrations",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("media_type", sa.String(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("n_frames", sa.Integer(), nullable=False),
        sa.Column("added_at", Instant(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=True),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "acts",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("revision_id", sa.Integer(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("act", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.ForeignKeyConstraint(["revision_id"], ["revisions.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("acts", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_acts_revision_id"), ["revision_id"], unique=False)

    op.create_table(
        "meter_readings",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("asset_id", sa.String(), nullable=False),
        sa.Column("meter", sa.String(), nullable=False),
        sa.Column("value", sa.Float(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=True),
        sa.ForeignKeyConstraint(
            ["asset_id"],
            ["assets.id"],
        ),
        sa.ForeignKeyConstraint(
            ["order_id"],
            ["orders.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("meter_readings", schema=None) as batch_op:
        batch_op.create_index("meter_readings_by_asset", ["asset_id", "meter", "at"], unique=False)

    with op.batch_alter_table("assets", schema=None) as batch_op:
        batch_op.add_column(sa.Column("fields", sa.JSON(), server_default="{}", nullable=False))

    with op.batch_alter_table("orders", schema=None) as batch_op:
        batch_op.add_column(sa.Column("fields", sa.JSON(), server_default="{}", nullable=False))

    with op.batch_alter_table("revisions", schema=None) as batch_op:
        batch_op.add_column(sa.Column("effective_on", sa.Date(), nullable=True))

    with op.batch_alter_table("sites", schema=None) as batch_op:
        batch_op.add_column(sa.Column("customer", sa.String(), server_default="", nullable=False))


def downgrade() -> None:
    """Take the database back."""
    with op.batch_alter_table("sites", schema=None) as batch_op:
        batch_op.drop_column("customer")

    with op.batch_alter_table("revisions", schema=None) as batch_op:
        batch_op.drop_column("effective_on")

    with op.batch_alter_table("orders", schema=None) as batch_op:
        batch_op.drop_column("fields")

    with op.batch_alter_table("assets", schema=None) as batch_op:
        batch_op.drop_column("fields")

    with op.batch_alter_table("meter_readings", schema=None) as batch_op:
        batch_op.drop_index("meter_readings_by_asset")

    op.drop_table("meter_readings")
    with op.batch_alter_table("acts", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_acts_revision_id"))

    op.drop_table("acts")
    op.drop_table("illustrations")
    with op.batch_alter_table("comments", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_comments_document_id"))

    op.drop_table("comments")
