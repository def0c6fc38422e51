"""Ovens: who passes which, and how long each takes to be hot."""

from collections.abc import Sequence

import numpy as np

from rundgang.core.compiled import Records
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, heat_up_min, ramp_min, zone_temperatures
from rundgang.core.planning.decode.arrays import OVEN
from rundgang.core.planning.legs import Way
from rundgang.core.plant import Line
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario


def oven_ready_min(scenario: Scenario, product: Product, station_id: str) -> float:
    """From the opening until an oven is as hot as a product wants it, min; 0 where nothing is heated.

    Behind a run that has begun and passes it, it is hot: the headway to that run has its ramp.
    """
    station = scenario.line_of(product).station(station_id)
    if not isinstance(station, ConveyorStation) or _passed_by_begun(scenario, product.line, station_id):
        return 0.0
    wanted = oven_temperatures(product, station)
    now_c = scenario.opening.oven_c(product.line, station_id, len(wanted))
    return heat_up_min(station, wanted) if now_c is None else ramp_min(station, now_c, wanted)


def _passed_by_begun(scenario: Scenario, line_id: str, station_id: str) -> bool:
    """Whether a run that has begun passes a station of its line."""
    begun = {run.product for run in scenario.opening.begun_on(line_id)}
    return any(step.station == station_id for name in begun for step in scenario.product(name).piece_steps)


def oven_temperatures(product: Product, station: ConveyorStation) -> tuple[float | None, ...]:
    """What a product wants of each zone of an oven that it passes, °C."""
    step = next(step for step in product.piece_steps if step.station == station.id)
    assert isinstance(step, ConveyorStep)  # noqa: S101  (the scenario has matched steps and stations)
    return zone_temperatures(step, station)


def oven_table(
    scenario: Scenario, lines: Sequence[Line], products: Sequence[Product], ways: Sequence[Way]
) -> Records:  # fmt: skip
    """Every product's passage of every oven of some lines."""
    ovens = {
        (line.id, station.id): station
        for line in lines
        for station in line.stations
        if isinstance(station, ConveyorStation) and station.heating_c_per_min
    }
    places = {key: place for place, key in enumerate(ovens)}
    found = np.zeros((len(products), len(ovens)), OVEN)
    found["leg"] = -1
    for place, product in enumerate(products):
        for stop in ways[place].stops:
            key = product.line, stop.station
            if key in ovens:
                heat_up = heat_up_min(ovens[key], oven_temperatures(product, ovens[key]))
                found[place, places[key]] = stop.leg, stop.offset_min, stop.dwell_min, heat_up
    return found
