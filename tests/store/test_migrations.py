"""Migrations on a database that has been used: nothing is lost, and the application's role stays small."""

import json
from datetime import date
from itertools import count
from pathlib import Path

import psycopg
import pytest
from alembic import command
from alembic.config import Config
from psycopg import sql
from sqlmodel import Session, text

from conftest import new_database
from rundgang.core.dough.card import batch_cards
from rundgang.demo.ring_line import ring_line
from rundgang.store import database
from rundgang.store.cluster import Urls
from rundgang.store.database import connect, migrate
from rundgang.store.migrations.one_way import OneWayError
from rundgang.store.repository import Repository

_numbers = count(1)


@pytest.fixture
def before(cluster: Urls) -> Urls:
    """An empty database."""
    return new_database(cluster, f"used_before_{next(_numbers)}", "template0")


def test_a_day_of_the_first_release_is_carried_over(before: Urls) -> None:
    """Library, day, book and probe written before there were several lines are read afterwards."""
    migrate(before.owner, "0002")
    day = ring_line(date(2026, 3, 11)).model_dump(mode="json")
    for step in (step for product in day["products"] for step in product["route"]):
        step.pop("bakes", None)
    plan = {"line": "ring-line", "runs": []}
    with psycopg.connect(before.owner.replace("+psycopg", "")) as old:
        old.execute(
            "INSERT INTO library_version (plant, products) VALUES (%s, %s)",
            [json.dumps(day["plant"]), json.dumps(day["products"])],
        )
        old.execute(
            "INSERT INTO planning_day (library_id, starts_at, minutes, waves, conditions) "
            "VALUES (1, now(), 1080, %s, %s)",
            [json.dumps(day["waves"]), json.dumps(day["conditions"])],
        )
        old.execute("INSERT INTO order_book (day_id, number, origin) VALUES (1, 1, 'old')")
        old.execute(
            "INSERT INTO plan_version (day_id, number, book_id, document, violations) VALUES (1, 1, 1, %s, '[]')",
            [json.dumps(plan)],
        )
        old.execute(
            "INSERT INTO probe_entry (plan_id, run, batch, product, mixer, dough_c, water_c, friction_c, conditions) "
            "VALUES (1, 'R1', 1, 'lantern-plain', 'Mixer Alder', 25.5, 9, 21.5, %s)",
            [json.dumps(day["conditions"])],
        )
    migrate(before.owner)
    with Session(connect(before.owner)) as session:
        store = Repository(session)
        assert store.libraries.number() == 1
        library = store.libraries.read()
        assert library.preparations == ()
        ovens = {product.piece_steps[product.bake_place].station for product in library.products}
        assert ovens == {"oven"}, "what was the hottest step bakes"
        assert store.windows.scenario().stocks == ()
        assert store.plans.newest_lines() == (), "plans from before say nothing of their legs, and go"
        assert [probe.reading.dough_c for probe in store.probes.of("lantern-plain", "Mixer Alder")] == [25.5]
        assert store.books.orders(store.books.row()) == store.windows.scenario().orders


COPIED = (
    "library_version", "planning_window", "order_book", "order_line", "opening_entry", "conditions_entry", "line_plan",
    "plan_version", "publication", "probe_entry",
)  # fmt: skip
"""In an order in which each may name rows of those before it."""


def _copy(source: str, target: str) -> None:
    """Copy the rows of one database into another, as far as that has their tables and columns."""
    plain = (url.replace("+psycopg", "") for url in (source, target))
    with psycopg.connect(next(plain)) as old, psycopg.connect(next(plain)) as new:
        for table in COPIED:
            columns = [
                row[0]
                for row in new.execute(
                    "SELECT column_name FROM information_schema.columns WHERE table_name = %s", [table]
                )
            ]
            names = sql.SQL(", ").join(sql.Identifier(name) for name in columns)
            read = sql.SQL("COPY (SELECT {} FROM {}) TO STDOUT").format(names, sql.Identifier(table))
            write = sql.SQL("COPY {} ({}) FROM STDIN").format(sql.Identifier(table), names)
            with old.cursor().copy(read) as rows, new.cursor().copy(write) as into:
                for data in rows:
                    into.write(data)


@pytest.mark.parametrize("revision", ["0006", "0007", "0008", "0009", "0010"])
def test_a_plant_of_an_earlier_release_is_all_there(cluster: Urls, urls: Urls, revision: str) -> None:
    """Its day, orders, stock, plan and probes, written by the tables of then; and the plant can be taken out whole."""
    with Session(connect(urls.app)) as session:
        store = Repository(session)
        card = batch_cards(store.windows.scenario(), store.plans.floor_plan().plan)[0]
        store.probes.add(store.plans.floor_plan().number, card, 25.5, (), store.windows.scenario().conditions)
        was, plan = store.windows.scenario(), store.plans.version()
    earlier = new_database(cluster, f"release_{revision}", "template0")
    migrate(earlier.owner, revision)
    _copy(urls.owner, earlier.owner)
    migrate(earlier.owner)
    with Session(connect(earlier.app)) as session:
        store = Repository(session)
        assert store.windows.scenario() == was
        now = store.plans.version()
        assert now.plan == plan.plan
        assert store.plans.published() is not None
        assert [probe.reading.dough_c for probe in store.probes.of(card.product, card.mixer)] == [25.5]
        assert store.plants.origin() == ("demo" if revision < "0010" else None)
        assert store.plants.whole().scenario.orders == was.orders


def test_a_database_does_not_go_back(before: Urls) -> None:
    """It is refused with the reason and what is allowed, and nothing has changed."""
    migrate(before.owner)
    config = Config()
    config.set_main_option("script_location", str(Path(database.__file__).with_name("migrations")))
    engine = connect(before.owner)
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        with pytest.raises(OneWayError, match="a backup from before"):
            command.downgrade(config, "0008")
    with Session(engine) as session:
        assert Repository(session).windows.is_empty()
        assert session.execute(text("SELECT version_num FROM alembic_version")).scalar_one() > "0010"


def test_the_application_may_add_and_read_but_not_change(urls: Urls) -> None:
    with psycopg.connect(urls.app.replace("+psycopg", "")) as connection:
        first = ("library_version", "planning_window", "order_book", "order_line", "line_plan", "probe_entry")
        tables = (*first, "plan_version", "publication", "opening_entry", "search_step", "search_stop")
        for table in (*tables, "conditions_entry"):
            for statement in (f"DELETE FROM {table}", f"UPDATE {table} SET id = id", f"TRUNCATE {table}"):
                with pytest.raises((psycopg.errors.InsufficientPrivilege, psycopg.errors.UndefinedColumn)):
                    connection.execute(statement)
                connection.rollback()
