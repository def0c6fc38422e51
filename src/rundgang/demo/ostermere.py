"""The whole demo: Ostermere's five lines, all their products, and three days of orders."""

from datetime import date, datetime, time, timedelta

from rundgang.core.calendar import waves_of
from rundgang.core.conditions import Conditions, RoomCourse, RoomModel
from rundgang.core.opening import HeatedOven, LastRun, Opening, WornTool
from rundgang.core.orders import Block, FinishedStock, Window
from rundgang.core.plant import HumidityRule, IceMachine, Plant
from rundgang.core.scenario import Scenario
from rundgang.core.whole_plant import WholePlant
from rundgang.demo import biscuit_line, bread_line, doughnut_line, pastry_line, ring_line
from rundgang.demo.lorries import TIME_ZONE, TOWN, departs_min, opening
from rundgang.demo.materials import INGREDIENTS, PRICES, STOCKS
from rundgang.demo.parts import CREWS
from rundgang.demo.timetable import CLOSED, LATER_DAYS, calendar, orders_of

DAYS = 3
WINDOW_MIN = (DAYS - 1) * 24 * 60 + 20 * 60
"""From the evening before the first day to the afternoon of the last, min."""

PACKS = (
    ("lantern-plain", "harbour", (3_700, 3_330, 3_910)),
    ("lantern-plain", "hill", (1_890, 2_040, 1_750)),
    ("lantern-plain", "depot", (3_110, 2_820, 3_290)),
    ("harvest-sesame", "harbour", (1_560, 1_430, 1_620)),
    ("harvest-sesame", "hill", (1_270, 1_360, 1_120)),
    ("harvest-sesame", "depot", (2_020, 2_190, 1_900)),
    ("pear-cardamom", "hill", (1_430, 1_210, 1_520)),
    ("pear-cardamom", "market", (1_670, 1_730, 1_580)),
    ("tarn-white", "harbour", (1_900, 3_600, 3_400)),
    ("tarn-white", "market", (2_200, 2_400, 2_300)),
    ("tarn-whole", "market", (2_100, 0, 2_300)),
    ("seven-fields", "hill", (0, 1_900, 0)),
    ("quarry-loaf", "depot", (1_800, 0, 1_700)),
    ("swift-white", "hill", (2_600, 2_900, 2_700)),
    ("swift-malt", "depot", (0, 1_700, 1_500)),
    ("swift-oat", "depot", (1_500, 0, 0)),
    ("long-roll", "depot", (2_600, 2_200, 2_400)),
    ("long-milk", "depot", (1_700, 1_600, 0)),
    ("long-poppy", "depot", (0, 1_500, 1_300)),
    ("gull-glazed", "harbour", (4_350, 4_050, 4_500)),
    ("gull-glazed", "depot", (2_550, 2_400, 2_700)),
    ("gull-bites", "harbour", (1_200, 1_140, 1_280)),
    ("gull-bites", "depot", (640, 720, 700)),
    ("gull-cocoa", "hill", (1_950, 0, 2_100)),
    ("gull-cinnamon", "market", (0, 1_800, 0)),
    ("pier-plain", "market", (2_550, 2_250, 2_700)),
    ("pier-lemon", "depot", (1_350, 1_650, 0)),
    ("buoy-plum", "market", (2_250, 2_100, 2_400)),
    ("buoy-vanilla", "depot", (1_500, 0, 1_650)),
    ("buoy-hazel", "depot", (0, 1_350, 0)),
    ("signal-cocoa", "market", (10_200, 0, 12_580)),
    ("signal-oat", "depot", (0, 10_540, 0)),
    ("dune-cloud", "depot", (8_840, 9_520, 8_500)),
    ("dune-dark", "depot", (4_080, 0, 4_420)),
    ("reed-salt", "depot", (4_930, 8_160, 7_820)),
    ("reed-rye", "depot", (0, 4_080, 3_740)),
    ("kestrel-plain", "depot", (5_850, 6_450, 6_150)),
    ("kestrel-plain", "market", (0, 4_500, 4_200)),
    ("kestrel-almond", "market", (0, 2_550, 2_400)),
    ("kestrel-rye", "depot", (0, 2_250, 2_550)),
)
"""Product, lorry, and packs on each of the three days."""


FINISHED = (
    FinishedStock(product="signal-cocoa", packs=1_200, made_min=-600),
    FinishedStock(product="dune-cloud", packs=640, made_min=-600),
)
"""Packs left over from the days before."""

HEATED = (
    HeatedOven(line="ring-line", station="oven", temperature_c=232),
    HeatedOven(line="bread-line", station="oven", temperature_c=235),
    HeatedOven(line="doughnut-line", station="fryer", temperature_c=186),
)
"""Ovens that the shift before has left on; those of biscuits and pastry are cold."""

