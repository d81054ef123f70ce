"""Alembic's entry: run the migrations on the connection it is handed."""

from __future__ import annotations

from alembic import context

from reedling.store.job_tables import EVERY_TABLE

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=EVERY_TABLE, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()
