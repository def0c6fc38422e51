"""Line balance against the worked examples of factory physics, Little's law, and figures of the trade."""

import pytest

from plants import belt, mixers, on_belt, product, scenario
from rundgang.core.balance import balance
from rundgang.core.capacity import largest_batch_by_age_kg, pieces_inside, pieces_of, transit_min, whole_machines
from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.kinds.batch import batch_capacity
from rundgang.core.kinds.bench import BenchStation, BenchStep, bench_capacity
from rundgang.core.kinds.chamber import ChamberStation, ChamberStep
from rundgang.core.kinds.conveyor import dwell_capacity
from rundgang.core.kinds.every import PieceStep
from rundgang.core.kinds.rate import RateStation, RateStep, rate_capacity

HOUR = 60


@pytest.mark.parametrize(
    ("machines", "hours", "bottleneck_rate", "raw_process_h", "critical_wip"),
    [
        ((1, 1, 1, 1), (2, 2, 2, 2), 0.5, 8, 4),
        ((1, 2, 6, 2), (2, 5, 10, 3), 0.4, 20, 8),
    ],
    ids=["Penny Fab One", "Penny Fab Two"],
)
def test_penny_fabs(
    machines: tuple[int, ...],
    hours: tuple[int, ...],
    bottleneck_rate: float,
    raw_process_h: float,
    critical_wip: float,
) -> None:
    """W. J. Hopp and M. L. Spearman, Factory Physics: the penny fabs' parameters (from memory)."""
    names = [f"s{n}" for n in range(4)]
    stations = [belt(name, places) for name, places in zip(names, machines, strict=True)]
    penny = product("penny", [on_belt(n, h * HOUR) for n, h in zip(names, hours, strict=True)], target=1, age=10_000)
    plant = scenario(stations, [penny], mixing=mixers(least=0.001))

    found = balance(plant, "penny")

    assert found.most_per_h == pytest.approx(bottleneck_rate)
    assert transit_min(plant.plant.lines[0], penny, found.pace_per_h) / HOUR == raw_process_h
    inside = sum(stage.inside for stage in found.stages[1:])
    assert inside == pytest.approx(critical_wip), "Little: WIP at the bottleneck rate = rate x raw process time"


def test_second_penny_fab_names_its_bottleneck() -> None:
    """Factory Physics, Penny Fab Two: station 2 with 0.4 jobs an hour (from memory)."""
    stations = [belt(f"s{n}", places) for n, places in enumerate((1, 2, 6, 2))]
    steps = [on_belt(f"s{n}", hours * HOUR) for n, hours in enumerate((2, 5, 10, 3))]
    penny = product("penny", steps, target=1, age=10_000)
    found = balance(scenario(stations, [penny], mixing=mixers(least=0.001)), "penny")
    assert found.bottleneck == "s1"
    assert [round(stage.capacity_per_h, 3) for stage in found.stages[1:]] == [0.5, 0.4, 0.6, 0.667]


def test_ring_line_at_18_000_an_hour() -> None:
    """What a ring line holds; common practice, no published source.

    A 340 kg dough gives about 3,200 pieces at 105 g; 90 min of proof, 13 of bake, 50 of cooling.
    """
    steps = [on_belt("proofer", 90), on_belt("oven", 13), on_belt("cooler", 50)]
    ring = product("ring", steps, cycle=13, pack=1, grams=340_000 / 3_200, target=18_000, rest=4, age=60)
    found = balance(
        scenario([belt("proofer"), belt("oven"), belt("cooler")], [ring], mixing=mixers(most=340)), "ring", 18_000
    )
    inside = {stage.station: stage.inside for stage in found.stages}
    assert inside["proofer"] == pytest.approx(27_000)
    assert inside["oven"] == pytest.approx(3_900)
    assert inside["cooler"] == pytest.approx(15_000)
    assert found.batch_pieces == 3_200
    assert HOUR / found.batch_interval_min == pytest.approx(5.625)
    assert found.batch_interval_min == pytest.approx(10 + 40 / 60)
    assert found.mixers_needed == 2, "a 13 min cycle does not fit into 10 min 40 s"


def test_340_kg_make_about_3_200_rings() -> None:
    """340 kg scaled at 105 g: "about 3,200" (common practice, no published source)."""
    ring = product("ring", [on_belt("oven", 13)], grams=105)
    assert pieces_of(ring, 340) == pytest.approx(3_200, rel=0.015)


def test_one_slicer_is_not_enough_for_a_divider() -> None:
    """192 loaves a minute against a slicer's 65: three lanes (common practice, no published source)."""
    assert whole_machines(192, 65) == 3


def test_capacity_of_each_kind() -> None:
    """By the definitions: 60 m L s e; 60 C / d; 60 m n / c."""
    assert rate_capacity(2, 4, 40, 0.5) == 60 * 2 * 4 * 40 * 0.5
    assert rate_capacity(1, 1, 50, 1, taken=6) == 18_000, "3,000 bags of six an hour: 18,000 rings"
    assert dwell_capacity(27_000, 90) == 18_000
    assert batch_capacity(2, 3_200, 20) == 19_200
    assert bench_capacity(6, 25) == 9_000


