"""Quality by product and check: what the law, the giveaway and the divider's advice say of stored samples."""

import numpy as np
import pytest

from rundgang.core.floor.inspections import Inspection
from rundgang.core.floor.quality import Sample, quality_of, scale_samples
from rundgang.core.floor.usual import usual_inspections
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import SOME_DAY, ostermere
from rundgang.instruments.simulated.chance import SPREAD_SHARE, Chance


@pytest.fixture(scope="module")
def demo() -> Scenario:
    return ostermere(SOME_DAY)


def check(scenario: Scenario, subject: str) -> Inspection:
    return next(
        one
        for one in usual_inspections(scenario).all
        if one.line == "ring-line" and one.asks.kind == "measured" and one.asks.subject == subject
    )


def drawn(product: str, mean: float, spread: float, count: int = 30, size: int = 5) -> list[Sample]:
    weights = np.random.default_rng(3).normal(mean, spread, (count, size))
    return [Sample(20.0 * place, product, tuple(map(float, row))) for place, row in enumerate(weights)]


def test_what_is_given_away_is_what_pieces_weigh_too_much(demo: Scenario) -> None:
    """By hand: 1.5 g of so many pieces an hour, and what a kilogram of their dough costs."""
    product = demo.product("lantern-plain")
    one = check(demo, "scaled weight")
    (found,) = quality_of(demo, one, drawn("lantern-plain", product.scaling_g + 1.5, 0.5))
    assert found.giveaway is not None
    assert found.giveaway.grams == pytest.approx(1.5, abs=0.15)
    scaled_per_h = product.target_per_hour * float(product.scaled_per_pack) / product.pieces_per_pack
    assert found.giveaway.kg_per_h == pytest.approx(found.giveaway.grams * scaled_per_h / 1000)
    cost = sum(
        line.percent * (0.0 if line.ingredient == "water" else demo.ingredient(line.ingredient).price or 0.0)
        for line in product.formula
    ) / sum(line.percent for line in product.formula)
    assert found.giveaway.money_per_h == pytest.approx(found.giveaway.kg_per_h * cost)
    packs = sum(order.packs for order in demo.orders if order.product == product.id)
    hours = packs * product.pieces_per_pack / product.target_per_hour
    windows = 365 * 24 * 60 / demo.window.minutes
    assert found.giveaway.hours_a_year == pytest.approx(hours * windows)
    assert found.giveaway.kg_a_year == pytest.approx(found.giveaway.kg_per_h * hours * windows)
    assert found.giveaway.money_a_year == pytest.approx(found.giveaway.kg_a_year * cost)
    assert found.advice is not None
    assert found.advice.move == pytest.approx(-1.5, abs=0.5)


def test_a_steady_divider_is_left_alone(demo: Scenario) -> None:
    product = demo.product("lantern-plain")
    (found,) = quality_of(demo, check(demo, "scaled weight"), drawn("lantern-plain", product.scaling_g, 0.5))
    assert found.advice is not None
    assert found.advice.move is None
    assert not found.is_broken


def test_the_law_is_asked_of_stored_packs(demo: Scenario) -> None:
    """Directive 76/211/EEC: 500 g, tolerable error 15 g; packs of 470 g break all three rules (figures from memory)."""
    library = demo.model_copy(
        update={
            "products": tuple(
                product.model_copy(update={"nominal_g": 500.0}) if product.id == "lantern-plain" else product
                for product in demo.products
            )
        }
    )
    scenario = Scenario.model_validate(library.model_dump())
    one = check(scenario, "pack weight")
    (good,) = quality_of(scenario, one, drawn("lantern-plain", 504, 2))
    (light,) = quality_of(scenario, one, drawn("lantern-plain", 468, 2))
    assert good.verdict is not None
    assert (good.verdict.kept, good.verdict.tolerance_g, good.verdict.count) == (True, 15.0, 50)
    assert light.verdict is not None
    assert [rule.kept for rule in light.verdict.rules] == [False, False, False]
    (few,) = quality_of(scenario, one, drawn("lantern-plain", 504, 2, count=3))
    assert (few.verdict, few.chart, few.why) == (None, None, "3 of the 8 samples that limits need")


def test_products_are_drawn_apart_and_what_is_not_steady_comes_first(demo: Scenario) -> None:
    one = check(demo, "scaled weight")
    plain, sesame = (demo.product(name) for name in ("lantern-plain", "harvest-sesame"))
    steady = drawn("lantern-plain", plain.scaling_g, 0.5)
    jumped = [
        *drawn("harvest-sesame", sesame.scaling_g, 0.5),
        Sample(900, "harvest-sesame", (sesame.scaling_g + 4,) * 5),
    ]
    found = quality_of(demo, one, [*steady, *jumped])
    assert [(chart.product, chart.is_broken) for chart in found] == [("harvest-sesame", True), ("lantern-plain", False)]


def test_a_scale_that_drifts_is_found_and_one_that_does_not_is_left(demo: Scenario) -> None:
    """Readings as the simulated plant gives them: its spread is known, and a drift of 2 g an hour is put in."""
    product = demo.product("lantern-plain")
    chance = Chance(5)
    runs = [("lantern-plain", 0.0, 300.0)]

    def read(drift_per_h: float) -> list[tuple[float, float]]:
        spread = SPREAD_SHARE * product.scaling_g
        return [
            (at / 15, product.scaling_g + drift_per_h * at / 900 + spread * chance.of("piece", at).gauss(0, 1))
            for at in range(4_500)
        ]

    samples = scale_samples(read(0.0), runs, every_min=10, size=5)
    assert len(samples) == 30
    assert all(len(sample.values) == 5 for sample in samples)
    one = check(demo, "scaled weight")
    (steady,) = quality_of(demo, one, samples)
    assert steady.chart is not None
    assert steady.chart.deviation == pytest.approx(SPREAD_SHARE * product.scaling_g, rel=0.2)
    (drifts,) = quality_of(demo, one, scale_samples(read(2.0), runs, every_min=10, size=5))
    assert drifts.advice is not None
    assert drifts.advice.move is not None
    assert drifts.advice.move < -5
