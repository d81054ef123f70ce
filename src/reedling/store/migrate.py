"""Bring a database to the present shape of the tables."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine

from reedling.errors import Unavailable
from reedling.store.job_tables import EVERY_TABLE

MIGRATIONS = Path(__file__).parent / "migrations"


def alembic_config() -> Config:
    """Alembic pointed at the migrations in this package."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    return config


def migrate(engine: Engine) -> None:
    """Run every migration the database has not seen; all or nothing.

    Raises
    ------
    Unavailable
        ``store.newer`` for a database that a later version of Reedling has written.
    """
    if not pending(engine):
        return
    config = alembic_config()
    with engine.execution_options(writes=True).begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def pending(engine: Engine) -> bool:
    """Whether there are migrations that the database has not seen; raises as :func:`migrate`."""
    known, head = _known()
    with engine.connect() as connection:
        held = MigrationContext.configure(connection).get_current_revision()
    if held is not None and held not in known:
        raise Unavailable(
            "store.newer",
            f"a later version of Reedling has written this database (its shape is {held}).",
            where="Database",
            hint="Run that version, or restore a backup from before the upgrade into an empty folder.",
        )
    return held != head


@cache
def _known() -> tuple[frozenset[str], str | None]:
    """The migrations of this version, and the last of them; to read them takes longer than to ask the database."""
    scripts = ScriptDirectory.from_config(alembic_config())
    return frozenset(script.revision for script in scripts.walk_revisions()), scripts.get_current_head()


def is_empty(engine: Engine) -> bool:
    """Whether the database has no shape yet."""
    with engine.connect() as connection:
        return MigrationContext.configure(connection).get_current_revision() is None


def draft_migration(engine: Engine, message: str, revision: str) -> None:
    """Write a migration for what the tables have that the database has not."""
    config = alembic_config()
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.revision(config, message, autogenerate=True, rev_id=revision)


def missing_migrations(engine: Engine) -> list[object]:
    """What the tables say and the database does not; empty when the migrations are complete."""
    with engine.connect() as connection:
        return list(compare_metadata(MigrationContext.configure(connection), EVERY_TABLE))
