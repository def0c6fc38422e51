"""The calendar, and windows that go on: what has begun before one, and what was over when it began."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "calendar_version",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("origin", sa.Text, nullable=False),
        sa.Column("document", JSONB, nullable=False),
    )
    op.add_column("planning_window", sa.Column("author", sa.Text, nullable=False, server_default="planner"))
    op.alter_column("planning_window", "author", server_default=None)
    op.add_column("planning_window", sa.Column("settled", JSONB))
    op.add_column("opening_entry", sa.Column("stocks", JSONB))
    op.add_column("opening_entry", sa.Column("now_min", sa.Float, nullable=False, server_default="0"))
    op.alter_column("opening_entry", "now_min", server_default=None)
    op.add_column("opening_entry", sa.Column("begun", JSONB, nullable=False, server_default="[]"))
    op.alter_column("opening_entry", "begun", server_default=None)
    op.add_column("opening_entry", sa.Column("calendar_id", sa.Integer, sa.ForeignKey("calendar_version.id")))
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute("GRANT SELECT, INSERT ON calendar_version TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
