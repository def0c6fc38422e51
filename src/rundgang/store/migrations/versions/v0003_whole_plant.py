"""The whole plant: preparations and stocks, plans by line and library, and what a probe's water was reckoned from."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

NO_ITEMS = sa.text("'[]'::jsonb")


def upgrade() -> None:
    op.add_column("library_version", sa.Column("origin", sa.Text, nullable=False, server_default="first entry"))
    op.add_column("library_version", sa.Column("preparations", JSONB, nullable=False, server_default=NO_ITEMS))
    op.add_column("planning_day", sa.Column("stocks", JSONB, nullable=False, server_default=NO_ITEMS))
    op.add_column("plan_version", sa.Column("line", sa.Text))
    op.add_column("plan_version", sa.Column("library_id", sa.Integer, sa.ForeignKey("library_version.id")))
    op.execute("UPDATE plan_version SET line = document->>'line'")
    op.execute(
        "UPDATE plan_version SET library_id = planning_day.library_id "
        "FROM planning_day WHERE planning_day.id = plan_version.day_id"
    )
    op.alter_column("plan_version", "line", nullable=False)
    op.alter_column("plan_version", "library_id", nullable=False)
    op.create_index("plan_version_by_line", "plan_version", ["day_id", "line", "number"])
    op.add_column("probe_entry", sa.Column("others_c", JSONB))
    op.execute("UPDATE probe_entry SET others_c = jsonb_build_array(conditions->'flour_c', conditions->'room_c')")
    op.alter_column("probe_entry", "others_c", nullable=False)


def downgrade() -> None:
    op.drop_column("probe_entry", "others_c")
    op.drop_index("plan_version_by_line")
    op.drop_column("plan_version", "library_id")
    op.drop_column("plan_version", "line")
    op.drop_column("planning_day", "stocks")
    op.drop_column("library_version", "preparations")
    op.drop_column("library_version", "origin")
