"""With the demo the headings of its customers' files go, too."""

from alembic import op

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "CREATE OR REPLACE FUNCTION rundgang_discard_demo() RETURNS void LANGUAGE plpgsql SECURITY DEFINER "
        "SET search_path = public, pg_temp AS $$ BEGIN "
        "IF (SELECT origin FROM plant_origin ORDER BY id DESC LIMIT 1) IS DISTINCT FROM 'demo' THEN "
        "RAISE EXCEPTION 'the plant is not the demo'; END IF; "
        "TRUNCATE plant_origin, library_version, calendar_version, planning_window, order_book, order_line, "
        "order_mapping, line_plan, opening_entry, plan_version, publication, search_step, search_find, search_stop, "
        "conditions_entry, probe_entry; DELETE FROM procrastinate_jobs WHERE status <> 'doing'; END $$"
    )
