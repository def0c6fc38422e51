"""Runs followed by their counters, against the simulated plant, which knows what really happened.

The plant's physics share no code with what follows them: it is told counts and states alone, as instruments give them.
"""

import os
from bisect import bisect_left
from itertools import pairwise
from random import Random

import pytest

from random_plants import random_plant
from rundgang.core.floor.followed import Counted, Stoppage, as_read, counted_together, followed, gave_less, retimed
from rundgang.core.floor.now import hours_of, next_on, pace_of, planned_packs, roots
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.instruments.simulated.chance import Stop
from rundgang.instruments.simulated.plant import SimulatedPlant
from rundgang.store.cluster import Urls
from simulated import Told, at_work, planned_in

PLANTS, FIRST = int(os.environ.get("SOAK_PLANTS", "20")), int(os.environ.get("SOAK_FIRST", "0"))


@pytest.fixture
def planned(urls: Urls) -> tuple[Scenario, PlantPlan]:
    """A scenario and its plan, from the tests' database."""
    return planned_in(urls)


def counted(plant: SimulatedPlant, line: str, station: str, since: int, now: int) -> Counted:
    """As a collector has it: read when it changes."""
    totals = [plant.count(line, station, float(minute)) for minute in range(since, now + 1)]
    told = [0, *(place for place in range(1, len(totals)) if totals[place] != totals[place - 1])]
    return as_read([float(since + place) for place in told], [float(totals[place] - totals[0]) for place in told])


def stoppages(scenario: Scenario, plant: SimulatedPlant, line: str, now: int) -> list[Stoppage]:
    """As its states tell them, minute by minute; doughs and stores do not stand."""
    waiting = {station.id for station in scenario.line(line).stations if station.kind in {"batch", "held"}}
    stood = dict[str, float]()
    found = list[Stoppage]()
    for minute in range(now + 1):
        for signal, state in plant.readings(float(minute)):
            if (signal.line, signal.quantity) != (line, "state") or signal.station in waiting:
                continue
            if state == 0:
                stood.setdefault(signal.station, minute)
            elif signal.station in stood:
                begin = stood.pop(signal.station)
                found.append(Stoppage(station=signal.station, from_min=begin, until_min=minute))
    return [*found, *(Stoppage(station=of, from_min=begin, until_min=None) for of, begin in stood.items())]


def firsts(scenario: Scenario, plan: LinePlan) -> set[str]:
    return {scenario.product(run.product).piece_steps[0].station for run in plan.runs}


def lasts(scenario: Scenario, plan: LinePlan) -> set[str]:
    return {scenario.product(run.product).piece_steps[-1].station for run in plan.runs}


def assert_forecast(
    scenario: Scenario, whole: PlantPlan, plan: LinePlan, seed: int, now: int, within_min: float
) -> int:
    """Packs of each begun run come until about its forecast end, and all of them; how many runs that are."""
    plant = at_work((scenario, whole), Told(seed=seed))
    fed = {station: counted(plant, plan.line, station, 0, now) for station in firsts(scenario, plan)}
    packed = {station: counted(plant, plan.line, station, 0, now) for station in lasts(scenario, plan)}
    packs = {run.id: run.packs for run in plan.runs}
    found = followed(opened(scenario, whole.plans, now), plan, fed, packed, (), now)
    for one in found:
        assert one.run.packs == packs[one.run.id], f"{one.run.id} gave all, seed {seed}, at minute {now}"
        last, ends = scenario.product(one.run.product).piece_steps[-1].station, one.run.last_pack_min
        before, after = (plant.count(plan.line, last, ends + by) for by in (-within_min, within_min))
        assert after > before, f"{one.run.id} of {plan.line}, seed {seed}, at minute {now}"
    return len(found)


@pytest.mark.whole
@pytest.mark.parametrize("seed", [1, 2])
def test_without_stops_begun_runs_end_within_minutes_of_what_happens(
    planned: tuple[Scenario, PlantPlan], seed: int
) -> None:
    """On every line, at two moments, people as late as they are."""
    scenario, whole = planned
    runs = [assert_forecast(scenario, whole, plan, seed, now, 1.5) for plan in whole.plans for now in (420, 1_100)]
    assert sum(runs) > 20


