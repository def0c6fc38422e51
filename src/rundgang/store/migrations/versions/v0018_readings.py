"""Instruments and what they read: every reading by the day, and of older days what each minute was."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from rundgang.store.migrations.one_way import downgrade  # noqa: F401  (Alembic looks for it here)

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None

TABLES = """
CREATE TABLE signal (
    id serial PRIMARY KEY,
    line text NOT NULL, station text NOT NULL, quantity text NOT NULL, zone integer NOT NULL,
    UNIQUE (line, station, quantity, zone)
);
CREATE TABLE reading (
    signal_id integer NOT NULL, at timestamptz NOT NULL, value double precision NOT NULL,
    PRIMARY KEY (signal_id, at)
) PARTITION BY RANGE (at);
CREATE TABLE reading_minute (
    signal_id integer NOT NULL, at timestamptz NOT NULL,
    mean double precision NOT NULL, least double precision NOT NULL, most double precision NOT NULL,
    first double precision NOT NULL, last double precision NOT NULL, readings integer NOT NULL,
    PRIMARY KEY (signal_id, at)
);
CREATE TABLE instrument_beat (
    source text PRIMARY KEY, beaten_at timestamptz NOT NULL, says text NOT NULL, missing jsonb NOT NULL
);
"""

ROOM_FOR = """
CREATE FUNCTION rundgang_room_for(day date) RETURNS void LANGUAGE plpgsql SECURITY DEFINER
SET search_path = public, pg_temp AS $$
DECLARE name text := 'reading_' || to_char(day, 'YYYYMMDD');
BEGIN
    PERFORM pg_advisory_xact_lock(1, hashtext('reading'));
    IF to_regclass(name) IS NULL THEN
        EXECUTE format('CREATE TABLE %I PARTITION OF reading FOR VALUES FROM (%L) TO (%L)',
            name, day::timestamp AT TIME ZONE 'UTC', (day + 1)::timestamp AT TIME ZONE 'UTC');
    END IF;
END $$
"""
"""Room for a day's readings; days are of UTC, so that each has 24 hours."""

THIN = """
CREATE FUNCTION rundgang_thin(before date) RETURNS integer LANGUAGE plpgsql SECURITY DEFINER
SET search_path = public, pg_temp AS $$
DECLARE part record; thinned integer := 0;
BEGIN
    PERFORM pg_advisory_xact_lock(1, hashtext('reading'));
    FOR part IN
        SELECT c.relname FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid
        WHERE i.inhparent = 'reading'::regclass AND c.relname < 'reading_' || to_char(before, 'YYYYMMDD')
        ORDER BY c.relname
    LOOP
        EXECUTE format('INSERT INTO reading_minute '
            'SELECT signal_id, date_trunc(''minute'', at), avg(value), min(value), max(value), '
            '(array_agg(value ORDER BY at))[1], (array_agg(value ORDER BY at DESC))[1], count(*) '
            'FROM %I GROUP BY 1, 2 ON CONFLICT DO NOTHING', part.relname);
        EXECUTE format('DROP TABLE %I', part.relname);
        thinned := thinned + 1;
    END LOOP;
    RETURN thinned;
END $$
"""
"""Of the days before one, each minute's mean, least, most, first and last; the readings themselves go."""

DISCARD = """
CREATE OR REPLACE FUNCTION rundgang_discard_demo() RETURNS void LANGUAGE plpgsql SECURITY DEFINER
SET search_path = public, pg_temp AS $$ BEGIN
IF (SELECT origin FROM plant_origin ORDER BY id DESC LIMIT 1) IS DISTINCT FROM 'demo' THEN
RAISE EXCEPTION 'the plant is not the demo'; END IF;
TRUNCATE plant_origin, library_version, calendar_version, planning_window, order_book, order_line,
order_mapping, line_plan, opening_entry, plan_version, publication, search_step, search_find, search_stop,
conditions_entry, conditions_withdrawal, probe_entry, probe_withdrawal, instruments_version, reading,
reading_minute, instrument_beat;
DELETE FROM procrastinate_jobs WHERE status <> 'doing'; END $$
"""


def upgrade() -> None:
    op.create_table(
        "instruments_version",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("origin", sa.Text, nullable=False),
        sa.Column("document", JSONB, nullable=False),
    )
    for statement in (TABLES, ROOM_FOR, THIN, DISCARD):
        op.execute(statement)
    for function in ("room_for(date)", "thin(date)"):
        op.execute(f"REVOKE ALL ON FUNCTION rundgang_{function} FROM PUBLIC")
    op.execute(
        "CREATE TRIGGER in_turn BEFORE INSERT ON instruments_version "
        "FOR EACH STATEMENT EXECUTE FUNCTION rundgang_in_turn()"
    )
    op.execute(
        "CREATE TRIGGER told AFTER INSERT ON instruments_version "
        "FOR EACH STATEMENT EXECUTE FUNCTION rundgang_tell('instruments')"
    )
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute("GRANT SELECT, INSERT ON instruments_version, signal, reading, reading_minute TO rundgang_app")
        op.execute("GRANT SELECT, INSERT, UPDATE ON instrument_beat TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
        op.execute("GRANT EXECUTE ON FUNCTION rundgang_room_for(date), rundgang_thin(date) TO rundgang_app")
