"""What is left of a filling in its tank is used by the next run while it is good.

A kettle is never filled with less than its stirrer reaches, so a small run leaves something over (common practice, no
published source).
"""

from dataclasses import dataclass

import pytest

from families import mixing, strokes
from plants import belt, laid_out, mixers, on_belt, product, scenario
from rundgang.core.dough.card import batch_cards
from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.parts import Addition
from rundgang.core.kinds.rate import RateStation
from rundgang.core.materials import ItemShares, run_draws
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.model import FillingBatch, LinePlan, Run
from rundgang.core.planning.past import opened
from rundgang.core.planning.repair import Fit, repair
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.products import FormulaLine, Preparation
from rundgang.core.scenario import Scenario

PIECES = 1_000
"""Of each of three products: 5 kg of cream at 5 g a piece."""


@dataclass
class Kettle:
    """Cream is made in batches of at least 8 kg, and the tank holds 20."""

    age_min: float = 300
    tank_kg: float = 20
    turn_min: float = 5
    ripens_min: float = 0


def bakery(kettle: Kettle | None = None) -> Scenario:
    """A line that makes three products with the same cream."""
    of = kettle or Kettle()
    kettles = BatchStation(id="kettles", name="Kettles", mixers=("Kettle 1", "Kettle 2"), min_fill_kg=8, max_fill_kg=20)
    stations = (
        HeldStation(
            id="tanks", name="Tanks", positions=1, position="tank", capacity_kg=of.tank_kg, turn_round_min=of.turn_min
        ),
        RateStation(id="divider", name="Divider"),
        belt("oven"),
        RateStation(id="topper", name="Topper"),
    )
    cream = Preparation(
        id="cream",
        name="Cream",
        line="line",
        formula=(FormulaLine(ingredient="flour", percent=100),),
        mixing=mixing(6, rest=0, age=of.age_min, station="kettles"),
        held=HeldStep(station="tanks", least_min=of.ripens_min, most_min=of.age_min),
        temperature_c=20,
        used_c=20,
    )
    topped = strokes("topper", 100, adds=(Addition(item="cream", grams=5),))
    plain = [product(name, (strokes("divider", 100), on_belt("oven", 20), strokes("topper", 100))) for name in "abc"]
    made = [one.model_copy(update={"route": (*one.route[:-1], topped)}) for one in plain]
    orders = [(name, 900.0, PIECES) for name in "abc"]
    day = scenario(stations, plain, orders, mixing=mixers(4, least=1, most=150), minutes=1_200)
    line = day.plant.lines[0]
    with_kettles = line.model_copy(update={"stations": (kettles, *line.stations)})
    plant = day.plant.model_copy(update={"lines": (with_kettles,)})
    return day.model_copy(update={"preparations": (cream,), "plant": plant, "products": tuple(made)})


def planned(day: Scenario, apart_min: float = 0) -> LinePlan:
    """The three products in turn, each so long behind the one before."""
    wave = day.orders[0].wave
    items = [
        OrderItem(product=name, wave=wave, packs=PIECES, not_before_min=100 + turn * apart_min)
        for turn, name in enumerate("abc")
    ]
    return laid_out(day, items)


def made_kg(plan: LinePlan) -> list[float]:
    """Cream made for each run, kg."""
    return [sum(filling.grams for filling in run.made_fillings) / 1000 for run in plan.runs]


def kept_kg(plan: LinePlan) -> list[float]:
    """Cream that each run finds left, kg."""
    return [sum(filling.grams for filling in run.fillings if filling.kept) / 1000 for run in plan.runs]


def test_what_is_left_is_used_first() -> None:
    """8 kg made and 5 used leave 3; 3 and 8 less 5 leave 6; of these the third uses 5, and 1 kg is left in the end."""
    day = bakery()
    plan = planned(day)
    assert made_kg(plan) == pytest.approx([8, 8, 0])
    assert kept_kg(plan) == pytest.approx([0, 3, 5])
    assert plan.score.filling_left_kg == pytest.approx(1)
    assert len({filling.tank for run in plan.runs for filling in run.fillings}) == 1
    assert check_plant(day, (plan,)) == ()


