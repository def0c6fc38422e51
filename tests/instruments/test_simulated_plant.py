"""The simulated plant: its own physics against the plan's, what a stop does, and a past that stays as it was.

Two reckonings that share no code agree where nothing happens; where something does, what happens follows from the
station's kind (facts of the trade: common practice, no published source).
"""

import os
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as some

from random_plants import random_plant
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.planning.repair import Pace, repair
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.instruments.simulated.chance import Chance, Stop
from rundgang.instruments.simulated.line import PARCEL_MIN
from rundgang.instruments.simulated.plant import SimulatedPlant
from rundgang.instruments.simulated.standing import Standing
from rundgang.store.cluster import Urls
from simulated import Told, at_work, planned_in

PLANTS, FIRST = int(os.environ.get("SOAK_PLANTS", "25")), int(os.environ.get("SOAK_FIRST", "0"))

LATE = 100_000.0
"""A minute behind all that happens."""


@pytest.fixture
def planned(urls: Urls) -> tuple[Scenario, PlantPlan]:
    """A scenario and its plan, from the tests' database."""
    return planned_in(urls)


def ends_of(scenario: Scenario, plan: LinePlan) -> set[str]:
    """The stations at which a line's packs come off."""
    made = {run.product for run in plan.runs} | {cut.product for cut in plan.cut_runs}
    return {scenario.product(name).piece_steps[-1].station for name in made}


def assert_it_happens(scenario: Scenario, whole: PlantPlan) -> None:
    """Each run's packs come off within a minute of when the plan says, and as many of them."""
    plant = at_work((scenario, whole), Told())
    for plan in whole.plans:
        given = sum(run.packs for run in plan.giving)
        made = sum(plant.count(plan.line, station, LATE) for station in ends_of(scenario, plan))
        assert made == pytest.approx(given, abs=2 * len(plan.giving)), plan.line
        for run in plan.runs:
            last = scenario.product(run.product).piece_steps[-1].station
            first, ends = run.first_pack_min, run.last_pack_min
            before, after = (plant.count(plan.line, last, first + off) for off in (-1, 1 + PARCEL_MIN))
            assert after > before, f"{run.id} of {plan.line} gives its first pack when the plan says"
            before, after = (plant.count(plan.line, last, ends + off) for off in (-1 - PARCEL_MIN, 1))
            assert after > before, f"{run.id} of {plan.line} gives its last pack when the plan says"


@pytest.mark.whole
def test_where_nothing_happens_the_plan_happens(planned: tuple[Scenario, PlantPlan]) -> None:
    assert_it_happens(*planned)


@pytest.mark.parametrize("seed", range(FIRST, FIRST + PLANTS))
def test_where_nothing_happens_the_plan_of_any_plant_happens(seed: int) -> None:
    """Plants at random, with loads, stores, zones, tools, rooms, centres, lines that share; more in `script/soak`."""
    scenario = random_plant(seed)
    assert_it_happens(scenario, plan_plant(scenario, seed=seed, stop=after_evaluations(15, 15)))


@given(
    stretches=some.lists(some.tuples(some.integers(0, 200), some.integers(1, 30)), max_size=12),
    at=some.integers(0, 200),
    running=some.integers(1, 120),
)
def test_a_belt_has_run_so_long_when_as_many_minutes_outside_of_its_stops_are_over(
    stretches: list[tuple[int, int]], at: int, running: int
) -> None:
    """By brute force, minute by minute."""
    standing = Standing((begin, begin + lasts) for begin, lasts in stretches)
    stood = {minute for begin, lasts in stretches for minute in range(begin, begin + lasts)}
    ran = [minute for minute in range(at, at + 1_000) if minute not in stood]
    assert standing.after(at, running) == ran[running - 1] + 1
    assert standing.runs_from(at) == ran[0]
    assert standing.ran(at, at + running) == sum(minute not in stood for minute in range(at, at + running))
    assert all(standing.stands_at(minute) == (minute in stood) for minute in range(260))
    assert all(end < begin for end, begin in zip(standing.ends, standing.begins[1:], strict=False))


def _during_a_run(planned: tuple[Scenario, PlantPlan], station: str) -> tuple[float, float]:
    """A moment at which a station is full of a run, and how long a piece is there, min."""
    scenario, whole = planned
    plan = whole.plans[0]
    run = max(plan.runs, key=lambda run: run.feed_min)
    product, line, at = scenario.product(run.product), scenario.line(plan.line), run.start_min
    for step in product.piece_steps:
        stays = line.operation(step).dwell_min
        if step.station == station:
            return at + stays + 5, stays
        at += stays + line.piece_station(step.station).transfer_min
    raise AssertionError(station)


