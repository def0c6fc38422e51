"""Plans: against brute force, against pack-by-pack counting, and always through the independent check."""

from itertools import permutations

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from plants import belt, items_on, laid_out, make_plan, mixers, on_belt, product, scenario
from rundgang.core.errors import UnknownItemError
from rundgang.core.kinds.bench import BenchStation, BenchStep
from rundgang.core.kinds.chamber import ChamberStation, ChamberStep
from rundgang.core.kinds.every import PieceStation, PieceStep
from rundgang.core.orders import Block
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.planning.timeline import timeline
from rundgang.core.products import OddBatch, Product
from rundgang.core.scenario import Scenario

STATIONS = [belt("proofer", setup=5), belt("oven", ramp=2.0, setup=2), belt("cooler")]
FAMILY = [
    product("plain", [on_belt("proofer", 45), on_belt("oven", 14, heat=230), on_belt("cooler", 30)]),
    product("dark", [on_belt("proofer", 45), on_belt("oven", 18, heat=210), on_belt("cooler", 30)], nuts=True),
    product("mild", [on_belt("proofer", 60), on_belt("oven", 20, heat=200)], target=6_000),
]
MIXING = mixers(least=20, most=200, clean=10)

HAND_STATIONS: list[PieceStation] = [
    ChamberStation(id="room", name="Room", racks=30, trays_per_rack=10, setup_min=10),
    belt("fryer", ramp=3.0),
    BenchStation(id="bench", name="Bench", people=7, pass_min=0.5),
]


def by_hand(name: str, proof: float, climate: float, per_tray: float, hands: float, nuts: bool = False) -> Product:
    steps: list[PieceStep] = [
        ChamberStep(station="room", dwell_min=proof, temperature_c=climate, pieces_per_tray=per_tray),
        on_belt("fryer", 3, heat=185),
        BenchStep(station="bench", pieces_per_person_min=hands, takes=2),
    ]
    return product(name, steps, pack=2, target=9_000, nuts=nuts)


HAND_FAMILY = [
    by_hand("plain", 50, 36, 24, 26),
    by_hand("dark", 35, 36, 30, 30, nuts=True),
    by_hand("mild", 60, 33, 20, 24),
]

demands = st.lists(
    st.tuples(
        st.sampled_from(["plain", "dark", "mild"]),
        st.sampled_from([240.0, 400.0, 560.0, 900.0]),
        st.integers(100, 4_000),
    ),
    min_size=1,
    max_size=9,
)


def demo(orders: list[tuple[str, float, int]]) -> Scenario:
    return scenario(STATIONS, FAMILY, orders, mixing=MIXING)


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(
    orders=demands,
    policy=st.sampled_from(["equal", "short-last", "round-up"]),
    seed=st.integers(0, 9),
    by_hand=st.booleans(),
)
def test_every_plan_made_passes_the_check(
    orders: list[tuple[str, float, int]], policy: OddBatch, seed: int, by_hand: bool
) -> None:
    plant = demo(orders)
    if by_hand:
        plant = scenario(HAND_STATIONS, HAND_FAMILY, orders, mixing=MIXING)
    chosen = {made.id: policy for made in FAMILY}
    plan = make_plan(plant, "line", seed=seed, stop=after_evaluations(40, 40), odd_batch=chosen)
    assert check(plant, plan) == ()
    assert sum(run.packs for run in plan.runs) >= sum(packs for _, _, packs in orders)


@pytest.mark.parametrize("seed", range(4))
def test_search_finds_what_brute_force_finds(seed: int) -> None:
    """Six lots: all 720 orders, with every choice of runs set apart, laid out and scored against the search."""
    sizes = [(700 + 331 * ((seed + 1) * n % 7)) for n in range(6)]
    names = ["plain", "dark", "mild", "dark", "plain", "mild"]
    due = [260.0, 300.0, 420.0, 520.0, 620.0, 700.0]
    plant = demo(list(zip(names, due, sizes, strict=True)))
    best = min(laid_out(plant, order).score.cost(Weights()) for order in permutations(items_on(plant)))
    found = make_plan(plant, "line", seed=seed, stop=after_evaluations(20_000, 20_000))
    assert found.score.cost(Weights()) <= best + 1e-6


