"""Lessons that were left, and between what the figure lay then; the diary of cleaning and of tools, with releases."""

import sqlalchemy as sa
from alembic import op

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0023"
down_revision = "0022"
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
reading_minute, instrument_beat, inspections_version, inspection_entry, stop_entry, stop_event,
lot, lot_use, lot_event, lot_load, lorry_gone, lesson_left, upkeep_entry, upkeep_release;
DELETE FROM procrastinate_jobs WHERE status <> 'doing'; END $$
"""


def upgrade() -> None:
    op.create_table(
        "lesson_left",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("line", sa.Text, nullable=False, index=True),
        sa.Column("lesson", sa.Text, nullable=False),
        sa.Column("low", sa.Double, nullable=False),
        sa.Column("high", sa.Double, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("reason", sa.Text, nullable=False),
        sa.Column("author", sa.Text, nullable=False),
    )
    op.create_table(
        "upkeep_entry",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("uuid", sa.Uuid, nullable=False, unique=True),
        sa.Column("line", sa.Text, nullable=False, index=True),
        sa.Column("station", sa.Text, nullable=False),
        sa.Column("kind", sa.Text, nullable=False),
        sa.Column("what", sa.Text, nullable=False),
        sa.Column("tool", sa.Text),
        sa.Column("began_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author", sa.Text, nullable=False),
        sa.CheckConstraint("kind IN ('cleaned', 'renewed')", name="upkeep_kind"),
    )
    op.create_table(
        "upkeep_release",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("entry_id", sa.Integer, sa.ForeignKey("upkeep_entry.id"), nullable=False, unique=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author", sa.Text, nullable=False),
    )
    for table, topic in (("lesson_left", "lessons"), ("upkeep_entry", "upkeep"), ("upkeep_release", "upkeep")):
        op.execute(
            f"CREATE TRIGGER told AFTER INSERT ON {table} FOR EACH STATEMENT EXECUTE FUNCTION rundgang_tell('{topic}')"
        )
    op.execute(DISCARD)
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute("GRANT SELECT, INSERT ON lesson_left, upkeep_entry, upkeep_release TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
