"""The store: versions that are never overwritten, the private cluster, least privilege."""

import json
import os
import shutil
import stat
import subprocess
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from sqlmodel import Session

from conftest import new_database, server_url
from rundgang.core.conditions import Conditions
from rundgang.core.dough.card import batch_cards
from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.orders import Order
from rundgang.core.planning.checked import checked
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.store.cluster import HAND_OVER, ClusterError, PrivateCluster, Urls, free_port
from rundgang.store.database import connect, migrate
from rundgang.store.plans import Made
from rundgang.store.repository import Repository
from rundgang.store.rows import NoWindowError


@pytest.fixture
def store(urls: Urls) -> Iterator[Repository]:
    """The demo day through the application's own role."""
    engine = connect(urls.app)
    with Session(engine) as session:
        yield Repository(session)
    engine.dispose()


def order(number: str, packs: int = 10) -> Order:
    return Order(id=number, product="lantern-plain", wave="depot", packs=packs)


def test_a_scenario_survives_the_database(store: Repository, demo: Scenario) -> None:
    assert store.windows.scenario() == demo


def test_books_are_numbered_and_kept(store: Repository) -> None:
    first = store.windows.scenario().orders
    store.books.extend((order("n1"), order("n2")), "two more")
    store.books.replace((order("n3"),), "another day")
    assert [book.number for book in store.books.all(None, 9)] == [3, 2, 1]
    assert store.windows.scenario(1).orders == first
    assert [o.id for o in store.windows.scenario(2).orders][-2:] == ["n1", "n2"]
    assert [o.id for o in store.windows.scenario().orders] == ["n3"]


def test_undo_and_redo_are_both_bringing_back(store: Repository) -> None:
    first = store.windows.scenario().orders
    store.books.replace((order("n1"),), "slip")
    undone = store.books.restore(1)
    assert (undone.number, undone.restores) == (3, 1)
    assert store.windows.scenario().orders == first
    store.books.restore(2)
    assert [o.id for o in store.windows.scenario().orders] == ["n1"]
    with pytest.raises(UnknownItemError, match="no order book “9”"):
        store.books.restore(9)


def test_an_order_number_is_taken_once(store: Repository) -> None:
    with pytest.raises(RundgangError, match="4101 is in the book already"):
        store.books.extend((order("4101").model_copy(update={"wave": "harbour"}),), "again")
    assert store.books.newest().number == 1
    assert store.books.extend((order("4101"),), "the same number for another lorry").number == 2


def test_plans_are_numbered_checked_and_kept_for_their_book(store: Repository, demo: Scenario) -> None:
    store.books.extend((order("n1", 600),), "more")
    plan = plan_plant(store.windows.scenario(2), stop=after_evaluations(5, 5))
    scenario = store.windows.scenario(2)
    version = store.plans.add(plan, Made(book=2, library=1, note="searched"), *checked(scenario, plan))
    (stored,) = version.plans
    assert (stored.number, stored.book, stored.violations) == (2, 2, ())
    assert store.plans.line(2).plan == plan.of("ring-line")
    wrong = store.plans.add(plan, Made(book=1, library=1, note="for other orders"), *checked(demo, plan))
    assert wrong.plans[0].violations, "a plan that does not fit its orders keeps what the check found"
    with pytest.raises(UnknownItemError, match="no plan “7”"):
        store.plans.line(7)


def test_the_newest_conditions_count(store: Repository, demo: Scenario) -> None:
    warm = Conditions(room_c=27, flour_c=26, tap_c=19)
    store.windows.add_conditions(warm)
    assert store.windows.scenario().conditions == warm
    store.windows.add_conditions(demo.conditions)
    assert store.windows.scenario().conditions == demo.conditions


def test_probes_remember_what_their_water_was_calculated_from(store: Repository, demo: Scenario) -> None:
    plan = store.plans.line(1).plan
    card = batch_cards(demo, plan)[0]
    store.probes.add(1, card, 25.6, (demo.conditions.flour_c, demo.conditions.room_c), demo.conditions)
    store.windows.add_conditions(Conditions(room_c=30, flour_c=30, tap_c=20))
    probe = store.probes.of(card.product, card.mixer)[0]
    assert probe.reading.others_c == (demo.conditions.flour_c, demo.conditions.room_c)
    assert store.probes.log(1)[card.run, card.number].dough_c == 25.6
    with pytest.raises(UnknownItemError, match="no plan “5”"):
        store.probes.log(5)


def test_an_empty_database_says_so(cluster: Urls) -> None:
    urls = new_database(cluster, "empty_one", "template0")
    migrate(urls.owner)
    migrate(urls.owner)  # a second time changes nothing
    engine = connect(urls.app)
    with Session(engine) as session:
        assert Repository(session).windows.is_empty()
        with pytest.raises(NoWindowError, match="no plant yet"):
            Repository(session).windows.scenario()
    engine.dispose()


