"""Building after a pattern: with the usual figures it carries what the pattern carries; by hand with one's own."""

from datetime import UTC, datetime

import pytest
from pydantic import ValidationError

from rundgang.core.balance import balance
from rundgang.core.building import Draft, Pattern, ProductDraft, _packing, built, keys, patterns
from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.library import library_of
from rundgang.core.orders import Order, Window
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import SOME_DAY, ostermere

DEMO = ostermere(SOME_DAY)
LIBRARY = library_of(DEMO)
PATTERNS = patterns(LIBRARY)
WINDOW = Window(starts_at=datetime(2026, 3, 10, 12, tzinfo=UTC), minutes=3 * 24 * 60)


def product_of(pattern: Pattern, name: str = "Own one", **parts: object) -> ProductDraft:
    usual = {key: getattr(pattern, key) for key in ("pieces_per_pack", "baked_g", "target_per_hour", "fresh_for_h")}
    return ProductDraft.model_validate(usual | {"name": name} | parts)


def draft_of(pattern: Pattern, *products: ProductDraft, **parts: object) -> Draft:
    named = {"plant": "Own plant", "town": "Here", "time_zone": "Europe/Vienna", "line": "First line"}
    return Draft.model_validate(named | {"pattern": pattern.id, "products": products or (product_of(pattern),)} | parts)


def scenario_of(draft: Draft) -> Scenario:
    return built(LIBRARY, draft, WINDOW).scenario


def test_there_is_a_pattern_for_every_family_that_is_made_for_itself() -> None:
    """All twelve families but the centres, which are cut out of another's dough."""
    assert {pattern.family for pattern in PATTERNS} == {product.family for product in DEMO.products if product.formula}


@pytest.mark.parametrize("pattern", PATTERNS, ids=lambda pattern: str(pattern.family))
def test_with_the_usual_figures_a_line_carries_what_its_pattern_carries(pattern: Pattern) -> None:
    """Nothing is lost on the way: the same capacity at every station; and its first plan breaks no rule."""
    scenario = scenario_of(draft_of(pattern))
    made = scenario.products[0]
    own, usual = balance(scenario, made.id), balance(_in_the_same_air(scenario), pattern.id)
    carried = {stage.station: stage.capacity_per_h for stage in usual.stages}
    assert {stage.station: stage.capacity_per_h for stage in own.stages} == pytest.approx(carried)
    assert own.bottleneck == usual.bottleneck
    assert own.flour_to_pack_min == pytest.approx(usual.flour_to_pack_min)
    planned = plan_plant(_ordered(scenario), stop=after_evaluations(20, 20))
    assert check_plant(_ordered(scenario), planned.plans) == ()
    assert planned.score.packs_short == 0


@pytest.mark.parametrize(
    ("of_line", "of_product", "said"),
    [
        ({"wok": {"machines": 2}}, {}, "wok"),
        ({}, {"wok": {"dwell_min": 2}}, "wok"),
        ({"FIRST": {"knobs": 2}}, {}, "knobs"),
        ({}, {"FIRST": {"knobs": 2}}, "knobs"),
    ],
)
def test_a_figure_that_is_not_asked_is_refused(
    of_line: dict[str, object], of_product: dict[str, object], said: str
) -> None:
    """A misspelt station or figure is no silent nothing: it is named, with what is allowed."""
    pattern = PATTERNS[0]
    first = pattern.walk[0].station
    figures, own = ({key.replace("FIRST", first): each for key, each in of.items()} for of in (of_line, of_product))
    with pytest.raises(UnknownItemError, match=said):
        scenario_of(draft_of(pattern, product_of(pattern, figures=own), figures=figures))


def _in_the_same_air(scenario: Scenario) -> Scenario:
    """The demo with the own plant's room, so that coolers take the same time."""
    fields = {name: getattr(DEMO, name) for name in Scenario.model_fields}
    return Scenario(**fields | {"conditions": scenario.conditions})


def _ordered(scenario: Scenario) -> Scenario:
    """An hour's packs for a lorry on the second day."""
    made = scenario.products[0]
    packs = int(made.target_per_hour // made.pieces_per_pack)
    fields = {name: getattr(scenario, name) for name in Scenario.model_fields}
    wave = {"id": "lorry", "name": "Lorry", "departs_min": 2_880}
    order = Order(id="1", product=made.id, wave="lorry", packs=packs)
    return Scenario(**fields | {"waves": (wave,), "orders": (order,)})


def test_own_figures_set_the_pace() -> None:
    """By hand, 60 C / d: 6,000 places and 60 min in the proofer carry 6,000 rings an hour that enter it."""
    pattern = next(pattern for pattern in PATTERNS if pattern.family == "ring rolls")
    product = product_of(pattern, figures={"proofer": {"dwell_min": 60}})
    scenario = scenario_of(draft_of(pattern, product, figures={"proofer": {"places": 6_000}, "mixers": {"mixers": 5}}))
    found = balance(scenario, scenario.products[0].id)
    proofer = next(stage for stage in found.stages if stage.station == "proofer")
    assert proofer.capacity_in_per_h == pytest.approx(6_000)
    assert found.bottleneck == "proofer"
    assert len(scenario.plant.lines[0].batch_stations[0].mixers) == 5


@pytest.mark.parametrize("family", ["ring rolls", "sandwich biscuits", "fermented crackers"])
def test_packs_of_another_size_are_packed_by_the_station_that_packs(family: str) -> None:
    pattern = next(pattern for pattern in PATTERNS if pattern.family == family)
    double = product_of(pattern, "Double pack", pieces_per_pack=2 * pattern.pieces_per_pack)
    scenario = scenario_of(draft_of(pattern, product_of(pattern), double))
    one, other = scenario.products
    assert (one.scaled_per_pack * 2) == pytest.approx(other.scaled_per_pack)


def test_what_cannot_be_is_refused_with_what_is_allowed() -> None:
    """Two bags of five to a pack: eleven pieces are no whole number of bags."""
    rings = next(pattern for pattern in PATTERNS if pattern.family == "ring rolls")
    of_ten = DEMO.product(rings.id).model_copy(update={"pieces_per_pack": 10})
    with pytest.raises(OutOfRangeError, match="Own one: pieces in a pack is 11; allowed: a multiple of 2"):
        _packing(of_ten, of_ten.route[-1], product_of(rings, pieces_per_pack=11))
    with pytest.raises(UnknownItemError, match="pattern"):
        scenario_of(draft_of(rings).model_copy(update={"pattern": "stone"}))
    with pytest.raises(ValidationError, match="less than or equal to 400"):
        scenario_of(draft_of(rings, product_of(rings, figures={"oven": {"temperature_c": 4_000}})))


def test_keys_come_after_names_each_once() -> None:
    named = keys(["Süßes Brot", "Susses  Brot!", "Süßes Brot", "…"])
    assert named == ("sues-brot", "susses-brot", "sues-brot-2", "one")
