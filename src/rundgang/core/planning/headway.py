"""Headway: the least start-to-start time between two runs on a line, and the station that causes it.

On a continuous line a run moves rigidly, a ribbon. Station k stands at offset o_k behind the divider,
the sum of the dwells and transfers before it. Run r, feeding for u_r, has its last piece at station k's
entry at S_r + o_k(r) + u_r; run s brings its first at S_s + o_k(s). With the gap g_k that the station
needs between the two,

    h(r, s) = u_r + max over shared stations k of  o_k(r) + g_k(r, s) - o_k(s).

u_r stands outside the maximum, so the rest depends on the two products alone and is worked out once a
pair. It holds between every ordered pair of runs on a line, not only neighbours: a run that skips a
station leaves its neighbours on both sides facing each other there.
"""

from rundgang.core.balance import dwell_of
from rundgang.core.model import Model
from rundgang.core.planning.plan import Reason
from rundgang.core.plant import BatchStation, Changeover, ConveyorStation, Line, RateStation
from rundgang.core.products import ConveyorStep, PieceStep, Product, RateStep
from rundgang.core.scenario import Scenario


class Stop(Model):
    """A product's passage of one station: offset behind the divider and dwell, min."""

    station: str
    offset_min: float
    dwell_min: float


class Gap(Model):
    """White time that a station needs at its entry between the last piece of one run and the first of the next."""

    minutes: float
    reasons: tuple[Reason, ...]


class PairHeadway(Model):
    """Headway of two products beyond the feeding time of the first, with the station that sets it."""

    beyond_feed_min: float
    station: str
    gap: Gap


def stops(line: Line, product: Product) -> tuple[Stop, ...]:
    """Where a product is when: its passage of every station after the mixers."""
    passed, offset = [], 0.0
    for step in product.piece_steps:
        station = line.station(step.station)
        assert not isinstance(station, BatchStation)  # noqa: S101
        dwell = dwell_of(step, station)
        passed.append(Stop(station=step.station, offset_min=offset, dwell_min=dwell))
        offset += dwell + station.transfer_min
    return tuple(passed)


def cleaning(scenario: Scenario, changeover: Changeover, first: Product, then: Product) -> tuple[Reason, ...]:
    """Cleaning between two products at a station, by what the first leaves that the second must not carry."""
    allergens = scenario.allergens(first) - scenario.allergens(then)
    if allergens and changeover.allergen_clean_min:
        left = ", ".join(sorted(allergens))
        return (Reason(what=f"clean away {left} (allergen)", minutes=changeover.allergen_clean_min),)
    traits = first.traits - then.traits
    if traits and changeover.trait_clean_min:
        left = ", ".join(sorted(traits))
        return (Reason(what=f"clean away {left}", minutes=changeover.trait_clean_min),)
    return ()


def gap(scenario: Scenario, station_id: str, first: Product, then: Product) -> Gap:
    """The gap two products need at a station they share, with what it is made of."""
    station = scenario.line_of(first).station(station_id)
    steps = [_step(product, station_id) for product in (first, then)]
    reasons = cleaning(scenario, station.changeover, first, then)
    if isinstance(station, ConveyorStation):
        assert isinstance(steps[0], ConveyorStep) and isinstance(steps[1], ConveyorStep)  # noqa: S101, PT018
        reasons = (*_belt_reasons(station, steps[0], steps[1]), *reasons)
        dwell = steps[0].dwell_min
    else:
        assert isinstance(station, RateStation)  # noqa: S101
        assert isinstance(steps[0], RateStep) and isinstance(steps[1], RateStep)  # noqa: S101, PT018
        reasons = (*_tool_reasons(station, steps[0], steps[1]), *reasons)
        dwell = station.pass_min
    separation = station.changeover.separation_min
    if not reasons:
        return Gap(minutes=separation, reasons=(Reason(what="separation", minutes=separation),))
    work = sum(reason.minutes for reason in reasons)
    if separation > work:
        reasons = (*reasons, Reason(what="separation", minutes=separation - work))
    empties = Reason(what=f"{station.name} runs empty", minutes=dwell)
    return Gap(minutes=dwell + max(work, separation), reasons=(empties, *reasons))


def _step(product: Product, station_id: str) -> PieceStep:
    return next(step for step in product.piece_steps if step.station == station_id)


def _tool_reasons(station: RateStation, first: RateStep, then: RateStep) -> tuple[Reason, ...]:
    if first.tool == then.tool or not then.tool or not station.changeover.tool_change_min:
        return ()
    return (Reason(what=f"mount {then.tool}", minutes=station.changeover.tool_change_min),)


def _belt_reasons(station: ConveyorStation, first: ConveyorStep, then: ConveyorStep) -> tuple[Reason, ...]:
    """Why a belt must be empty before the next run enters: another speed, or another climate."""
    changes = []
    if first.dwell_min != then.dwell_min:
        changes.append(f"belt from {first.dwell_min:g} to {then.dwell_min:g} min")
    if first.humidity_pct != then.humidity_pct:
        changes.append(f"humidity from {_said(first.humidity_pct)} to {_said(then.humidity_pct)} %")
    ramp = 0.0
    if first.temperature_c != then.temperature_c:
        changes.append(f"{_said(first.temperature_c)} to {_said(then.temperature_c)} °C")
        ramp = _ramp_min(station, first.temperature_c, then.temperature_c)
    if not changes:
        return ()
    return (Reason(what=", ".join(changes), minutes=max(ramp, station.setup_min)),)


def _ramp_min(station: ConveyorStation, before_c: float | None, after_c: float | None) -> float:
    """Time to bring an empty oven from one temperature to another, min: |dT| / rate, up and down apart."""
    if before_c is None or after_c is None:
        return 0.0
    rate = station.heating_c_per_min if after_c > before_c else station.cooling_c_per_min
    return abs(after_c - before_c) / rate if rate else 0.0


def _said(value: float | None) -> str:
    return "unset" if value is None else f"{value:g}"


def pair_headway(scenario: Scenario, first: Product, then: Product) -> PairHeadway | None:
    """The headway of two products beyond the first one's feeding; None where they share no station."""
    line = scenario.line_of(first)
    ahead = {stop.station: stop for stop in stops(line, first)}
    worst: PairHeadway | None = None
    for stop in stops(line, then):
        if stop.station not in ahead:
            continue
        needed = gap(scenario, stop.station, first, then)
        beyond = ahead[stop.station].offset_min + needed.minutes - stop.offset_min
        if worst is None or beyond > worst.beyond_feed_min:
            worst = PairHeadway(beyond_feed_min=beyond, station=stop.station, gap=needed)
    return worst


Headways = dict[tuple[str, str], PairHeadway]


def headways(scenario: Scenario, products: tuple[Product, ...]) -> Headways:
    """Headways of all ordered pairs of products on a line, each product after itself included."""
    found: Headways = {}
    for first in products:
        for then in products:
            pair = pair_headway(scenario, first, then)
            if pair is not None:
                found[first.id, then.id] = pair
    return found
