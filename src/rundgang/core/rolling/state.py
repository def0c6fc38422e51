"""State: what there is where the next window begins: materials, tools, ovens, and what the lines were set to last.

All of it is as the runs leave it that do not come along; those that do are followed by the next window itself.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence

from rundgang.core.conditions import MINUTES_PER_DAY
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, zone_temperatures
from rundgang.core.kinds.parts import WearingTool
from rundgang.core.materials import ItemShares, run_draws
from rundgang.core.opening import HeatedOven, LastRun, WornTool
from rundgang.core.orders import Block
from rundgang.core.planning.cut_runs import cut_runs
from rundgang.core.planning.legs import Passing, passings, passings_at
from rundgang.core.planning.model import LinePlan, Renewal, Run
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario, Stock
from rundgang.core.tools import COUNTED_IN, tools_of, wear_of
from rundgang.core.units import MINUTES_PER_HOUR


def drawn(scenario: Scenario, runs: Iterable[Run]) -> dict[str, float]:
    """What runs have drawn of each material, kg or pieces."""
    shares, found = ItemShares(scenario), dict[str, float]()
    for run in runs:
        cuts = cut_runs(scenario, (run,))
        for draw in run_draws(shares, run, cuts[0] if cuts else None):
            found[draw.item] = found.get(draw.item, 0.0) + draw.amount
    return found


def stocks_at(scenario: Scenario, begin_min: float, used: Mapping[str, float]) -> tuple[Stock, ...]:
    """The materials when the next window begins, what has come by then and what has been drawn counted."""
    return tuple(
        stock.model_copy(
            update={
                "on_hand": stock.on_hand
                + sum(come.amount for come in stock.deliveries if come.at_min < begin_min)
                - used.get(stock.item, 0.0),
                "deliveries": tuple(
                    come.model_copy(update={"at_min": come.at_min - begin_min})
                    for come in stock.deliveries
                    if come.at_min >= begin_min
                ),
            }
        )
        for stock in scenario.stocks
    )


def heated_at(scenario: Scenario, gone: Sequence[Run]) -> tuple[HeatedOven, ...]:
    """Ovens that are on: each as hot as what passed it last wanted it."""
    found = {(oven.line, oven.station): oven for oven in scenario.opening.heated}
    for line in scenario.plant.lines:
        ovens = {one.id: one for one in line.stations if isinstance(one, ConveyorStation) and one.heating_c_per_min}
        passed = [p for run in gone if run.line == line.id for p in passings_at(scenario, run, ovens)]
        for passing in sorted(passed, key=lambda passing: passing.last_out):
            zones = zone_temperatures(_oven_step(passing), ovens[passing.station])
            known = tuple(zone for zone in zones if zone is not None)
            if known and len(known) == len(zones):
                found[line.id, passing.station] = HeatedOven(
                    line=line.id, station=passing.station, temperature_c=max(known), zone_c=known
                )
    return tuple(found.values())


def _oven_step(passing: Passing) -> ConveyorStep:
    step = next(step for step in passing.product.piece_steps if step.station == passing.station)
    assert isinstance(step, ConveyorStep)  # noqa: S101  (the scenario has matched steps and stations)
    return step


def last_at(scenario: Scenario, begin_min: float, gone: Iterable[Run]) -> tuple[LastRun, ...]:
    """What the lines made last, each product once, from the view of the next window."""
    made = [(last.line, last.product, last.left_min) for last in scenario.opening.last]
    made += [(run.line, run.product, max(p.last_out for p in passings(scenario, run))) for run in gone]
    latest: dict[tuple[str, str], float] = {}
    for line, product, left in made:
        latest[line, product] = max(left, latest.get((line, product), left))
    return tuple(
        LastRun(line=line, product=product, left_min=left - begin_min) for (line, product), left in latest.items()
    )


def worn_at(
    scenario: Scenario, begin_min: float, gone: Sequence[Run], plans: Iterable[LinePlan]
) -> tuple[WornTool, ...]:  # fmt: skip
    """How far tools are worn when the next window begins, renewed where a plan or a closing has renewed them.

    Parameters
    ----------
    plans : iterable of LinePlan
        In which the runs stand that are gone, with their renewals.
    """
    renewals = {plan.line: plan.renewals for plan in plans}
    found = []
    for line in scenario.plant.lines:
        for station, tool in tools_of(line):
            own = [run for run in gone if run.line == line.id]
            worn = [
                (passing.first_in, run.id, wears(scenario, passing, tool))
                for run in own
                for passing in passings_at(scenario, run, {station.id})
            ]
            new = [*renewed_by(scenario.blocks, line.id, station.id, tool.id, begin_min)]
            new += _before(renewals.get(line.id, ()), station.id, tool.name, {name: at for at, name, _ in worn})
            used, since = scenario.opening.used(line.id, station.id, tool.id), max(new, default=None)
            if tool.counted == "days":
                used = used + begin_min / MINUTES_PER_DAY if since is None else (begin_min - since) / MINUTES_PER_DAY
            else:
                used = used if since is None else 0.0
                used += sum(wear for at, _, wear in worn if since is None or at >= since) / COUNTED_IN[tool.counted]
            if used:
                found.append(WornTool(line=line.id, station=station.id, tool=tool.id, used=used))
    return tuple(found)


def renewed_by(blocks: Iterable[Block], line: str, station: str, tool: str, by_min: float) -> Iterator[float]:
    """When closings that have ended have renewed a tool, min."""
    for block in blocks:
        if (block.line, block.station, block.renews) == (line, station, tool) and block.to_min <= by_min:
            yield block.to_min


def _before(renewals: Iterable[Renewal], station: str, tool: str, entering: dict[str, float]) -> Iterator[float]:
    """When a tool was renewed before runs, min: as they entered."""
    for one in renewals:
        if (one.station, one.tool) == (station, tool) and one.before in entering:
            yield entering[one.before]


def wears(scenario: Scenario, passing: Passing, tool: WearingTool) -> float:
    """What a passing wears of a tool: strokes, or minutes."""
    owner: Product = passing.product
    station = scenario.line_of(owner).station(passing.station)
    step = next(step for step in owner.piece_steps if step.station == passing.station)
    wear = wear_of(tool, step, station)
    if wear is None:
        return 0.0
    pieces = passing.flow_per_h * (passing.last_in - passing.first_in) / MINUTES_PER_HOUR
    return wear.per_piece * pieces + wear.per_min * (passing.last_out - passing.first_in)


def blocks_at(blocks: Iterable[Block], begin_min: float) -> tuple[Block, ...]:
    """The closings that have not ended, from the view of the next window."""
    return tuple(
        block.model_copy(update={"from_min": max(0.0, block.from_min - begin_min), "to_min": block.to_min - begin_min})
        for block in blocks
        if block.to_min > begin_min
    )
