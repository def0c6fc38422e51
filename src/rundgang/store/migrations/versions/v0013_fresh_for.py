"""How old packs may be at the lorry, as a customer asks for it."""

import sqlalchemy as sa
from alembic import op

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("order_line", sa.Column("fresh_for_h", sa.Float))