def test_few_lots_are_proved_best() -> None:
    plan = make_plan(demo([("plain", 240.0, 900), ("dark", 400.0, 900), ("mild", 560.0, 900)]), "line")
    assert "proved best" in plan.rule
    assert 1 <= plan.evaluated <= 7, "the rule's order, and of the six those that no beginning rules out"


def test_same_seed_same_plan() -> None:
    orders = [(name, due, 900) for name in ("plain", "dark", "mild") for due in (240.0, 400.0, 560.0)]
    first, second = (make_plan(demo(orders), "line", seed=7) for _ in range(2))
    assert first == second


def test_no_orders_no_runs() -> None:
    plan = make_plan(demo([]), "line")
    assert plan.runs == ()
    assert check(demo([]), plan) == ()
    assert timeline(demo([]), plan).ribbons == ()


def test_neighbouring_lots_become_one_run_and_stock_is_used() -> None:
    """Two lots of one product, all batches full: the surplus of the first need not be made again."""
    plant = demo([("plain", 240.0, 1_500), ("plain", 900.0, 100), ("dark", 400.0, 300)])
    plan = make_plan(plant, "line", odd_batch={"plain": "round-up"})
    assert [run.product for run in plan.runs].count("plain") == 1
    assert sum(run.packs for run in plan.runs if run.product == "plain") == 2_000


def test_lateness_counted_pack_by_pack() -> None:
    """A lorry too early: every pack's own time against the departure, one by one."""
    plant = demo([("plain", 112.0, 3_000)])
    plan = make_plan(plant, "line")
    run = plan.runs[0]
    made = [run.first_pack_min + run.feed_min * number / run.packs for number in range(1, 3_001)]
    late = [minute - 112 for minute in made if minute > 112]
    assert plan.waves[0].short == len(late) > 0
    assert plan.waves[0].late_pack_hours == pytest.approx(sum(late) / 60)
    assert plan.waves[0].ready_min == pytest.approx(made[-1])


def test_more_than_the_window_holds_is_left_out_and_said() -> None:
    plant = scenario(STATIONS, FAMILY, [("plain", 200.0, 30_000), ("mild", 200.0, 100)], mixing=MIXING, minutes=200)
    plan = make_plan(plant, "line")
    assert check(plant, plan) == ()
    assert [(left.product, left.packs) for left in plan.left_out] == [("plain", 30_000)]
    assert [wave.never for wave in plan.waves] == [30_000, 0]


def test_unknown_line_is_named() -> None:
    with pytest.raises(UnknownItemError, match="no line “bread”"):
        make_plan(demo([]), "bread")


def test_mixers_hold_a_run_back() -> None:
    """One mixer with a 20 min cycle: doughs of 200 kg feed 12 min at 10,000 an hour, so the pace falls."""
    slow = product("slow", [on_belt("oven", 10)], cycle=20)
    plant = scenario([belt("oven")], [slow], [("slow", 900.0, 6_000)], mixing=mixers(1, most=200))
    plan = make_plan(plant, "line")
    assert check(plant, plan) == ()
    assert plan.runs[0].scaled_per_h == pytest.approx(60 * 2_000 / 20), "60 m n / c"


@pytest.fixture(scope="module")
def planned() -> tuple[Scenario, LinePlan]:
    plant = demo([("plain", 240.0, 3_000), ("dark", 400.0, 2_500), ("mild", 900.0, 2_000)])
    return plant, make_plan(plant, "line")


def change_run(plan: LinePlan, index: int, **changes: object) -> LinePlan:
    runs = list(plan.runs)
    runs[index] = runs[index].model_copy(update=changes)
    return plan.model_copy(update={"runs": tuple(runs)})


