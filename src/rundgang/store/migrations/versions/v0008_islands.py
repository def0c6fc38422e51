"""What the islands of a search find, for each other."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "search_find",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("job_id", sa.BigInteger, nullable=False),
        sa.Column("island", sa.Integer, nullable=False),
        sa.Column("evaluated", sa.BigInteger, nullable=False),
        sa.Column("cost", sa.Float, nullable=False),
        sa.Column("arrangement", JSONB),
    )
    op.create_index("search_find_by_job", "search_find", ["job_id", "cost"])
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute("GRANT SELECT, INSERT ON search_find TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
