"""A stop: where each piece and dough is, when it is lost, the last restart without loss, and options that are legal."""

from datetime import date
from math import inf
from random import Random

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from pydantic import ValidationError
from scipy import stats

from plants import belt, items_on, laid_out, mixers, product, scenario
from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.floor.actual import Ended, NotRunningError, Slowed, as_happened
from rundgang.core.floor.effect import StopEffect, effect_of
from rundgang.core.floor.options import StopOption, cheapest_of, outcomes_of, running_again
from rundgang.core.floor.stop import GUESSES, Stop, guesses_of
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import PieceStep
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.parts import PutAside, Standstill
from rundgang.core.orders import Block
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.checked import UnsoundFactError, checked, refuse_unsound
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import ostermere

DAY = ostermere(date(2026, 3, 11))
PLAN = plan_plant(DAY, seed=1, stop=after_evaluations(2_000, 2_000))

PROOF, GRACE, BAKE, COOL = 60.0, 12.0, 20.0, 45.0


def line(aside: PutAside | None = None, grace: float | None = GRACE, age: float = 40) -> Scenario:
    """Rolls: proofed an hour, which may be twelve minutes longer, baked, cooled."""
    steps = [
        ConveyorStep(station="proofer", dwell_min=PROOF, grace_min=grace),
        ConveyorStep(station="oven", dwell_min=BAKE, bakes=True, grace_min=1),
        ConveyorStep(station="cooler", dwell_min=COOL),
    ]
    stations: list[ConveyorStation] = [
        belt("proofer").model_copy(update={"aside": aside}), belt("oven", ramp=4), belt("cooler"),
    ]  # fmt: skip
    roll = product("roll", steps, rest=5, age=age, target=6_000, grams=50)
    return scenario(
        stations, [roll], [("roll", 1_400, 9_000)], mixing=mixers(3, most=40), minutes=1_440, hot={"oven": 20}
    )


def planned(plant: Scenario) -> LinePlan:
    return laid_out(plant, items_on(plant))


def found(
    plant: Scenario, station: str, at: float, low: float = 5, high: float = 60, fails: str = "drive"
) -> StopEffect:
    """What a stop does, by the plan of the line as the order stands."""
    stop = Stop.model_validate(
        {"line": "line", "station": station, "from_min": at, "low_min": low, "likely_min": low, "high_min": high}
        | {"fails": fails}
    )
    plan = planned(plant)
    then = plant.opened(plant.opening.model_copy(update={"now_min": at, "begun": plan.runs}))
    return effect_of(then, plan, stop)


@settings(max_examples=25, deadline=None)
@given(at=st.floats(20, 240), station=st.sampled_from(["proofer", "oven", "cooler"]))
def test_every_piece_is_where_a_piece_by_piece_count_finds_it(at: float, station: str) -> None:
    """Brute force: each of the 9,000 pieces followed by itself; those past the station have run out."""
    plant = line()
    run = planned(plant).runs[0]
    way = {"proofer": (0.0, PROOF), "oven": (PROOF, PROOF + BAKE), "cooler": (PROOF + BAKE, PROOF + BAKE + COOL)}
    enters = [run.start_min + run.feed_min * (i + 0.5) / run.pieces for i in range(run.pieces)]
    stands = max(at, run.start_min + way[station][0])
    counted = {
        name: sum(begin + came <= stands < begin + gone for begin in enters) for name, (came, gone) in way.items()
    }
    upstream = list(way)[: list(way).index(station) + 1]
    effect = found(plant, station, at)
    got = {s.station: s.pieces for s in effect.stretches if s.what == "pieces"}
    if not any(counted[name] for name in upstream) or stands >= at + 60:
        assert sum(got.values()) < 2
        return
    for name in upstream:
        assert got.get(name, 0) == pytest.approx(counted[name], abs=1.5)
    assert not set(got) - set(upstream)


