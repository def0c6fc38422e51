"""Trouble: what stands, piece by piece, on random plants; a stop that is told late; what to do first; its causes."""

import os
from itertools import pairwise
from random import Random

import pytest

from random_plants import random_plant
from rundgang.core.errors import UnknownItemError
from rundgang.core.floor.causes import CAUSES, refuse_unknown
from rundgang.core.floor.effect import effect_of
from rundgang.core.floor.options import outcomes_of, stopped_at
from rundgang.core.floor.pause import cut_short
from rundgang.core.floor.stands import standing
from rundgang.core.floor.stop import Stop
from rundgang.core.floor.todo import running_out, to_do
from rundgang.core.planning.checked import checked
from rundgang.core.planning.legs import Passing, passings
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario

PLANTS, FIRST = int(os.environ.get("SOAK_PLANTS", "8")), int(os.environ.get("SOAK_FIRST", "0"))
SEEDS = range(FIRST, FIRST + PLANTS)

Planned = tuple[Scenario, PlantPlan, LinePlan]


def planned(seed: int) -> Planned:
    """A random plant, a quick plan of it, and that of its first line which has runs; of a few plants none has."""
    plant = random_plant(seed)
    whole = plan_plant(plant, seed=seed, stop=after_evaluations(10, 10))
    return plant, whole, next((plan for plan in whole.plans if plan.runs), whole.plans[0])


def stop_at(plan: LinePlan, station: str, at: float, told: float | None = None) -> Stop:
    return Stop(
        line=plan.line, station=station, from_min=at, low_min=5, likely_min=20, high_min=60, told_min=told
    )  # fmt: skip


def some_stops(scenario: Scenario, plan: LinePlan, seed: int) -> list[Stop]:
    """One at every station that pieces pass, some time in a run."""
    rng = Random(seed)
    passed = {one.station: one for run in plan.runs for one in passings(scenario, run)}
    return [
        stop_at(plan, station, round(one.first_in + rng.random() * (one.last_out - one.first_in), 3))
        for station, one in passed.items()
    ]


def pieces_inside(passing: Passing, at: float) -> int:
    """Each piece followed by itself: in at its turn, out at its turn."""
    lasts, leaves = passing.last_in - passing.first_in, passing.last_out - passing.first_out
    number = round(passing.flow_per_h * lasts / 60)
    turns = ((place + 0.5) / number for place in range(number))
    return sum(passing.first_in + turn * lasts <= at < passing.first_out + turn * leaves for turn in turns)


@pytest.mark.parametrize("seed", SEEDS)
def test_what_stands_is_what_a_piece_by_piece_count_finds(seed: int) -> None:
    """Wherever the effect says pieces stand, so many are, to the piece and a share of one."""
    scenario, whole, plan = planned(seed)
    runs = {run.id: run for run in plan.runs}
    for stop in some_stops(scenario, plan, seed):
        then = stopped_at(scenario, whole, stop)
        for stretch in effect_of(then, plan, stop).stretches:
            if stretch.what != "pieces":
                continue
            passing = next(
                one
                for one in passings(scenario, runs[stretch.run])
                if (one.station, one.product.listed_id) == (stretch.station, stretch.product)
            )
            held_at = next(one.passing for one in standing(then, plan, stop) if one.run.id == stretch.run)
            own = [one for one in passings(scenario, runs[stretch.run]) if one.station == stop.station]
            assert held_at.station == stop.station if own and own[0].last_out > stop.from_min else not own
            assert runs[stretch.run].start_min < stop.known_min, "what is not fed yet is held, and stands nowhere"
            counted = pieces_inside(passing, max(stop.from_min, held_at.first_in))
            assert abs(stretch.pieces - counted) <= 1.5, f"{stretch.station} of {stretch.run}, seed {seed}"


@pytest.mark.parametrize("seed", SEEDS)
def test_every_option_of_a_stop_is_a_plan_that_passes_the_check(seed: int) -> None:
    scenario, whole, plan = planned(seed)
    for stop in some_stops(scenario, plan, seed)[:3]:
        for outcome in outcomes_of(scenario, whole, stop):
            broken = checked(outcome.scenario, outcome.plan).every
            assert broken == (), f"{outcome.option.kind} at {stop.station}, seed {seed}"
            assert outcome.option.broken == ()