@pytest.mark.parametrize("seed", range(FIRST, FIRST + PLANTS))
def test_so_they_do_on_any_plant(seed: int) -> None:
    """Plants at random, at a moment at random."""
    scenario = random_plant(seed)
    whole = plan_plant(scenario, seed=seed, stop=after_evaluations(15, 15))
    for plan in (plan for plan in whole.plans if plan.runs):
        now = int(Random(seed).uniform(plan.runs[0].start_min + 5, plan.runs[-1].last_pack_min))
        assert_forecast(scenario, whole, plan, seed, now, 3.0)


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_counting_that_begins_in_the_middle_of_a_run_begins_no_other(
    planned: tuple[Scenario, PlantPlan], seed: int
) -> None:
    """People are late, so more of the run on the divider is to come than planned: none of it is the next one's."""
    scenario, whole = planned
    plan = whole.plans[0]
    plant, tried = at_work(planned, Told(seed=seed)), 0
    for first, then in pairwise(plan.runs):
        since = int(first.start_min + first.feed_min - 4)
        now = int(then.start_min) - 4
        if now - since < 8:
            continue
        tried += 1
        fed = {station: counted(plant, plan.line, station, since, now) for station in firsts(scenario, plan)}
        found = followed(opened(scenario, whole.plans, now), plan, fed, {}, (), now)
        assert then.id not in {one.run.id for one in found if one.run.start_min < then.start_min - 3}
    assert tried


@pytest.mark.whole
@pytest.mark.parametrize("share_fed", [0, 1])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_the_first_packs_tell_when_a_run_began_that_nobody_saw_begin(
    planned: tuple[Scenario, PlantPlan], seed: int, share_fed: int
) -> None:
    """Counters are first heard while a run is on the line: a while after its first packs its end is forecast."""
    scenario, whole = planned
    plant, off, by_plan = at_work(planned, Told(seed=seed)), list[float](), list[float]()
    for plan in whole.plans:
        for before, run, then in zip(plan.runs, plan.runs[1:], plan.runs[2:], strict=False):
            last = scenario.product(run.product).piece_steps[-1].station
            since, now = int(run.start_min + share_fed * run.feed_min + 5), int(run.first_pack_min + 15)
            apart = before.last_pack_min < since - 5 and run.last_pack_min + 6 < then.first_pack_min - 3
            if not apart or since > run.first_pack_min - 5 or now > run.last_pack_min - 5:
                continue
            total = plant.count(plan.line, last, run.last_pack_min + 6)
            fed = {station: counted(plant, plan.line, station, since, now) for station in firsts(scenario, plan)}
            packed = {station: counted(plant, plan.line, station, since, now) for station in lasts(scenario, plan)}
            found = followed(opened(scenario, whole.plans, now), plan, fed, packed, (), now)
            (forecast,) = (one.run.last_pack_min for one in found if one.run.id == run.id)
            minutes = [run.last_pack_min + step / 10 for step in range(-60, 61)]
            ends = minutes[bisect_left([plant.count(plan.line, last, minute) for minute in minutes], total)]
            off.append(abs(forecast - ends))
            by_plan.append(abs(run.last_pack_min - ends))
    assert len(off) >= 5
    assert max(off) < 1.0 < max(by_plan)


def test_a_stop_makes_what_is_on_the_line_later_and_the_plan_that_follows_is_legal(
    planned: tuple[Scenario, PlantPlan],
) -> None:
    scenario, whole = planned
    plan = whole.plans[0]
    run = max(plan.runs, key=lambda run: run.feed_min)
    at = int(run.start_min + 0.4 * run.feed_min)
    plant, now = at_work(planned, Told(("oven", Stop(at, at + 25, "drive")), seed=4)), at + 40
    stood = roots(scenario, plan.line, stoppages(scenario, plant, plan.line, now))
    assert [one.station for one in stood] == ["oven"], "what it held up did not stop for itself"
    assert stood[0].until_min == pytest.approx(at + 25, abs=1)
    then = opened(scenario, whole.plans, now)
    fed = {station: counted(plant, plan.line, station, 0, now) for station in firsts(scenario, plan)}
    found = {one.run.id: one for one in followed(then, plan, fed, {}, stood, now)}
    assert found[run.id].late_min == pytest.approx(25, abs=6)
    after, found_anew = retimed(then, whole, plan.line, tuple(found.values()))
    assert check_plant(after, found_anew.plan.plans) == ()
    assert found_anew.plan.of(plan.line).score.last_pack_min >= plan.score.last_pack_min


