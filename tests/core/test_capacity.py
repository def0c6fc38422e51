"""Capacities by definition, the limits of a dough, and what holds for any line: slower is never more, mass is kept."""

from itertools import pairwise

import pytest
from hypothesis import given, reject, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from families import FAMILIES, bulk_bread, plant_of, yeast_rings
from plants import belt, mixers, on_belt, product, scenario
from rundgang.core.balance import balance
from rundgang.core.capacity import dough_bounds, passed
from rundgang.core.errors import InfeasibleError
from rundgang.core.flow import mass_flow
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, PieceGeometry, rows_on
from rundgang.core.kinds.every import operation
from rundgang.core.kinds.held import HeldStep, held_capacity
from rundgang.core.scenario import Scenario
from rundgang.core.whatif import Setting, with_setting

LOOKED_AT = {name: make() for name, make in FAMILIES.items()}


def test_held_capacity_by_definition() -> None:
    """60 N n / (d + t): 12 troughs of 400 pieces for 3 h and 20 min round carry 1,440 an hour."""
    assert held_capacity(12, 400, 180, 20) == 1_440
    assert held_capacity(12, 400, 0, 0) == float("inf"), "what takes no time holds nothing back"


def test_places_from_geometry() -> None:
    """floor((width + gap) / (piece + gap)) across, floor(length / pitch) along."""
    assert rows_on(1_000, 44, 8) == 19
    band = ConveyorStation(id="band", name="Band", length_m=24, width_m=1.0)
    lying = ConveyorStep(station="band", dwell_min=6, geometry=PieceGeometry(across_mm=44, gap_mm=8, pitch_mm=52))
    assert operation(lying, band).places == 19 * 461


@given(width=st.integers(50, 3_000), piece=st.integers(5, 400), gap=st.integers(0, 60))
def test_one_row_more_would_not_fit(width: int, piece: int, gap: int) -> None:
    """Brute force: lay rows until the next one hangs over the edge."""
    rows, used = 0, -gap
    while used + gap + piece <= width:
        used += gap + piece
        rows += 1
    assert rows_on(width, piece, gap) == rows


@pytest.mark.parametrize(
    ("least", "most", "age", "because"),
    [(1, 80, 1_000, "the fill of Mixers"), (1, 500, 15, "its age at the divider")],
)
def test_what_limits_a_dough_is_named(least: float, most: float, age: float, because: str) -> None:
    roll = product("roll", [on_belt("oven", 10)], rest=5, age=age, target=6_000)
    plant = scenario([belt("oven")], [roll], mixing=mixers(least=least, most=most))
    bounds = dough_bounds(plant, roll)
    assert bounds.most.because == because
    assert bounds.most.kg == pytest.approx(min(most, (age - 5) / 60 * 6_000 * 0.1))


def test_the_sponge_limits_the_dough() -> None:
    """A sponge mixer of 60 kg is enough for 60 kg over the sponge's share of the dough."""
    family = bulk_bread()
    small = tuple(
        station.model_copy(update={"max_fill_kg": 60}) if station.id == "sponge-mixers" else station
        for station in family.stations
    )
    plant = plant_of(family._replace(stations=small))
    bounds = dough_bounds(plant, plant.product("loaf"))
    assert bounds.most.because == "the Sponge from Sponge-Mixers"
    assert bounds.most.kg == pytest.approx(60 / (81 / (50 + 35 + 81)))


def test_a_dough_of_less_than_a_piece_is_refused() -> None:
    roll = product("roll", [on_belt("oven", 10)], grams=19_000)
    with pytest.raises(InfeasibleError, match="not even one piece of 19000 g"):
        balance(scenario([belt("oven")], [roll], mixing=mixers(most=15)), "roll")


@pytest.mark.parametrize("name", LOOKED_AT)
@settings(max_examples=12, deadline=None)
@given(slower=st.floats(1.01, 4), where=st.integers(0, 20))
def test_capacity_never_rises_when_a_stage_slows(name: str, slower: float, where: int) -> None:
    """Whatever is slowed, a belt, a store, or one machine fewer: the line carries no more than before."""
    family = LOOKED_AT[name]
    plant = plant_of(family)
    before = balance(plant, family.look_at)
    on_a_belt = [s for s in before.stages if s.settable and s.counted == "pieces"]
    several = [s for s in before.stages if s not in on_a_belt and s.machines > 1]
    stage = (on_a_belt + several)[where % len(on_a_belt + several)]
    if stage in on_a_belt:
        setting = Setting(dwell_min={stage.station: stage.dwell_min * slower})
    else:
        setting = Setting(count={stage.station: stage.machines - 1})
    try:
        after = balance(with_setting(plant, family.look_at, setting), family.look_at)
    except InfeasibleError:
        reject()
    assert after.most_per_h <= before.most_per_h * (1 + 1e-9)
    slowed = next(s for s in after.stages if s.station == stage.station)
    assert slowed.capacity_per_h <= stage.capacity_per_h * (1 + 1e-9)


