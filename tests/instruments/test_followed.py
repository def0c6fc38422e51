"""Runs followed by their counters, against the simulated plant, which knows what really happened.

The plant's physics share no code with what follows them: it is told counts and states alone, as instruments give them.
"""

from collections.abc import Iterator
from itertools import pairwise

import pytest
from sqlmodel import Session

from rundgang.core.floor.followed import Counted, Spell, followed, timed_anew
from rundgang.core.floor.now import hours_of, next_on, pace_of, planned_packs, roots
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.past import opened
from rundgang.core.scenario import Scenario
from rundgang.instruments.simulated.chance import Chance, Stop
from rundgang.instruments.simulated.plant import SimulatedPlant
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.plans import StoredVersion
from rundgang.store.repository import Repository


class Calm(Chance):
    """People are late, but nothing stops; or only what is said."""

    def __init__(self, seed: int, *stops: tuple[str, Stop]) -> None:
        super().__init__(seed, bool(stops))
        self.said = stops

    def stops(self, line: str, station: str, heated: bool, until_min: float) -> Iterator[Stop]:
        return (stop for of, stop in self.said if of == station)


@pytest.fixture
def planned(urls: Urls) -> tuple[Scenario, StoredVersion]:
    engine = connect(urls.app)
    with Session(engine) as session:
        store = Repository(session)
        found = store.windows.scenario(), store.plans.version(1)
    engine.dispose()
    return found


def at_work(planned: tuple[Scenario, StoredVersion], chance: Chance) -> SimulatedPlant:
    scenario, version = planned
    plant = SimulatedPlant(scenario.window.starts_at, chance)
    plant.publish(scenario, version.plan.plans, scenario.window.starts_at)
    return plant


def counted(plant: SimulatedPlant, line: str, station: str, since: int, now: int) -> Counted:
    totals = [plant.count(line, station, float(minute)) for minute in range(since, now + 1)]
    rises = tuple(float(after - before) for before, after in pairwise(totals))
    return Counted(float(since), tuple(float(minute) for minute in range(since + 1, now + 1)), rises)


def spells(scenario: Scenario, plant: SimulatedPlant, line: str, now: int) -> list[Spell]:
    """As its states tell them, minute by minute."""
    found = list[Spell]()
    for station in scenario.line(line).stations:
        if station.kind in {"batch", "held"}:
            continue
        states = [
            next(
                v for s, v in plant.readings(float(m)) if (s.line, s.station, s.quantity) == (line, station.id, "state")
            )
            for m in range(now)
        ]
        begin = None
        for minute, state in enumerate([*states, 1.0]):
            if state == 0 and begin is None:
                begin = minute
            if state == 1 and begin is not None:
                found.append(Spell(station=station.id, from_min=begin, until_min=minute if minute < now else None))
                begin = None
    return found


def firsts(scenario: Scenario, plan: LinePlan) -> set[str]:
    return {scenario.product(run.product).piece_steps[0].station for run in plan.runs}


@pytest.mark.whole
@pytest.mark.parametrize("seed", [1, 2])
def test_without_stops_begun_runs_end_within_minutes_of_what_happens(
    planned: tuple[Scenario, StoredVersion], seed: int
) -> None:
    """On every line, at two moments: each begun run's last pack as it is forecast, against when it comes."""
    scenario, version = planned
    plant, off = at_work(planned, Calm(seed)), list[float]()
    for plan in version.plan.plans:
        for now in (420, 1_100):
            fed = {station: counted(plant, plan.line, station, 0, now) for station in firsts(scenario, plan)}
            for one in followed(opened(scenario, version.plan.plans, now), plan, fed, (), now):
                last = scenario.product(one.run.product).piece_steps[-1].station
                end = one.run.last_pack_min
                before, after = (plant.count(plan.line, last, end + by) for by in (-3.0, 3.0))
                off.append(0.0 if after > before else 1.0)
    assert len(off) > 20
    assert sum(off) == 0, "packs of the run come until its forecast end, give or take three minutes"


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_counting_that_begins_in_the_middle_of_a_run_begins_no_other(
    planned: tuple[Scenario, StoredVersion], seed: int
) -> None:
    """People are late, so more of the run on the divider is to come than planned: none of it is the next one's."""
    scenario, version = planned
    plan = version.plan.plans[0]
    plant = at_work(planned, Calm(seed))
    for first, then in pairwise(plan.runs):
        since = int(first.start_min + first.feed_min - 4)
        now = int(then.start_min) - 4
        if now - since < 8:
            continue
        fed = {station: counted(plant, plan.line, station, since, now) for station in firsts(scenario, plan)}
        found = followed(opened(scenario, version.plan.plans, now), plan, fed, (), now)
        assert then.id not in {one.run.id for one in found if one.run.start_min < then.start_min - 3}


