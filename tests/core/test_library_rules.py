"""What a library may not say: each impossible thing is refused with the field, the value and what is allowed."""

from typing import Any

import pytest
from pydantic import ValidationError

from families import bulk_bread, cracker, filled, laminated, plant_of, yeast_rings
from rundgang.core.scenario import Scenario

Path = tuple[str | int, ...]


def refused(plant: Scenario, *changes: tuple[Path, object]) -> str:
    data: Any = plant.model_dump(mode="json")
    for path, value in changes:
        here = data
        for part in path[:-1]:
            here = here[part]
        here[path[-1]] = value
    with pytest.raises(ValidationError) as found:
        Scenario.model_validate(data)
    return str(found.value)


BREAD, RINGS, FILLED = plant_of(bulk_bread()), plant_of(yeast_rings()), plant_of(filled())
CRACKER, PASTRY = plant_of(cracker()), plant_of(laminated())
LOAF: Path = ("products", 0)

CASES: list[tuple[str, Scenario, list[tuple[Path, object]], str]] = [
    ("flour inside the sponge counts", BREAD, [((*LOAF, "formula", 0, "percent"), 60)], "110 %, that inside its"),
    ("no flour at all", BREAD, [((*LOAF, "formula"), [{"ingredient": "water", "percent": 60}])], "adding up to 0 %"),
    ("two waters", BREAD, [((*LOAF, "formula", 0, "ingredient"), "water")], "stands twice"),
    ("packing in a dough", BREAD, [((*LOAF, "formula", 1, "ingredient"), "bag")], "formula has bag; allowed"),
    ("flour as packing", BREAD, [((*LOAF, "packing", 0, "item"), "flour")], "whose role is packing"),
    ("carrier of nowhere", BREAD, [((*LOAF, "carriers", 0, "carrier"), "sleds")], "has sleds; allowed on Line: tins"),
    ("carrier backwards", BREAD, [((*LOAF, "carriers", 0, "first"), "slicer")], "rides from slicer to oven"),
    ("sponge of another line", BREAD, [(("preparations", 0, "line"), "moon")], "line is moon; allowed: line"),
    ("sponge in the oven", BREAD, [(("preparations", 0, "mixing", "station"), "oven")], "allowed at Oven: conveyor"),
    (
        "sponge where the dough is",
        BREAD,
        [(("preparations", 0, "mixing", "station"), "mixers")],
        "a station of its own",
    ),
    ("sponge held backwards", BREAD, [(("preparations", 0, "held", "most_min"), 100)], "above least_min, 180"),
    ("sponge like an ingredient", BREAD, [(("preparations", 0, "id"), "flour")], "“flour” stands twice"),
    ("half a flour", BREAD, [(("preparations", 0, "formula", 0, "percent"), 50)], "100 %, or none at all"),
    ("zero dwell", BREAD, [((*LOAF, "route", 3, "dwell_min"), 0)], "greater than or equal to 0.01"),
    ("negative yield", BREAD, [((*LOAF, "route", 1, "yield"), -0.5)], "greater than or equal to 0.01"),
    ("humid beyond all", BREAD, [((*LOAF, "route", 3, "humidity_pct"), 130)], "less than or equal to 100"),
    ("water colder than ice", BREAD, [(("conditions", "tap_c"), -2)], "greater than 0"),
    ("flour like a puddle", BREAD, [(("conditions", "flour_moisture_pct"), 45)], "less than or equal to 20"),
    ("a route that loops", BREAD, [((*LOAF, "route", 4, "station"), "proofer")], "passes proofer twice"),
    ("a route that goes back", BREAD, [((*LOAF, "route", 4, "station"), "moulder")], "twice"),
    ("stock of nothing", BREAD, [(("stocks",), [{"item": "gold", "on_hand": 1}])], "item is gold; allowed"),
    (
        "a delivery of less than nothing",
        BREAD,
        [(("stocks",), [{"item": "flour", "on_hand": 1, "deliveries": [{"at_min": 5, "amount": -1}]}])],
        "greater than or equal to 0",
    ),
    ("a name of blanks", BREAD, [((*LOAF, "name"), "   ")], "at least 1 character"),
    ("mixers after the belt", BREAD, [(("plant", "lines", 0, "stations", 8, "kind"), "batch")], "Field required"),
    ("a centre nobody cuts", RINGS, [((*LOAF, "route", 1, "cut_out"), None)], "0 products cut it out"),
    (
        "a centre too heavy",
        RINGS,
        [((*LOAF, "route", 1, "cut_out", "grams"), 22)],
        "cuts out 22 g, but Centre needs 15",
    ),
    (
        "cut out after all else",
        RINGS,
        [
            ((*LOAF, "route", 1, "cut_out"), None),
            ((*LOAF, "route", -1, "cut_out"), {"grams": 15, "product": "centre"}),
        ],
        "has a cut_out; allowed: at one step",
    ),
    ("cut out twice", RINGS, [((*LOAF, "route", -1, "cut_out"), {"grams": 1})], "allowed: at one step, before"),
    (
        "cut out of a cake",
        RINGS,
        [((*LOAF, "route", 1, "cut_out", "product"), "ring")],
        "a product of its line without",
    ),
    ("sides that do not fill", RINGS, [((*LOAF, "route", 3, "sides", "first_s"), 90)], "together the dwell of 2 min"),
    ("filling nobody knows", FILLED, [((*LOAF, "route", 3, "adds", 0, "item"), "air")], "formula has air; allowed"),
    ("a bench of nobody", FILLED, [(("plant", "lines", 0, "stations", 4, "people"), 0)], "greater than or equal to 1"),
    ("a store of unknown size", PASTRY, [((*LOAF, "route", 2, "pieces_per_position"), None)], "how many pieces one"),
    ("fat heavier than the pad", PASTRY, [((*LOAF, "route", 1, "adds", 0, "grams"), 9_000)], "more than what is added"),
    ("a belt without places", PASTRY, [(("plant", "lines", 0, "stations", 4, "places"), None)], "no counted places"),
    (
        "a piece wider than the belt",
        PASTRY,
        [
            (("plant", "lines", 0, "stations", 4, "width_m"), 0.1),
            ((*LOAF, "route", 4, "geometry"), {"across_mm": 300, "gap_mm": 0, "pitch_mm": 50}),
        ],
        "not even one piece fits",
    ),
    (
        "geometry on a belt of unknown width",
        PASTRY,
        [((*LOAF, "route", 4, "geometry"), {"across_mm": 30, "gap_mm": 0, "pitch_mm": 50})],
        "has no width_m",
    ),
    (
        "cooled below its air",
        PASTRY,
        [((*LOAF, "route", 4, "cooling"), {"from_c": 90, "to_c": 20, "air_c": 25, "minutes": 9})],
        "between air_c, 25, and from_c, 90",
    ),
    ("packs the route does not make", CRACKER, [((*LOAF, "pieces_per_pack"), 39)], "the route packs 40 to one"),
    ("a trough of nothing", CRACKER, [(("plant", "lines", 0, "stations", 2, "positions"), 0)], "or equal to 1"),
]


@pytest.mark.parametrize(("plant", "changes", "words"), [c[1:] for c in CASES], ids=[c[0] for c in CASES])
def test_the_impossible_is_refused_in_words(plant: Scenario, changes: list[tuple[Path, object]], words: str) -> None:
    assert words in refused(plant, *changes)


def test_two_mixers_of_a_line_have_two_names() -> None:
    stations = ("plant", "lines", 0, "stations")
    assert "two mixers of the line have the same name" in refused(
        BREAD, ((*stations, 2, "mixers"), ["sponge-mixers 1"])
    )


def test_mixing_comes_before_the_first_machine() -> None:
    data = BREAD.model_dump(mode="json")
    stations = data["plant"]["lines"][0]["stations"]
    stations.append(stations.pop(0))
    with pytest.raises(ValidationError, match="all batch stations before the first machine or belt"):
        Scenario.model_validate(data)