@pytest.mark.parametrize("name", LOOKED_AT)
@given(pace=st.floats(1, 50_000))
def test_mass_is_kept_at_every_step(name: str, pace: float) -> None:
    """In + added = out + evaporated + cut out + rejected; what leaves one step enters the next."""
    plant = plant_of(LOOKED_AT[name])
    made = plant.whole(plant.product(LOOKED_AT[name].look_at))
    flows = mass_flow(made, pace)
    for flow in flows:
        gone = flow.out_kg + flow.evaporated_kg + flow.cut_out_kg + flow.rejected_kg
        assert flow.in_kg + flow.added_kg == pytest.approx(gone)
        assert 0 <= flow.reworked_kg <= flow.rejected_kg + flow.cut_out_kg
    for before, after in pairwise(flows):
        assert before.pieces_out == pytest.approx(after.pieces_in)
        assert before.out_kg == pytest.approx(after.in_kg)
    packs = pace / made.pieces_per_pack
    assert flows[-1].out_kg == pytest.approx(packs * made.finished_g / 1_000)


def test_rework_is_what_comes_back_before_the_bake() -> None:
    """Of 2 % rejected at the cutter, dough of a ring and its hole; the holes are sold."""
    family = yeast_rings()
    ring = family.products[0]
    cutter = ring.route[1].model_copy(update={"rework": 1})
    again = ring.model_copy(update={"route": (ring.route[0], cutter, *ring.route[2:])})
    fresh = type(again).model_validate(again.model_dump(mode="json", by_alias=True))
    assert fresh.reworked_g == pytest.approx(0.02 * 50)
    oven = ring.route[3].model_copy(update={"rework": 0.5})
    data = ring.model_copy(update={"route": (*ring.route[:3], oven, *ring.route[4:])}).model_dump(mode="json")
    with pytest.raises(ValidationError, match="gives back rework after the bake"):
        type(ring).model_validate(data)


@pytest.mark.parametrize("name", LOOKED_AT)
def test_flow_is_consistent_at_every_stage(name: str) -> None:
    """Counted forwards from 1,000 scaled pieces, what comes in is what the balance says backwards."""
    family = LOOKED_AT[name]
    plant = plant_of(family)
    made = plant.whole(plant.product(family.look_at))
    needs = made.taken_per_finished
    pieces = 1_000.0
    for step, need in zip(made.piece_steps, needs, strict=True):
        assert pieces == pytest.approx(1_000 * float(need / needs[0]))
        pieces = pieces / float(step.conversion) * step.yield_
    assert [s.step.station for s in passed(plant, made)][: len(needs)] == [s.station for s in made.piece_steps]


def test_a_store_shows_what_it_holds() -> None:
    """Little's law in the cold store: 4,000 triangles an hour are 40 pads; 8 h of them stand there."""
    plant = plant_of(FAMILIES["laminated"]())
    store = next(s for s in balance(plant, "pastry", 4_000).stages if s.station == "cold-store")
    assert store.inside == pytest.approx(40 * 8)
    assert isinstance(plant.product("pastry").route[2], HeldStep)


def test_a_warm_room_takes_longer_to_cool_in() -> None:
    """96 to 37 °C in 50 min at 20 °C: 61.8 min at 26 °C, 44.7 at 16 °C (common practice, no published source)."""
    cooled = ConveyorStep.model_validate(
        {"station": "cooler", "dwell_min": 50, "cooling": {"from_c": 96, "to_c": 37, "air_c": 20, "minutes": 50}}
    )
    plant: Scenario = scenario([belt("cooler")], [product("ring", [cooled])])
    for room, minutes in ((26, 61.8), (16, 44.7), (20, 50.0)):
        found = balance(with_setting(plant, "ring", Setting(room_c=room)), "ring")
        assert found.stages[-1].dwell_min == pytest.approx(minutes, abs=0.05)
    with pytest.raises(InfeasibleError, match="never reached"):
        with_setting(plant, "ring", Setting(room_c=38))
