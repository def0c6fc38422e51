"""What can be observed in a record, by hand: on the ring line's plan, with counts, stops and checks made up for it."""

from itertools import pairwise
from math import exp

import pytest

from rundgang.core.floor.followed import Counted, Stoppage
from rundgang.core.kinds.conveyor import ConveyorStep
from rundgang.core.learning.observed import EARLY_MIN, Find, LineRecord, Observed, all_observed
from rundgang.core.planning.legs import Passing, passings
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.store.cluster import Urls
from simulated import planned_in

END = 5_000.0


@pytest.fixture
def record(urls: Urls) -> LineRecord:
    """The ring line's first plan, of which only its first run has happened, and nothing is known yet."""
    scenario, plan = planned_in(urls)
    (line,) = plan.plans
    first = min(line.runs, key=lambda run: run.start_min)
    alone = line.model_copy(update={"runs": (first,)})
    return LineRecord(scenario, alone, {}, (), (0.0, END), ())


def run_of(record: LineRecord) -> tuple[Run, Product, dict[str, Passing]]:
    (run,) = record.plan.runs
    product = record.scenario.product(run.product)
    return run, product, {one.station: one for one in passings(record.scenario, run)}


def counted(passing: Passing, total: float) -> Counted:
    """So many come out of a station, evenly."""
    return Counted((0.0, passing.first_out, passing.last_out, END), (0.0, 0.0, total, total))


def seen(record: LineRecord, kind: str, station: str | None = None) -> list[Observed]:
    found = (one for one in all_observed(record) if one.kind == kind)
    return [one for one in found if station is None or one.station == station]


def test_of_a_thousand_that_came_ten_are_lost(record: LineRecord) -> None:
    _, _, at = run_of(record)
    counts = {"proofer": counted(at["proofer"], 1_000), "oven": counted(at["oven"], 990)}
    (one,) = seen(record._replace(counts=counts), "yield")
    assert (one.station, one.good, one.lost) == ("oven", 990, 10)
    assert one.value == pytest.approx(0.99)


def test_a_bag_that_is_not_full_is_no_loss(record: LineRecord) -> None:
    """Of 1,003 rings 200 bags of five are made, and three rings are left."""
    _, product, at = run_of(record)
    bagger = next(step for step in product.piece_steps if step.station == "bagger")
    assert bagger.conversion == product.pieces_per_pack
    bags = 1_003 // product.pieces_per_pack
    counts = {"slicer": counted(at["slicer"], 1_003), "bagger": counted(at["bagger"], bags)}
    (one,) = seen(record._replace(counts=counts), "yield")
    assert (one.good, one.lost) == (bags, 0)


def test_without_white_time_nobody_knows_whose_pieces_they_are(record: LineRecord) -> None:
    _, _, at = run_of(record)
    always = Counted((0.0, END), (0.0, 5_000.0))
    counts = {"proofer": counted(at["proofer"], 1_000), "oven": always}
    assert seen(record._replace(counts=counts), "yield") == []
    late = Counted((at["oven"].first_out + 5, END), (0.0, 990.0))
    assert seen(record._replace(counts={**counts, "oven": late}), "yield") == [], "the beginning was not heard"


def test_what_a_stop_spoils_is_no_loss_of_the_oven(record: LineRecord) -> None:
    _, product, at = run_of(record)
    counts = {"proofer": counted(at["proofer"], 1_000), "oven": counted(at["oven"], 700)}
    baker = next(step for step in product.piece_steps if step.station == "oven")
    begin = at["oven"].first_in + 10
    spoils = Stoppage(station="oven", from_min=begin, until_min=begin + baker.stands_min + 1)
    assert seen(record._replace(counts=counts, stood=(spoils,)), "yield") == []
    idle = Stoppage(station="oven", from_min=at["oven"].last_out + 60, until_min=at["oven"].last_out + 90)
    assert len(seen(record._replace(counts=counts, stood=(idle,)), "yield")) == 1


