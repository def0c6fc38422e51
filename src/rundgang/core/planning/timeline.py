"""A plan laid out for the eye: every run's passage of every station, and packs made against packs due."""

from itertools import pairwise

from rundgang.core.model import Model
from rundgang.core.planning.headway import gap, stops
from rundgang.core.planning.plan import Plan, Reason, Run
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class StationRow(Model):
    """A row of the chart: a mixer or a station, with its busy share between first dough and last pack."""

    station: str
    name: str
    kind: str
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
    meetings: tuple[Meeting, ...]
    made: tuple[Point, ...]
    due: tuple[Point, ...]


def timeline(scenario: Scenario, plan: Plan) -> Timeline:
    """Lay a plan out along its line."""
    ribbons = tuple(_ribbon(scenario, run) for run in plan.runs)
    starts = [batch.start_min for run in plan.runs for batch in run.batches]
    first, last = min(starts, default=0.0), plan.score.last_pack_min
    return Timeline(
        from_min=first,
        to_min=last if plan.runs else float(scenario.horizon.minutes),
        rows=_rows(scenario, plan, ribbons, max(last - first, 1.0)),
        ribbons=ribbons,
        meetings=tuple(_meeting(scenario, first, then, ribbons) for first, then in pairwise(plan.runs)),
        made=_made(plan),
        due=_due(scenario, plan),
    )


def _ribbon(scenario: Scenario, run: Run) -> Ribbon:
    product = scenario.product(run.product)
    flow, passed = run.scaled_per_h, []
    for step, stop in zip(product.piece_steps, stops(scenario.line(run.line), product), strict=True):
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
    return Ribbon(run=run.id, product=run.product, stops=tuple(passed))


def _rows(scenario: Scenario, plan: Plan, ribbons: tuple[Ribbon, ...], span: float) -> tuple[StationRow, ...]:
    line = scenario.line(plan.line)
    rows = []
    for mixer in line.mixers.mixers:
        used = sum(b.discharged_min - b.start_min for r in plan.runs for b in r.batches if b.mixer == mixer)
        rows.append(StationRow(station=mixer, name=mixer, kind="batch", dwell_min=0, busy_share=used / span))
    for station in line.stations[1:]:
        passed = [stop for ribbon in ribbons for stop in ribbon.stops if stop.station == station.id]
        fed = sum(stop.last_in - stop.first_in for stop in passed)
        dwell = max((stop.first_out - stop.first_in for stop in passed), default=0.0)
        rows.append(
            StationRow(
                station=station.id,
                name=station.name,
                kind=station.kind,
                dwell_min=dwell,
                busy_share=fed / span,
            )
        )
    return tuple(rows)


def _meeting(scenario: Scenario, first: Run, then: Run, ribbons: tuple[Ribbon, ...]) -> Meeting:
    """The station with the least spare time between two neighbours."""
    by_run = {ribbon.run: {stop.station: stop for stop in ribbon.stops} for ribbon in ribbons}
    ahead, behind = by_run[first.id], by_run[then.id]
    met = []
    for station in ahead.keys() & behind.keys():
        needed = gap(scenario, station, scenario.product(first.product), scenario.product(then.product))
        white = behind[station].first_in - ahead[station].last_in
        met.append((white - needed.minutes, station, white, needed))
    spare, station, _, needed = min(met, key=lambda found: found[:2])
    return Meeting(
        first=first.id,
        then=then.id,
        station=station,
        from_min=ahead[station].last_in,
        to_min=behind[station].first_in,
        needed_min=needed.minutes,
        spare_min=max(0.0, spare),
        reasons=needed.reasons,
    )


def _made(plan: Plan) -> tuple[Point, ...]:
    """Corners of the curve of packs made; runs of one line overlap at its end only in white time."""
    points, total = [], 0
    for run in sorted(plan.runs, key=lambda run: run.first_pack_min):
        points.append(Point(minute=run.first_pack_min, packs=total))
        total += run.packs
        points.append(Point(minute=run.last_pack_min, packs=total))
    return tuple(points)


def _due(scenario: Scenario, plan: Plan) -> tuple[Point, ...]:
    """Steps of the curve of packs due: the total after each wave leaves."""
    points, total = [], 0
    for wave in sorted(scenario.waves, key=lambda wave: wave.departs_min):
        total += sum(outcome.packs for outcome in plan.waves if outcome.wave == wave.id)
        points.append(Point(minute=wave.departs_min, packs=total))
    return tuple(points)
