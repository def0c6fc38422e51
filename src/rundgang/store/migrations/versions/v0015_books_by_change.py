"""An order book says what differs from the one before: an urgent order does not write all orders anew."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("order_book", sa.Column("based_on", sa.Integer, sa.ForeignKey("order_book.id")))
    op.add_column("order_book", sa.Column("gone", JSONB, nullable=False, server_default="[]"))
    op.add_column("order_book", sa.Column("depth", sa.Integer, nullable=False, server_default="0"))
