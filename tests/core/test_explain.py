"""Explanations: each is true, and on a line small enough to calculate by hand it says what the hand finds."""

import re
from datetime import date
from functools import cache
from itertools import pairwise

import pytest

from plants import belt, mixers, on_belt, product, scenario
from rundgang.core.orders import Block
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.explain import chain, change_costs, lateness
from rundgang.core.planning.model import PlantPlan, Run
from rundgang.core.planning.repair import Fit, Move, Place, repair
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import ostermere

DAY = ostermere(date(2026, 3, 11))


@cache
def planned() -> PlantPlan:
    return plan_plant(DAY, stop=after_evaluations(3_000, 3_000))


def packs_per_min(run: Run) -> float:
    return run.packs / run.feed_min


def bakery(*orders: tuple[str, float, int]) -> Scenario:
    """A proofer and an oven of one speed each; three products that differ in proof, bake and heat. 10,000 pieces/h."""
    family = [
        product("plain", [on_belt("proofer", 45), on_belt("oven", 14, heat=230)]),
        product("dark", [on_belt("proofer", 45), on_belt("oven", 18, heat=210)]),
        product("long", [on_belt("proofer", 60), on_belt("oven", 14, heat=230)]),
    ]
    return scenario(
        [belt("proofer", setup=5), belt("oven", ramp=2.0, setup=2)], family, orders, minutes=1_440, hot={"oven": 230}
    )


THREE = bakery(("plain", 300.0, 6_000), ("dark", 400.0, 3_000), ("long", 500.0, 2_000))


@cache
def three() -> PlantPlan:
    return plan_plant(THREE, stop=after_evaluations(1_000, 1_000))


def test_a_chain_by_hand() -> None:
    """Mixed in 10, rested 5; the oven empties in 14, cools by 20 °C in 10; the proofer empties in 45, is set in 5."""
    first, second, third = chain(three().of("line"), "R3")
    assert (first.product, first.binding.kind, first.start_min, first.feed_min) == ("plain", "opening", 15, 36)
    assert (second.product, second.binding.after, second.binding.where) == ("dark", "R1", "Oven")
    assert [reason.minutes for reason in second.binding.reasons] == [14, 10]
    assert second.start_min == 15 + 36 + 24
    assert (third.product, third.binding.after, third.binding.where) == ("long", "R2", "Proofer")
    assert [reason.minutes for reason in third.binding.reasons] == [45, 5]
    assert third.start_min == 75 + 18 + 50


def test_what_changes_cost_by_hand() -> None:
    """At 10,000 an hour 24 minutes are 4,000 packs not made, and 50 are 8,333; a minute costs two points."""
    oven, proofer = change_costs(THREE, three().of("line"), three().weights)
    assert (oven.station, oven.idle_min, oven.points) == ("oven", 24, 48)
    assert oven.packs == pytest.approx(4_000)
    assert (proofer.station, proofer.idle_min, proofer.points) == ("proofer", 50, 100)
    assert proofer.packs == pytest.approx(50 / 60 * 10_000)


def test_a_dragged_run_begins_its_chain() -> None:
    moved = repair(THREE, three(), Move(line="line", run="R2", start_min=120)).plan.of("line")
    pinned, behind = chain(moved, "R3")
    assert (pinned.run, pinned.binding.kind, pinned.start_min) == ("R2", "pin", 120)
    assert behind.start_min == 120 + 18 + 50


def test_a_closed_station_begins_a_chain_and_says_why() -> None:
    """The oven is shut, 100 to 200: 36 minutes of pieces, proofed from 15 and baked in 14, are not out by then."""
    block = Block(
        id="wash", line="line", station="oven", kind="cleaning", from_min=100, to_min=200, reason="washed down"
    )
    shut = THREE.model_copy(update={"blocks": (block,)})
    (first,) = chain(repair(shut, three(), Fit(line="line")).plan.of("line"), "R1")
    assert (first.binding.kind, first.binding.where, first.start_min) == ("closing", "Oven", 200 - 45)
    assert [(reason.what, reason.minutes) for reason in first.binding.reasons] == [("washed down", 100)]


def test_one_mixer_sets_the_pace_of_its_line() -> None:
    """A dough of 50 kg every 30 minutes is 100 kg an hour, 1,000 pieces of 100 g."""
    slow = product("slow", [on_belt("oven", 10, heat=230)], cycle=30, target=60_000)
    day = scenario([belt("oven", ramp=2)], [slow], [("slow", 900.0, 10_000)], mixing=mixers(1, most=50))
    (run,) = plan_plant(day, stop=after_evaluations(10, 10)).of("line").runs
    assert len(run.batches) == 20
    assert run.scaled_per_h == pytest.approx(1_000)
    assert run.feed_min == pytest.approx(600)