def test_littles_law_holds_at_every_belt() -> None:
    """J. D. C. Little 1961: inside = flow x time, here with the flow falling by yields on the way."""
    steps = [on_belt("proofer", 60, good=0.9), on_belt("oven", 15, good=0.8)]
    found = balance(scenario([belt("proofer"), belt("oven")], [product("roll", steps)]), "roll", 7_200)
    proofer, oven = found.stages[1], found.stages[2]
    assert oven.inside == pytest.approx(pieces_inside(7_200 / 0.8, 15))
    assert proofer.inside == pytest.approx(pieces_inside(7_200 / 0.8 / 0.9, 60))


def test_bagging_six_to_one_is_counted_in_rings() -> None:
    """Capacity in finished pieces: 50 bags of six a minute carry 18,000 rings an hour."""
    bag = RateStep(station="bagger", strokes_per_min=50, takes=6)
    found = balance(
        scenario([RateStation(id="bagger", name="Bagger")], [product("ring", [bag], pack=6, target=5_000)]), "ring"
    )
    assert found.stages[-1].capacity_per_h == pytest.approx(18_000)
    assert found.packs_per_h == pytest.approx(5_000 / 6)


def test_pace_above_capacity_says_how_many_machines() -> None:
    """ceil(target / one): a former of 6,000 an hour at 15,000 needs three."""
    former = RateStation(id="former", name="Former")
    ring = product("ring", [RateStep(station="former", strokes_per_min=100)])
    stage = balance(scenario([former], [ring]), "ring", 15_000).stages[-1]
    assert (stage.machines, stage.machines_needed) == (1, 3)
    assert stage.utilisation == pytest.approx(2.5)


def test_a_room_of_racks_and_a_bench_of_people() -> None:
    """40 racks x 20 trays x 24 pieces for 40 min carry 28,800 an hour; six people at 25 a minute 9,000."""
    room = ChamberStation(id="room", name="Room", racks=40, trays_per_rack=20)
    bench = BenchStation(id="bench", name="Bench", people=6)
    steps: list[PieceStep] = [
        ChamberStep(station="room", dwell_min=40, pieces_per_tray=24),
        BenchStep(station="bench", pieces_per_person_min=25),
    ]
    found = balance(scenario([room, bench], [product("filled", steps, target=20_000)]), "filled", 12_000)
    assert [round(stage.capacity_per_h) for stage in found.stages[1:]] == [28_800, 9_000]
    assert found.stages[1].inside == pytest.approx(8_000)
    assert (found.bottleneck, found.stages[2].machines_needed, found.stages[2].machines_are) == ("bench", 8, "people")
    assert found.lifts[0].change == "7 people at Bench instead of 6"


def test_lift_stops_at_the_next_gate() -> None:
    """A second machine at 3,000 an hour lifts the pace to the next gate's 4,000, not to 6,000."""
    stations = [RateStation(id="first", name="First"), RateStation(id="second", name="Second")]
    steps = [RateStep(station="first", strokes_per_min=50), RateStep(station="second", strokes_per_min=4_000 / 60)]
    best = balance(scenario(stations, [product("roll", steps)]), "roll").lifts[0]
    assert (best.station, best.then_station) == ("first", "second")
    assert best.pace_per_h == pytest.approx(4_000)


def test_largest_batch_by_age() -> None:
    """(max age − min rest) x pace x weight: 30 min at 6,000 an hour of 100 g is 300 kg."""
    roll = product("roll", [on_belt("oven", 10)], rest=10, age=40)
    assert largest_batch_by_age_kg(roll, 6_000) == pytest.approx(300)


def test_refuses_what_cannot_be_a_pace() -> None:
    plant = scenario([belt("oven")], [product("roll", [on_belt("oven", 10)])])
    with pytest.raises(OutOfRangeError, match="above 0"):
        balance(plant, "roll", -5)
    with pytest.raises(UnknownItemError, match=r"no product “bun”.*roll"):
        balance(plant, "bun")


def test_the_lines_own_figures_open_to_their_arithmetic() -> None:
    """3,200 pieces every 10 min 40 s at 18,000 an hour (common practice), with the figures in the equation."""
    ring = product("ring", [on_belt("oven", 13)], cycle=13, grams=340_000 / 3_200, target=18_000, rest=4, age=60)
    found = balance(scenario([belt("oven")], [ring], mixing=mixers(most=340)), "ring", 18_000)
    said = "; ".join(found.working)
    assert "340.0 kg by the fill of Mixers ÷ 106.2 g = 3,200 pieces" in said
    assert "60 × 3,200 ÷ (18,000 × 1 an hour) = 10.7 min" in said
    assert "13 min a cycle ÷ 10.7 min, rounded up" in said
    assert "13 min to mix + 4 min of rest + 13.0 min from the divider to the pack" in said
