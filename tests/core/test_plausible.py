"""Readings that are absurd are refused, those that hardly can be are asked about; common practice, no published source.

What is outside the usual here is so by any handbook: water freezes at 0 °C and boils at 100 °C, yeast dies by 60 °C.
"""

import pytest

from rundgang.core.plausible import MOST_SAID, RANGES, DoubtfulError, ImpossibleError, refuse_implausible
from rundgang.core.units import System, to_metric

F25 = to_metric("temperature", 25)
"""What somebody types who thinks in °C while the field is in °F."""


@pytest.mark.parametrize(
    ("name", "value"),
    [("dough_c", 24), ("dough_c", 9), ("room_c", 31), ("flour_c", 21), ("tap_c", 12), ("chilled_c", 2),
     ("humidity_pct", 62), ("flour_moisture_pct", 14)],
)  # fmt: skip
def test_what_a_bakery_reads_is_taken(name: str, value: float) -> None:
    refuse_implausible([{name: value, "other": 900, "chilled_c": 3}], "metric", confirmed=False)


@pytest.mark.parametrize(
    ("name", "value"),
    [("dough_c", -5), ("dough_c", 77), ("flour_c", 210), ("tap_c", 0), ("tap_c", 77), ("room_c", -20), ("room_c", 80),
     ("humidity_pct", 0), ("humidity_pct", 101), ("flour_moisture_pct", 3)],
)  # fmt: skip
def test_what_cannot_be_is_refused_also_where_it_is_confirmed(name: str, value: float) -> None:
    for confirmed in (False, True):
        with pytest.raises(ImpossibleError, match=RANGES[name].what):
            refuse_implausible([{name: value}], "metric", confirmed=confirmed)


@pytest.mark.parametrize(("name", "value"), [("dough_c", 45), ("dough_c", 5), ("flour_c", -3), ("tap_c", 45)])
def test_what_hardly_can_be_is_asked_about_once(name: str, value: float) -> None:
    with pytest.raises(DoubtfulError, match=r"usual: .*Is it so\?"):
        refuse_implausible([{name: value}], "metric", confirmed=False)
    refuse_implausible([{name: value}], "metric", confirmed=True)


@pytest.mark.parametrize(
    ("value", "system", "says"),
    [
        (77, "metric", "The dough reads 77 °C; allowed: -2 °C to 55 °C. 77 °F would be usual."),
        (
            to_metric("temperature", 25),
            "us",
            "The dough reads 25 °F; allowed: 28.4 °F to 131 °F. 25 °C would be usual.",
        ),
        (54, "metric", "The dough reads 54 °C; usual: 8 °C to 40 °C. 54 °F would be usual. Is it so?"),
    ],
)
def test_the_other_scale_is_thought_of_and_the_readers_own_is_spoken(value: float, system: System, says: str) -> None:
    with pytest.raises((ImpossibleError, DoubtfulError)) as refused:
        refuse_implausible([{"dough_c": value}], system, confirmed=False)
    assert str(refused.value) == says


def test_several_are_said_together() -> None:
    with pytest.raises(DoubtfulError, match=r"The room reads 50 °C.*The flour reads 45 °C.*Are they so\?"):
        refuse_implausible([{"room_c": 50, "flour_c": 45, "tap_c": None}], "metric", confirmed=False)


def test_every_hour_is_looked_at_and_a_message_stays_short() -> None:
    hours = [{"flour_c": 200.0 + hour} for hour in range(72)]
    with pytest.raises(ImpossibleError) as refused:
        refuse_implausible([{"flour_c": 20}, *hours], "metric", confirmed=True)
    assert str(refused.value).count("The flour reads") == MOST_SAID
    with pytest.raises(DoubtfulError, match=r"^The room reads 46 °C; usual: 8 °C to 45 °C\. Is it so\?$"):
        refuse_implausible([{"room_c": 46}] * 24, "metric", confirmed=False)