@pytest.mark.parametrize("seed", [1, 4])
def test_a_run_that_gave_less_is_that_much_shorter_and_the_plan_makes_the_rest(
    planned: tuple[Scenario, PlantPlan], seed: int
) -> None:
    """An oven stands for longer than pieces bear: what it spoilt never comes, by the plant's own count of packs."""
    scenario, whole = planned
    plan = whole.plans[0]
    run = max(plan.runs[:-1], key=lambda run: run.feed_min)
    at = int(run.start_min + 0.5 * run.feed_min)
    plant = at_work(planned, Told(("oven", Stop(at, at + 45, "drive")), seed=seed))
    now = int(run.last_pack_min) + 75
    fed = {station: counted(plant, plan.line, station, 0, now) for station in firsts(scenario, plan)}
    packed = {"bagger": counted(plant, plan.line, "bagger", 0, now)}
    stood = roots(scenario, plan.line, stoppages(scenario, plant, plan.line, now))
    then = opened(scenario, whole.plans, now)
    found = {one.run.id: one.run for one in followed(then, plan, fed, packed, stood, now)}
    before = [one for one in plan.runs if one.start_min < run.start_min]
    total = plant.count(plan.line, "bagger", found[run.id].last_pack_min + 5)
    given = total - sum(one.packs for one in before)
    assert run.packs - given > 100, "the oven spoilt what stood in it"
    assert found[run.id].packs == pytest.approx(given, abs=0.01 * run.packs)
    assert sum(item.packs for item in found[run.id].items) <= found[run.id].packs
    assert [found[one.id].packs for one in before] == [one.packs for one in before], "what came whole is as planned"
    silent = {"bagger": counted(plant, plan.line, "bagger", 0, int(run.first_pack_min) + 5)}
    unknown = {one.run.id: one.run for one in followed(then, plan, fed, silent, stood, now)}
    assert unknown[run.id].packs == run.packs, "a counter that is not heard says nothing of what was spoilt"
    went = followed(then, plan, fed, packed, stood, now)
    (less,) = gave_less(plan, went)
    assert (less.run, less.packs, less.planned) == (run.id, found[run.id].packs, run.packs)
    after, anew = retimed(then, whole, plan.line, went)
    assert check_plant(after, anew.plan.plans) == ()
    made = sum(one.packs for one in anew.plan.of(plan.line).runs if one.product == run.product)
    assert made >= sum(one.packs for one in plan.runs if one.product == run.product) - 0.02 * run.packs, "made again"


