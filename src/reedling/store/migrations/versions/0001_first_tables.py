"""First tables.

Revision: 0001
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.sqlite import GUARDS, REMOVE_GUARDS
from reedling.store.tables import Instant

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database forward."""
    op.create_table(
        "catalogue",
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("entries", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("name"),
    )
    op.create_table(
        "counters",
        sa.Column("prefix", sa.String(), nullable=False),
        sa.Column("last", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("prefix"),
    )
    op.create_table(
        "documents",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("created_at", Instant(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("documents", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_documents_kind"), ["kind"], unique=False)

    op.create_table(
        "people",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("username", sa.String(), nullable=False),
        sa.Column("password_hash", sa.String(), nullable=False),
        sa.Column("district", sa.String(), nullable=False),
        sa.Column("offered", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("username"),
    )
    op.create_table(
        "sites",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("district", sa.String(), nullable=False),
        sa.Column("east", sa.Double(), nullable=False),
        sa.Column("north", sa.Double(), nullable=False),
        sa.Column("zone", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "assets",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("site_id", sa.String(), nullable=False),
        sa.Column("equipment", sa.String(), nullable=False),
        sa.Column("model", sa.String(), nullable=False),
        sa.Column("serial", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["site_id"],
            ["sites.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("assets", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_assets_site_id"), ["site_id"], unique=False)

    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("document_id", sa.String(), nullable=False),
        sa.Column("letter", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("content", sa.JSON(), nullable=False),
        sa.Column("created_at", Instant(), nullable=False),
        sa.Column("changed_at", Instant(), nullable=False),
        sa.Column("sent_by", sa.String(), nullable=True),
        sa.Column("released_at", Instant(), nullable=True),
        sa.Column("released_by", sa.String(), nullable=True),
        sa.Column("note", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["document_id"],
            ["documents.id"],
        ),
        sa.ForeignKeyConstraint(
            ["released_by"],
            ["people.id"],
        ),
        sa.ForeignKeyConstraint(
            ["sent_by"],
            ["people.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("document_id", "letter"),
    )
    with op.batch_alter_table("revisions", schema=None) as batch_op:
        batch_op.create_index("revisions_by_state", ["state"], unique=False)

    op.create_table(
        "sessions",
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("expires_at", Instant(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.PrimaryKeyConstraint("token_hash"),
    )
    op.create_table(
        "edits",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("revision_id", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("summary", sa.String(), nullable=False),
        sa.Column("patch", sa.JSON(), nullable=False),
        sa.Column("inverse", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.ForeignKeyConstraint(["revision_id"], ["revisions.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("revision_id", "version"),
    )
    op.create_table(
        "orders",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("asset_id", sa.String(), nullable=False),
        sa.Column("symptom", sa.String(), nullable=False),
        sa.Column("report", sa.String(), nullable=False),
        sa.Column("incident_type_id", sa.String(), nullable=True),
        sa.Column("incident_type_revision", sa.String(), nullable=True),
        sa.Column("runsheet", sa.JSON(), nullable=False),
        sa.Column("trace", sa.JSON(), nullable=False),
        sa.Column("logged_at", Instant(), nullable=False),
        sa.Column("logged_by", sa.String(), nullable=False),
        sa.Column("technician_id", sa.String(), nullable=True),
        sa.Column("planned_for", Instant(), nullable=True),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("finished_at", Instant(), nullable=True),
        sa.Column("reviewed_at", Instant(), nullable=True),
        sa.Column("reviewed_by", sa.String(), nullable=True),
        sa.Column("review_note", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["asset_id"],
            ["assets.id"],
        ),
        sa.ForeignKeyConstraint(
            ["incident_type_id"],
            ["documents.id"],
        ),
        sa.ForeignKeyConstraint(
            ["logged_by"],
            ["people.id"],
        ),
        sa.ForeignKeyConstraint(
            ["reviewed_by"],
            ["people.id"],
        ),
        sa.ForeignKeyConstraint(
            ["technician_id"],
            ["people.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("orders", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_orders_asset_id"), ["asset_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_orders_finished_at"), ["finished_at"], unique=False)
        batch_op.create_index(batch_op.f("ix_orders_logged_at"), ["logged_at"], unique=False)
        batch_op.create_index("orders_by_incident_type", ["incident_type_id", "state"], unique=False)
        batch_op.create_index("orders_by_technician", ["technician_id", "state"], unique=False)

    op.create_table(
        "pictures",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("sha256", sa.String(), nullable=False),
        sa.Column("media_type", sa.String(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("taken_at", Instant(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["order_id"],
            ["orders.id"],
        ),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("pictures", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_pictures_order_id"), ["order_id"], unique=False)

    op.create_table(
        "step_records",
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("document_id", sa.String(), nullable=False),
        sa.Column("step", sa.String(), nullable=False),
        sa.Column("revision", sa.String(), nullable=False),
        sa.Column("planned_minutes", sa.Float(), nullable=False),
        sa.Column("wanted", sa.Boolean(), nullable=False),
        sa.Column("done", sa.Boolean(), nullable=False),
        sa.Column("skipped", sa.Boolean(), nullable=False),
        sa.Column("minutes", sa.Float(), nullable=True),
        sa.Column("out_of_limit", sa.Boolean(), nullable=True),
        sa.ForeignKeyConstraint(
            ["document_id"],
            ["documents.id"],
        ),
        sa.ForeignKeyConstraint(
            ["order_id"],
            ["orders.id"],
        ),
        sa.PrimaryKeyConstraint("order_id", "document_id", "step"),
    )
    op.create_table(
        "submissions",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("received_at", Instant(), nullable=False),
        sa.Column("result", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(
            ["order_id"],
            ["orders.id"],
        ),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("submissions", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_submissions_order_id"), ["order_id"], unique=False)

    op.create_table(
        "events",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("submission_id", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("payload", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(
            ["order_id"],
            ["orders.id"],
        ),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.ForeignKeyConstraint(
            ["submission_id"],
            ["submissions.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("order_id", "number"),
    )
    with op.batch_alter_table("events", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_events_kind"), ["kind"], unique=False)

    for guard in GUARDS:
        op.execute(guard)


def downgrade() -> None:
    """Take the database back."""
    for removal in REMOVE_GUARDS:
        op.execute(removal)
    with op.batch_alter_table("events", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_events_kind"))

    op.drop_table("events")
    with op.batch_alter_table("submissions", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_submissions_order_id"))

    op.drop_table("submissions")
    op.drop_table("step_records")
    with op.batch_alter_table("pictures", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_pictures_order_id"))

    op.drop_table("pictures")
    with op.batch_alter_table("orders", schema=None) as batch_op:
        batch_op.drop_index("orders_by_technician")
        batch_op.drop_index("orders_by_incident_type")
        batch_op.drop_index(batch_op.f("ix_orders_logged_at"))
        batch_op.drop_index(batch_op.f("ix_orders_finished_at"))
        batch_op.drop_index(batch_op.f("ix_orders_asset_id"))

    op.drop_table("orders")
    op.drop_table("edits")
    op.drop_table("sessions")
    with op.batch_alter_table("revisions", schema=None) as batch_op:
        batch_op.drop_index("revisions_by_state")

    op.drop_table("revisions")
    with op.batch_alter_table("assets", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_assets_site_id"))

    op.drop_table("assets")
    op.drop_table("sites")
    op.drop_table("people")
    with op.batch_alter_table("documents", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_documents_kind"))

    op.drop_table("documents")
    op.drop_table("counters")
    op.drop_table("catalogue")
