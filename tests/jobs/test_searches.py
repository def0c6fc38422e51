"""Searches as jobs: run by workers of their own, watched, stopped and kept, and never lost when a worker is killed."""

import json
import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from multiprocessing import get_context
from multiprocessing.process import BaseProcess
from random import Random
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlmodel import Session, col, func, select

from listening import listening
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import Arrangement, Progress, after_evaluations
from rundgang.jobs.islands import Exchange
from rundgang.jobs.queue import work
from rundgang.jobs.requests import SearchRequest, SearchState, last_arrangement, state_of
from rundgang.jobs.search import BROKE_OFF, AbortedError, run_search
from rundgang.settings import Settings
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.repository import Repository
from rundgang.store.tables import PlanVersion, SearchStep

PATIENCE_S = 60

CLOCK = Settings().clock()


@contextmanager
def worker(urls: Urls) -> Iterator[subprocess.Popen[bytes]]:
    """A worker in a process of its own, as on another machine: it knows the database's URL and nothing else."""
    process = subprocess.Popen(
        [sys.executable, "-m", "rundgang.cli", "worker"],
        env={**os.environ, "DATABASE_URL": urls.app},
        stderr=subprocess.DEVNULL,
    )
    try:
        yield process
    finally:
        if process.poll() is None:
            process.terminate()
            process.wait(timeout=20)


def ask(client: TestClient, **request: object) -> int:
    answer = client.post("/api/searches", json=request)
    assert answer.status_code == 202, answer.text
    return int(answer.json()["job"])


def until(client: TestClient, job: int, *states: str) -> SearchState:
    """The search's state once it is one of these."""
    end = time.monotonic() + PATIENCE_S
    while time.monotonic() < end:
        state = SearchState.model_validate(client.get(f"/api/searches/{job}").json())
        if state.state in states:
            return state
        time.sleep(0.1)
    raise AssertionError(f"search {job} is not {states} after {PATIENCE_S} s: {state}")


def test_a_search_becomes_a_version(client: TestClient, urls: Urls) -> None:
    job = ask(client, seconds=1, author="Ida")
    assert client.get(f"/api/searches/{job}").json()["state"] == "waiting"
    assert [found["job"] for found in client.get("/api/searches").json()] == [job]
    with worker(urls):
        done = until(client, job, "done")
    version = client.get(f"/api/versions/{done.version}").json()
    assert version["note"]["author"] == "Ida"
    assert version["violations"] == []
    assert version["cost"] == pytest.approx(done.cost)
    assert version["bound"] <= version["cost"]
    assert done.evaluated >= 1
    assert client.get("/api/searches").json() == []


def test_a_search_is_watched_and_stopped_and_kept(client: TestClient, urls: Urls, address: str) -> None:
    states = list[SearchState]()
    with listening(address) as told, worker(urls):
        job = ask(client, seconds=600)
        while not states or states[-1].state != "done":
            kind, data = told.get(timeout=PATIENCE_S)
            if kind == "search":
                states.append(SearchState.model_validate_json(data))
            if len(states) == 3:
                assert client.post(f"/api/searches/{job}/stop").status_code == 202
    assert {state.job for state in states} == {job}
    assert states[0].state == "waiting"
    assert states[-1].version is not None
    costs = [state.cost for state in states if state.cost is not None]
    assert costs == sorted(costs, reverse=True), "the best so far never gets worse"
    assert states[-1].elapsed_s < 60


def test_a_search_in_which_nothing_can_be_made_says_what_is_left_out(client: TestClient, urls: Urls) -> None:
    """The bagger stands all the time: a plan comes all the same, and names all that it does not make."""
    opening = client.get("/api/opening").json()
    closed = {
        "id": "all-day",
        "line": "ring-line",
        "station": "bagger",
        "kind": "repair",
        "from_min": 0,
        "to_min": 20_000,
        "reason": "burner out",
    }
    answer = client.post("/api/opening", json={"finished": [], "blocks": [closed], "seen": opening["number"]})
    assert answer.status_code == 201, answer.text
    job = ask(client, seconds=1)
    with worker(urls):
        done = until(client, job, "done")
    plan = client.get(f"/api/versions/{done.version}").json()["plans"][0]["plan"]
    assert plan["runs"] == []
    assert sum(left["packs"] for left in plan["left_out"]) == client.get("/api/window").json()["packs"]


def test_an_unknown_line_or_version_is_refused_before_it_waits(client: TestClient) -> None:
    assert client.post("/api/searches", json={"lines": ["moon"]}).status_code == 404
    assert client.post("/api/searches", json={"start": 99}).status_code == 404
    assert client.post("/api/searches", json={"seconds": -1}).status_code == 422
    assert client.get("/api/searches/77").status_code == 404
    assert client.post("/api/searches/77/stop").status_code == 404


