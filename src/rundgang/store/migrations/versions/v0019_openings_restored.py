"""Openings that repeat an earlier one, as undo leaves them."""

import sqlalchemy as sa
from alembic import op

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("opening_entry", sa.Column("restores", sa.Integer))
