"""A plan laid out for the eye: every run's passage of every station, and packs made against packs due."""

from collections.abc import Iterator
from itertools import pairwise

from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.every import PieceStation
from rundgang.core.kinds.held import HeldStation
from rundgang.core.kinds.operation import Reason
from rundgang.core.model import Model
from rundgang.core.planning.headway import gap
from rundgang.core.planning.legs import Passing, passages, passings
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.scenario import Scenario


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


def timeline(scenario: Scenario, plan: LinePlan) -> Timeline:
    """Lay a plan out along its line."""
    ribbons = tuple(ribbon for run in plan.runs for ribbon in _ribbons(scenario, run))
    first, last = min((run.first_mixed_min for run in plan.runs), default=0.0), plan.score.last_pack_min
    holds = tuple(hold for run in plan.runs for hold in _holds(scenario, run))
    return Timeline(
        from_min=first,
        to_min=last if plan.runs else float(scenario.window.minutes),
        rows=_rows(scenario, plan, ribbons, holds, max(last - first, 1.0)),
        ribbons=ribbons,
        holds=holds,
        meetings=tuple(met for first, then in pairwise(plan.runs) for met in (meeting(scenario, first, then),) if met),
        shut=tuple(_shut(scenario, plan)),
        made=_made(plan, _lying(scenario, plan)),
        due=_due(scenario, plan),
    )


def _ribbons(scenario: Scenario, run: Run) -> Iterator[Ribbon]:
    """A run's own ribbon, and that of what is cut out of it, on its own way behind the cutter."""
    passed = passings(scenario, run)
    for product in dict.fromkeys(passing.product.listed_id for passing in passed):
        own = tuple(_stop(passing) for passing in passed if passing.product.listed_id == product)
        yield Ribbon(run=run.id, product=product, stops=own)


def _stop(passing: Passing) -> RibbonStop:
    return RibbonStop(
        station=passing.station,
        first_in=passing.first_in,
        last_in=passing.last_in,
        first_out=passing.first_out,
        last_out=passing.last_out,
        inside=passing.inside,
    )


def _holds(scenario: Scenario, run: Run) -> Iterator[Hold]:
    """Every dough of a run in its trough, every preparation in its own, and every batch of a filling in its tank."""
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
    yield from _tanks(scenario, run)


def _tanks(scenario: Scenario, run: Run) -> Iterator[Hold]:
    """Every batch of a filling in its tank, until it is used up."""
    for made in run.fillings:
        held = scenario.preparation(made.preparation).held
        if held and made.tank:
            yield Hold(
                run=run.id,
                batch=made.number,
                station=held.station,
                from_min=made.emptied_min,
                to_min=made.used_until_min,
            )


def _shut(scenario: Scenario, plan: LinePlan) -> Iterator[Shut]:
    """Every row's blocks: mixers have one each; and when tools are renewed."""
    for one in plan.renewals:
        yield Shut(
            station=one.station,
            from_min=one.from_min,
            to_min=one.to_min,
            kind="tool",
            reason=f"{one.tool} renewed after {one.used:.4g} of {one.life:.4g} {one.counted}",
        )
    for block in scenario.blocks:
        called = scenario.plant.called_on(plan.line, block.at)
        if called is None:
            continue
        station = scenario.line(plan.line).station(called)
        for row in station.mixers if isinstance(station, BatchStation) else (called,):
            yield Shut(station=row, from_min=block.from_min, to_min=block.to_min, kind=block.kind, reason=block.reason)


def _rows(
    scenario: Scenario, plan: LinePlan, ribbons: tuple[Ribbon, ...], holds: tuple[Hold, ...], span: float
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


def _mixer_rows(plan: LinePlan, station: BatchStation, span: float) -> Iterator[StationRow]:
    slots = [(s.mixer, s.discharged_min - s.start_min) for run in plan.runs for b in run.mixed for s in b.slots]
    slots += [
        (made.kettle, made.emptied_min - made.start_min) for run in plan.runs for made in run.fillings if not made.kept
    ]
    for mixer in station.mixers:
        used = [minutes for name, minutes in slots if name == mixer]
        if used or not plan.runs:
            yield StationRow(
                station=mixer, name=mixer, kind="batch", dough_room=True, dwell_min=0, busy_share=sum(used) / span
            )


def _station_row(
    plan: LinePlan, station: PieceStation, ribbons: tuple[Ribbon, ...], span: float
) -> Iterator[StationRow]:
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
    ahead = {passing.station: passing for passing in passings(scenario, first)}
    met = []
    for behind in passings(scenario, then):
        if behind.station not in ahead:
            continue
        passing = ahead[behind.station]
        needed = gap(scenario, behind.station, passing.product, behind.product)
        free = passing.last_in + needed.minutes
        if needed.empties:
            made = scenario.dwelling(first.product, first.dwell_min)
            stay = next(stop.dwell_min for stop, _ in passages(scenario, made) if stop.station == behind.station)
            free = passing.last_out + needed.minutes - stay
        met.append((behind.first_in - free, behind.station, passing.last_in, behind.first_in, needed))
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


def _lying(scenario: Scenario, plan: LinePlan) -> int:
    """Packs of the line's products in stock."""
    wanted = {wave.product for wave in plan.waves}
    return sum(entry.packs for entry in scenario.finished if entry.product in wanted)


def _made(plan: LinePlan, stock: int) -> tuple[Point, ...]:
    """Corners of the curve of packs there: every run gives its packs evenly, and runs may overlap."""
    giving = [(run.first_pack_min, run.last_pack_min, run.packs) for run in plan.giving]
    corners = sorted({minute for first, last, _ in giving for minute in (first, last)})

    def made(minute: float) -> float:
        given = (packs * min(max((minute - first) / (last - first), 0.0), 1.0) for first, last, packs in giving)
        return stock + sum(given)

    return tuple(Point(minute=minute, packs=round(made(minute))) for minute in corners)


def _due(scenario: Scenario, plan: LinePlan) -> tuple[Point, ...]:
    """Steps of the curve of packs due: the total after each wave leaves."""
    points, total = [], 0
    for wave in sorted(scenario.waves, key=lambda wave: wave.departs_min):
        total += sum(outcome.packs for outcome in plan.waves if outcome.wave == wave.id)
        points.append(Point(minute=wave.loaded_by_min, packs=total))
    return tuple(points)