def test_the_last_restart_is_the_first_limit() -> None:
    """The oven stands: what is in it is lost after its minute of grace, the proofer's after 12, a dough by its age."""
    effect = found(line(), "oven", 150)
    limits = {(s.station, s.batch): s.spoils_after_min for s in effect.stretches}
    assert limits["oven", None] == 1
    assert limits["proofer", None] == GRACE
    run = planned(line()).runs[0]
    for batch in run.batches:
        if batch.start_min < 150 < batch.last_piece_min:
            spare = batch.discharged_min + 40 - batch.last_piece_min
            assert limits["mixers", batch.number] == pytest.approx(spare)
    assert effect.restart_by_min == 151


@settings(max_examples=25, deadline=None)
@given(at=st.floats(30, 200), station=st.sampled_from(["proofer", "oven", "cooler"]), more=st.floats(0.01, 50))
def test_nothing_is_lost_up_to_the_last_restart_and_something_after(at: float, station: str, more: float) -> None:
    effect = found(line(), station, at)
    assume(effect.restart_by_min is not None)
    assert effect.restart_by_min is not None
    just = effect.restart_by_min - at
    if just > 0:
        assert found(line(), station, at, low=max(just, 0.01), high=just + 1).losses[0].pieces == 0
    later = found(line(), station, at, low=just + more, high=just + more + 1).losses
    assert later[0].pieces > 0
    assert later[2].pieces >= later[0].pieces
    assert later[2].kg >= later[0].kg


def test_held_doughs_are_mixed_as_much_later_as_the_stop_lasts() -> None:
    """Four minutes of standing move the first dough that is not begun by four minutes, and with it all others."""
    effect = found(line(), "oven", 80, low=4)
    run = planned(line()).runs[0]
    waiting = [batch for batch in run.batches if batch.start_min >= 80]
    assert effect.hold_from_min == waiting[0].start_min
    assert effect.losses[0].mix_again_min == pytest.approx(waiting[0].start_min + 4)


def test_what_can_be_put_aside_is_saved_as_long_as_it_keeps() -> None:
    """2,000 places beside the proofer for 30 min: a stop of 20 min loses 2,000 pieces less, one of 40 none less."""
    bare = found(line(), "oven", 100, low=20, high=40)
    beside = found(line(PutAside(pieces=2_000, keeps_min=30)), "oven", 100, low=20, high=40)
    assert bare.losses[0].pieces - beside.losses[0].pieces == pytest.approx(2_000)
    assert beside.losses[0].put_aside == pytest.approx(2_000)
    assert beside.losses[2].pieces == pytest.approx(bare.losses[2].pieces)


def test_a_stop_of_the_heat_is_not_one_of_the_drive() -> None:
    """Without heat what is in the oven is pale at once; it cools at 4 °C/min and heats at 4: twice the time."""
    effect = found(line(), "oven", 150, low=10, fails="heat")
    assert effect.restart_by_min == 150
    assert (effect.losses[0].stop_min, effect.losses[0].minutes) == pytest.approx((10, 20))
    assert effect.losses[0].runs_again_min == pytest.approx(170)


def test_a_station_that_only_waits_loses_doughs_alone() -> None:
    """Pieces that may stand on the belts for ever: nothing spoils but doughs past their age."""
    steps = [ConveyorStep(station="belt", dwell_min=30)]
    plant = scenario(
        [belt("belt")], [product("roll", steps, age=60)], [("roll", 1_400, 9_000)], mixing=mixers(3, most=40),
        minutes=1_440,
    )  # fmt: skip
    effect = found(plant, "belt", 40)
    spoils = {stretch.what for stretch in effect.stretches if stretch.spoils_after_min is not None}
    assert spoils == {"dough"}
    assert min(s.spoils_after_min or inf for s in effect.stretches) > 0