@pytest.mark.parametrize("minutes", [5.0, 20.0])
def test_what_bakes_while_the_oven_stands_is_lost_and_all_else_comes_later(
    planned: tuple[Scenario, PlantPlan], minutes: float
) -> None:
    _, whole = planned
    at, stays = _during_a_run(planned, "oven")
    line = whole.plans[0].line
    stopped = at_work(planned, Told(("oven", Stop(at, at + minutes, "drive"))))
    calm = at_work(planned, Told())
    run = max(whole.plans[0].runs, key=lambda run: run.feed_min)
    in_oven = run.scaled_per_h / 60 * stays
    lost = calm.count(line, "oven", LATE) - stopped.count(line, "oven", LATE)
    assert lost > in_oven - PARCEL_MIN * run.scaled_per_h / 60, "an oven full of pieces"
    proof = next(step for step in planned[0].product(run.product).piece_steps if step.station == "proofer")
    if minutes <= proof.stands_min:
        assert lost == pytest.approx(in_oven, abs=2 * PARCEL_MIN * run.scaled_per_h / 60), "and no more"
    assert stopped.count(line, "oven", at) == stopped.count(line, "oven", at + minutes), (
        "nothing leaves a belt that stands"
    )
    fed = run.start_min + run.feed_min
    before = calm.count(line, "divider", fed)
    assert stopped.count(line, "divider", fed) < before
    assert stopped.count(line, "divider", fed + minutes) == pytest.approx(before, abs=run.scaled_per_h / 60 * 2)


def test_what_is_behind_a_stop_runs_out_freely(planned: tuple[Scenario, PlantPlan]) -> None:
    _, whole = planned
    at, _ = _during_a_run(planned, "oven")
    line = whole.plans[0].line
    stopped = at_work(planned, Told(("oven", Stop(at, at + 30, "drive"))))
    calm = at_work(planned, Told())
    assert stopped.count(line, "bagger", at + 3) == calm.count(line, "bagger", at + 3)


def test_a_burner_that_fails_cools_the_oven_and_the_instruments_tell(planned: tuple[Scenario, PlantPlan]) -> None:
    at, _ = _during_a_run(planned, "oven")
    plant = at_work(planned, Told(("oven", Stop(at, at + 30, "heat"))))

    def reads(minute: float, quantity: str) -> float:
        return next(v for s, v in plant.readings(minute) if (s.station, s.quantity) == ("oven", quantity))

    assert reads(at - 1, "temperature") - reads(at + 29, "temperature") > 50
    assert reads(at + 180, "temperature") == pytest.approx(reads(at - 1, "temperature"), abs=25)
    assert [reads(minute, "state") for minute in (at - 1, at + 10, at + 31)] == [1, 0, 1]
    assert reads(at + 10, "speed") == 0 < reads(at + 31, "speed")


def test_counts_only_rise_by_whole_pieces_and_a_seed_gives_the_same_day(
    planned: tuple[Scenario, PlantPlan],
) -> None:
    scenario, whole = planned
    line = whole.plans[0].line
    one, same, other = (at_work(planned, Chance(seed)) for seed in (5, 5, 6))
    stations = [station.id for station in scenario.line(line).stations]
    minutes = [7.3 * step for step in range(500)]
    counted = [[one.count(line, station, minute) for minute in minutes] for station in stations]
    assert all(before <= after for counts in counted for before, after in pairwise(counts))
    assert counted == [[same.count(line, station, minute) for minute in minutes] for station in stations]
    assert counted != [[other.count(line, station, minute) for minute in minutes] for station in stations]


def test_a_plan_that_is_published_later_leaves_the_past_as_it_was(planned: tuple[Scenario, PlantPlan]) -> None:
    """A run is slowed while another is on the line: what has been counted by then stays, what comes is otherwise."""
    scenario, whole = planned
    plan = whole.plans[0]
    plant, before = at_work(planned, Chance(3)), at_work(planned, Chance(3))
    at = plan.runs[2].start_min + 20
    slower = repair(scenario, whole, Pace(line=plan.line, run=plan.runs[-1].id, share=0.5)).plan
    plant.publish(scenario, slower.plans, scenario.window.starts_at + timedelta(minutes=at))
    past = [at * share for share in (0.3, 0.7, 0.95, 1.0)]
    assert [plant.count(plan.line, "bagger", m) for m in past] == [before.count(plan.line, "bagger", m) for m in past]
    far = plan.runs[-1].start_min + plan.runs[-1].feed_min
    assert plant.count(plan.line, "divider", far) != before.count(plan.line, "divider", far)
    assert plant.count(plan.line, "divider", LATE) == pytest.approx(before.count(plan.line, "divider", LATE), rel=0.01)


def test_it_counts_from_when_it_began() -> None:
    began = datetime(2026, 3, 10, 20, tzinfo=UTC)
    assert SimulatedPlant(began, Told()).minute(began + timedelta(hours=2)) == 120