def test_the_chain_goes_back_to_where_it_begins() -> None:
    plan = planned().of("ring-line")
    for run in plan.runs:
        links = chain(plan, run.id)
        assert links[-1].run == run.id
        assert links[0].binding.after is None
        for before, after in pairwise(links):
            assert after.binding.after == before.run
            assert after.start_min >= before.start_min


def test_a_late_lorry_is_explained_and_cured() -> None:
    """Planned the wrong way round on purpose: the cure is the other order, and it costs less than nothing."""
    day = bakery(("dark", 150.0, 3_000), ("plain", 900.0, 6_000))
    plan = plan_plant(day, stop=after_evaluations(200, 200))
    assert plan.score.packs_short == 0
    wrong = repair(day, plan, Place(line="line", run="R1")).plan
    assert wrong.score.packs_short > 0
    outcome = next(wave for wave in wrong.of("line").waves if wave.short)
    why = lateness(day, wrong, "line", outcome.wave, outcome.product)
    assert [link.product for link in why.chain] == ["plain", "dark"]
    assert why.late_min == pytest.approx((outcome.ready_min or 0) - 150)
    assert why.cure is not None
    assert why.cure.points == pytest.approx(plan.cost - wrong.cost, abs=1)
    assert why.cure.short_elsewhere == 0


def test_a_lorry_earlier_than_any_plan_has_no_cure() -> None:
    day = bakery(("dark", 60.0, 3_000), ("plain", 900.0, 6_000))
    plan = plan_plant(day, stop=after_evaluations(200, 200))
    outcome = next(wave for wave in plan.of("line").waves if wave.short)
    why = lateness(day, plan, "line", outcome.wave, outcome.product)
    assert why.cure is None
    assert why.late_min > 0
    assert plan.bound > 0, "the bound knows that these packs cannot be in time"


def test_changes_cost_the_white_at_the_divider() -> None:
    plan = planned().of("ring-line")
    costs = change_costs(DAY, plan, planned().weights)
    assert len(costs) == len(plan.runs) - 1
    assert sum(cost.idle_min for cost in costs) == pytest.approx(plan.score.changeover_min, abs=1)
    for cost, (first, then) in zip(costs, pairwise(plan.runs), strict=True):
        assert cost.packs == pytest.approx(cost.idle_min * packs_per_min(then))
        assert (cost.first, cost.then) == (first.id, then.id)


def staffed(people: int) -> Scenario:
    """The demo with so many packers for all its lines."""
    crews = tuple(crew.model_copy(update={"people": people}) for crew in DAY.plant.crews)
    return DAY.model_copy(update={"plant": DAY.plant.model_copy(update={"crews": crews})})


def test_a_cure_counts_what_other_lines_have_taken() -> None:
    """With few packers the lines wait for each other; a cure must not take hands that are at work elsewhere."""
    few = staffed(18)
    plan = plan_plant(few, stop=after_evaluations(2_000, 2_000))
    assert check_plant(few, plan.plans) == ()
    cured = 0
    for line in plan.plans:
        for wave in line.waves:
            why = lateness(few, plan, line.line, wave.wave, wave.product) if wave.short else None
            request = place_of(why.cure.what, line.line, [run.id for run in line.runs]) if why and why.cure else None
            if request is None:
                continue
            found = repair(few, plan, request).plan
            assert check_plant(few, found.plans) == ()
            (again,) = (
                one for one in found.of(line.line).waves if (one.wave, one.product) == (wave.wave, wave.product)
            )
            assert again.short == 0, request
            cured += 1
    assert cured, "some lorry can be cured by one run put elsewhere"


def place_of(what: str, line: str, runs: list[str]) -> Place | None:
    """The change that a cure's words describe, where it is one run put elsewhere in the order."""
    before = re.fullmatch(r"(R\d+) .* before (R\d+) .*", what)
    if before and not what.startswith("the packs"):
        return Place(line=line, run=before[1], before=before[2])
    behind = re.fullmatch(r"(R\d+) .* behind (R\d+) .*", what)
    if behind:
        following = runs[runs.index(behind[2]) + 1 :]
        return Place(line=line, run=behind[1], before=following[0] if following else None)
    return None
