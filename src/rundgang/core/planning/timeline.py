"""A plan laid out for the eye: every run's passage of every station, and packs made against packs due."""

from collections.abc import Iterator
from itertools import pairwise

from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.every import PieceStation
from rundgang.core.kinds.held import HeldStation
from rundgang.core.kinds.operation import Reason
from rundgang.core.model import Model
from rundgang.core.planning.headway import cut_is_held, gap, splits_at, stops
from rundgang.core.planning.model import Plan, Run
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class StationRow(Model):
    """A row of the chart: a mixer or a station, with its busy share between first dough and last pack.

    Attributes
    ----------
    dwells : bool
        Whether pieces stay there for a set time: a belt, a room or a store.
    dough_room : bool
        Whether doughs are in it, not pieces.
    """

    station: str
    name: str
    kind: str
    dwells: bool = False
    dough_room: bool = False
    dwell_min: float
    busy_share: float


class RibbonStop(Model):
    """When a run occupies a station, min: first piece in and out, last piece in and out."""

    station: str
    first_in: float
    last_in: float
    first_out: float
    last_out: float
    inside: float


class Ribbon(Model):
    """One run on its way down the line."""

    run: str
    product: str
    stops: tuple[RibbonStop, ...]


class Meeting(Model):
    """Two neighbouring runs at the station where they come closest, and why they keep apart.

    Attributes
    ----------
    from_min, to_min : float
        Last piece of the first run in; first piece of the second in.
    spare_min : float
        White time beyond what the station needs.
    """

    first: str
    then: str
    station: str
    from_min: float
    to_min: float
    needed_min: float
    spare_min: float
    reasons: tuple[Reason, ...]


class Hold(Model):
    """A dough or a preparation in its trough."""

    run: str
    batch: int
    station: str
    from_min: float
    to_min: float


class Shut(Model):
    """A stretch of time in which a row takes nothing."""

    station: str
    from_min: float
    to_min: float
    kind: str
    reason: str


class Point(Model):
    """Packs at a moment."""

    minute: float
    packs: int


class Timeline(Model):
    """Everything the ribbon chart draws, for one product set on one line."""

    from_min: float
    to_min: float
    rows: tuple[StationRow, ...]
    ribbons: tuple[Ribbon, ...]
    holds: tuple[Hold, ...]
    meetings: tuple[Meeting, ...]
    shut: tuple[Shut, ...]
    made: tuple[Point, ...]
    due: tuple[Point, ...]


def timeline(scenario: Scenario, plan: Plan) -> Timeline:
    """Lay a plan out along its line."""
    ribbons = tuple(_ribbon(scenario, run) for run in plan.runs)
    runs = {run.id: run for run in plan.runs}
    branches = tuple(_branch(scenario, runs[cut.run], scenario.product(cut.product)) for cut in plan.cut_runs)
    starts = [slot.start_min for run in plan.runs for batch in run.batches for slot in batch.slots]
    first, last = min(starts, default=0.0), plan.score.last_pack_min
    holds = tuple(hold for run in plan.runs for hold in _holds(scenario, run))
    return Timeline(
        from_min=first,
        to_min=last if plan.runs else float(scenario.window.minutes),
        rows=_rows(scenario, plan, (*ribbons, *branches), holds, max(last - first, 1.0)),
        ribbons=(*ribbons, *branches),
        holds=holds,
        meetings=tuple(met for first, then in pairwise(plan.runs) for met in (meeting(scenario, first, then),) if met),
        shut=tuple(_shut(scenario, plan)),
        made=_made(plan, _lying(scenario, plan)),
        due=_due(scenario, plan),
    )


def _ribbon(scenario: Scenario, run: Run) -> Ribbon:
    return _passing(scenario, run, scenario.product(run.product), run.product)


def _branch(scenario: Scenario, run: Run, cut: Product) -> Ribbon:
    """What is cut out of a run, on its own way behind the cutter."""
    held = run if cut_is_held(scenario.product(run.product)) else run.model_copy(update={"extra_hold_min": 0.0})
    whole = _passing(scenario, held, scenario.whole(cut), cut.id)
    return whole.model_copy(update={"stops": whole.stops[-len(cut.piece_steps) :]})


def _passing(scenario: Scenario, run: Run, product: Product, shown_as: str) -> Ribbon:
    flow, passed = run.scaled_per_h, []
    for step, stop in zip(
        product.piece_steps, stops(scenario.line(run.line), product, run.extra_hold_min), strict=True
    ):
        first_in = run.start_min + stop.offset_min
        passed.append(
            RibbonStop(
                station=stop.station,
                first_in=first_in,
                last_in=first_in + run.feed_min,
                first_out=first_in + stop.dwell_min,
                last_out=first_in + run.feed_min + stop.dwell_min,
                inside=flow * min(stop.dwell_min, run.feed_min) / MINUTES_PER_HOUR,
            )
        )
        flow /= float(step.taken_for_one)
    return Ribbon(run=run.id, product=shown_as, stops=tuple(passed))


