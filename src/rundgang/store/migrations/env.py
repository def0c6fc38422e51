"""How Alembic connects: over the connection that `migrate` hands it."""

from alembic import context
from sqlmodel import SQLModel

from rundgang.store import tables  # noqa: F401  (registers the tables)

context.configure(connection=context.config.attributes["connection"], target_metadata=SQLModel.metadata)
with context.begin_transaction():
    context.run_migrations()
