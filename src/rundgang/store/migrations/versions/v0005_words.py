"""One word a thing: windows, line plans, plan versions and openings; priorities of orders; hot ovens.

Plans from before say nothing of their legs and fillings, so they cannot be shown any more and go; orders, library,
stock, closings and what the probes have taught stay, and the next start makes a plan of them.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

TABLES = (
    ("planning_day", "planning_window"),
    ("plan_version", "line_plan"),
    ("plant_version", "plan_version"),
    ("day_settings", "opening_entry"),
)
OF_A_WINDOW = ("order_book", "line_plan", "plan_version", "opening_entry", "publication", "conditions_entry")


def upgrade() -> None:
    op.execute(
        "DELETE FROM probe_entry AS earlier USING probe_entry AS later WHERE earlier.id < later.id"
        " AND (earlier.plan_id, earlier.run, earlier.batch) = (later.plan_id, later.run, later.batch)"
    )
    op.alter_column("probe_entry", "plan_id", nullable=True)
    op.execute("UPDATE probe_entry SET plan_id = NULL")
    op.execute("TRUNCATE search_step, search_stop, publication")
    op.execute("DELETE FROM plant_version")
    op.execute("DELETE FROM plan_version")
    op.execute("DELETE FROM procrastinate_events")
    op.execute("DELETE FROM procrastinate_jobs")
    for before, after in TABLES:
        op.rename_table(before, after)
    for table in OF_A_WINDOW:
        op.alter_column(table, "day_id", new_column_name="window_id")
    for table in ("line_plan", "plan_version"):
        op.alter_column(table, "settings_id", new_column_name="opening_id")
    op.add_column("order_line", sa.Column("priority", sa.Float, nullable=False, server_default="1"))
    op.add_column("opening_entry", sa.Column("heated", JSONB, nullable=False, server_default="[]"))
