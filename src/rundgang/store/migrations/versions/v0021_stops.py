"""Stops that somebody has told or looked at, and what became of each: cause, what was done and taken, its end."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None

DISCARD = """
CREATE OR REPLACE FUNCTION rundgang_discard_demo() RETURNS void LANGUAGE plpgsql SECURITY DEFINER
SET search_path = public, pg_temp AS $$ BEGIN
IF (SELECT origin FROM plant_origin ORDER BY id DESC LIMIT 1) IS DISTINCT FROM 'demo' THEN
RAISE EXCEPTION 'the plant is not the demo'; END IF;
TRUNCATE plant_origin, library_version, calendar_version, planning_window, order_book, order_line,
order_mapping, line_plan, opening_entry, plan_version, publication, search_step, search_find, search_stop,
conditions_entry, conditions_withdrawal, probe_entry, probe_withdrawal, instruments_version, reading,
reading_minute, instrument_beat, inspections_version, inspection_entry, stop_entry, stop_event;
DELETE FROM procrastinate_jobs WHERE status <> 'doing'; END $$
"""


def upgrade() -> None:
    op.create_table(
        "stop_entry",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("window_id", sa.Integer, sa.ForeignKey("planning_window.id"), nullable=False),
        sa.Column("line", sa.Text, nullable=False),
        sa.Column("station", sa.Text, nullable=False),
        sa.Column("began_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("told_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author", sa.Text, nullable=False),
    )
    op.create_table(
        "stop_event",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("stop_id", sa.Integer, sa.ForeignKey("stop_entry.id"), nullable=False, index=True),
        sa.Column("kind", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("said", JSONB, nullable=False),
        sa.Column("author", sa.Text, nullable=False),
    )
    for table in ("stop_entry", "stop_event"):
        op.execute(
            f"CREATE TRIGGER told AFTER INSERT ON {table} FOR EACH STATEMENT EXECUTE FUNCTION rundgang_tell('trouble')"
        )
    op.execute(DISCARD)
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute("GRANT SELECT, INSERT ON stop_entry, stop_event TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
