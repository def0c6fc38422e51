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


@pytest.mark.parametrize("revision", ["0002", "0003", "0004", "0005"])
def test_a_day_of_the_first_releases_is_carried_over(before: Urls, revision: str) -> None:
    """Library, day, book, orders and probe written by the tables of then are read afterwards."""
    migrate(before.owner, revision)
    scenario = ring_line(date(2026, 3, 11))
    day = scenario.model_dump(mode="json")
    for step in (step for product in day["products"] for step in product["route"]):
        step.pop("bakes", None)
    window, of = ("planning_window", "window_id") if revision >= "0005" else ("planning_day", "day_id")
    probe: dict[str, object] = {
        "run": "R1", "batch": 1, "product": "lantern-plain", "mixer": "Mixer Alder", "dough_c": 25.5, "water_c": 9,
        "friction_c": 21.5, "conditions": json.dumps(day["conditions"]),
    }  # fmt: skip
    with psycopg.connect(before.owner.replace("+psycopg", "")) as old:

        def insert(table: str, **values: object) -> None:
            names = sql.SQL(", ").join(map(sql.Identifier, values))
            row = sql.SQL("INSERT INTO {} ({}) VALUES ({})")
            places = sql.SQL(", ").join(sql.Placeholder() * len(values))
            old.execute(row.format(sql.Identifier(table), names, places), list(values.values()))

        insert("library_version", plant=json.dumps(day["plant"]), products=json.dumps(day["products"]))
        insert(
            window,
            library_id=1,
            starts_at=scenario.window.starts_at,
            minutes=1_080,
            waves=json.dumps(day["waves"]),
            conditions=json.dumps(day["conditions"]),
        )
        insert("order_book", number=1, origin="old", **{of: 1})
        for position, order in enumerate(scenario.orders):
            wanted = {"product": order.product, "wave": order.wave, "packs": order.packs}
            insert("order_line", book_id=1, position=position, order_no=order.id, **wanted)
        if revision < "0005":
            plan = {"number": 1, "book_id": 1, "violations": "[]"}
            lined = {"line": "ring-line", "library_id": 1} if revision >= "0003" else {}
            document = json.dumps({"line": "ring-line", "runs": []})
            insert("plan_version", document=document, **plan, **lined, **{of: 1})
            probe["plan_id"] = 1
        if revision >= "0003":
            probe["others_c"] = json.dumps([day["conditions"]["flour_c"], day["conditions"]["room_c"]])
        insert("probe_entry", **probe)
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
        assert store.books.orders(store.books.row()) == store.windows.scenario().orders == scenario.orders


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


@pytest.mark.parametrize("revision", ["0006", "0007", "0008", "0009", "0010", "0011", "0012", "0013", "0014"])
def test_a_plant_of_an_earlier_release_is_all_there(cluster: Urls, urls: Urls, revision: str) -> None:
    """Its day, orders, stock, plan and probes, written by the tables of then; and the plant can be taken out whole."""
    with Session(connect(urls.app)) as session:
        store = Repository(session)
        card = batch_cards(store.windows.scenario(), store.plans.floor_plan().plan)[0]
        store.probes.add(store.plans.floor_plan().number, card, 25.5, (), store.windows.scenario().conditions)
        session.commit()
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
