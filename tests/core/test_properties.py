"""Properties that hold for any line: slower is never more, what goes in comes out, sums are exact."""

from itertools import pairwise
from math import inf

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plants import belt, mixers, on_belt, product, scenario
from rundgang.core.balance import balance
from rundgang.core.batching import packs_from_pieces, pieces_for_packs
from rundgang.core.kinds.bench import BenchStation, BenchStep
from rundgang.core.kinds.chamber import ChamberStation, ChamberStep
from rundgang.core.kinds.every import PieceStation, PieceStep
from rundgang.core.kinds.rate import RateStation, RateStep
from rundgang.core.planning.lorries import Due
from rundgang.core.planning.model import CutRun
from rundgang.core.planning.score import outcomes
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

yields = st.sampled_from([1.0, 0.998, 0.99, 0.95, 0.9])
speeds = st.floats(1, 200)


@st.composite
def lines(draw: st.DrawFn) -> tuple[Scenario, Product]:
    """A line with one station of every kind, and a product with yields and conversions on it."""
    stations: list[PieceStation] = [
        RateStation(id="sheeter", name="Sheeter", machines=draw(st.integers(1, 4))),
        ChamberStation(id="room", name="Room", racks=draw(st.integers(1, 60)), trays_per_rack=20),
        belt("oven", draw(st.integers(100, 20_000))),
        BenchStation(id="bench", name="Bench", people=draw(st.integers(1, 20))),
        RateStation(id="bagger", name="Bagger", machines=draw(st.integers(1, 4))),
    ]
    pack = draw(st.integers(1, 12))
    steps: list[PieceStep] = [
        RateStep(station="sheeter", strokes_per_min=draw(speeds), makes=draw(st.integers(1, 6)), yield_=draw(yields)),
        ChamberStep(station="room", dwell_min=draw(st.floats(5, 120)), pieces_per_tray=12, yield_=draw(yields)),
        on_belt("oven", draw(st.floats(5, 60)), good=draw(yields)),
        BenchStep(station="bench", pieces_per_person_min=draw(speeds), takes=draw(st.integers(1, 2))),
        RateStep(station="bagger", strokes_per_min=draw(speeds), takes=pack, yield_=draw(yields)),
    ]
    made = product("made", steps, pack=pack, target=1_000_000, age=10_000)
    return scenario(stations, [made], mixing=mixers(least=0.001)), made


def slowed(plant: Scenario, made: Product, index: int) -> Scenario:
    """The same with one step at half its speed."""
    step = made.piece_steps[index]
    field = {"rate": "strokes_per_min", "bench": "pieces_per_person_min"}.get(step.kind, "dwell_min")
    factor = 2 if field == "dwell_min" else 0.5
    changed = step.model_copy(update={field: getattr(step, field) * factor})
    route = tuple(changed if other is step else other for other in made.route)
    data = made.model_dump(by_alias=True) | {"route": [other.model_dump(by_alias=True) for other in route]}
    return plant.model_copy(update={"products": (Product.model_validate(data),)})


@settings(deadline=None)
@given(line=lines(), index=st.integers(0, 4))
def test_capacity_never_rises_when_a_stage_slows(line: tuple[Scenario, Product], index: int) -> None:
    plant, made = line
    before = balance(plant, "made")
    plant = Scenario.model_validate(slowed(plant, made, index).model_dump(by_alias=True))
    after = balance(plant, "made")
    assert after.most_per_h <= before.most_per_h * (1 + 1e-9)
    assert after.stages[index + 1].capacity_per_h == pytest.approx(before.stages[index + 1].capacity_per_h / 2)


@settings(deadline=None)
@given(line=lines(), pace=st.floats(10, 20_000))
def test_flow_is_the_same_flow_at_every_stage(line: tuple[Scenario, Product], pace: float) -> None:
    """What leaves a stage, by its yield and conversion, is what the next one takes in."""
    plant, made = line
    stages = balance(plant, "made", pace).stages[1:]
    for step, (here, there) in zip(made.piece_steps, pairwise(stages), strict=False):
        leaves = here.taken_per_piece * step.yield_ / float(step.conversion)
        assert leaves == pytest.approx(there.taken_per_piece)
    last, step = stages[-1], made.piece_steps[-1]
    packs = last.taken_per_piece * step.yield_ / float(step.conversion)
    assert packs * made.pieces_per_pack == pytest.approx(1), "one finished piece for one finished piece"


