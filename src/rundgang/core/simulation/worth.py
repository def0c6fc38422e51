"""What a change would be worth: the line planned anew with it, and run through as many days, beside today.

Each change is planned by the same search for as long, from the same plan; today as well, so that what time alone gives
is no one's merit. The days have the same dice.
"""

from typing import Literal

import numpy as np

from rundgang.core.compiled import Floats
from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.kinds.batch import BatchStation, BatchStep
from rundgang.core.kinds.conveyor import ConveyorStation
from rundgang.core.kinds.every import AnyStation, operation
from rundgang.core.model import Id, Model
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import PlantPlan
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.chances import every_min
from rundgang.core.simulation.line_odds import DAYS, run_through
from rundgang.core.simulation.odds import sure
from rundgang.core.simulation.surer import Search

ORDERED, LONGER, SELDOMER = 1.1, 1.25, 2.0
"""So many times as much is ordered, so many times as long is a belt, so many times as seldom stops a station."""

LATER_MIN = 30.0
"""Lorries are loaded so much later, min."""

Kind = Literal["today", "one more", "longer", "steadier", "more orders", "later lorries"]


class Change(Model):
    """A change to a line.

    Attributes
    ----------
    kind : str
        Nothing; one more machine, mixer, chamber, position or person at a station; a belt that is longer, with more
        pieces on it; a station that stops half as often; more ordered of all that the line makes; all lorries later.
    station : str or None
        Where, of those at a station.
    """

    kind: Kind
    station: Id | None = None


class Worth(Model):
    """How a line does with a change.

    Attributes
    ----------
    at : str
        Name of the station that is changed; "" where none is.
    complete : float
        The share of lorries, over all days, that missed nothing of what is ordered.
    missed : float
        Packs that lorries miss in the mean.
    planned_short : int
        Packs that they miss by the plan itself.
    """

    change: Change
    at: str
    complete: float
    missed: float
    planned_short: int


def changes_for(scenario: Scenario, line_id: str) -> tuple[Change, ...]:
    """What is tried on a line: nothing first."""
    line, counted = scenario.line(line_id), _counted(scenario, line_id)
    there = [station for station in line.stations if station.id in counted]
    found = [Change(kind="today")]
    found += [Change(kind="one more", station=station.id) for station in there if counted[station.id]]
    found += [Change(kind="longer", station=station.id) for station in there if _can_grow(station)]
    found += [Change(kind="steadier", station=one.id) for one in line.piece_stations if one.id in counted]
    return (*found, Change(kind="more orders"), Change(kind="later lorries"))


def with_change(scenario: Scenario, line_id: str, change: Change) -> Scenario:
    """The scenario with a change to a line.

    Raises
    ------
    UnknownItemError
        No such station on the line.
    OutOfRangeError
        A change that cannot be made at a station of its kind.
    """
    match change.kind:
        case "today":
            return scenario
        case "more orders":
            own = {product.id for product in scenario.products if product.line == line_id}
            more = (
                order.model_copy(update={"packs": round(ORDERED * order.packs)}) if order.product in own else order
                for order in scenario.orders
            )
            return scenario.changed(orders=tuple(more))
        case "later lorries":
            later = (wave.model_copy(update={"departs_min": wave.departs_min + LATER_MIN}) for wave in scenario.waves)
            return scenario.changed(waves=tuple(later))
        case _:
            return _with_station(scenario, line_id, change)


def worth_of(scenario: Scenario, begin: PlantPlan, line_id: str, change: Change, search: Search) -> Worth | None:
    """How a line does with a change, planned anew from a plan; None where what is found does not pass the check."""
    changed = with_change(scenario, line_id, change)
    plan = search(changed, begin)
    if check_plant(changed, plan.plans):
        return None
    short = dict[str, Floats]()
    for one in sure(changed, *run_through(changed, plan.of(line_id))):
        short[one.due.wave] = short.get(one.due.wave, np.zeros(DAYS)) + one.short
    return Worth(
        change=change,
        at=scenario.line(line_id).station(change.station).name if change.station else "",
        complete=float(np.mean([one == 0 for one in short.values()])) if short else 1.0,
        missed=float(sum(one.mean() for one in short.values())),
        planned_short=sum(one.short for one in plan.of(line_id).waves),
    )


def _with_station(scenario: Scenario, line_id: str, change: Change) -> Scenario:
    """The scenario with a station of a line that is otherwise."""
    line = scenario.line(line_id)
    found = next((station for station in line.stations if station.id == change.station), None)
    if found is None:
        raise UnknownItemError("station of the line", str(change.station), tuple(one.id for one in line.stations))
    more = (_counted(scenario, line_id).get(found.id) or 0) + 1
    stations = tuple(_changed(found, change, more) if station is found else station for station in line.stations)
    lines = (
        line.model_copy(update={"stations": stations}) if other.id == line_id else other
        for other in scenario.plant.lines
    )
    return scenario.model_copy(update={"plant": scenario.plant.model_copy(update={"lines": tuple(lines)})})


def _counted(scenario: Scenario, line_id: str) -> dict[str, int | None]:
    """How many there are of what is counted at each station that the line's products pass; None at a belt or a room."""
    line, found = scenario.line(line_id), dict[str, int | None]()
    for step in (step for product in scenario.made_on(line_id) for step in product.route):
        if isinstance(step, BatchStep):
            found[step.station] = len(line.mixers(step.station).mixers)
        else:
            there = operation(step, line.piece_station(step.station)).counted
            found[step.station] = there.number if there.adjustable else None
    return found


def _changed(station: AnyStation, change: Change, more: int) -> AnyStation:
    if change.kind == "one more":
        return station.with_count(more)
    if change.kind == "longer" and _can_grow(station):
        assert isinstance(station, ConveyorStation)  # noqa: S101  (no other can)
        places = None if station.places is None else int(LONGER * station.places)
        return station.model_copy(update={"places": places, "length_m": LONGER * station.length_m})
    if change.kind == "steadier" and not isinstance(station, BatchStation):
        return station.model_copy(update={"stops_every_min": SELDOMER * every_min(station)})
    raise OutOfRangeError(f"What is changed at {station.name}", change.kind, "a belt longer, what stops steadier")


def _can_grow(station: AnyStation) -> bool:
    """Whether it is a belt that can be longer: one of zones would need more of them."""
    return isinstance(station, ConveyorStation) and not station.zones
