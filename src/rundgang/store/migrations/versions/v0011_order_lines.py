"""An order number may have several lines; who wants it comes along; and headings of customers' files are kept."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_constraint("order_line_book_id_order_no_key", "order_line")
    op.create_unique_constraint("order_line_once", "order_line", ["book_id", "order_no", "product", "wave"])
    op.add_column("order_line", sa.Column("customer", sa.Text))
    op.add_column("order_line", sa.Column("reference", sa.Text))
    op.create_table(
        "order_mapping",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("document", JSONB, nullable=False),
    )
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute("GRANT SELECT, INSERT ON order_mapping TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
