"""Alembic migrations, run by `rundgang.store.database.migrate`."""