@pytest.mark.whole
def test_searching_one_line_keeps_the_others(client: TestClient, urls: Urls) -> None:
    before = {plan["plan"]["line"]: plan["number"] for plan in client.get("/api/versions/1").json()["plans"]}
    job = ask(client, seconds=0, lines=["biscuit-line"])
    engine = connect(urls.app)
    run_search(engine, job, SearchRequest(seconds=0, lines=("biscuit-line",)), lambda: False, CLOCK)
    engine.dispose()
    view = client.get("/api/versions/2").json()
    assert view["violations"] == []
    after = {plan["plan"]["line"]: plan["number"] for plan in view["plans"]}
    assert after.keys() == before.keys()
    assert {line for line in before if after[line] != before[line]} == {"biscuit-line"}


def test_a_job_run_twice_is_stored_once(client: TestClient, urls: Urls) -> None:
    """As when a worker is killed after it has stored the version, but before the queue knows."""
    job = ask(client, seconds=0)
    engine = connect(urls.app)
    for _ in range(2):
        run_search(engine, job, SearchRequest(seconds=0), lambda: False, CLOCK)
    with Session(engine) as session:
        assert len(session.exec(select(PlanVersion).where(PlanVersion.job_id == job)).all()) == 1
        assert state_of(session, job).state == "done"
    engine.dispose()


def test_a_search_that_finds_nothing_better_says_so_and_is_no_version(client: TestClient, urls: Urls) -> None:
    before = len(client.get("/api/versions").json())
    job = ask(client, seconds=0, start=1)
    engine = connect(urls.app)
    run_search(engine, job, SearchRequest(seconds=0, start=1), lambda: False, CLOCK)
    engine.dispose()
    state = client.get(f"/api/searches/{job}").json()
    assert (state["state"], state["version"]) == ("done", None)
    assert state["text"].startswith("Nothing better than version 1 was found")
    assert len(client.get("/api/versions").json()) == before


