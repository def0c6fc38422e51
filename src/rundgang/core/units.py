"""Metric and US customary units, for reading and typing: one table, exact factors.

The core calculates in metric units only. Each quantity is shown with as many digits as it is meant to have
in its system, chosen so that a figure shown in one system, typed into the other and shown again is the
same to its last digit. Factors are exact by definition: the pound and the foot of 1959, the gallon of
231 cubic inches, the British thermal unit of the International Table.
"""

from typing import Literal

from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.model import Model

System = Literal["metric", "us"]

MINUTES_PER_HOUR = 60
SECONDS_PER_MINUTE = 60
GRAMS_PER_KG = 1_000
POUND_KG = 0.45359237
FOOT_M = 0.3048
GALLON_L = 3.785411784
BTU_KJ = 1.05505585262
FAHRENHEIT_PER_KELVIN = 1.8
FAHRENHEIT_AT_0_C = 32.0


class Unit(Model):
    """How a quantity is written in both systems: us = metric x factor + offset.

    Attributes
    ----------
    metric, us : str
        Names of the units.
    metric_decimals, us_decimals : int
        Digits shown after the point.
    """

    quantity: str
    metric: str
    us: str
    factor: float
    offset: float = 0
    metric_decimals: int
    us_decimals: int


TABLE: tuple[Unit, ...] = (
    Unit(
        quantity="temperature",
        metric="°C",
        us="°F",
        factor=FAHRENHEIT_PER_KELVIN,
        offset=FAHRENHEIT_AT_0_C,
        metric_decimals=1,
        us_decimals=1,
    ),
    Unit(
        quantity="temperature difference",
        metric="K",
        us="°F",
        factor=FAHRENHEIT_PER_KELVIN,
        metric_decimals=1,
        us_decimals=1,
    ),
    Unit(
        quantity="heating rate",
        metric="°C/min",
        us="°F/min",
        factor=FAHRENHEIT_PER_KELVIN,
        metric_decimals=2,
        us_decimals=2,
    ),
    Unit(quantity="dough mass", metric="kg", us="lb", factor=1 / POUND_KG, metric_decimals=2, us_decimals=2),
    Unit(quantity="wasted mass", metric="kg", us="lb", factor=1 / POUND_KG, metric_decimals=0, us_decimals=0),
    Unit(quantity="scaled mass", metric="kg", us="lb", factor=1 / POUND_KG, metric_decimals=3, us_decimals=3),
    Unit(quantity="piece mass", metric="g", us="oz", factor=16 / (POUND_KG * 1_000), metric_decimals=1, us_decimals=3),
    Unit(quantity="length", metric="m", us="ft", factor=1 / FOOT_M, metric_decimals=2, us_decimals=2),
    Unit(quantity="thickness", metric="mm", us="in", factor=12 / (FOOT_M * 1_000), metric_decimals=2, us_decimals=4),
    Unit(quantity="belt speed", metric="m/min", us="ft/min", factor=1 / FOOT_M, metric_decimals=2, us_decimals=2),
    Unit(quantity="water volume", metric="l", us="gal", factor=1 / GALLON_L, metric_decimals=1, us_decimals=2),
    Unit(quantity="room volume", metric="m³", us="ft³", factor=1 / FOOT_M**3, metric_decimals=1, us_decimals=1),
    Unit(
        quantity="mixing work",
        metric="Wh/kg",
        us="Wh/lb",
        factor=POUND_KG,
        metric_decimals=1,
        us_decimals=2,
    ),
    Unit(quantity="area", metric="m²", us="ft²", factor=1 / FOOT_M**2, metric_decimals=1, us_decimals=1),
    Unit(
        quantity="band loading",
        metric="kg/m²",
        us="lb/ft²",
        factor=FOOT_M**2 / POUND_KG,
        metric_decimals=2,
        us_decimals=3,
    ),
    Unit(quantity="mass flow", metric="kg/h", us="lb/h", factor=1 / POUND_KG, metric_decimals=1, us_decimals=1),
    Unit(
        quantity="yearly mass",
        metric="t",
        us="short ton",
        factor=1_000 / (2_000 * POUND_KG),
        metric_decimals=1,
        us_decimals=1,
    ),
    Unit(
        quantity="layer thickness",
        metric="µm",
        us="mil",
        factor=12 / (FOOT_M * 1_000),
        metric_decimals=0,
        us_decimals=2,
    ),
    Unit(quantity="heat flow", metric="kW", us="BTU/h", factor=3_600 / BTU_KJ, metric_decimals=1, us_decimals=0),
    Unit(quantity="energy", metric="kJ", us="BTU", factor=1 / BTU_KJ, metric_decimals=0, us_decimals=1),
    Unit(
        quantity="heat of a mass",
        metric="kJ/kg",
        us="BTU/lb",
        factor=POUND_KG / BTU_KJ,
        metric_decimals=0,
        us_decimals=1,
    ),
    Unit(
        quantity="specific heat",
        metric="kJ/kgK",
        us="BTU/lb°F",
        factor=POUND_KG / BTU_KJ / FAHRENHEIT_PER_KELVIN,
        metric_decimals=2,
        us_decimals=3,
    ),
    Unit(
        quantity="volume of a gas",
        metric="m³/kg",
        us="ft³/lb",
        factor=POUND_KG / FOOT_M**3,
        metric_decimals=3,
        us_decimals=2,
    ),
    Unit(quantity="water in air", metric="g/kg", us="gr/lb", factor=7.0, metric_decimals=1, us_decimals=1),
    Unit(quantity="heat", metric="kWh", us="BTU", factor=3_600 / BTU_KJ, metric_decimals=1, us_decimals=0),
)

_BY_QUANTITY = {unit.quantity: unit for unit in TABLE}


def unit_of(quantity: str) -> Unit:
    """The row of the table, or UnknownItemError."""
    if quantity not in _BY_QUANTITY:
        raise UnknownItemError("quantity", quantity, tuple(_BY_QUANTITY))
    return _BY_QUANTITY[quantity]


def to_us(quantity: str, metric: float) -> float:
    """A metric figure in US customary units."""
    unit = unit_of(quantity)
    return metric * unit.factor + unit.offset


def to_metric(quantity: str, us: float) -> float:
    """A US customary figure in metric units."""
    unit = unit_of(quantity)
    return (us - unit.offset) / unit.factor


def shown(quantity: str, metric: float, system: System) -> str:
    """A metric figure as it is written in a system, without its unit's name."""
    unit = unit_of(quantity)
    value, decimals = (
        (metric, unit.metric_decimals) if system == "metric" else (to_us(quantity, metric), unit.us_decimals)
    )
    return f"{round(value, decimals) + 0.0:.{decimals}f}"


def typed(quantity: str, text: str, system: System) -> float:
    """The metric figure that a person typed in a system, or OutOfRangeError."""
    try:
        value = float(text.strip())
    except ValueError:
        raise OutOfRangeError(f"The {quantity}", f"“{text}”", "a number") from None
    return value if system == "metric" else to_metric(quantity, value)