def test_a_full_store_stops_what_is_before_it() -> None:
    """100 pieces a minute go into 4,000 places, 3,000 are in it after 30 min of hold: ten minutes later it is full."""
    steps: list[PieceStep] = [
        ConveyorStep(station="rest", dwell_min=1),
        HeldStep(station="store", least_min=30, most_min=300, pieces_per_position=10),
        ConveyorStep(station="oven", dwell_min=20, bakes=True),
    ]
    roll = product("roll", steps, rest=5, age=60, target=6_000, grams=50)
    store = HeldStation(id="store", name="Store", positions=400)
    plant = scenario(
        [belt("rest"), store, belt("oven")], [roll], [("roll", 1_400, 9_000)], mixing=mixers(3, most=40), minutes=1_440
    )
    leg = planned(plant).runs[0].legs[1]
    effect = found(plant, "oven", leg.start_min + 20, low=2, high=30)
    assert effect.store_full_min == pytest.approx(leg.start_min + 20 + 10)
    assert all(stretch.what == "pieces" for stretch in effect.stretches), "doughs go on to the store"
    held = next(stretch for stretch in effect.stretches if stretch.station == "store")
    assert held.pieces == pytest.approx(3_000)
    assert held.spoils_after_min == pytest.approx(270)
    assert effect.hold_from_min is None


def test_the_rest_is_made_on_another_line() -> None:
    """Long rolls of the bread line can be made on the pastry line: legal, and no packs lost or made twice."""
    run = next(run for run in PLAN.of("bread-line").runs if run.product == "long-milk")
    offered = 0
    for at in (run.first_mixed_min + 1, run.batches[0].start_min + 1, run.batches[-1].start_min + 1):
        stop = Stop(line="bread-line", station="oven", from_min=at, low_min=60, likely_min=240, high_min=300)
        for outcome in outcomes_of(DAY, PLAN, stop):
            assert checked(outcome.scenario, outcome.plan).sound, (at, outcome.option.kind)
            if outcome.option.kind == "elsewhere":
                offered += 1
                both = {"long-milk", "long-milk-pastry"}
                ordered = sum(order.packs for order in outcome.scenario.orders if order.product in both)
                assert ordered == sum(order.packs for order in DAY.orders if order.product in both)
                assert any(order.product == "long-milk-pastry" for order in outcome.scenario.orders)
    assert offered, "in mid-run there is something to make elsewhere; with only a sponge begun there is not"


def test_every_option_is_a_legal_plan_of_what_is_left() -> None:
    """Random stops on the demo: the check, with the past as the stop left it, finds nothing in any repaired plan."""
    rng, options = Random(3), 0
    for _ in range(8):
        where = rng.choice(DAY.plant.lines)
        station = rng.choice([s for s in where.stations if s.kind != "batch"])
        low = rng.uniform(2, 40)
        stop = Stop(
            line=where.id, station=station.id, from_min=rng.uniform(50, 3_000), low_min=low, likely_min=2 * low,
            high_min=4 * low, fails=rng.choice(["drive", "heat"]),
        )  # fmt: skip
        try:
            outcomes = list(outcomes_of(DAY, PLAN, stop))
        except OutOfRangeError:
            continue
        assert [o.option.kind for o in outcomes[:3]] == ["wait"] * 3
        for outcome in outcomes:
            assert checked(outcome.scenario, outcome.plan).sound, (stop, outcome.option.kind)
            assert _ordered(outcome.plan) == _ordered(PLAN)
            if outcome.option.kind == "scrap":
                before = {(run.line, run.id): run.packs for line in PLAN.plans for run in line.runs}
                begun = outcome.scenario.opening.begun
                gone = {key for key in before if key[0] == where.id} - {(run.line, run.id) for run in begun}
                assert gone or any(run.packs < before[run.line, run.id] for run in begun), "something is thrown away"
            options += 1
    assert options >= 12


def _ordered(plan: PlantPlan) -> int:
    return sum(wave.packs for line in plan.plans for wave in line.waves)


def test_a_plan_that_breaks_a_rule_is_never_the_cheapest_to_go_by() -> None:
    option = StopOption(
        kind="wait", minutes=20, cost=100, cost_before=90, scrap_pieces=0, scrap_kg=0, scrap_packs=0,
        lorries=(), broken=(), moved=(),
    )  # fmt: skip
    low, high = (option.model_copy(update={"minutes": minutes, "cost": cost}) for minutes, cost in ((5, 50), (60, 900)))
    scrap = option.model_copy(update={"kind": "scrap", "cost": 95})
    broken = scrap.model_copy(update={"broken": ("oven: two runs overlap",)})
    assert cheapest_of([low, option, high, scrap]) == 3
    assert cheapest_of([low, option, high, broken]) == 1
    alone = option.model_copy(update={"broken": broken.broken})
    assert cheapest_of([low, alone, high, broken]) is None, "to wait for another duration is another question"