def test_it_ages_in_its_tank() -> None:
    """A run that comes when it is too old makes its own, and what was left is waste: 3 kg a run."""
    day = bakery(Kettle(age_min=60))
    plan = planned(day, apart_min=120)
    assert made_kg(plan) == pytest.approx([8, 8, 8])
    assert plan.score.filling_left_kg == pytest.approx(9)
    assert check_plant(day, (plan,)) == ()
    assert kept_kg(planned(bakery(Kettle(age_min=400)), apart_min=120)) == pytest.approx([0, 3, 5])


def test_the_tank_has_room_for_both() -> None:
    """In a tank for 9 kg the second batch waits in its kettle until 3 kg have become 1."""
    day = bakery(Kettle(tank_kg=9, ripens_min=5))
    plan = planned(day)
    second = plan.runs[1].made_fillings[0]
    kept = plan.runs[1].fillings[0]
    assert kept.kept
    assert second.emptied_min == pytest.approx(kept.used_from_min + 2_000 / 5 / 100)
    assert check_plant(day, (plan,)) == ()


def test_it_is_made_once_and_drawn_once() -> None:
    """The stores give flour for 16 kg of cream; two cards are written for it, and none for what is only kept."""
    day = bakery()
    plan = planned(day)
    cards = [card for card in batch_cards(day, plan) if card.preparation == "cream"]
    assert [card.run for card in cards] == ["R1", "R2"]
    rests = [(card.rest.run, card.rest.grams) for card in cards if card.rest]
    assert rests == [("R2", 3_000), ("R3", 5_000)]
    dough_kg = sum(batch.dough_g for run in plan.runs for batch in run.batches) / 1_000
    flour = sum(
        draw.amount for run in plan.runs for draw in run_draws(ItemShares(day), run, None) if draw.item == "flour"
    )
    assert flour == pytest.approx(16 + dough_kg / 1.5)


def _with(plan: LinePlan, place: int, fillings: tuple[FillingBatch, ...]) -> LinePlan:
    runs: list[Run] = list(plan.runs)
    runs[place] = runs[place].model_copy(update={"fillings": fillings})
    return plan.model_copy(update={"runs": tuple(runs)})


@pytest.mark.parametrize(
    ("changed", "says"),
    [
        ({"kettle": "Kettle 9"}, "that no run has left"),
        ({"grams": 7_000, "used_g": 7_000}, "which is not so much"),
        ({"start_min": 1.0}, "that no run has left"),
        ({"kept": False}, "is 3.0 kg; allowed 8 to 20"),
    ],
)
def test_the_check_sees_what_was_not_left(changed: dict[str, object], says: str) -> None:
    """More than was left, of another kettle, of another time, or a batch of its own that is too small."""
    day = bakery()
    plan = planned(day)
    first, *rest = plan.runs[1].fillings
    spoiled = _with(plan, 1, (first.model_copy(update=changed), *rest))
    assert any(says in str(fault) for fault in check_plant(day, (spoiled,)))


def test_the_check_sees_a_tank_in_use() -> None:
    """The second run's batch cannot come into the tank while the first still draws on it."""
    day = bakery()
    plan = planned(day)
    kept, own = plan.runs[1].fillings
    early = own.model_copy(update={"emptied_min": plan.runs[0].fillings[-1].used_until_min - 3})
    spoiled = _with(plan, 1, (kept, early))
    assert any("still draws on it" in str(fault) for fault in check_plant(day, (spoiled,)))


def test_what_has_begun_leaves_it_too() -> None:
    """The first run is on the line: the others, laid out anew, use what it will leave."""
    day = bakery()
    plan = plan_plant(day, stop=after_evaluations(50, 50))
    line = plan.of("line")
    later = opened(day, [line], line.runs[0].first_mixed_min + 1)
    assert [run.id for run in later.opening.begun] == ["R1"]
    for run in line.runs:
        assert run.first_mixed_min == min(batch.start_min for batch in run.batches), "not when what it finds was made"
    again = repair(later, plan, Fit(line="line")).plan.of("line")
    assert sum(made_kg(again)) == pytest.approx(16)
    assert check_plant(later, (again,)) == ()