def test_credentials_are_for_the_owner_only(home: Path, cluster: Urls) -> None:
    credentials = home / "credentials.json"
    assert stat.S_IMODE(credentials.stat().st_mode) == 0o600
    passwords = json.loads(credentials.read_text())
    assert len(set(passwords.values())) == 3
    assert all(len(password) >= 24 for password in passwords.values())
    assert passwords["rundgang_app"] in cluster.app


def test_the_application_is_nowhere_more_than_it_needs_to_be(cluster: Urls) -> None:
    for url in cluster:
        with psycopg.connect(url.replace("+psycopg", "")) as connection:
            row = connection.execute(
                "SELECT rolsuper, rolcreatedb, rolcreaterole, rolreplication, rolbypassrls FROM pg_roles "
                "WHERE rolname = current_user"
            ).fetchone()
        assert row == (False,) * 5


def test_a_server_of_an_earlier_release_is_handed_over(cluster: Urls) -> None:
    """There the server's owner had made the tables himself; a table, its sequence, a function and a type."""
    urls = new_database(cluster, "of_before", "template0")
    made = server_url(cluster).removesuffix("postgres") + "of_before"
    with psycopg.connect(made, autocommit=True) as connection:
        connection.execute("CREATE TYPE kind AS ENUM ('rye'); CREATE TABLE loaf (id serial PRIMARY KEY, of kind)")
        connection.execute("CREATE FUNCTION bake() RETURNS int LANGUAGE sql AS 'SELECT 1'")
    with psycopg.connect(urls.owner.replace("+psycopg", "")) as connection:
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            connection.execute("INSERT INTO loaf (of) VALUES ('rye')")
        connection.rollback()
        with psycopg.connect(made, autocommit=True) as server:
            server.execute(HAND_OVER)
            server.execute(HAND_OVER)
        connection.execute("INSERT INTO loaf (of) VALUES ('rye')")
        connection.execute("ALTER TABLE loaf ADD COLUMN grams int")
        connection.execute("ALTER TYPE kind ADD VALUE 'oat'")
        connection.execute("DROP FUNCTION bake()")


def test_lost_passwords_cost_nothing(tmp_path: Path) -> None:
    """Someone removes the folder with the passwords, but not that with the data; or it is of an earlier release."""
    home = tmp_path / "home"
    tmp_path.chmod(0o711)
    tmp_path.parent.chmod(0o711)
    with PrivateCluster(home, durable=False) as urls:
        migrate(urls.owner)
    credentials = home / "credentials.json"
    before = json.loads(credentials.read_text())
    credentials.unlink()
    with PrivateCluster(home, durable=False) as urls, psycopg.connect(urls.app.replace("+psycopg", "")) as connection:
        assert connection.execute("SELECT count(*) FROM planning_window").fetchone() == (0,)
    now = json.loads(credentials.read_text())
    assert all(now[role] != password for role, password in before.items())
    credentials.write_text(json.dumps({"rundgang_owner": now["rundgang_owner"], "rundgang_app": "x" * 24}))
    with PrivateCluster(home, durable=False) as urls:
        migrate(urls.owner)
    assert json.loads(credentials.read_text())["rundgang_app"] == "x" * 24
    PrivateCluster(home).remove()


def test_a_full_disk_is_said_before_a_server_is_made(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    usage = shutil.disk_usage(tmp_path)
    monkeypatch.setattr(shutil, "disk_usage", lambda _: usage._replace(free=9 * 1024 * 1024))
    with pytest.raises(ClusterError, match=r"9 MB are free where the data go, .*; needed: at least 128 MB"):
        PrivateCluster(tmp_path / "home", durable=False).__enter__()


def test_the_cluster_listens_on_loopback_only(cluster: Urls) -> None:
    with psycopg.connect(server_url(cluster)) as connection:
        row = connection.execute("SHOW listen_addresses").fetchone()
        sockets = connection.execute("SHOW unix_socket_directories").fetchone()
    assert row == ("127.0.0.1",)
    assert sockets == ("",)


def test_a_wrong_password_is_refused(cluster: Urls) -> None:
    url = cluster.app.replace("+psycopg", "")
    name, rest = url.split("://")[1].split(":", 1)
    with pytest.raises(psycopg.OperationalError, match="password authentication failed"):
        psycopg.connect(f"postgresql://{name}:wrong@{rest.split('@')[1]}")


def test_one_cluster_a_folder(home: Path, cluster: Urls) -> None:
    with pytest.raises(ClusterError, match="one at a time"), PrivateCluster(home):
        pass


@pytest.mark.skipif(os.geteuid() != 0, reason="only root runs the server as another account")
def test_a_home_the_server_cannot_reach_is_no_obstacle(tmp_path: Path) -> None:
    """A clone in root's own home: the data go where the server's account may live."""
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    made = PrivateCluster(closed, durable=False)
    assert made.data.parent == Path("/var/lib/rundgang")
    with made as urls:
        migrate(urls.owner)
        owner = subprocess.run(["stat", "-c", "%U", made.data], capture_output=True, text=True, check=True).stdout
        assert owner.strip() == "postgres"
    made.remove()
    assert not made.data.exists()


def test_free_ports_are_free() -> None:
    assert 1_024 < free_port() < 65_536
