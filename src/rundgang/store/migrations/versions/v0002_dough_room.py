"""The dough room's log: conditions and probes, written once like all else."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

TABLES = ("conditions_entry", "probe_entry")


def upgrade() -> None:
    op.create_table(
        "conditions_entry",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("day_id", sa.Integer, sa.ForeignKey("planning_day.id"), nullable=False),
        sa.Column("conditions", JSONB, nullable=False),
    )
    op.create_table(
        "probe_entry",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("plan_id", sa.Integer, sa.ForeignKey("plan_version.id"), nullable=False),
        sa.Column("run", sa.Text, nullable=False),
        sa.Column("batch", sa.Integer, nullable=False),
        sa.Column("product", sa.Text, nullable=False),
        sa.Column("mixer", sa.Text, nullable=False),
        sa.Column("dough_c", sa.Float, nullable=False),
        sa.Column("water_c", sa.Float, nullable=False),
        sa.Column("friction_c", sa.Float, nullable=False),
        sa.Column("conditions", JSONB, nullable=False),
    )
    op.create_index("probe_entry_by_product", "probe_entry", ["product", "mixer", "id"])
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute(f"GRANT SELECT, INSERT ON {', '.join(TABLES)} TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")


def downgrade() -> None:
    for table in reversed(TABLES):
        op.drop_table(table)
