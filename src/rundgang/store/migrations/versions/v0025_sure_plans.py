"""Plans that a search for the odds has found, and what changes would be worth."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0025"
down_revision = "0024"
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
lot, lot_use, lot_event, lot_load, lorry_gone, lesson_left, upkeep_entry, upkeep_release,
pulled_entry, handover_note, mock_recall, mock_recall_answer, sure_plan, worth_found;
DELETE FROM procrastinate_jobs WHERE status <> 'doing'; END $$
"""


def upgrade() -> None:
    op.create_table(
        "sure_plan",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("job_id", sa.BigInteger, nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("odds", sa.Float, nullable=False),
        sa.Column("cost", sa.Float, nullable=False),
        sa.Column("eased", postgresql.JSONB, nullable=False),
        sa.Column("plan", postgresql.JSONB, nullable=False),
        sa.Column("made", postgresql.JSONB, nullable=False),
        sa.UniqueConstraint("job_id", "number", name="sure_plan_number"),
    )
    op.create_table(
        "worth_found",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("job_id", sa.BigInteger, nullable=False, index=True),
        sa.Column("worth", postgresql.JSONB, nullable=False),
    )
    op.execute(DISCARD)
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute("GRANT SELECT, INSERT ON sure_plan, worth_found TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