def test_what_the_check_found_at_one_moment_is_not_taken_for_another() -> None:
    """The very same plan: free at first, and then its runs are begun before the plan's now."""
    line = PLAN.of("ring-line")
    assert check(DAY, line) == ()
    later = DAY.opened(DAY.opening.model_copy(update={"now_min": line.runs[0].first_mixed_min + 60}))
    assert any("begun before the plan's now" in one.text for one in check(later, line))
    assert check(DAY, line) == (), "and what was known before is known again"


def test_other_lines_stay_as_they_are_where_a_stop_does_not_touch_them() -> None:
    """What is bettered is the line that stands, and those it leaves short: no other line is put in another order."""
    run = max(PLAN.of("pastry-line").runs, key=lambda one: one.feed_min)
    at = run.start_min + run.feed_min / 2
    stop = Stop(line="pastry-line", station="packer", from_min=at, low_min=2, likely_min=4, high_min=6)
    for outcome in outcomes_of(DAY, PLAN, stop):
        for plan in PLAN.plans:
            if plan.line != "pastry-line" and outcome.plan.of(plan.line).short <= plan.short:
                assert [one.id for one in outcome.plan.of(plan.line).runs] == [one.id for one in plan.runs]


def test_a_station_that_runs_again_is_repaired_no_longer() -> None:
    """Only its own repair that lasts now; what the calendar closes every week stays closed."""
    repair = Block(id="stop-1", line="ring-line", station="oven", kind="repair", from_min=100, to_min=200, reason="x")
    over = repair.model_copy(update={"id": "stop-2", "from_min": 10.0, "to_min": 90.0})
    other = repair.model_copy(update={"id": "stop-3", "station": "cooler"})
    cleaning = repair.model_copy(update={"id": "clean", "kind": "cleaning"})
    down = DAY.changed(blocks=(repair, over, other, cleaning))
    after = {block.id: (block.from_min, block.to_min) for block in running_again(down, "ring-line", "oven", 150).blocks}
    assert after == {"stop-1": (100, 150), "stop-2": (10, 90), "stop-3": (100, 200), "clean": (100, 200)}
    assert running_again(down, "ring-line", "oven", 250) is down
    at_once = running_again(down, "ring-line", "oven", 100).blocks[0]
    assert at_once.from_min < at_once.to_min < 100.01


def test_a_longer_wait_never_brings_a_lorry_more() -> None:
    """Low, likely and high: each run's packs fall, and the run that stands ends later by just the stop."""
    run = PLAN.of("ring-line").runs[1]
    at = run.start_min + run.feed_min / 2 + 100
    stop = Stop(line="ring-line", station="oven", from_min=at, low_min=5, likely_min=20, high_min=80)
    waits = [outcome for outcome in outcomes_of(DAY, PLAN, stop) if outcome.option.kind == "wait"]
    after = [next(r for r in o.scenario.opening.begun if r.id == run.id and r.line == run.line) for o in waits]
    assert [r.last_pack_min - run.last_pack_min for r in after] == pytest.approx([5, 20, 80])
    packs = [r.packs for r in after]
    assert packs == sorted(packs, reverse=True)


def test_bad_stops_are_refused() -> None:
    plan = PLAN.of("ring-line")
    good = {"line": "ring-line", "station": "oven", "from_min": 1, "low_min": 5, "likely_min": 9, "high_min": 20}
    with pytest.raises(ValidationError, match="each at least the one before"):
        Stop.model_validate(good | {"low_min": 10})
    with pytest.raises(UnknownItemError, match="station of the line"):
        effect_of(DAY, plan, Stop.model_validate(good | {"station": "nowhere"}))
    with pytest.raises(OutOfRangeError, match="one that pieces pass"):
        effect_of(DAY, plan, Stop.model_validate(good | {"station": "mixers"}))


