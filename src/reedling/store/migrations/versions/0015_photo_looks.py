"""What can be told of a photo: blur, light, and which other one it is again."""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None

_COLUMNS: tuple[tuple[str, sa.types.TypeEngine[Any]], ...] = (
    ("blur", sa.Double()),
    ("light", sa.Double()),
    ("fingerprint", sa.String()),
    ("same_as", sa.String()),
)


def upgrade() -> None:
    """Bring the database to this shape; photos from before are not looked at again."""
    with op.batch_alter_table("pictures", schema=None) as batch_op:
        for name, kind in _COLUMNS:
            batch_op.add_column(sa.Column(name, kind, nullable=True))


def downgrade() -> None:
    """Take the database back."""
    with op.batch_alter_table("pictures", schema=None) as batch_op:
        for name, _ in _COLUMNS:
            batch_op.drop_column(name)
