"""Whatever is written is told to who listens: pages follow the database, whoever changes it.

And it is written in turn, table by table: a row is there for all before the next of its table gets its number.
"""

from alembic import op

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None

TOLD = {
    "calendar_version": "calendar",
    "conditions_entry": "conditions",
    "library_version": "library",
    "opening_entry": "opening",
    "order_book": "orders",
    "order_mapping": "columns",
    "plan_version": "plan",
    "planning_window": "window",
    "probe_entry": "probes",
    "publication": "published",
}
"""By table, what its rows change."""


def upgrade() -> None:
    op.execute(
        "CREATE FUNCTION rundgang_tell() RETURNS trigger LANGUAGE plpgsql SET search_path = pg_catalog AS $$ "
        "BEGIN PERFORM pg_notify('rundgang_changed', TG_ARGV[0]); RETURN NULL; END $$"
    )
    op.execute(
        "CREATE FUNCTION rundgang_in_turn() RETURNS trigger LANGUAGE plpgsql SET search_path = pg_catalog AS $$ "
        "BEGIN PERFORM pg_advisory_xact_lock(1, hashtext(TG_TABLE_NAME)); RETURN NULL; END $$"
    )
    for table in (*TOLD, "plant_origin"):
        op.execute(
            f"CREATE TRIGGER in_turn BEFORE INSERT ON {table} FOR EACH STATEMENT EXECUTE FUNCTION rundgang_in_turn()"
        )
    for table, what in TOLD.items():
        op.execute(
            f"CREATE TRIGGER told AFTER INSERT ON {table} FOR EACH STATEMENT EXECUTE FUNCTION rundgang_tell('{what}')"
        )
    op.execute(
        "CREATE TRIGGER told AFTER INSERT OR TRUNCATE ON plant_origin "
        "FOR EACH STATEMENT EXECUTE FUNCTION rundgang_tell('plant')"
    )
    op.execute(
        "CREATE FUNCTION rundgang_tell_search() RETURNS trigger LANGUAGE plpgsql SET search_path = pg_catalog AS $$ "
        "BEGIN PERFORM pg_notify('rundgang_search', NEW.id::text); RETURN NULL; END $$"
    )
    op.execute(
        "CREATE TRIGGER told AFTER INSERT ON procrastinate_jobs FOR EACH ROW WHEN (NEW.task_name = 'search') "
        "EXECUTE FUNCTION rundgang_tell_search()"
    )
