"""Impossible data is refused, with the place, what was found, and what is allowed."""

import json
from collections.abc import Callable, Hashable
from datetime import date
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plants import make_plan
from rundgang.core.balance import balance
from rundgang.core.errors import MalformedError, RundgangError
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.demo.ring_line import ring_line
from rundgang.formats.documents import read_scenario

Change = Callable[[dict[str, Any]], None]


def put(path: str, value: object) -> Change:
    """A change that sets a value deep in a document."""

    def change(data: Any) -> None:
        *parents, last = [int(part) if part.isdigit() else part for part in path.split("/")]
        for part in parents:
            data = data[part]
        data[last] = value

    return change


def both(first: Change, second: Change) -> Change:
    """Two changes in one."""

    def change(data: Any) -> None:
        first(data)
        second(data)

    return change


@pytest.mark.parametrize(
    ("change", "expected"),
    [
        (put("products/0/route/3/station", "kettle"), ("route.3.station is kettle", "Ring line does not have", "oven")),
        (
            both(put("products/0/route/1/station", "former"), put("products/0/route/2/station", "divider")),
            ("route.2.station is divider", "further down the line"),
        ),
        (put("products/0/route/3/station", "divider"), ("passes divider twice", "each station once")),
        (put("products/0/route/3/kind", "rate"), ("products.0.route.3",)),
        (put("products/0/route/3/dwell_min", 0), ("dwell_min", "allowed: at least 0.01")),
        (put("products/0/route/3/yield", -0.5), ("yield", "allowed: at least 0.01")),
        (put("products/0/route/3/humidity_pct", 130), ("humidity_pct", "allowed: at most 100", "130")),
        (put("products/0/pieces_per_pack", 7), ("pieces_per_pack is 7", "packs 5 to one")),
        (put("products/0/bake_loss", 1), ("bake_loss", "less than 0.6")),
        (put("products/0/formula/0/percent", 90), ("flour adding up to 90 %", "100 %")),
        (put("products/0/formula/1/ingredient", "salt"), ("salt stands twice",)),
        (put("products/0/formula/0/ingredient", "gravel"), ("formula has gravel", "plant's ingredients")),
        (put("products/0/formula/4/at_min", 40), ("goes in after mixing has ended", "0 to 10")),
        (put("products/0/line", "bread-line"), ("line is bread-line", "ring-line")),
        (put("products/1/id", "lantern-plain"), ("“lantern-plain” stands twice",)),
        (put("plant/lines/0/stations/0/min_fill_kg", 900), ("min_fill_kg is 900", "at most max_fill_kg")),
        (put("plant/time_zone", "Atlantis/Port"), ("time_zone is Atlantis/Port", "IANA")),
        (put("orders/0/product", "anvil"), ("orders.0 (4101).product is anvil", "lantern-plain")),
        (put("orders/0/packs", -3), ("orders.0.packs", "allowed: at least 1", "-3")),
        (put("orders/0/packs", 1e12), ("orders.0.packs", "100000")),
        (put("orders/0/wave", "noon"), ("wave is noon", "harbour")),
        (put("waves/0/departs_min", 9_000), ("departs_min is 9000", "0 to 1080")),
        (put("conditions/tap_c", -4), ("conditions.tap_c", "allowed: more than 0")),
        (put("conditions/room_c", "warm"), ("conditions.room_c", "allowed: a number", "is warm")),
        (put("window/starts_at", "2026-03-10T20:00:00"), ("window.starts_at", "timezone")),
        (put("secret", 1), ("secret", "is not known here")),
    ],
)
def test_impossible_data_are_refused(change: Change, expected: tuple[str, ...]) -> None:
    data = ring_line(date(2026, 3, 11)).model_dump(mode="json")
    change(data)
    with pytest.raises(MalformedError) as refused:
        read_scenario(json.dumps(data))
    for words in expected:
        assert words in str(refused.value)


@pytest.mark.parametrize("text", ["", "[]", "{", '{"plant": NaN}', "null", "[" * 5_000, "\x00"])
def test_what_is_no_scenario_is_refused(text: str) -> None:
    with pytest.raises(MalformedError, match="The scenario cannot be read"):
        read_scenario(text)


def test_every_fault_is_named_at_once() -> None:
    data = ring_line(date(2026, 3, 11)).model_dump(mode="json")
    put("orders/0/product", "anvil")(data)
    put("orders/3/wave", "noon")(data)
    with pytest.raises(MalformedError) as refused:
        read_scenario(json.dumps(data))
    assert len(refused.value.faults) == 2


values = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(10**12), 10**12),
    st.floats(allow_nan=False, allow_infinity=False),
    st.text(max_size=12),
    st.lists(st.integers(), max_size=3),
    st.just({}),
)


def places(data: Any, path: str = "") -> list[str]:
    """Every place in a document, as a path."""
    inner = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    found = [f"{path}{key}" for key, _ in inner]
    for key, value in data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ():
        found += places(value, f"{path}{key}/")
    return found


DOCUMENT = ring_line(date(2026, 3, 11)).model_dump(mode="json")
PLACES = places(DOCUMENT)


@settings(max_examples=300, deadline=None)
@given(path=st.sampled_from(PLACES), value=values)
def test_any_value_anywhere_is_read_or_refused_in_words(path: str, value: object) -> None:
    """What is read can be balanced and planned, or is refused again in words: nothing breaks."""
    data = json.loads(json.dumps(DOCUMENT))
    put(path, value)(data)
    try:
        plant = read_scenario(json.dumps(data))
    except MalformedError as refused:
        assert refused.faults
        return
    try:
        for made in plant.products:
            balance(plant, made.id)
        plan = make_plan(plant, plant.plant.lines[0].id, stop=after_evaluations(1, 1))
    except RundgangError as refused:
        assert "llowed" in str(refused)
        return
    assert check(plant, plan) == ()


def test_a_product_that_dwells_otherwise_is_found_once_all_of_it_is_known() -> None:
    """A page asks for lines and materials side by side: whoever finds it must find its way and its allergens too."""
    day = ring_line(date(2026, 3, 11))
    found = []

    class Watched(dict[Hashable, Any]):
        def __setitem__(self, key: Hashable, made: Any) -> None:
            found.append((day.whole(made).id, day.allergens(made)))
            super().__setitem__(key, made)

    day.__dict__["known"] = Watched()
    made = day.dwelling("harvest-sesame", {"cooler": 48.4})
    assert found == [(made.id, day.allergens(day.product("harvest-sesame")))]
