"""The opening holds how far tools are worn, and what the lines made last."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ("worn", "last"):
        op.add_column("opening_entry", sa.Column(name, JSONB, nullable=False, server_default="[]"))
        op.alter_column("opening_entry", name, server_default=None)
