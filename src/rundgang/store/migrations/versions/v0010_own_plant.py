"""Whose plant is in the database; and the one way to delete: the demo, whole, by a function of the tables' owner."""

import sqlalchemy as sa
from alembic import op

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "plant_origin",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("origin", sa.Text, sa.CheckConstraint("origin IN ('demo', 'own')"), nullable=False),
        sa.Column("name", sa.Text, nullable=False),
    )
    op.execute(
        "INSERT INTO plant_origin (origin, name) SELECT 'demo', plant->>'name' FROM library_version "
        "WHERE EXISTS (SELECT 1 FROM planning_window) ORDER BY id LIMIT 1"
    )
    op.execute(
        "CREATE FUNCTION rundgang_discard_demo() RETURNS void LANGUAGE plpgsql SECURITY DEFINER "
        "SET search_path = public, pg_temp AS $$ BEGIN "
        "IF (SELECT origin FROM plant_origin ORDER BY id DESC LIMIT 1) IS DISTINCT FROM 'demo' THEN "
        "RAISE EXCEPTION 'the plant is not the demo'; END IF; "
        "TRUNCATE plant_origin, library_version, calendar_version, planning_window, order_book, order_line, line_plan, "
        "opening_entry, plan_version, publication, search_step, search_find, search_stop, conditions_entry, "
        "probe_entry; DELETE FROM procrastinate_jobs WHERE status <> 'doing'; END $$"
    )
    op.execute("REVOKE EXECUTE ON FUNCTION rundgang_discard_demo() FROM PUBLIC")
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute("GRANT SELECT, INSERT ON plant_origin TO rundgang_app")
        op.execute("GRANT EXECUTE ON FUNCTION rundgang_discard_demo() TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
