"""The first tables: library, day, orders and plans, all written once."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

TABLES = ("library_version", "planning_day", "order_book", "order_line", "plan_version")


def _versioned(name: str, *columns: sa.schema.SchemaItem) -> None:
    op.create_table(
        name,
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        *columns,
    )


def upgrade() -> None:
    _versioned(
        "library_version",
        sa.Column("plant", JSONB, nullable=False),
        sa.Column("products", JSONB, nullable=False),
    )
    _versioned(
        "planning_day",
        sa.Column("library_id", sa.Integer, sa.ForeignKey("library_version.id"), nullable=False),
        sa.Column("starts_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("minutes", sa.Integer, nullable=False),
        sa.Column("waves", JSONB, nullable=False),
        sa.Column("conditions", JSONB, nullable=False),
    )
    _versioned(
        "order_book",
        sa.Column("day_id", sa.Integer, sa.ForeignKey("planning_day.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("origin", sa.Text, nullable=False),
        sa.Column("restores", sa.Integer),
        sa.UniqueConstraint("day_id", "number"),
    )
    op.create_table(
        "order_line",
        sa.Column("book_id", sa.Integer, sa.ForeignKey("order_book.id"), primary_key=True),
        sa.Column("position", sa.Integer, primary_key=True),
        sa.Column("order_no", sa.Text, nullable=False),
        sa.Column("product", sa.Text, nullable=False),
        sa.Column("wave", sa.Text, nullable=False),
        sa.Column("packs", sa.Integer, nullable=False),
        sa.UniqueConstraint("book_id", "order_no"),
        sa.CheckConstraint("packs > 0"),
    )
    _versioned(
        "plan_version",
        sa.Column("day_id", sa.Integer, sa.ForeignKey("planning_day.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("book_id", sa.Integer, sa.ForeignKey("order_book.id"), nullable=False),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("violations", JSONB, nullable=False),
        sa.UniqueConstraint("day_id", "number"),
    )
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute(f"GRANT SELECT, INSERT ON {', '.join(TABLES)} TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")


def downgrade() -> None:
    for table in reversed(TABLES):
        op.drop_table(table)
