"""The database: tables, migrations and repositories. Nothing else touches it."""
