"""What a gate shows besides its capacity: heat into the product, oil, the cooler's end; and the cautions there."""

from datetime import date
from typing import get_args

import pytest

from families import plant_of, yeast_rings
from rundgang.core.balance import Stage, balance
from rundgang.core.cautions import CAUTIONS, DEFERENCE, Hazard, allergen_caution, cautions_for
from rundgang.core.whatif import Setting, with_setting
from rundgang.demo.ostermere import ostermere

DEMO = ostermere(date(2026, 3, 11))
WATER_KJ_KG_K = 4.186
LATENT_KJ_KG = 2_256.5
"""IAPWS-IF97 at 100 °C, as in the tests of the oven's own equations."""


def gate(product: str, station: str, setting: Setting | None = None) -> Stage:
    plant = with_setting(DEMO, product, setting) if setting else DEMO
    return next(stage for stage in balance(plant, product).stages if stage.station == station)


def figures(stage: Stage) -> dict[str, float]:
    return {figure.name: figure.value for figure in stage.figures}


def test_an_oven_drives_off_what_the_bread_loses() -> None:
    """2,400 loaves of 750 g that lost 12 % leave 245 kg of water an hour; its heat alone is 154 kW."""
    found = figures(gate("tarn-white", "oven"))
    into_oven = gate("tarn-white", "oven")
    pieces = into_oven.capacity_in_per_h * into_oven.utilisation
    lost = pieces * 0.75 / 0.88 * 0.12
    assert found["is baked or fried away"] == pytest.approx(lost)
    assert found["Comes in, an hour"] == pytest.approx(lost + found["is rejected"] + found["goes on"])
    assert found["Heat into the product"] > lost * LATENT_KJ_KG / 3_600
    band_m2 = 38 * 3.2
    assert found["Dough on the band"] == pytest.approx(into_oven.inside * 0.75 / 0.88 / band_m2)


def test_a_fryer_makes_up_what_the_rings_take() -> None:
    """5 g a ring at 8,200 an hour and a little more at the fryer's entry; 950 kg turn over in less than a day."""
    stage = gate("gull-glazed", "fryer")
    found = figures(stage)
    taken = stage.capacity_in_per_h * stage.utilisation * 0.005
    assert found["Oil made up an hour"] == pytest.approx(taken)
    assert found["The whole oil turns over in"] == pytest.approx(950 / taken)
    assert found["Turned after"] == 60


def test_a_cooler_says_how_warm_the_core_ends() -> None:
    """Known: 94 to 35 °C in 44 min of 21 °C air. In 45 min it comes out cooler; in a warmer room warmer."""
    at_21 = figures(gate("lantern-plain", "cooler", Setting(room_c=21)))
    assert at_21["Core at its end in this room"] == pytest.approx(35)
    as_it_is = figures(gate("lantern-plain", "cooler"))["Core at its end in this room"]
    assert 35 < as_it_is < 39, "23.5 °C today, and the belt's 45 min"
    quick = figures(gate("lantern-plain", "cooler", Setting(room_c=21, dwell_min={"cooler": 30})))
    assert quick["Core at its end in this room"] > 40


def test_a_slower_cooler_answers_to_the_room_only_where_it_was_measured() -> None:
    stage = gate("seven-fields", "slicer", Setting(room_c=30))
    assert "Core wanted at its end" not in figures(stage)
    assert gate("long-roll", "cooler", Setting(room_c=30)).dwell_min == 38, "no run of the rolls was measured"


def test_rings_alone_decide_what_their_centres_may_be() -> None:
    """Slower injectors do nothing to rings; a slower small fryer holds the rings back too."""
    plant = plant_of(yeast_rings())
    before = balance(plant, "ring")
    slowed = with_setting(plant, "ring", Setting(dwell_min={"small-fryer": 12}))
    assert balance(slowed, "ring").bottleneck == "small-fryer"
    assert balance(slowed, "ring").most_per_h < before.most_per_h


def test_conditions_of_a_setting_are_not_kept() -> None:
    changed = with_setting(DEMO, "lantern-plain", Setting(room_c=30))
    assert changed.conditions.room_c == 30
    assert changed.conditions.room_by_hour == (30,)
    assert DEMO.conditions.room_c == 22.5
    assert len(DEMO.conditions.room_by_hour) * 60 >= DEMO.window.minutes, "the hours of the demo are still there"


def test_every_hazard_has_its_caution_and_every_caution_defers() -> None:
    assert set(get_args(Hazard)) == set(CAUTIONS)
    for caution in (*CAUTIONS.values(), allergen_caution(("milk",))):
        assert caution.text.endswith(DEFERENCE)
    assert [c.about for c in cautions_for(("blades", "mixer", "blades"))] == ["Blades", "Rotating mixer"]


@pytest.mark.parametrize(
    ("product", "station", "about"),
    [
        ("gull-glazed", "fryer", "Hot oil"),
        ("tarn-white", "slicer", "Blades"),
        ("tarn-white", "oven", "Hot oven, tins and steam"),
        ("signal-cocoa", "dough-mixers", "Dry ice"),
        ("buoy-vanilla", "injectors", "Cream and fillings"),
        ("lantern-plain", "bagger", "Cool before bagging"),
        ("tarn-white", "sponge-mixers", "Rotating mixer"),
        ("kestrel-plain", "fat-pump", "Lifting"),
        ("reed-salt", "packer", "Foreign bodies"),
    ],
)
def test_cautions_stand_where_they_apply(product: str, station: str, about: str) -> None:
    assert about in [caution.about for caution in gate(product, station).cautions]
