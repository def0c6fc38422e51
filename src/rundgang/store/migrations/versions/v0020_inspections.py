"""What is inspected on the walk, version by version, and what was found, once each and for good."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0020"
down_revision = "0019"
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
reading_minute, instrument_beat, inspections_version, inspection_entry;
DELETE FROM procrastinate_jobs WHERE status <> 'doing'; END $$
"""


def upgrade() -> None:
    op.create_table(
        "inspections_version",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("origin", sa.Text, nullable=False),
        sa.Column("document", JSONB, nullable=False),
    )
    op.create_table(
        "inspection_entry",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("uuid", sa.Uuid, nullable=False, unique=True),
        sa.Column("window_id", sa.Integer, sa.ForeignKey("planning_window.id"), nullable=False),
        sa.Column("version_id", sa.Integer, sa.ForeignKey("inspections_version.id"), nullable=False),
        sa.Column("occasion", sa.Text, nullable=False),
        sa.Column("inspection", sa.Text, nullable=False),
        sa.Column("line", sa.Text, nullable=False),
        sa.Column("station", sa.Text, nullable=False),
        sa.Column("run", sa.Text),
        sa.Column("product", sa.Text),
        sa.Column("batch", sa.Integer),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("measured", JSONB, nullable=False),
        sa.Column("word", sa.Text),
        sa.Column("good", sa.Boolean),
        sa.Column("says", sa.Text, nullable=False),
        sa.Column("note", sa.Text, nullable=False),
        sa.Column("author", sa.Text, nullable=False),
    )
    op.create_index("inspection_entry_of", "inspection_entry", ["line", "at"])
    op.execute(
        "CREATE TRIGGER in_turn BEFORE INSERT ON inspections_version "
        "FOR EACH STATEMENT EXECUTE FUNCTION rundgang_in_turn()"
    )
    for table, told in (("inspections_version", "inspections"), ("inspection_entry", "round")):
        op.execute(
            f"CREATE TRIGGER told AFTER INSERT ON {table} FOR EACH STATEMENT EXECUTE FUNCTION rundgang_tell('{told}')"
        )
    op.execute(DISCARD)
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute("GRANT SELECT, INSERT ON inspections_version, inspection_entry TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