def test_every_pack_that_an_hour_lacks_has_one_cause(planned: tuple[Scenario, PlantPlan]) -> None:
    scenario, whole = planned
    plan = whole.plans[0]
    run = max(plan.runs, key=lambda run: run.feed_min)
    at = int(run.first_pack_min + 20)
    plant, now = at_work(planned, Told(("bagger", Stop(at, at + 18, "drive")), seed=2)), at + 120
    packs = counted(plant, plan.line, "bagger", 0, now)
    stood = roots(scenario, plan.line, stoppages(scenario, plant, plan.line, now))
    hours = hours_of(scenario, plan, packs, stood, [60.0 * hour for hour in range(now // 60 + 3)], now)
    for hour in hours:
        assert hour.lost == sum(cause.packs for cause in hour.causes)
        if hour.made is not None and hour.until_min <= now:
            assert hour.lost == max(0, hour.planned - hour.made)
    named = sum(cause.packs for hour in hours for cause in hour.causes if cause.station == "bagger")
    assert named == pytest.approx(18 / 60 * run.packs / (run.last_pack_min - run.first_pack_min) * 60, rel=0.15)
    assert [hour.made for hour in hours if hour.from_min >= now] == [None] * sum(h.from_min >= now for h in hours)


def test_pace_and_what_comes_next(planned: tuple[Scenario, PlantPlan]) -> None:
    scenario, whole = planned
    plan = whole.plans[0]
    run = max(plan.runs, key=lambda run: run.feed_min)
    now = int(run.first_pack_min + 60)
    plant = at_work(planned, Told(seed=2))
    pace = pace_of(plan, counted(plant, plan.line, "bagger", now - 50, now), now)
    assert pace.planned == round(planned_packs(plan, now) - planned_packs(plan, now - 50))
    assert pace.per_h == pytest.approx(pace.planned_per_h, rel=0.03)
    coming = next_on(scenario, plan, now)
    assert [one.at_min for one in coming] == sorted(one.at_min for one in coming)
    assert all(now <= one.at_min for one in coming)
    ends = next(one for one in coming if one.what == "ends")
    assert any(run.id == ends.run and run.start_min + run.feed_min == ends.at_min for run in plan.runs)


def test_a_counter_that_tells_nothing_stands_still() -> None:
    """Read when it changes: five a minute, nothing for two hours, then on; what was missed for an hour rose evenly."""
    minutes = [float(minute) for minute in (*range(11), *range(130, 136))]
    count = as_read(minutes, [5.0 * place for place in range(len(minutes))])
    assert count.risen_by(100) == 50, "not a little of what came two hours later"
    assert count.risen_by(129) == pytest.approx(50)
    assert count.risen_by(129.5) == pytest.approx(52.5)
    assert count.quiet_after(8, 135) == 10
    assert count.quiet_after(20, 135) is None, "it goes on to be counted"
    assert count.quiet_after(20, 150) == 135
    missed = as_read([0.0, 1.0, 2.0, 62.0, 63.0], [0.0, 5.0, 10.0, 310.0, 315.0])
    assert missed.risen_by(32) == pytest.approx(160)
    assert as_read([3.0], [0.0]) == Counted((3.0,), (0.0,))


@pytest.mark.whole
@pytest.mark.parametrize("since", [0, 300, 760])
def test_forecasts_stay_near_all_day_though_counts_are_told_only_when_they_change(
    planned: tuple[Scenario, PlantPlan], since: int
) -> None:
    """Every line, every two hours of a day, by counters that were heard from some moment on: no forecast runs away."""
    scenario, whole = planned
    plant, tried = at_work(planned, Told(seed=1)), 0
    for plan in whole.plans:
        lasting = {run.id: run for run in plan.runs}
        for now in range(since + 30, since + 1_470, 120):
            fed = {station: counted(plant, plan.line, station, since, now) for station in firsts(scenario, plan)}
            for one in followed(opened(scenario, whole.plans, now), plan, fed, {}, (), now):
                was = lasting[one.run.id].last_pack_min
                assert abs(one.run.last_pack_min - was) < 20, f"{one.run.id} of {plan.line} at minute {now}"
                tried += 1
    assert tried > 100


def test_what_has_not_come_yet_makes_nobody_late(planned: tuple[Scenario, PlantPlan]) -> None:
    """Readings that are two minutes on their way say the same as when they come at once; a count that stands not."""
    scenario, whole = planned
    plan = whole.plans[0]
    run = max(plan.runs, key=lambda run: run.feed_min)
    now = int(run.start_min + 0.6 * run.feed_min)
    plant, then = at_work(planned, Told(seed=3)), opened(scenario, whole.plans, now)
    ends = []
    for heard in (now, now - 2, now - 15):
        fed = {station: counted(plant, plan.line, station, 0, heard) for station in firsts(scenario, plan)}
        found = {one.run.id: one.run for one in followed(then, plan, fed, {}, (), now)}
        ends.append(found[run.id].start_min + found[run.id].feed_min)
    assert ends[1] == pytest.approx(ends[0], abs=0.2)
    assert ends[2] == pytest.approx(ends[0] + 15, abs=0.5)


def test_a_count_rises_evenly_between_its_readings() -> None:
    count = Counted((10.0, 11.0, 12.0, 13.0), (0.0, 4.0, 4.0, 12.0))
    assert [count.risen_by(minute) for minute in (9, 10, 10.5, 11.7, 12.25, 20)] == [0, 0, 2, 4, 6, 12]
    assert [count.when(risen) for risen in (0, 2, 4, 8, 13)] == [10.0, 10.5, 11.0, 12.5, None]
    other = Counted((11.5, 12.5), (0.0, 1.0))
    both = counted_together((count, other))
    assert (both.since_min, both.total) == (11.5, 8 + 1)
    assert both.between(12, 12.5) == 4 + 0.5