def moved(plan: LinePlan, index: int, minutes: float) -> LinePlan:
    """A run with its batches and packs, earlier by so many minutes."""
    run = plan.runs[index]
    shift = {"start_min", "first_pack_min", "last_pack_min"}
    batch_shift = {"start_min", "discharged_min", "divided_min", "last_piece_min"}
    batches = tuple(
        batch.model_copy(update={name: getattr(batch, name) - minutes for name in batch_shift}) for batch in run.batches
    )
    return change_run(plan, index, batches=batches, **{name: getattr(run, name) - minutes for name in shift})


def texts(plant: Scenario, plan: LinePlan) -> str:
    return "\n".join(str(violation) for violation in check(plant, plan))


def test_check_sees_a_run_too_early(planned: tuple[Scenario, LinePlan]) -> None:
    plant, plan = planned
    found = check(plant, moved(plan, 1, 3))
    assert any(v.minutes == pytest.approx(3) and "before it is empty" in v.text for v in found)


def test_check_sees_mixers_that_overlap(planned: tuple[Scenario, LinePlan]) -> None:
    plant, plan = planned
    batches = tuple(batch.model_copy(update={"mixer": "A"}) for batch in plan.runs[0].batches)
    assert "still in use" in texts(plant, change_run(plan, 0, batches=batches))


def test_check_sees_a_mixer_not_cleaned(planned: tuple[Scenario, LinePlan]) -> None:
    plant, plan = planned
    index = next(n for n, run in enumerate(plan.runs) if run.product == "dark")
    if index == len(plan.runs) - 1:
        pytest.skip("the allergen is made last: nothing follows it")
    ahead = moved(plan, index + 1, 60)
    assert "cleaned" in texts(plant, ahead) or "still in use" in texts(plant, ahead)


@pytest.mark.parametrize(
    ("changes", "expected"),
    [
        ({"packs": 4_000}, "promises 4000 packs"),
        ({"packs": 100}, "promises 100 packs"),
        ({"pieces": 2_999}, "its batches"),
        ({"feed_min": 1.0}, "feeding time"),
        ({"first_pack_min": 0.0}, "first pack"),
        ({"last_pack_min": 99_999.0}, "after the window"),
        ({"product": "bagel"}, "does not make"),
    ],
)
def test_check_sees_a_false_run(planned: tuple[Scenario, LinePlan], changes: dict[str, object], expected: str) -> None:
    plant, plan = planned
    index = next(n for n, run in enumerate(plan.runs) if run.product == "plain")
    assert expected in texts(plant, change_run(plan, index, **changes))


@pytest.mark.parametrize(
    ("changes", "expected"),
    [
        ({"dough_g": 1_000}, "too little for its pieces"),
        ({"dough_g": 900_000}, "allowed 20 to 200"),
        ({"start_min": -30.0}, "before the window"),
        ({"discharged_min": 0.0}, "not mixed for its time"),
        ({"divided_min": 0.0}, "before it has rested"),
        ({"last_piece_min": 5_000.0}, "too old"),
        ({"mixer": "Z"}, "does not have"),
    ],
)
def test_check_sees_a_false_dough(
    planned: tuple[Scenario, LinePlan], changes: dict[str, object], expected: str
) -> None:
    plant, plan = planned
    first, *rest = plan.runs[0].batches
    batches = (first.model_copy(update=changes), *rest)
    assert expected in texts(plant, change_run(plan, 0, batches=batches))


def test_check_sees_a_belt_too_full(planned: tuple[Scenario, LinePlan]) -> None:
    plant, plan = planned
    line = plant.plant.lines[0]
    small = tuple(
        station.model_copy(update={"places": 100}) if station.id == "oven" else station for station in line.stations
    )
    tight = plant.model_copy(
        update={"plant": plant.plant.model_copy(update={"lines": (line.model_copy(update={"stations": small}),)})}
    )
    assert "% full at minute" in texts(tight, plan)


def test_check_sees_a_room_too_full() -> None:
    """Half the racks are gone: the room overfills, and the check says so, with the trays there are."""
    plant = scenario(HAND_STATIONS, HAND_FAMILY, [("plain", 900.0, 4_000)], mixing=MIXING)
    plan = make_plan(plant, "line")
    assert check(plant, plan) == ()
    line = plant.plant.lines[0]
    fewer = tuple(
        station.model_copy(update={"racks": 15}) if station.id == "room" else station for station in line.stations
    )
    halved = plant.plant.model_copy(update={"lines": (line.model_copy(update={"stations": fewer}),)})
    assert "% full at minute" in texts(plant.model_copy(update={"plant": halved}), plan)


