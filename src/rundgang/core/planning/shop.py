"""What stays the same while orders of lots are tried: the line, its headways, and how each product is fed.

Every dough of a product *needs* a mixer, perhaps a trough, and what its preparations take, each for a stretch
of time that hangs on when the dough reaches the divider. A run of doughs is a *feed*: how large they are, how
fast they go, and the pattern of stretches they take from each pool.
"""

from itertools import accumulate, pairwise
from typing import NamedTuple

from rundgang.core.batching import BatchLimits, BatchSplit, batch_limits, split
from rundgang.core.capacity import batch_capacity, dough_bounds, scaled_pace, transit_min
from rundgang.core.errors import InfeasibleError
from rundgang.core.planning.headway import Headways, cleaning, headways
from rundgang.core.planning.pool import SAME_MOMENT_MIN, Cleaning, Pattern, Pool
from rundgang.core.plant import BatchStation, HeldStation, Line
from rundgang.core.products import OddBatch, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class Need(NamedTuple):
    """What every dough of a product takes in the dough room: a unit of a station for a stretch of time.

    Attributes
    ----------
    before_min : float
        From the stretch's beginning to the dough's first piece at the divider, min.
    length_min : float
        Of the stretch, min.
    empties : bool
        Whether it lasts at least until the dough's last piece is divided: a trough by the divider.
    """

    station: str
    before_min: float
    length_min: float
    empties: bool = False


class Feed(NamedTuple):
    """How a run is fed: its doughs and the pace; when each is divided, from the run's start; what each pool gives.

    Attributes
    ----------
    divided : tuple of float
        First piece of every dough, and at the end the last piece of the last, min.
    patterns : tuple of Pattern
        One for each need of the product.
    """

    split: BatchSplit
    pace: float
    divided: tuple[float, ...]
    patterns: tuple[Pattern, ...]


class Shop:
    """All that does not change while orders of lots are tried: the line, its headways, the products' limits.

    Parameters
    ----------
    scenario : Scenario
    line_id : str
    odd_batch : dict of str to OddBatch
        Choices for the odd last batch that differ from the products' own.
    """

    def __init__(self, scenario: Scenario, line_id: str, odd_batch: dict[str, OddBatch] | None = None) -> None:
        self.scenario = scenario
        self.line: Line = scenario.line(line_id)
        self.products = {p.id: p for p in scenario.made_on(line_id)}
        self.cut_outs = {p.id: cut.id for p in self.products.values() if (cut := scenario.cut_from(p)) is not None}
        self.headways: Headways = headways(scenario, tuple(self.products.values()))
        chosen = odd_batch or {}
        self.policy = {p.id: chosen.get(p.id, p.odd_batch) for p in self.products.values()}
        self.pace = {p.id: scaled_pace(scenario, p) for p in self.products.values()}
        self.transit = {p.id: transit_min(self.line, p) for p in self.products.values()}
        self.needs = {p.id: needs_of(scenario, p) for p in self.products.values()}
        self.lead = {name: max(need.before_min for need in needs) for name, needs in self.needs.items()}
        self._limits: dict[str, BatchLimits] = {}
        self._feeds: dict[tuple[str, int], Feed] = {}
        self.mixer_cleaning = {
            (station.id, first.id, then.id): reasons
            for station in self.line.batch_stations
            for first in self.products.values()
            for then in self.products.values()
            if (reasons := cleaning(scenario, station.changeover, first, then))
        }
        self._cleaning: dict[str, Cleaning] = {station.id: {} for station in self.line.stations}
        for (station_id, first_id, then_id), reasons in self.mixer_cleaning.items():
            self._cleaning[station_id][first_id, then_id] = sum(reason.minutes for reason in reasons)

    def units(self, station_id: str) -> tuple[str, ...]:
        """The names of a dough room station's mixers or positions."""
        station = self.line.station(station_id)
        if isinstance(station, BatchStation):
            return station.mixers
        assert isinstance(station, HeldStation)  # noqa: S101  (needs name mixers and holders only)
        return tuple(f"{station.position} {number}" for number in range(1, station.positions + 1))

    def pools(self) -> dict[str, Pool]:
        """All mixers and positions of the dough room, none of them taken yet."""
        stations = {need.station for needs in self.needs.values() for need in needs}
        return {station: Pool(len(self.units(station)), self._cleaning[station]) for station in sorted(stations)}

    def limits(self, product: Product) -> BatchLimits:
        """Pieces a dough of the product may be scaled to on this line."""
        if product.id not in self._limits:
            self._limits[product.id] = batch_limits(product, dough_bounds(self.scenario, product))
        return self._limits[product.id]

    def feed(self, product: Product, packs: int) -> Feed:
        """The doughs for so many packs, by the policy chosen for the product, and how they are fed."""
        key = product.id, packs
        if key not in self._feeds:
            cut = split(product, packs, self.limits(product), self.policy[product.id])
            pace = fed_pace(self, product, cut.pieces)
            _refuse_old_dough(product, cut.pieces, pace)
            minutes = (MINUTES_PER_HOUR * pieces / pace for pieces in cut.pieces)
            divided = tuple(accumulate(minutes, initial=0.0))
            patterns = tuple(_pattern(need, divided) for need in self.needs[product.id])
            self._feeds[key] = Feed(cut, pace, divided, patterns)
        return self._feeds[key]


