"""Questions of units: one figure in both systems."""

from typing import Literal

from pydantic import Field

from rundgang.core.calculators.parts import Answer, Question, asked
from rundgang.core.figure import Figure
from rundgang.core.units import shown, to_metric, to_us, unit_of


class UnitsQuestion(Question):
    """What is it in the other system?"""

    what: Literal[
        "temperature",
        "temperature difference",
        "dough mass",
        "piece mass",
        "length",
        "thickness",
        "belt speed",
        "water volume",
        "room volume",
        "mixing work",
        "heat",
    ] = Field(default="temperature", title="Quantity")
    given_in: Literal["metric", "US customary"] = Field(default="US customary", title="Given in")
    value: float = asked("Figure", 75, -1_000_000, 1_000_000)


def units_answer(q: UnitsQuestion) -> Answer:
    """The figure in both systems, with the factor."""
    unit = unit_of(q.what)
    metric = q.value if q.given_in == "metric" else to_metric(q.what, q.value)
    us = to_us(q.what, metric)
    offset = f" + {unit.offset:g}" if unit.offset else ""
    return Answer(
        figures=(
            Figure(name="Metric", value=metric, unit=unit.metric, decimals=unit.metric_decimals + 1),
            Figure(name="US customary", value=us, unit=unit.us, decimals=unit.us_decimals + 1),
        ),
        working=(
            f"{shown(q.what, metric, 'metric')} {unit.metric} × {unit.factor:.8g}{offset} = "
            f"{shown(q.what, metric, 'us')} {unit.us}",
        ),
    )