def test_check_sees_a_bench_with_too_few_people() -> None:
    plant = scenario(HAND_STATIONS, HAND_FAMILY, [("plain", 900.0, 4_000)], mixing=MIXING)
    plan = make_plan(plant, "line")
    line = plant.plant.lines[0]
    fewer = tuple(
        station.model_copy(update={"people": 3}) if station.id == "bench" else station for station in line.stations
    )
    alone = plant.plant.model_copy(update={"lines": (line.model_copy(update={"stations": fewer}),)})
    assert "pieces/h, can take" in texts(plant.model_copy(update={"plant": alone}), plan)


def test_check_sees_lateness_not_announced(planned: tuple[Scenario, LinePlan]) -> None:
    plant, plan = planned
    late = tuple(wave.model_copy(update={"departs_min": 1.0}) for wave in plant.waves)
    assert "announces" in texts(plant.model_copy(update={"waves": late}), plan)


def test_check_sees_orders_lost(planned: tuple[Scenario, LinePlan]) -> None:
    plant, plan = planned
    fewer = plan.model_copy(update={"runs": plan.runs[:-1], "waves": plan.waves[:-1]})
    found = texts(plant, fewer)
    assert "leaves out" in found
    assert "surplus" in found


def test_timeline_shows_the_binding_gap(planned: tuple[Scenario, LinePlan]) -> None:
    plant, plan = planned
    laid = timeline(plant, plan)
    for meeting, run in zip(laid.meetings, plan.runs[1:], strict=True):
        if run.binding.kind == "headway" and run.binding.after == meeting.first:
            assert meeting.station == run.binding.station
            assert meeting.to_min - meeting.from_min == pytest.approx(run.binding.gap_min)
            assert meeting.spare_min == pytest.approx(0)
    assert laid.made[-1].packs == sum(run.packs for run in plan.runs)
    assert laid.due[-1].packs == sum(order.packs for order in plant.orders)


def closed(name: str, begins: float, ends: float) -> Block:
    return Block(
        id=name, line="line", station="mixers", kind="cleaning", from_min=begins, to_min=ends, reason="washed down"
    )


@pytest.mark.parametrize("times", [((60, 500), (100, 150)), ((60, 200), (150, 500)), ((60, 150), (150, 500))])
def test_a_mixer_closed_twice_at_a_time_is_closed_until_the_later_end(times: tuple[tuple[float, float], ...]) -> None:
    bread = product("bread", [on_belt("oven", 10)], target=3_000)
    day = scenario([belt("oven")], [bread], [("bread", 1_000.0, 10_000)], mixing=mixers(1, most=50))
    blocks = tuple(closed(f"b{number}", *block) for number, block in enumerate(times))
    plan = make_plan(day.model_copy(update={"blocks": blocks}), "line")
    assert check(day.model_copy(update={"blocks": blocks}), plan) == ()
    assert min(batch.start_min for run in plan.runs for batch in run.batches) == 500


def test_a_short_closing_does_not_stand_for_the_cleaning_between_two_doughs() -> None:
    """Nuts, two minutes shut, then none: the mixer must be cleaned for 30 minutes all the same."""
    oven = [on_belt("oven", 10)]
    kinds = [product("nutty", oven, nuts=True), product("plain", oven)]
    orders = [("nutty", 30.0, 300), ("plain", 1_000.0, 300)]
    day = scenario([belt("oven")], kinds, orders, mixing=mixers(1, clean=30))
    day = day.model_copy(update={"blocks": (closed("b", 10, 12),)})
    plan = make_plan(day, "line")
    assert check(day, plan) == ()
    nutty, plain = (run.batches[0] for run in plan.runs)
    assert (nutty.discharged_min, plain.start_min) == (10, 40)
