"""Readings of the room that do not count any more, and why."""

import sqlalchemy as sa
from alembic import op

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "conditions_withdrawal",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("conditions_id", sa.Integer, sa.ForeignKey("conditions_entry.id"), nullable=False, unique=True),
        sa.Column("reason", sa.Text, nullable=False),
        sa.Column("author", sa.Text, nullable=False),
    )
    op.execute(
        "CREATE TRIGGER in_turn BEFORE INSERT ON conditions_withdrawal "
        "FOR EACH STATEMENT EXECUTE FUNCTION rundgang_in_turn()"
    )
    op.execute(
        "CREATE TRIGGER told AFTER INSERT ON conditions_withdrawal "
        "FOR EACH STATEMENT EXECUTE FUNCTION rundgang_tell('conditions')"
    )
    op.execute(
        "CREATE OR REPLACE FUNCTION rundgang_discard_demo() RETURNS void LANGUAGE plpgsql SECURITY DEFINER "
        "SET search_path = public, pg_temp AS $$ BEGIN "
        "IF (SELECT origin FROM plant_origin ORDER BY id DESC LIMIT 1) IS DISTINCT FROM 'demo' THEN "
        "RAISE EXCEPTION 'the plant is not the demo'; END IF; "
        "TRUNCATE plant_origin, library_version, calendar_version, planning_window, order_book, order_line, "
        "order_mapping, line_plan, opening_entry, plan_version, publication, search_step, search_find, search_stop, "
        "conditions_entry, conditions_withdrawal, probe_entry, probe_withdrawal; "
        "DELETE FROM procrastinate_jobs WHERE status <> 'doing'; END $$"
    )
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute("GRANT SELECT, INSERT ON conditions_withdrawal TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
