"""Versions of the whole plant's plan, what is published, searches and their steps, stock and blocks; the job queue."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

TABLES = ("day_settings", "plant_version", "publication", "search_step", "search_stop")
QUEUE_TABLES = ("procrastinate_workers", "procrastinate_jobs", "procrastinate_periodic_defers", "procrastinate_events")


def upgrade() -> None:
    _settings()
    _versions()
    _searches()
    op.get_bind().exec_driver_sql(SchemaManager.get_schema().replace("%", "%%"))
    app_exists = op.get_bind().execute(sa.text("SELECT 1 FROM pg_roles WHERE rolname = 'rundgang_app'")).first()
    if app_exists:
        op.execute(f"GRANT SELECT, INSERT ON {', '.join(TABLES)} TO rundgang_app")
        op.execute(f"GRANT SELECT, INSERT, UPDATE, DELETE ON {', '.join(QUEUE_TABLES)} TO rundgang_app")
        op.execute("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO rundgang_app")
    _take_over_plans()


def _numbered(name: str, *columns: Any) -> None:
    op.create_table(
        name,
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        *columns,
    )


def _settings() -> None:
    _numbered(
        "day_settings",
        sa.Column("day_id", sa.Integer, sa.ForeignKey("planning_day.id"), nullable=False),
        sa.Column("origin", sa.Text, nullable=False),
        sa.Column("finished", JSONB, nullable=False),
        sa.Column("blocks", JSONB, nullable=False),
    )
    op.add_column("plan_version", sa.Column("settings_id", sa.Integer, sa.ForeignKey("day_settings.id")))


def _versions() -> None:
    _numbered(
        "plant_version",
        sa.Column("day_id", sa.Integer, sa.ForeignKey("planning_day.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent", sa.Integer),
        sa.Column("restores", sa.Integer),
        sa.Column("author", sa.Text, nullable=False),
        sa.Column("note", sa.Text, nullable=False),
        sa.Column("book_id", sa.Integer, sa.ForeignKey("order_book.id"), nullable=False),
        sa.Column("library_id", sa.Integer, sa.ForeignKey("library_version.id"), nullable=False),
        sa.Column("settings_id", sa.Integer, sa.ForeignKey("day_settings.id")),
        sa.Column("plans", JSONB, nullable=False),
        sa.Column("result", JSONB, nullable=False),
        sa.Column("violations", JSONB, nullable=False),
        sa.Column("job_id", sa.BigInteger, unique=True),
        sa.UniqueConstraint("day_id", "number"),
    )
    _numbered(
        "publication",
        sa.Column("day_id", sa.Integer, sa.ForeignKey("planning_day.id"), nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("author", sa.Text, nullable=False),
    )


def _searches() -> None:
    _numbered(
        "search_step",
        sa.Column("job_id", sa.BigInteger, nullable=False),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("text", sa.Text, nullable=False),
        sa.Column("elapsed_s", sa.Float, nullable=False),
        sa.Column("evaluated", sa.BigInteger, nullable=False),
        sa.Column("cost", sa.Float),
        sa.Column("bound", sa.Float),
        sa.Column("version", sa.Integer),
        sa.Column("arrangement", JSONB),
    )
    op.create_index("search_step_by_job", "search_step", ["job_id", "id"])
    _numbered("search_stop", sa.Column("job_id", sa.BigInteger, nullable=False))


def _take_over_plans() -> None:
    """The newest plans of a day's lines become its first version."""
    bind = op.get_bind()
    newest = bind.execute(
        sa.text(
            "SELECT DISTINCT ON (day_id, line) id, day_id, book_id, library_id, document FROM plan_version "
            "ORDER BY day_id, line, number DESC"
        )
    ).all()
    days: dict[int, list[Any]] = {}
    for row in newest:
        days.setdefault(row.day_id, []).append(row)
    for day, rows in days.items():
        latest = max(rows, key=lambda row: row.id)
        same = [row for row in rows if (row.book_id, row.library_id) == (latest.book_id, latest.library_id)]
        scores = [row.document["score"] for row in same if "score" in row.document]
        if len(scores) < len(same):
            continue
        score = {name: sum(found.get(name, 0) for found in scores) for name in scores[0] if name != "last_pack_min"}
        score["last_pack_min"] = max(found["last_pack_min"] for found in scores)
        result = {"score": score, "tariffs": {}, "cost": 0.0, "bound": 0.0, "proved": False, "evaluated": 0}
        bind.execute(
            sa.text(
                "INSERT INTO plant_version (day_id, number, author, note, book_id, library_id, plans, result, "
                "violations) VALUES (:day, 1, 'Rundgang', 'taken over', :book, :library, CAST(:plans AS jsonb), "
                "CAST(:result AS jsonb), '[]'::jsonb)"
            ),
            {
                "day": day,
                "book": latest.book_id,
                "library": latest.library_id,
                "plans": json.dumps(sorted(row.id for row in same)),
                "result": json.dumps(result),
            },
        )


def downgrade() -> None:
    for table in (*TABLES[1:], *QUEUE_TABLES):
        op.execute(f"DROP TABLE {table} CASCADE")
    op.execute(
        "DO $$ DECLARE made record; BEGIN "
        "FOR made IN SELECT oid::regprocedure AS name FROM pg_proc WHERE proname LIKE 'procrastinate%' "
        "LOOP EXECUTE 'DROP FUNCTION ' || made.name || ' CASCADE'; END LOOP; "
        "FOR made IN SELECT typname AS name FROM pg_type WHERE typname LIKE 'procrastinate%' AND typtype IN ('e', 'c') "
        "LOOP EXECUTE 'DROP TYPE ' || made.name || ' CASCADE'; END LOOP; END $$"
    )
    op.drop_column("plan_version", "settings_id")
    op.drop_table("day_settings")
