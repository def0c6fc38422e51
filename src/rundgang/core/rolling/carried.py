"""Carried runs: of what has begun, what the next window must still know as it was, and since when that is."""

from collections.abc import Iterable
from math import floor

from rundgang.core.kinds.conveyor import COLD_C, ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import AnyStation
from rundgang.core.kinds.held import HeldStation
from rundgang.core.planning.cut_runs import cut_runs
from rundgang.core.planning.model import Run
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR

FELT_AT_LEAST_MIN = 6 * MINUTES_PER_HOUR
"""So long a run is felt at least: what a shift has just made stays in sight of those who work by the plan."""


def felt_min(scenario: Scenario) -> float:
    """So long after its end a run may matter to the next, min.

    The longest of what a plant says: a station cleaned, its tool changed and renewed and its places turned round; an
    oven brought through all temperatures from cold; carriers on their way back; a dough or filling that still keeps.
    """
    lines = scenario.plant.lines
    stations = (_free_again_min(station) for line in lines for station in line.stations)
    ovens = (_ramped_min(scenario, line.id, station) for line in lines for station in line.stations)
    carriers = (carrier.return_min for line in lines for carrier in line.carriers)
    kept = (made.most_hold_min for made in scenario.preparations)
    doughs = (product.max_age_min for product in scenario.products if product.formula)
    return max(FELT_AT_LEAST_MIN, *stations, *ovens, *carriers, *kept, *doughs)


def _free_again_min(station: AnyStation) -> float:
    change = station.changeover
    cleaned = max(change.allergen_clean_min, change.trait_clean_min)
    turned = station.turn_round_min if isinstance(station, HeldStation) else 0.0
    renewed = sum(tool.renew_min for tool in station.tools)
    return change.separation_min + change.tool_change_min + cleaned + turned + renewed


def _ramped_min(scenario: Scenario, line: str, station: AnyStation) -> float:
    rates = (station.heating_c_per_min, station.cooling_c_per_min) if isinstance(station, ConveyorStation) else ()
    products = (product for product in scenario.products if product.line == line)
    slowest = min((rate for rate in rates if rate), default=None)
    steps = (step for product in products for step in product.route if step.station == station.id)
    hottest = max((zone for step in steps if isinstance(step, ConveyorStep) for zone in _zones(step)), default=COLD_C)
    return (hottest - COLD_C) / slowest if slowest else 0.0


def _zones(step: ConveyorStep) -> Iterable[float]:
    return (zone_c for zone_c in (*step.zone_c, step.temperature_c) if zone_c is not None)


def carried_runs(scenario: Scenario) -> tuple[Run, ...]:
    """The runs that come along: on the line now or felt there, all that their line began after them, and what they use.

    Parameters
    ----------
    scenario : Scenario
        At the moment of the roll, with all that has begun.
    """
    begun, now = scenario.opening.begun, scenario.opening.now_min
    felt = felt_min(scenario)
    found = {(run.line, run.id) for run in begun if ends_min(scenario, run) > now - felt}
    while True:
        kept = [run for run in begun if (run.line, run.id) in found]
        since: dict[str, float] = {}
        for run in kept:
            since[run.line] = min(run.start_min, since.get(run.line, run.start_min))
        more = {(run.line, run.id) for run in begun if run.start_min >= since.get(run.line, float("inf"))}
        more |= {(run.line, run.id) for run in begun for user in kept if _is_used_by(run, user)}
        if more <= found:
            return tuple(kept)
        found |= more


def begins_min(scenario: Scenario, carried: Iterable[Run]) -> float:
    """The whole hour from which the next window counts: before all that comes along, min."""
    first = min((run.first_mixed_min for run in carried), default=scenario.opening.now_min)
    first = min(first, scenario.opening.now_min)
    return float(floor(max(0.0, first) / MINUTES_PER_HOUR) * MINUTES_PER_HOUR)


def ends_min(scenario: Scenario, run: Run) -> float:
    """When the last of a run is made, min."""
    legs = (leg.start_min + leg.feed_min for leg in run.legs)
    cut = (cut.last_pack_min for cut in cut_runs(scenario, (run,)))
    return max(run.last_pack_min, *legs, *cut, *(filling.used_until_min for filling in run.fillings))


def _is_used_by(maker: Run, user: Run) -> bool:
    """Whether a run takes the rest of another's dough, or of its filling."""
    if maker.line != user.line or maker is user:
        return False
    doughs = {(batch.mixer, batch.start_min) for batch in maker.mixed}
    if any(batch.shared and (batch.mixer, batch.start_min) in doughs for batch in user.batches):
        return True
    return any(filling.kept and any(filling.is_of(made) for made in maker.made_fillings) for filling in user.fillings)
