"""Pools: units that are counted together, and the groups of lines that share them, a machine or a crew."""

from collections.abc import Sequence
from typing import NamedTuple

from rundgang.core.planning.needs import Stream
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario


class Pool(NamedTuple):
    """Units that are counted together: the mixers or positions of a station, or of one that lines share.

    Attributes
    ----------
    line, station : str
        One of the stations by which it is known.
    units : tuple of str
        What they are called.
    """

    key: str
    line: str
    station: str
    units: tuple[str, ...]


def pools_of(
    scenario: Scenario, products: Sequence[Product], streams: Sequence[Sequence[Stream]]
) -> tuple[Pool, ...]:  # fmt: skip
    """Every pool that products need, by what they are mixed, held and filled from."""
    found: dict[str, Pool] = {}
    for product, needed in zip(products, streams, strict=True):
        for need in (need for stream in needed for need in stream.needs):
            key = pool_key(scenario, product.line, need.station)
            if key not in found:
                station = scenario.line(product.line).unit_station(need.station)
                found[key] = Pool(key, product.line, need.station, station.units)
    return tuple(found.values())


def pool_key(scenario: Scenario, line_id: str, station_id: str) -> str:
    """What counts the units, or the places, of a station: itself on its line, or what it is shared as."""
    shared = scenario.plant.shared_as(line_id, station_id)
    return shared.id if shared else f"{line_id}/{station_id}"


def coupled(scenario: Scenario) -> tuple[tuple[str, ...], ...]:
    """The plant's lines in groups that share a station, a crew or a material that binds, be it through others."""
    groups = [{line.id} for line in scenario.plant.lines]
    binding = [stock.item for stock in scenario.stocks if stock.binds]
    links = [{ref.line for ref in shared.stations} for shared in scenario.plant.shared]
    links += [
        {
            line.id
            for line in scenario.plant.lines
            if any(station.staffed and station.staffed.crew == crew.id for station in line.stations)
        }
        for crew in scenario.plant.crews
    ]
    links += [{product.line for product in scenario.products if item in scenario.drawn_by(product)} for item in binding]
    for link in links:
        touched = [group for group in groups if group & link]
        groups = [group for group in groups if not group & link] + ([set().union(*touched)] if touched else [])
    order = [line.id for line in scenario.plant.lines]
    return tuple(sorted((tuple(sorted(group, key=order.index)) for group in groups), key=lambda g: order.index(g[0])))
