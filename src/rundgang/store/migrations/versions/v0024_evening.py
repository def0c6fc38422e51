"""Pieces that were pulled off a line, with the cause; what a shift hands over to the next; mock recalls."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0024"
down_revision = "0023"
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
pulled_entry, handover_note, mock_recall, mock_recall_answer;
DELETE FROM procrastinate_jobs WHERE status <> 'doing'; END $$
"""


def upgrade() -> None:
    op.create_table(
        "pulled_entry",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("uuid", sa.Uuid, nullable=False, unique=True),
        sa.Column("line", sa.Text, nullable=False, index=True),
        sa.Column("station", sa.Text, nullable=False),
        sa.Column("run", sa.Text),
        sa.Column("product", sa.Text),
        sa.Column("pieces", sa.Integer, nullable=False),
        sa.Column("cause", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("note", sa.Text, nullable=False),
        sa.Column("author", sa.Text, nullable=False),
        sa.CheckConstraint("pieces > 0", name="pulled_pieces"),
    )
    op.create_table(
        "handover_note",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("uuid", sa.Uuid, nullable=False, unique=True),
        sa.Column("line", sa.Text, nullable=False, index=True),
        sa.Column("says", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("author", sa.Text, nullable=False),
    )
    op.create_table(
        "mock_recall",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("uuid", sa.Uuid, nullable=False, unique=True),
        sa.Column("lot_id", sa.Integer, sa.ForeignKey("lot.id"), nullable=False),
        sa.Column("item", sa.Text, nullable=False),
        sa.Column("author", sa.Text, nullable=False),
    )
    op.create_table(
        "mock_recall_answer",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("recall_id", sa.Integer, sa.ForeignKey("mock_recall.id"), nullable=False, unique=True),
        sa.Column("answer", postgresql.JSONB, nullable=False, server_default="{}"),
        sa.Column("judgement", postgresql.JSONB, nullable=False, server_default="{}"),
    )
    topics = {
        "pulled_entry": "round",
        "handover_note": "handover",
        "mock_recall": "recalls",
        "mock_recall_answer": "recalls",
    }
    for table, topic in topics.items():
        op.execute(
            f"CREATE TRIGGER told AFTER INSERT ON {table} FOR EACH STATEMENT EXECUTE FUNCTION rundgang_tell('{topic}')"
        )
    op.execute(DISCARD)
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute(f"GRANT SELECT, INSERT ON {', '.join(topics)} TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
