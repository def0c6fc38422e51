"""Headways against a piece-by-piece simulation, the no-wait flow shop, and hand-worked cases."""

from dataclasses import dataclass
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plants import belt, make_plan, on_belt, pair_headway, product, scenario
from rundgang.core.kinds.chamber import ChamberStation, ChamberStep
from rundgang.core.kinds.conveyor import ConveyorStep
from rundgang.core.kinds.parts import Changeover
from rundgang.core.kinds.rate import RateStation, RateStep
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.headway import gap
from rundgang.core.planning.legs import way_of
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

GRID_MIN = 0.5


@dataclass(frozen=True)
class Piece:
    """One piece at one station."""

    enters: float
    leaves: float


def simulate(plant: Scenario, made: Product, start: float, feed: float) -> dict[str, list[Piece]]:
    """Every piece of a run at every station, fed one a grid step, walked down the line."""
    line = plant.plant.lines[0]
    pieces: dict[str, list[Piece]] = {step.station: [] for step in made.piece_steps}
    for number in range(round(feed / GRID_MIN) + 1):
        now = start + number * GRID_MIN
        for step in made.piece_steps:
            assert isinstance(step, ConveyorStep)
            pieces[step.station].append(Piece(now, now + step.dwell_min))
            now += step.dwell_min + getattr(line.station(step.station), "transfer_min", 0)
    return pieces


def clashes(plant: Scenario, first: Product, then: Product, feed: float, later_by: float) -> bool:
    """Whether a run that starts so much later meets the first: two speeds on a belt, or an unready oven."""
    ahead, behind = simulate(plant, first, 0, feed), simulate(plant, then, later_by, feed)
    for station in ahead.keys() & behind.keys():
        steps = [next(s for s in p.piece_steps if s.station == station) for p in (first, then)]
        assert isinstance(steps[0], ConveyorStep)
        assert isinstance(steps[1], ConveyorStep)
        belt_ = plant.plant.lines[0].station(station)
        heats = [steps[0].temperature_c or 0, steps[1].temperature_c or 0]
        rate = getattr(belt_, "heating_c_per_min", None)
        ramp = abs(heats[0] - heats[1]) / rate if rate else 0
        if steps[0].dwell_min == steps[1].dwell_min and heats[0] == heats[1]:
            free = max(piece.enters for piece in ahead[station])
        else:
            free = max(piece.leaves for piece in ahead[station]) + max(ramp, getattr(belt_, "setup_min", 0))
        if min(piece.enters for piece in behind[station]) < free - 1e-9:
            return True
    return False


dwells = st.integers(2, 40).map(float)
heats = st.sampled_from([200.0, 220.0, 240.0])


@st.composite
def pairs(draw: st.DrawFn) -> tuple[Scenario, Product, Product]:
    """Two products on a line of four belts; either may skip belts."""
    stations = [
        belt(f"b{n}", setup=draw(st.integers(0, 8)), ramp=draw(st.sampled_from([None, 2.0, 5.0])), transfer=n)
        for n in range(4)
    ]
    made = []
    for name in ("first", "then"):
        kept = draw(st.lists(st.integers(0, 3), min_size=1, unique=True).map(sorted))
        made.append(product(name, [on_belt(f"b{n}", draw(dwells), heat=draw(heats)) for n in kept]))
    return scenario(stations, made), made[0], made[1]


@settings(max_examples=60, deadline=None)
@given(pair=pairs(), feed=st.integers(2, 40).map(float))
def test_headway_is_the_least_delay_that_does_not_clash(pair: tuple[Scenario, Product, Product], feed: float) -> None:
    """Brute force: try every delay on a grid and simulate both runs piece by piece."""
    plant, first, then = pair
    headway = pair_headway(plant, first, then)
    shared = {s.station for s in first.piece_steps} & {s.station for s in then.piece_steps}
    if headway is None:
        assert not shared
        return
    least = feed + headway.beyond_feed_min
    assert headway.station in shared
    assert not clashes(plant, first, then, feed, least)
    assert clashes(plant, first, then, feed, least - GRID_MIN)


@given(times=st.lists(st.tuples(st.integers(1, 50), st.integers(51, 99)), min_size=1, max_size=6))
def test_no_wait_flow_shop_delays(times: list[tuple[int, int]]) -> None:
    """With feeding time 0, headways are the delays of the no-wait flow shop (J. M. van Deman 1974, from memory).

    The delay between jobs is max over machines k of (sum of p_1..k) − (sum of q_1..k−1).
    """
    p, q = [a for a, _ in times], [b for _, b in times]
    stations = [belt(f"m{n}") for n in range(len(times))]
    first = product("first", [on_belt(f"m{n}", t) for n, t in enumerate(p)])
    then = product("then", [on_belt(f"m{n}", t) for n, t in enumerate(q)])
    expected = max(sum(p[: k + 1]) - sum(q[:k]) for k in range(len(times)))
    headway = pair_headway(scenario(stations, [first, then]), first, then)
    assert headway is not None
    assert headway.beyond_feed_min == pytest.approx(expected)