WARMEST, COOLEST_C, WARMEST_C = time(16, 0), 19.5, 23.5
"""When the room is warmest, and how cool and warm it gets, °C."""

PACK_PRICES = {
    "ring rolls": 1.35,
    "tin bread, sponge": 1.65,
    "tin bread, long trough": 1.85,
    "tin bread, no-time": 1.4,
    "long soft rolls": 1.55,
    "yeast ring doughnuts": 2.2,
    "cake doughnuts": 2.4,
    "filled doughnuts": 2.6,
    "doughnut centres": 1.9,
    "sandwich biscuits": 1.1,
    "enrobed mallow biscuits": 1.9,
    "fermented crackers": 0.95,
    "laminated crescents": 2.9,
}
"""What a pack is sold for, by the kind of bake."""

WORN = (
    WornTool(line="bread-line", station="slicer", tool="blades", used=141),
    WornTool(line="pastry-line", station="triangle-cutter", tool="knives", used=8_350),
)
"""Tools that are not new when the window starts."""

LAST = (
    LastRun(line="ring-line", product="harvest-sesame", left_min=-35),
    LastRun(line="bread-line", product="tarn-white", left_min=-50),
    LastRun(line="doughnut-line", product="gull-glazed", left_min=-20),
)
"""What the shift before made last."""

SOME_DAY = date(2026, 3, 11)
"""For those who want the demo's lines, and not its days."""

FIRST_ORDER, FIRST_LATER_ORDER = 4101, 4301
"""Numbers of the first order, and of the first behind the window."""


def ostermere(first_day: date) -> Scenario:
    """The demo plant with three days of orders; the first shift opens the evening before.

    Parameters
    ----------
    first_day : date
        The first day on which lorries leave, in the plant's time zone.
    """
    opens = opening(first_day)
    course = RoomCourse(low_c=COOLEST_C, high_c=WARMEST_C, warmest_min=departs_min(opens, first_day, WARMEST))
    days = [first_day + timedelta(days=number) for number in range(DAYS)]
    window = Window(starts_at=opens, minutes=WINDOW_MIN)
    return Scenario(
        plant=Plant(
            name="Ostermere Bakehouse",
            town=TOWN,
            time_zone=TIME_ZONE,
            ingredients=tuple(item.model_copy(update={"price": PRICES.get(item.id)}) for item in INGREDIENTS),
            crews=CREWS,
            lines=(ring_line.LINE, bread_line.LINE, doughnut_line.LINE, biscuit_line.LINE, pastry_line.LINE),
            humidity_rule=HumidityRule(reference_pct=55, percent_per_ten=0.5),
            ice_machine=IceMachine(kg_per_h=110, bin_kg=900),
            room=RoomModel(lag_h=6, offset_k=15, water_g_per_kg=4),
            currency="EUR",
            energy_per_kwh=0.11,
        ),
        preparations=(bread_line.SPONGE, *doughnut_line.PREPARATIONS, *biscuit_line.PREPARATIONS),
        products=tuple(
            product.model_copy(update={"price": PACK_PRICES.get(product.family)})
            for product in (
                *ring_line.PRODUCTS,
                *bread_line.PRODUCTS,
                *doughnut_line.PRODUCTS,
                *biscuit_line.PRODUCTS,
                *pastry_line.PRODUCTS,
            )
        ),
        window=window,
        waves=waves_of(calendar(first_day, DAYS), opens.tzinfo, window),
        orders=orders_of(PACKS, first_day, DAYS, FIRST_ORDER),
        conditions=Conditions(
            room_c=22.5,
            flour_c=21.0,
            tap_c=14.5,
            chilled_c=4.0,
            humidity_pct=55,
            by_hour=course.hours(WINDOW_MIN),
            room_course=course,
        ),
        stocks=STOCKS,
        finished=FINISHED,
        blocks=_blocks(opens, days),
        opening=Opening(heated=HEATED, worn=WORN, last=LAST),
    )


def _blocks(opens: datetime, days: list[date]) -> tuple[Block, ...]:
    """What the plant closes in these days, in the plant's own hours."""
    return tuple(
        Block(
            id=name,
            line=line,
            station=station,
            kind=kind,
            from_min=departs_min(opens, days[day], begins),
            to_min=departs_min(opens, days[day], begins) + minutes,
            reason=reason,
            renews=renews,
        )
        for name, line, station, kind, day, begins, minutes, reason, renews in CLOSED
    )


def demo_plant(first_day: date) -> WholePlant:
    """The demo to begin with: its first window, its calendar, and orders of the days behind the window."""
    later = orders_of(PACKS, first_day, LATER_DAYS, FIRST_LATER_ORDER, since=DAYS)
    return WholePlant(scenario=ostermere(first_day), calendar=calendar(first_day, DAYS), later=later)