@settings(deadline=None)
@given(line=lines())
def test_the_pace_is_the_least_and_the_bottleneck_has_it(line: tuple[Scenario, Product]) -> None:
    plant, _ = line
    found = balance(plant, "made")
    capacities = {stage.station: stage.capacity_per_h for stage in found.stages}
    assert found.most_per_h == pytest.approx(min(capacities.values()))
    assert capacities[found.bottleneck] == pytest.approx(found.most_per_h)
    for stage in found.stages:
        assert stage.machines_needed * stage.capacity_per_h / stage.machines >= found.pace_per_h * (1 - 1e-6)
    for lift in found.lifts:
        assert lift.pace_per_h >= found.most_per_h * (1 - 1e-9)


@settings(deadline=None)
@given(line=lines(), packs=st.integers(1, 100_000))
def test_packs_and_pieces_undo_each_other(line: tuple[Scenario, Product], packs: int) -> None:
    _, made = line
    pieces = pieces_for_packs(made, packs)
    assert packs_from_pieces(made, pieces) >= packs
    assert packs_from_pieces(made, pieces - 1) < packs, "not one piece more than needed"
    assert made.taken_per_finished[0] * made.pieces_per_pack == made.scaled_per_pack


def giving(first: float, feed: float, packs: int) -> CutRun:
    """A run of which only its packs matter."""
    return CutRun(run="R1", product="bun", packs=packs, first_pack_min=first, last_pack_min=first + feed)


@given(
    runs=st.lists(st.tuples(st.floats(1, 200), st.integers(1, 300)), min_size=1, max_size=4),
    due=st.lists(
        st.tuples(st.floats(0, 900), st.integers(1, 250), st.sampled_from([inf, 240, 60, 5])), min_size=1, max_size=5
    ),
    good_for=st.sampled_from([inf, 300.0, 30.0]),
)
def test_lateness_of_many_runs_and_lorries_is_counted_pack_by_pack(
    runs: list[tuple[float, int]], due: list[tuple[float, int, float]], good_for: float
) -> None:
    """Brute force: every pack with its own minute, given to the lorries in their order, each as fresh as it asks."""
    plant = scenario([belt("oven")], [product("bun", [on_belt("oven", 10)])])
    start, made_runs = 0.0, []
    for feed, packs in runs:
        made_runs.append(giving(start, feed, packs))
        start += feed + 20
    lots = tuple(
        Due(
            product="bun",
            wave=f"w{n}",
            loaded_by_min=departs,
            packs=packs,
            fresh_from_min=departs - min(asked, good_for),
            good_from_min=departs - good_for,
            weight=1,
        )
        for n, (departs, packs, asked) in enumerate(sorted(due, key=lambda one: (one[0], -min(one[2], good_for))))
    )
    minutes = [
        run.first_pack_min + feed * pack / run.packs
        for run, (feed, _) in zip(made_runs, runs, strict=True)
        for pack in range(1, run.packs + 1)
    ]
    for found, lot in zip(outcomes(plant, lots, made_runs), lots, strict=True):
        good = [minute for minute in minutes if minute >= lot.good_from_min - 1e-6]
        assert found.stale == len(minutes) - len(good)
        own = [minute for minute in good if minute >= lot.fresh_from_min - 1e-6][: lot.packs]
        minutes = [minute for minute in good if minute not in own]
        late = [minute - lot.loaded_by_min for minute in own if minute > lot.loaded_by_min + 1e-6]
        assert found.short == len(late) + lot.packs - len(own)
        never = lot.packs - len(own)
        assert found.never == never
        end = max(0.0, plant.window.minutes - lot.loaded_by_min)
        assert found.late_pack_hours == pytest.approx((sum(late) + never * end) / 60)
        assert found.ready_min == (pytest.approx(own[-1]) if len(own) == lot.packs else None)