def _refuse_old_dough(product: Product, pieces: tuple[int, ...], scaled_per_h: float) -> None:
    """Refuse doughs that mixers or troughs bring so slowly that they are too old before they are divided.

    A smaller dough does not help: with m units of which each is taken for L, one comes every L / m.
    """
    longest = MINUTES_PER_HOUR * max(pieces) / scaled_per_h
    window = product.max_age_min - product.rest_min
    if longest > window + SAME_MOMENT_MIN:
        raise InfeasibleError(
            f"{product.name}: its mixers and troughs bring a dough every {longest:.1f} min, but one must be divided "
            f"within {window:.1f} min. Allowed: more mixers or troughs, a shorter cycle, or a longer maximum age."
        )


def _pattern(need: Need, divided: tuple[float, ...]) -> Pattern:
    """What a need takes of its pool for doughs divided at these times from the run's start."""
    stretches = []
    for first, last in pairwise(divided):
        begin = first - need.before_min
        length = max(need.length_min, last - begin) if need.empties else need.length_min
        stretches.append((begin, length))
    return Pattern(tuple(stretches), stretches[0][0], max(begin + length for begin, length in stretches))


def needs_of(scenario: Scenario, product: Product) -> tuple[Need, ...]:
    """What every dough of a product takes in the dough room; its mixer first, then its trough, then preparations."""
    line, mixing = scenario.line_of(product), product.mixing
    mixed = product.rest_min + mixing.cycle_min
    needs = [Need(mixing.station, mixed, mixing.cycle_min)]
    if product.trough:
        hold = product.trough.least_min
        turn = line.holder(product.trough.station).turn_round_min
        needs.append(Need(product.trough.station, hold, hold + turn, empties=True))
    for made, _ in scenario.preparations_in(product):
        cycle = made.mixing.cycle_min
        needs.append(Need(made.mixing.station, mixed + made.least_hold_min + cycle, cycle))
        if made.held:
            hold, turn = made.held.least_min, line.holder(made.held.station).turn_round_min
            needs.append(Need(made.held.station, mixed + hold, hold + turn))
    return tuple(needs)


def fed_pace(shop: Shop, product: Product, pieces: tuple[int, ...]) -> float:
    """Pace at which doughs of these sizes can be fed, pieces/h.

    With m units of a station, dough b + m takes the unit of dough b, so the m doughs between must feed the
    line for at least the time that the unit is taken. A trough by the divider is taken at least until its dough
    is divided, which leaves the m - 1 doughs after it to feed the line while the next one ferments.

    Raises
    ------
    InfeasibleError
        One trough alone cannot feed a divider without a break.
    """
    pace = shop.pace[product.id]
    for need in shop.needs[product.id]:
        units = len(shop.units(need.station))
        for first in range(len(pieces) - units):
            mean = sum(pieces[first : first + units]) / units
            pace = min(pace, batch_capacity(units, mean, need.length_min))
            if need.empties and need.before_min:
                others = sum(pieces[first + 1 : first + units])
                pace = min(pace, MINUTES_PER_HOUR * others / need.before_min)
    if pace <= 0:
        raise InfeasibleError(
            f"{product.name}: one {shop.units(shop.needs[product.id][1].station)[0]} alone cannot feed the divider "
            "without a break. Allowed: at least two, or one dough a run."
        )
    return pace