@pytest.mark.parametrize("stood_min", [0.0, 6.0])
def test_a_pace_is_that_of_the_minutes_in_which_the_first_station_ran(record: LineRecord, stood_min: float) -> None:
    """1,800 out of the divider in 15 minutes, or in nine where it stood for six: 7,200, or 12,000 an hour."""
    run, product, _ = run_of(record)
    begin = (run.start_min // 15 + 1) * 15
    rises = Counted((0.0, begin, begin + 15, END), (0.0, 0.0, 1_800.0, 1_800.0))
    stood = (Stoppage(station="divider", from_min=begin, until_min=begin + stood_min),) if stood_min else ()
    first = seen(record._replace(counts={"divider": rises}, stood=stood), "pace")[0]
    step = product.piece_steps[0]
    out_per_h = 60 * 1_800 / (15 - stood_min)
    scaled_per_h = out_per_h * float(step.conversion) / float(step.yield_)
    assert first.value == pytest.approx(scaled_per_h / float(product.taken_per_finished[0]) / run.pace_share)


def test_a_station_that_is_held_up_has_not_stopped(record: LineRecord) -> None:
    """The oven stops for 20 min; the proofer before it stands with it, and stops for itself 100 min later, for 7."""
    oven = Stoppage(station="oven", from_min=1_000, until_min=1_020)
    held = Stoppage(station="proofer", from_min=1_000 - EARLY_MIN / 2, until_min=1_020)
    own = Stoppage(station="proofer", from_min=1_120, until_min=1_127)
    stood = record._replace(stood=(oven, held, own), plan=record.plan.model_copy(update={"runs": ()}))
    (of_oven,), (of_proofer,) = seen(stood, "stops", "oven"), seen(stood, "stops", "proofer")
    assert (of_oven.lost, of_oven.value) == (1, END - 20)
    assert of_proofer.lost == 1
    assert of_proofer.value == pytest.approx(END - 20 - EARLY_MIN - 7), "what is held up is not watched"
    assert [one.value for one in seen(stood, "stands", "proofer")] == [7]
    assert [one.value for one in seen(stood, "stands", "oven")] == [20]


def test_a_stop_that_goes_on_has_no_length_yet(record: LineRecord) -> None:
    stands = Stoppage(station="bagger", from_min=END - 30, until_min=None)
    found = record._replace(stood=(stands,), plan=record.plan.model_copy(update={"runs": ()}))
    assert seen(found, "stops", "bagger")[0].lost == 1
    assert seen(found, "stands") == []
    assert seen(found._replace(watched=None), "stops") == []


def test_a_change_lasts_from_the_last_piece_to_when_it_is_found_set_up(urls: Urls) -> None:
    scenario, whole = planned_in(urls)
    (plan,) = whole.plans
    one, then = _changed_at_bagger(scenario, plan)
    out = {run.id: next(p for p in passings(scenario, run) if p.station == "bagger") for run in (one, then)}
    last = out[one.id].last_out
    counts = {"bagger": Counted((0.0, last - 60, last, END), (0.0, 0.0, 500.0, 500.0))}
    find = Find(last + 6.5, "bagger", then.id, None, None, (), good=True, at_start=True)
    record = LineRecord(scenario, plan, counts, (), None, (find, find._replace(good=False)))
    (change,) = seen(record, "tool change")
    assert change.value == pytest.approx(6.5)


def _changed_at_bagger(scenario: Scenario, plan: LinePlan) -> tuple[Run, Run]:
    """Two neighbours that are bagged in different films."""
    runs = sorted(plan.runs, key=lambda run: run.start_min)

    def film(run: Run) -> object:
        return next(
            getattr(s, "tool", None) for s in scenario.product(run.product).piece_steps if s.station == "bagger"
        )

    return next((one, then) for one, then in pairwise(runs) if film(one) != film(then))


def test_a_core_that_newton_cooled_has_his_rate(record: LineRecord) -> None:
    """T = Ta + (T0 - Ta) e^(-k t), k 0.05 per minute (Newton's law of cooling)."""
    _, product, at = run_of(record)
    cooler = next(step for step in product.piece_steps if isinstance(step, ConveyorStep) and step.cooling)
    baker = product.piece_steps[product.bake_place].station
    minute = at[cooler.station].first_out + 20
    air = record.scenario.during(minute).conditions.room_c
    cold = air + (95 - air) * exp(-0.05 * cooler.dwell_min)
    out_of_oven = minute - (at[cooler.station].first_out - at[baker].first_out)
    cores = (
        Find(out_of_oven, baker, None, product.id, "core temperature", (94.0, 96.0), good=True),
        Find(out_of_oven - 25, baker, None, product.id, "core temperature", (80.0,), good=True),
        Find(minute, cooler.station, None, product.id, "core temperature", (cold,), good=True),
    )
    (one,) = seen(record._replace(finds=cores), "cooling")
    assert one.value == pytest.approx(0.05)
    assert seen(record._replace(finds=cores[1:2]), "cooling") == [], "nothing was probed behind the cooler"
    far = cores[0]._replace(at_min=out_of_oven - 200)
    assert seen(record._replace(finds=(far, cores[2])), "cooling") == [], "those were other pieces"


def test_what_a_piece_lost_in_the_oven_is_of_what_it_was_scaled_at(record: LineRecord) -> None:
    """A piece scaled 2 g too heavy that lost an eighth of what came to the oven."""
    _, product, at = run_of(record)
    baker, first = product.piece_steps[product.bake_place].station, product.piece_steps[0].station
    minute = at[baker].first_out + 20
    scaled_at = minute - (at[baker].first_out - at[first].first_out)
    entering = product.entering_g[product.bake_place] + 2
    weighed = (product.scaling_g + 1, product.scaling_g + 3)
    finds = (
        Find(scaled_at, first, None, product.id, "scaled weight", weighed, good=True),
        Find(minute, baker, None, product.id, "baked weight", (entering * 7 / 8,) * 3, good=True),
    )
    (one,) = seen(record._replace(finds=finds), "bake loss")
    assert one.value == pytest.approx(1 / 8)
    gained = finds[1]._replace(values=(entering + 1,))
    assert seen(record._replace(finds=(finds[0], gained)), "bake loss") == [], "nothing gains in an oven"