def test_a_stop_makes_what_is_on_the_line_later_and_the_plan_that_follows_is_legal(
    planned: tuple[Scenario, StoredVersion],
) -> None:
    scenario, version = planned
    plan = version.plan.plans[0]
    run = max(plan.runs, key=lambda run: run.feed_min)
    at = int(run.start_min + 0.4 * run.feed_min)
    plant, now = at_work(planned, Calm(4, ("oven", Stop(at, at + 25, "drive")))), at + 40
    stood = roots(scenario, plan.line, spells(scenario, plant, plan.line, now))
    assert [spell.station for spell in stood] == ["oven"], "what it held up did not stop for itself"
    assert stood[0].until_min == pytest.approx(at + 25, abs=1)
    then = opened(scenario, version.plan.plans, now)
    fed = {station: counted(plant, plan.line, station, 0, now) for station in firsts(scenario, plan)}
    found = {one.run.id: one for one in followed(then, plan, fed, stood, now)}
    assert found[run.id].late_min == pytest.approx(25, abs=6)
    after, retimed = timed_anew(then, version.plan, plan.line, tuple(found.values()))
    assert check_plant(after, retimed.plan.plans) == ()
    assert retimed.plan.of(plan.line).score.last_pack_min >= plan.score.last_pack_min


def test_every_pack_that_an_hour_lacks_has_one_cause(planned: tuple[Scenario, StoredVersion]) -> None:
    scenario, version = planned
    plan = version.plan.plans[0]
    run = max(plan.runs, key=lambda run: run.feed_min)
    at = int(run.first_pack_min + 20)
    plant, now = at_work(planned, Calm(2, ("bagger", Stop(at, at + 18, "drive")))), at + 120
    packs = counted(plant, plan.line, "bagger", 0, now)
    stood = roots(scenario, plan.line, spells(scenario, plant, plan.line, now))
    hours = hours_of(scenario, plan, packs, stood, [60.0 * hour for hour in range(now // 60 + 3)], now)
    for hour in hours:
        assert hour.lost == sum(cause.packs for cause in hour.causes)
        if hour.made is not None and hour.until_min <= now:
            assert hour.lost == max(0, hour.planned - hour.made)
    named = sum(cause.packs for hour in hours for cause in hour.causes if cause.station == "bagger")
    assert named == pytest.approx(18 / 60 * run.packs / (run.last_pack_min - run.first_pack_min) * 60, rel=0.15)
    assert [hour.made for hour in hours if hour.from_min >= now] == [None] * sum(h.from_min >= now for h in hours)


def test_pace_and_what_comes_next(planned: tuple[Scenario, StoredVersion]) -> None:
    _, version = planned
    plan = version.plan.plans[0]
    run = max(plan.runs, key=lambda run: run.feed_min)
    now = int(run.first_pack_min + 60)
    plant = at_work(planned, Calm(2))
    pace = pace_of(plan, counted(plant, plan.line, "bagger", now - 50, now), now)
    assert pace.planned == round(planned_packs(plan, now) - planned_packs(plan, now - 50))
    assert pace.per_h == pytest.approx(pace.planned_per_h, rel=0.03)
    coming = next_on(plan, now)
    assert [one.at_min for one in coming] == sorted(one.at_min for one in coming)
    assert all(now <= one.at_min for one in coming)
    ends = next(one for one in coming if one.what == "ends")
    assert any(run.id == ends.run and run.start_min + run.feed_min == ends.at_min for run in plan.runs)


def test_a_count_is_known_between_its_stretches() -> None:
    count = Counted(10.0, (11.0, 12.0, 13.0), (4.0, 0.0, 8.0))
    assert [count.risen_by(minute) for minute in (9, 10, 10.5, 11.7, 12.25, 20)] == [0, 0, 2, 4, 6, 12]
    assert (count.when(2), count.when(4), count.when(8), count.when(13)) == (10.5, 11.0, 12.5, None)
