"""What a step asks is its ``questions``, as everywhere else; it was written as ``proofs``."""

from __future__ import annotations

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

from reedling.store.sqlite import guards_lifted

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape."""
    _rename("proofs", "questions")


def downgrade() -> None:
    """Take the database back."""
    _rename("questions", "proofs")


def _rename(old: str, new: str) -> None:
    connection = op.get_bind()
    # Within a JSON text every quote is escaped, so that a name with its quotes and colon is a name.
    names = {"old": f'"{old}":', "new": f'"{new}":'}
    with guards_lifted(connection):
        connection.execute(sa.text("UPDATE revisions SET content = replace(content, :old, :new)"), names)
        connection.execute(sa.text("UPDATE orders SET runsheet = replace(runsheet, :old, :new)"), names)
    edits = sa.table("edits", sa.column("id"), sa.column("patch", sa.JSON), sa.column("inverse", sa.JSON))
    for row in connection.execute(sa.select(edits)).all():
        renamed = {"patch": _patch(row.patch, old, new), "inverse": _patch(row.inverse, old, new)}
        if renamed != {"patch": row.patch, "inverse": row.inverse}:
            connection.execute(edits.update().where(edits.c.id == row.id).values(**renamed))


def _patch(patch: list[dict[str, Any]], old: str, new: str) -> list[dict[str, Any]]:
    """A JSON patch (RFC 6902) with the name changed in its places and in the values it puts there."""
    out = json.loads(json.dumps(patch).replace(f'"{old}":', f'"{new}":'))
    for one in out:
        for key in ("path", "from"):
            if key in one:
                one[key] = "/".join(new if name == old else name for name in one[key].split("/"))
    return list(out)
