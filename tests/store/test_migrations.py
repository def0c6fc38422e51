"""Migrations on a database that has been used: nothing is lost, and the application's role stays small."""

import json
from datetime import date

import psycopg
import pytest
from sqlmodel import Session

from conftest import new_database
from rundgang.demo.ring_line import ring_line
from rundgang.store.cluster import Urls
from rundgang.store.database import connect, migrate
from rundgang.store.repository import Repository


@pytest.fixture
def before(cluster: Urls) -> Urls:
    """An empty database."""
    return new_database(cluster, "used_before", "template0")


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


def test_the_application_may_add_and_read_but_not_change(urls: Urls) -> None:
    with psycopg.connect(urls.app.replace("+psycopg", "")) as connection:
        first = ("library_version", "planning_window", "order_book", "order_line", "line_plan", "probe_entry")
        tables = (*first, "plan_version", "publication", "opening_entry", "search_step", "search_stop")
        for table in (*tables, "conditions_entry"):
            for statement in (f"DELETE FROM {table}", f"UPDATE {table} SET id = id", f"TRUNCATE {table}"):
                with pytest.raises((psycopg.errors.InsufficientPrivilege, psycopg.errors.UndefinedColumn)):
                    connection.execute(statement)
                connection.rollback()
