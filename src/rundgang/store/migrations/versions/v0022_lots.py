"""What was made: lots, what went into what, what became of each, what was loaded on which lorry; each row once."""

import sqlalchemy as sa
from alembic import op

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None

TABLES = """
CREATE TABLE lot (
    id serial PRIMARY KEY, created_at timestamptz NOT NULL DEFAULT now(),
    code text NOT NULL UNIQUE,
    kind text NOT NULL CHECK (kind IN ('material', 'batch', 'packs')),
    item text NOT NULL, line text, run text, batch text,
    window_id integer NOT NULL REFERENCES planning_window (id),
    at timestamptz NOT NULL, until_at timestamptz NOT NULL,
    amount double precision NOT NULL CHECK (amount >= 0),
    best_before date, supplier text, said jsonb NOT NULL DEFAULT '{}', author text NOT NULL
);
CREATE INDEX lot_of_item ON lot (kind, item, at);
CREATE INDEX lot_of_run ON lot (line, run, kind);
CREATE INDEX lot_by_time ON lot (kind, at);
CREATE INDEX lot_made ON lot (until_at, id);
CREATE TABLE lot_use (
    id serial PRIMARY KEY, created_at timestamptz NOT NULL DEFAULT now(),
    uuid uuid UNIQUE,
    lot_id integer REFERENCES lot (id), into_id integer NOT NULL REFERENCES lot (id),
    item text NOT NULL, amount double precision NOT NULL CHECK (amount >= 0),
    kind text NOT NULL, at timestamptz NOT NULL, said jsonb NOT NULL DEFAULT '{}', author text NOT NULL
);
CREATE INDEX lot_use_from ON lot_use (lot_id) INCLUDE (into_id, amount);
CREATE INDEX lot_use_into ON lot_use (into_id) INCLUDE (lot_id, amount);
CREATE TABLE lot_event (
    id serial PRIMARY KEY, created_at timestamptz NOT NULL DEFAULT now(),
    uuid uuid UNIQUE,
    lot_id integer NOT NULL REFERENCES lot (id), kind text NOT NULL, at timestamptz NOT NULL,
    said jsonb NOT NULL DEFAULT '{}', author text NOT NULL
);
CREATE INDEX lot_event_of ON lot_event (lot_id, kind);
CREATE INDEX lot_event_kind ON lot_event (kind, at);
CREATE TABLE lot_load (
    id serial PRIMARY KEY, created_at timestamptz NOT NULL DEFAULT now(),
    uuid uuid UNIQUE,
    lot_id integer NOT NULL REFERENCES lot (id),
    window_id integer NOT NULL REFERENCES planning_window (id), lorry text NOT NULL, product text NOT NULL,
    packs integer NOT NULL, at timestamptz NOT NULL, author text NOT NULL
);
CREATE INDEX lot_load_of ON lot_load (lot_id) INCLUDE (packs);
CREATE INDEX lot_load_on ON lot_load (lorry);
CREATE TABLE lorry_gone (
    id serial PRIMARY KEY, created_at timestamptz NOT NULL DEFAULT now(),
    uuid uuid UNIQUE, lorry text NOT NULL UNIQUE,
    window_id integer NOT NULL REFERENCES planning_window (id),
    at timestamptz NOT NULL, said jsonb NOT NULL DEFAULT '{}', author text NOT NULL
);
"""
"""A use without a lot: nobody knows which. An amount loaded may be below nothing: taken off again."""

NEW = ("lot", "lot_use", "lot_event", "lot_load", "lorry_gone")

DISCARD = """
CREATE OR REPLACE FUNCTION rundgang_discard_demo() RETURNS void LANGUAGE plpgsql SECURITY DEFINER
SET search_path = public, pg_temp AS $$ BEGIN
IF (SELECT origin FROM plant_origin ORDER BY id DESC LIMIT 1) IS DISTINCT FROM 'demo' THEN
RAISE EXCEPTION 'the plant is not the demo'; END IF;
TRUNCATE plant_origin, library_version, calendar_version, planning_window, order_book, order_line,
order_mapping, line_plan, opening_entry, plan_version, publication, search_step, search_find, search_stop,
conditions_entry, conditions_withdrawal, probe_entry, probe_withdrawal, instruments_version, reading,
reading_minute, instrument_beat, inspections_version, inspection_entry, stop_entry, stop_event,
lot, lot_use, lot_event, lot_load, lorry_gone;
DELETE FROM procrastinate_jobs WHERE status <> 'doing'; END $$
"""


def upgrade() -> None:
    op.execute(TABLES)
    for table in NEW:
        op.execute(
            f"CREATE TRIGGER told AFTER INSERT ON {table} FOR EACH STATEMENT EXECUTE FUNCTION rundgang_tell('lots')"
        )
    op.execute("ALTER TABLE opening_entry ADD COLUMN gives jsonb NOT NULL DEFAULT '[]'")
    op.execute("ALTER TABLE opening_entry ADD COLUMN loaded jsonb NOT NULL DEFAULT '[]'")
    op.execute(DISCARD)
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute(f"GRANT SELECT, INSERT ON {', '.join(NEW)} TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