@pytest.mark.parametrize("seed", SEEDS)
def test_a_stop_that_is_told_late_counts_what_was_mixed_meanwhile(seed: int) -> None:
    """Pieces stand where they stood; doughs begun before somebody told are mixed and age, the others are held."""
    scenario, whole, plan = planned(seed)
    for at_once in some_stops(scenario, plan, seed)[:4]:
        told = at_once.from_min + 15
        late = at_once.model_copy(update={"told_min": told, "low_min": 20.0, "likely_min": 30.0})
        first = effect_of(stopped_at(scenario, whole, at_once), plan, at_once)
        then = effect_of(stopped_at(scenario, whole, late), plan, late)
        where = {(s.run, s.station, s.product): s.pieces for s in first.stretches if s.what == "pieces"}
        after = {(s.run, s.station, s.product): s.pieces for s in then.stretches if s.what == "pieces"}
        assert where.items() <= after.items(), f"seed {seed}"
        begun = {run.id for run in plan.runs if run.first_mixed_min < at_once.from_min}
        mixed = {
            (run.id, batch.number)
            for run in plan.runs
            if run.id in begun
            for batch in run.batches
            if at_once.from_min <= batch.start_min < told
        }
        doughs = {(s.run, s.batch) for s in then.stretches if s.what == "dough"}
        held = first.hold_from_min is not None
        assert not held or mixed <= doughs or then.hold_from_min is None, f"seed {seed}"
        assert then.hold_from_min is None or then.hold_from_min >= told
        outcome = next(iter(outcomes_of(scenario, whole, late)))
        kept = {(run.id, b.number): b.start_min for run in outcome.plan.of(plan.line).runs for b in run.batches}
        for run in plan.runs:
            for batch in run.batches:
                if batch.start_min < told and (run.id, batch.number) in kept:
                    assert kept[run.id, batch.number] == pytest.approx(batch.start_min), "what was mixed was mixed"
        assert checked(outcome.scenario, outcome.plan).sound, f"seed {seed}"


@pytest.mark.parametrize("seed", SEEDS)
def test_what_is_scrapped_is_all_that_has_not_left_the_station(seed: int) -> None:
    """Each piece followed by itself: those out of the station by the stop are kept, and not one that stands in it."""
    scenario, whole, plan = planned(seed)
    for stop in some_stops(scenario, plan, seed):
        then = stopped_at(scenario, whole, stop)
        for one in standing(then, plan, stop):
            passing, run = one.passing, one.run
            kept = cut_short(then, one, stop.from_min)
            leaves = passing.last_out - passing.first_out
            out = sum(passing.first_out + (n + 0.5) / run.pieces * leaves < stop.from_min for n in range(run.pieces))
            assert abs((kept.pieces if kept else 0) - out) <= 1, f"{run.id} at {stop.station}, seed {seed}"


@pytest.mark.parametrize("seed", SEEDS)
def test_what_is_in_the_way_of_others_makes_them_as_late(seed: int) -> None:
    """Two runs that come later by a stop still follow each other at every station that both have yet to pass."""
    scenario, whole, plan = planned(seed)
    for stop in some_stops(scenario, plan, seed)[:3]:
        for outcome in list(outcomes_of(scenario, whole, stop))[:3]:
            begun = {run.id for run in outcome.scenario.opening.begun_on(plan.line)}
            at = dict[str, list[tuple[float, float, str]]]()
            for run in outcome.plan.of(plan.line).runs:
                for passing in passings(outcome.scenario, run):
                    if run.id in begun and passing.last_out > stop.from_min and passing.first_in > stop.from_min:
                        at.setdefault(passing.station, []).append((passing.first_in, passing.last_in, run.id))
            for station, there in at.items():
                for (_, last, ahead), (first, _, behind) in pairwise(sorted(there)):
                    assert first >= last - 1e-3, f"{behind} runs into {ahead} at {station}, seed {seed}"


@pytest.mark.parametrize("seed", SEEDS)
def test_what_to_do_comes_in_order_and_what_is_beyond_runs_out(seed: int) -> None:
    scenario, whole, plan = planned(seed)
    for stop in some_stops(scenario, plan, seed):
        then = stopped_at(scenario, whole, stop)
        effect = effect_of(then, plan, stop)
        todo = to_do(then, plan, stop, effect)
        holds = [one for one in todo if one.what == "hold"]
        assert list(todo[: len(holds)]) == holds, "doughs are held before all else"
        rest = [one.by_min for one in todo[len(holds) :]]
        assert rest == sorted(rest)
        assert len({one.key for one in todo}) == len(todo)
        assert min((one.by_min for one in holds), default=None) == effect.hold_from_min
        limited = [one for one in effect.stretches if one.spoils_after_min is not None]
        assert len([one for one in todo if one.what in {"aside", "pull", "watch", "use"}]) == len(limited)
        order = [station.id for station in scenario.line(plan.line).stations]
        upstream = {one.station for one in effect.stretches if one.what == "pieces"}
        for out in running_out(then, plan, stop):
            assert out.station not in upstream
            assert order.index(out.station) != order.index(stop.station)
            assert out.until_min > stop.from_min


def test_a_cause_is_one_of_those_that_are_asked() -> None:
    refuse_unknown("drive", "motor")
    with pytest.raises(UnknownItemError, match="cause"):
        refuse_unknown("drive", "burner")
    assert all(CAUSES.values())