def test_an_error_of_its_own_ends_a_search_in_words(
    client: TestClient, urls: Urls, monkeypatch: pytest.MonkeyPatch
) -> None:  # fmt: skip
    job = ask(client, seconds=1)
    engine = connect(urls.app)

    def broken(*_: object, **__: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr("rundgang.jobs.search.plan_plant", broken)
    with pytest.raises(ZeroDivisionError):
        run_search(engine, job, SearchRequest(seconds=1), lambda: False, CLOCK)
    engine.dispose()
    state = client.get(f"/api/searches/{job}").json()
    assert (state["state"], state["text"]) == ("failed", BROKE_OFF)


@pytest.mark.whole
def test_a_search_whose_window_has_gone_on_meanwhile_says_so_and_stores_nothing(
    client: TestClient, urls: Urls, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its plan is of a window that nobody works by any more: the next window's versions stay as they are."""
    job, engine = ask(client, seconds=0), connect(urls.app)
    window = client.get("/api/window").json()["number"]

    def overtaken(*parts: Any, **more: Any) -> PlantPlan:
        gone = client.post("/api/windows/next", json={}, headers={"Rundgang-Window": str(window)})
        assert gone.status_code == 201, gone.text
        return plan_plant(*parts, **more)

    monkeypatch.setattr("rundgang.jobs.search.plan_plant", overtaken)
    run_search(engine, job, SearchRequest(seconds=0, window=window), lambda: False, CLOCK)
    with Session(engine) as session:
        state = state_of(session, job)
    engine.dispose()
    assert state.state == "failed"
    assert "gone on" in state.text
    assert [note["number"] for note in client.get("/api/versions").json()] == [1]


def test_a_worker_that_is_told_to_stop_hands_its_job_back(client: TestClient, urls: Urls) -> None:
    """At once and by name: the queue has it again, and the next worker goes on where the first was."""
    job = ask(client, seconds=600)
    with worker(urls) as first:
        until(client, job, "running")
        first.terminate()
        first.wait(timeout=20)
        left = until(client, job, "waiting")
    with worker(urls):
        until(client, job, "running")
        client.post(f"/api/searches/{job}/stop")
        done = until(client, job, "done")
    assert done.version is not None
    assert done.elapsed_s >= left.elapsed_s


def test_a_search_whose_worker_is_dead_waits(client: TestClient, urls: Urls) -> None:
    job = ask(client, seconds=600)
    with worker(urls) as first:
        until(client, job, "running")
        first.kill()
        first.wait()
        until(client, job, "waiting")


def test_a_worker_that_shuts_down_leaves_the_job_with_its_order(client: TestClient, urls: Urls) -> None:
    job = ask(client, seconds=30)
    engine = connect(urls.app)
    begin = time.monotonic()
    with pytest.raises(AbortedError):
        run_search(engine, job, SearchRequest(seconds=30), lambda: time.monotonic() - begin > 3, CLOCK)
    with Session(engine) as session:
        assert state_of(session, job).state == "waiting"
        kept = last_arrangement(session, job)
    assert kept is not None
    assert set(kept) == {"ring-line"}
    engine.dispose()


def test_no_job_is_lost_and_no_plan_half_written_when_workers_are_killed(client: TestClient, urls: Urls) -> None:
    """Twenty workers killed in the middle of a search; then one is left to finish what they had begun."""
    random, spawn = Random(1), get_context("forkserver")
    spawn.set_forkserver_preload(["rundgang.jobs.queue"])
    jobs = [ask(client, seconds=600, seed=seed) for seed in range(2)]
    engine = connect(urls.app)

    def steps(session: Session) -> int:
        return session.exec(select(func.count(col(SearchStep.id)))).one()

    def start() -> BaseProcess:
        process = spawn.Process(target=work, args=(urls.app, 1.0))
        process.start()
        return process

    for _ in range(20):
        with Session(engine) as session:
            before = steps(session)
            process = start()
            end = time.monotonic() + PATIENCE_S
            while steps(session) == before and time.monotonic() < end:
                time.sleep(0.05)
            assert steps(session) > before, "it has taken a job up"
            time.sleep(random.uniform(0.0, 1.0))
            process.kill()
            process.join()
            for row in session.exec(select(PlanVersion)).all():
                stored = Repository(session).plans.version(row.number)
                assert [plan.plan.line for plan in stored.plans] == ["ring-line"], "never half a version"
    for job in jobs:
        client.post(f"/api/searches/{job}/stop")
    process = start()
    found = [until(client, job, "done") for job in jobs]
    process.terminate()
    process.join()
    with Session(engine) as session:
        store = Repository(session)
        assert len({state.version for state in found}) == 2
        for state in found:
            version = store.plans.version(state.version)
            assert check_plant(store.windows.scenario(), version.plan.plans) == ()
            of_job = session.exec(select(SearchStep).where(SearchStep.job_id == state.job)).all()
            elapsed = [step.elapsed_s for step in sorted(of_job, key=lambda step: step.id or 0)]
            assert elapsed == sorted(elapsed), "time goes on where the last worker left it"
    engine.dispose()


def test_states_are_json_without_surprises(client: TestClient) -> None:
    job = ask(client, seconds=5, weights={"packs_short": 70})
    state = json.loads(client.get(f"/api/searches/{job}").text)
    assert state["request"]["weights"]["packs_short"] == 70
    assert state["cost"] is None


def test_all_workers_search_for_the_same_and_a_lost_one_costs_nothing(client: TestClient, urls: Urls) -> None:
    """Two workers: the second takes an island of the first one's search, is killed, and the search ends as ever."""
    with worker(urls), worker(urls) as second:
        job = ask(client, seconds=600)
        end = time.monotonic() + PATIENCE_S
        while until(client, job, "running").workers < 2:
            assert time.monotonic() < end, "the second worker has taken no island"
            time.sleep(0.2)
        second.kill()
        second.wait()
        client.post(f"/api/searches/{job}/stop")
        done = until(client, job, "done")
    assert done.version is not None
    assert client.get(f"/api/versions/{done.version}").json()["violations"] == []


def test_islands_go_on_from_the_best_order_of_each_other(client: TestClient, urls: Urls) -> None:
    """An island that has found nothing yet hears of the order another has told, and ends no worse."""
    job = ask(client, seconds=1)
    engine = connect(urls.app)
    with Session(engine) as session:
        day = Repository(session).windows.scenario()
        orders: list[tuple[float, Arrangement]] = []
        plan_plant(day, seed=3, watch=lambda progress, found: orders.append((progress.cost, found())))
        cost, best = orders[-1]
        assert Exchange(session, job, 1).tell(Progress(1, 1, cost, 0.0), lambda: best) is None
        heard: list[float] = []

        def watch(progress: Progress, found: Callable[[], Arrangement]) -> Arrangement | None:
            heard.append(progress.cost)
            return exchange.tell(progress, found)

        exchange = Exchange(session, job, 0)
        plan = plan_plant(day, seed=4, watch=watch, stop=after_evaluations(200, 200))
    engine.dispose()
    assert heard[0] > cost
    assert plan.cost == pytest.approx(min(cost, *heard))