def test_a_run_that_goes_slower_is_later_by_what_its_pace_lacks() -> None:
    """9,000 rolls at 6,000/h are 90 min; half of them fed, the rest at 75 % of the pace takes 60 min instead of 45."""
    plant = line()
    plan = plan_plant(plant, stop=after_evaluations(5, 5))
    run = plan.plans[0].runs[0]
    at = run.start_min + 45
    after, fit = as_happened(plant, plan, Slowed(line="line", run=run.id, share=0.75), at)
    slower = next(found for found in after.opening.begun if found.id == run.id)
    assert slower.feed_min == pytest.approx(run.feed_min + 15)
    assert slower.last_pack_min == pytest.approx(run.last_pack_min + 15)
    assert [b.divided_min for b in slower.batches] == pytest.approx(
        [b.divided_min if b.divided_min < at else at + (b.divided_min - at) / 0.75 for b in run.batches]
    )
    assert checked(after, fit.plan).sound
    same, _ = as_happened(plant, plan, Slowed(line="line", run=run.id, share=1), at)
    assert same.opening.begun == opened(plant, plan.plans, at).opening.begun


def test_a_run_ended_early_leaves_the_rest_to_be_made_again() -> None:
    plant = line()
    plan = plan_plant(plant, stop=after_evaluations(5, 5))
    run = plan.plans[0].runs[0]
    at = run.start_min + 45
    after, fit = as_happened(plant, plan, Ended(line="line", run=run.id, packs=5_000), at)
    first, *others = fit.plan.plans[0].runs
    assert (first.packs, sum(other.packs for other in others) >= 4_000) == (5_000, True)
    assert checked(after, fit.plan).sound
    with pytest.raises(OutOfRangeError, match="4500 to 8999"):
        as_happened(plant, plan, Ended(line="line", run=run.id, packs=4_000), at)
    with pytest.raises(NotRunningError, match="begun and are not all fed"):
        as_happened(plant, plan, Ended(line="line", run=run.id, packs=4_000), run.start_min + 91)


def test_whatever_happened_to_a_run_leaves_a_plan_that_can_be_run() -> None:
    """Random runs of the whole demo, slower or ended at a random moment: the check accepts what is left of the plan."""
    rng, tried = Random(4), 0
    while tried < 25:
        planned_on = rng.choice(PLAN.plans)
        run = rng.choice(planned_on.runs)
        share = rng.uniform(0.05, 0.95)
        slower = rng.random() < 0.6
        packs = int(run.packs * (0.05 + 0.95 * share))
        if not slower and packs >= run.packs - 1:
            continue
        of = {"line": planned_on.line, "run": run.id}
        happened = Slowed(**of, share=rng.choice([0.5, 0.7, 0.95])) if slower else Ended(**of, packs=packs + 1)
        after, fit = as_happened(DAY, PLAN, happened, run.start_min + share * run.feed_min)
        assert checked(after, fit.plan).sound, happened
        tried += 1


def test_a_plan_of_what_happened_that_breaks_rules_is_refused_with_the_rules() -> None:
    plant = line()
    plan = plan_plant(plant, stop=after_evaluations(5, 5))
    broken = plan.plans[0].model_copy(update={"runs": plan.plans[0].runs[:0]})
    found = checked(plant, plan.model_copy(update={"plans": (broken,)}))
    with pytest.raises(UnsoundFactError, match=r"does not fit around it: .*packs of Roll"):
        refuse_unsound(found)
    refuse_unsound(checked(plant, plan))


def test_a_station_whose_stops_are_known_is_guessed_by_them() -> None:
    """Half of log-normal stops are shorter than the median; SciPy's own distribution says how many than the others."""
    stands = Standstill(median_min=6, spread=0.9)
    own = stats.lognorm(s=0.9, scale=6)
    first, middle, last = guesses_of(stands)
    assert (middle.low_min, middle.likely_min, middle.high_min) == tuple(round(own.ppf(q)) for q in (0.25, 0.5, 0.8))
    assert last.likely_min == round(own.ppf(0.9))
    assert first.likely_min < middle.likely_min < last.likely_min
    assert guesses_of(None) == GUESSES
    always = guesses_of(Standstill(median_min=0.4, spread=0))
    assert [one.likely_min for one in always] == [1, 2, 3], "three that differ, however short its stops are"