def _holds(scenario: Scenario, run: Run) -> Iterator[Hold]:
    """Every dough of a run in its trough, and every preparation in its own."""
    product = scenario.product(run.product)
    for batch in run.batches:
        if product.trough:
            yield Hold(
                run=run.id,
                batch=batch.number,
                station=product.trough.station,
                from_min=batch.discharged_min + product.mixing.rest_min,
                to_min=batch.divided_min,
            )
        for slot in batch.preparations:
            made = scenario.preparation(slot.preparation)
            if made.held:
                yield Hold(
                    run=run.id,
                    batch=batch.number,
                    station=made.held.station,
                    from_min=slot.discharged_min + made.mixing.rest_min,
                    to_min=slot.used_min,
                )


def _shut(scenario: Scenario, plan: Plan) -> Iterator[Shut]:
    """Every row's blocks: mixers have one each."""
    for block in scenario.blocks:
        called = scenario.plant.called_on(plan.line, block.at)
        if called is None:
            continue
        station = scenario.line(plan.line).station(called)
        for row in station.mixers if isinstance(station, BatchStation) else (called,):
            yield Shut(station=row, from_min=block.from_min, to_min=block.to_min, kind=block.kind, reason=block.reason)


def _rows(
    scenario: Scenario, plan: Plan, ribbons: tuple[Ribbon, ...], holds: tuple[Hold, ...], span: float
) -> tuple[StationRow, ...]:
    """Mixers one by one, and the troughs and stations that the plan uses, in walking order."""
    rows: list[StationRow] = []
    for station in scenario.line(plan.line).stations:
        held = [hold.to_min - hold.from_min for hold in holds if hold.station == station.id]
        if isinstance(station, BatchStation):
            rows += _mixer_rows(plan, station, span)
        elif held and isinstance(station, HeldStation):
            share = sum(held) / (span * station.positions)
            rows.append(
                StationRow(
                    station=station.id, name=station.name, kind="trough", dough_room=True, dwell_min=0, busy_share=share
                )
            )
        else:
            rows += _station_row(plan, station, ribbons, span)
    return tuple(rows)


def _mixer_rows(plan: Plan, station: BatchStation, span: float) -> Iterator[StationRow]:
    slots = [slot for run in plan.runs for batch in run.batches for slot in batch.slots]
    for mixer in station.mixers:
        used = [slot.discharged_min - slot.start_min for slot in slots if slot.mixer == mixer]
        if used or not plan.runs:
            yield StationRow(
                station=mixer, name=mixer, kind="batch", dough_room=True, dwell_min=0, busy_share=sum(used) / span
            )


def _station_row(plan: Plan, station: PieceStation, ribbons: tuple[Ribbon, ...], span: float) -> Iterator[StationRow]:
    passed = [stop for ribbon in ribbons for stop in ribbon.stops if stop.station == station.id]
    if not passed and plan.runs:
        return
    yield StationRow(
        station=station.id,
        name=station.name,
        kind=station.kind,
        dwells=station.dwells,
        dwell_min=max((stop.first_out - stop.first_in for stop in passed), default=0.0),
        busy_share=sum(stop.last_in - stop.first_in for stop in passed) / span,
    )


def meeting(scenario: Scenario, first: Run, then: Run) -> Meeting | None:
    """The station with the least spare time between two neighbours; None where they share no station."""
    line, products = scenario.line(first.line), (scenario.product(first.product), scenario.product(then.product))
    ahead = {stop.station: stop for stop in stops(line, products[0], first.extra_hold_min)}
    met = []
    for stop in stops(line, products[1], then.extra_hold_min):
        if stop.station not in ahead:
            continue
        needed = gap(scenario, stop.station, *products)
        held = needed.empties and splits_at(products[0], stop.station)
        last_in = first.start_min + first.feed_min + ahead[stop.station].offset_min
        enters = then.start_min + stop.offset_min
        spare = enters - last_in - needed.minutes - (first.extra_hold_min if held else 0)
        met.append((spare, stop.station, last_in, enters, needed))
    if not met:
        return None
    spare, station, last_in, enters, needed = min(met, key=lambda found: found[:2])
    return Meeting(
        first=first.id,
        then=then.id,
        station=station,
        from_min=last_in,
        to_min=enters,
        needed_min=needed.minutes,
        spare_min=max(0.0, spare),
        reasons=needed.reasons,
    )


def _lying(scenario: Scenario, plan: Plan) -> int:
    """Packs of the line's products in stock."""
    wanted = {wave.product for wave in plan.waves}
    return sum(entry.packs for entry in scenario.finished if entry.product in wanted)


def _made(plan: Plan, stock: int) -> tuple[Point, ...]:
    """Corners of the curve of packs there: every run gives its packs evenly, and runs may overlap."""
    giving = [(run.first_pack_min, run.last_pack_min, run.packs) for run in plan.giving]
    corners = sorted({minute for first, last, _ in giving for minute in (first, last)})

    def made(minute: float) -> float:
        given = (packs * min(max((minute - first) / (last - first), 0.0), 1.0) for first, last, packs in giving)
        return stock + sum(given)

    return tuple(Point(minute=minute, packs=round(made(minute))) for minute in corners)


def _due(scenario: Scenario, plan: Plan) -> tuple[Point, ...]:
    """Steps of the curve of packs due: the total after each wave leaves."""
    points, total = [], 0
    for wave in sorted(scenario.waves, key=lambda wave: wave.departs_min):
        total += sum(outcome.packs for outcome in plan.waves if outcome.wave == wave.id)
        points.append(Point(minute=wave.departs_min, packs=total))
    return tuple(points)
