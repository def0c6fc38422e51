"""The whole demo: Ostermere's five lines, all their products, and three days of orders."""

from datetime import date, timedelta

from rundgang.core.orders import Horizon, Order, Wave
from rundgang.core.plant import HumidityRule, IceMachine, Plant
from rundgang.core.scenario import Conditions, Scenario
from rundgang.demo import biscuit_line, bread_line, doughnut_line, pastry_line, ring_line
from rundgang.demo.lorries import LORRIES, TIME_ZONE, TOWN, departs_min, opening
from rundgang.demo.stores import INGREDIENTS, STOCKS

DAYS = 3
HORIZON_MIN = (DAYS - 1) * 24 * 60 + 20 * 60
"""From the evening before the first day to the afternoon of the last, min."""

PACKS = (
    ("lantern-plain", "harbour", (3_220, 2_900, 3_400)),
    ("lantern-plain", "hill", (1_640, 1_780, 1_520)),
    ("lantern-plain", "depot", (2_700, 2_450, 2_860)),
    ("harvest-sesame", "harbour", (1_360, 1_240, 1_410)),
    ("harvest-sesame", "hill", (1_100, 1_180, 980)),
    ("harvest-sesame", "depot", (1_760, 1_900, 1_650)),
    ("pear-cardamom", "hill", (1_240, 1_060, 1_320)),
    ("pear-cardamom", "market", (1_450, 1_500, 1_380)),
    ("tarn-white", "harbour", (1_900, 3_600, 3_400)),
    ("tarn-white", "market", (2_200, 2_400, 2_300)),
    ("tarn-whole", "market", (2_100, 0, 2_300)),
    ("seven-fields", "hill", (0, 1_900, 0)),
    ("quarry-loaf", "depot", (1_800, 0, 1_700)),
    ("swift-white", "hill", (2_600, 2_900, 2_700)),
    ("swift-malt", "depot", (0, 1_700, 1_500)),
    ("swift-oat", "depot", (1_500, 0, 0)),
    ("long-roll", "depot", (2_600, 2_400, 2_700)),
    ("long-milk", "depot", (1_700, 1_600, 0)),
    ("long-poppy", "depot", (0, 1_500, 1_600)),
    ("gull-glazed", "harbour", (2_900, 2_700, 3_000)),
    ("gull-glazed", "depot", (1_700, 1_600, 1_800)),
    ("gull-bites", "harbour", (800, 760, 850)),
    ("gull-bites", "depot", (430, 480, 470)),
    ("gull-cocoa", "hill", (1_300, 0, 1_400)),
    ("gull-cinnamon", "market", (0, 1_200, 0)),
    ("pier-plain", "market", (1_700, 1_500, 1_800)),
    ("pier-lemon", "depot", (900, 1_100, 0)),
    ("buoy-plum", "market", (1_500, 1_400, 1_600)),
    ("buoy-vanilla", "depot", (1_000, 0, 1_100)),
    ("buoy-hazel", "depot", (0, 900, 0)),
    ("signal-cocoa", "market", (6_000, 0, 7_400)),
    ("signal-oat", "depot", (0, 6_200, 0)),
    ("dune-cloud", "depot", (5_200, 5_600, 5_000)),
    ("dune-dark", "depot", (2_400, 0, 2_600)),
    ("reed-salt", "depot", (2_900, 4_800, 4_600)),
    ("reed-rye", "depot", (0, 2_400, 2_200)),
    ("kestrel-plain", "depot", (3_900, 4_300, 4_100)),
    ("kestrel-plain", "market", (0, 3_000, 2_800)),
    ("kestrel-almond", "market", (0, 1_700, 1_600)),
    ("kestrel-rye", "depot", (0, 1_500, 1_700)),
)
"""Product, lorry, and packs on each of the three days."""


def ostermere(first_day: date) -> Scenario:
    """The demo plant with three days of orders; the first shift opens the evening before.

    Parameters
    ----------
    first_day : date
        The first day on which lorries leave, in the plant's time zone.
    """
    opens = opening(first_day)
    days = [first_day + timedelta(days=number) for number in range(DAYS)]
    return Scenario(
        plant=Plant(
            name="Ostermere Bakehouse",
            town=TOWN,
            time_zone=TIME_ZONE,
            ingredients=INGREDIENTS,
            lines=(ring_line.LINE, bread_line.LINE, doughnut_line.LINE, biscuit_line.LINE, pastry_line.LINE),
            humidity_rule=HumidityRule(reference_pct=55, percent_per_ten=0.5),
            ice_machine=IceMachine(kg_per_h=110, bin_kg=900),
        ),
        preparations=(bread_line.SPONGE, *doughnut_line.PREPARATIONS, *biscuit_line.PREPARATIONS),
        products=(
            *ring_line.PRODUCTS,
            *bread_line.PRODUCTS,
            *doughnut_line.PRODUCTS,
            *biscuit_line.PRODUCTS,
            *pastry_line.PRODUCTS,
        ),
        horizon=Horizon(starts_at=opens, minutes=HORIZON_MIN),
        waves=tuple(
            Wave(id=f"{wave}-{number}", name=f"{name}, {day:%a}", departs_min=departs_min(opens, day, leaves))
            for number, day in enumerate(days, start=1)
            for wave, name, leaves in LORRIES
        ),
        orders=_orders(),
        conditions=Conditions(room_c=23.5, flour_c=21.0, tap_c=14.5, chilled_c=4.0, humidity_pct=55),
        stocks=STOCKS,
    )


def _orders() -> tuple[Order, ...]:
    numbered = enumerate(
        (
            (product, f"{wave}-{day}", packs[day - 1])
            for day in range(1, DAYS + 1)
            for product, wave, packs in PACKS
            if packs[day - 1]
        ),
        start=4101,
    )
    return tuple(
        Order(id=str(number), product=product, wave=wave, packs=packs) for number, (product, wave, packs) in numbered
    )