def test_a_run_that_skips_the_oven_leaves_its_neighbours_facing_each_other_there() -> None:
    """R1 and R3 bake at different heat; R2 between them does not bake at all and is short."""
    stations = [belt("proofer"), belt("oven", ramp=1.0), belt("cooler")]
    hot = product("hot", [on_belt("proofer", 30), on_belt("oven", 20, heat=260), on_belt("cooler", 10)])
    steamed = product("steamed", [on_belt("proofer", 30), on_belt("cooler", 10)])
    mild = product("mild", [on_belt("proofer", 30), on_belt("oven", 20, heat=180), on_belt("cooler", 10)])
    orders = [("hot", 300.0, 500), ("steamed", 310.0, 50), ("mild", 2_000.0, 500)]
    plant = scenario(stations, [hot, steamed, mild], orders, hot={"oven": 260})
    plan = make_plan(plant, "line")
    assert check(plant, plan) == ()
    runs = {run.product: run for run in plan.runs}
    order = [run.product for run in plan.runs]
    assert order == ["hot", "steamed", "mild"]
    last_out = runs["hot"].start_min + 30 + runs["hot"].feed_min + 20
    assert runs["mild"].start_min + 30 == pytest.approx(last_out + 80), "80 °C down at 1 °C/min, over R2's head"
    assert (runs["mild"].binding.after, runs["mild"].binding.station) == ("R1", "oven")


def test_gap_of_a_machine_counts_tool_and_cleaning() -> None:
    """Tool change and cleaning come after the last piece has left (by definition of the gap)."""
    former = RateStation(
        id="former",
        name="Former",
        pass_min=1,
        changeover=Changeover(separation_min=2, tool_change_min=8, allergen_clean_min=12, trait_clean_min=5),
    )

    def ring(name: str, tool: str, nuts: bool) -> Product:
        return product(name, [RateStep(station="former", strokes_per_min=100, tool=tool)], nuts=nuts)

    plain, nutty, large = ring("plain", "small", False), ring("nutty", "small", True), ring("large", "big", False)
    plant = scenario([former], [plain, nutty, large])
    assert gap(plant, "former", plain, plain).minutes == 2
    assert gap(plant, "former", plain, nutty).minutes == 2, "towards the allergen nothing is cleaned"
    assert gap(plant, "former", nutty, plain).minutes == 1 + 12
    assert gap(plant, "former", plain, large).minutes == 1 + 8
    found = gap(plant, "former", nutty, large)
    assert found.minutes == 1 + 8 + 12
    assert sum(reason.minutes for reason in found.reasons) == found.minutes


def test_oven_heats_and_cools_at_different_rates() -> None:
    oven = belt("oven", setup=4).model_copy(update={"heating_c_per_min": 4.0, "cooling_c_per_min": 2.0})
    mild = product("mild", [on_belt("oven", 10, heat=200)])
    hot = product("hot", [on_belt("oven", 10, heat=240)])
    plant = scenario([oven], [mild, hot])
    assert gap(plant, "oven", mild, hot).minutes == 10 + 10, "empty 10 min, 40 °C up at 4"
    assert gap(plant, "oven", hot, mild).minutes == 10 + 20, "empty 10 min, 40 °C down at 2"


def test_offsets_add_dwell_and_transfer() -> None:
    plant = scenario(
        [belt("proofer", transfer=2), belt("oven", transfer=1), belt("cooler")],
        [product("roll", [on_belt("proofer", 50), on_belt("oven", 15), on_belt("cooler", 40)])],
    )
    passed = way_of(plant, plant.products[0]).stops
    assert [stop.offset_min for stop in passed] == [0, 52, 68]
    assert all(b.offset_min > a.offset_min for a, b in pairwise(passed))


@settings(max_examples=60, deadline=None)
@given(
    proofs=st.tuples(st.integers(20, 90), st.integers(20, 90)),
    per_tray=st.tuples(st.integers(10, 40), st.integers(10, 40)),
    racks=st.integers(5, 40),
)
def test_two_runs_share_a_room_as_soon_as_it_never_overfills(
    proofs: tuple[int, int], per_tray: tuple[int, int], racks: int
) -> None:
    """Brute force: trays in the room minute by minute, both runs at the pace the room lets each have."""
    room = ChamberStation(id="room", name="Room", racks=racks, trays_per_rack=10)
    first, then = (
        product(
            name, [ChamberStep(station="room", dwell_min=proof, pieces_per_tray=pieces)], target=900_000, age=10_000
        )
        for name, proof, pieces in zip(("first", "then"), proofs, per_tray, strict=True)
    )
    plant = scenario([room], [first, then])
    needed = gap(plant, "room", first, then).minutes
    rates = [room.trays / proof for proof in proofs]  # trays a minute that just fill the room

    def fullest(white: float) -> float:
        """Trays inside at every tenth of a minute, the first run having fed for 200 min before minute 0."""
        most = 0.0
        for tenth in range(0, 10 * (sum(proofs) + 1)):
            now = tenth / 10
            leaving = max(0.0, min(proofs[0] - now, 200)) * rates[0]
            coming = max(0.0, min(now - white, proofs[1])) * rates[1]
            most = max(most, leaving + coming)
        return most

    assert fullest(needed) <= room.trays * (1 + 1e-9)
    if needed > 1:
        assert fullest(needed - 1) > room.trays * (1 + 1e-9)


def test_another_climate_empties_the_room() -> None:
    room = ChamberStation(id="room", name="Room", racks=10, trays_per_rack=10, setup_min=15)
    dry = product("dry", [ChamberStep(station="room", dwell_min=40, humidity_pct=60, pieces_per_tray=20)])
    damp = product("damp", [ChamberStep(station="room", dwell_min=30, humidity_pct=80, pieces_per_tray=20)])
    assert gap(scenario([room], [dry, damp]), "room", dry, damp).minutes == 40 + 15
