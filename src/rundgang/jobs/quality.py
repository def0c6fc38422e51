"""Quality as a page asks for it: what was measured on the walk and read by the scales, drawn by product and check."""

from datetime import UTC, timedelta

from rundgang.clock import Clock
from rundgang.core.floor.inspections import AtStart, Inspection, Measured, own_figure
from rundgang.core.floor.instruments import Signal
from rundgang.core.floor.quality import QualityChart, Sample, quality_of, scale_samples
from rundgang.core.model import Id, Model
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import minute_of
from rundgang.store.repository import Repository

BACK = timedelta(days=3)
"""So far back is looked."""

EVERY_MIN, PIECES = 5.0, 5
"""A scale behind a divider is drawn so often, min, by so many pieces."""

SCALE_BACK = timedelta(hours=12)
"""So far back a scale is looked at: it reads every few seconds."""


class StationQuality(Model):
    """The charts of a station."""

    station: Id
    name: str
    charts: tuple[QualityChart, ...]


class LineQuality(Model):
    """The charts of a line, station by station in walking order.

    Attributes
    ----------
    broken : int
        How many break a rule with their last sample.
    """

    line: Id
    now_min: float
    currency: str | None
    broken: int
    stations: tuple[StationQuality, ...]


def line_quality(store: Repository, clock: Clock, line: str) -> LineQuality:
    """A line's charts; UnknownItemError where there is no such line."""
    scenario = store.windows.scenario()
    known, now = scenario.line(line), clock.now()
    found: dict[str, list[QualityChart]] = {}
    finds = store.inspections.found(line, now - BACK, now)
    for one in store.inspections.newest().inspections.on(line):
        samples = [
            Sample(minute_of(scenario, find.at), find.product, find.measured)
            for find in finds
            if find.inspection == one.id and find.product and find.measured
        ]
        charts = quality_of(scenario, one, samples, scenario.plant.weights_by)
        found.setdefault(one.station, []).extend(charts)
    for plan in store.plans.floor_plans():
        if plan.line == line:
            scale, charts = _by_scale(store, clock, scenario, plan)
            found.setdefault(scale, []).extend(charts)
    stations = tuple(
        StationQuality(station=station.id, name=station.name, charts=tuple(found[station.id]))
        for station in known.stations
        if found.get(station.id)
    )
    return LineQuality(
        line=line,
        now_min=clock.minute_of(scenario.window.starts_at),
        currency=scenario.plant.currency,
        broken=sum(chart.is_broken for station in stations for chart in station.charts),
        stations=stations,
    )


def _by_scale(
    store: Repository, clock: Clock, scenario: Scenario, plan: LinePlan
) -> tuple[str, tuple[QualityChart, ...]]:  # fmt: skip
    """What the scale behind a line's divider reads, drawn like a check of its own."""
    runs = [run for run in plan.runs if scenario.product(run.product).formula]
    if not runs:
        return "", ()
    station = scenario.product(runs[0].product).piece_steps[0].station
    asks = Measured(subject="scaled weight", around="own percent", low=-2, high=2, sample=PIECES)
    one = Inspection(
        id="scale",
        line=plan.line,
        station=station,
        name="Scale behind the divider",
        when=AtStart(),
        asks=asks,
        action="Move the divider as the advice says.",
    )
    now, starts_at = clock.now(), scenario.window.starts_at.astimezone(UTC)
    signal = Signal(line=plan.line, station=station, quantity="weight")
    readings = store.readings.each([signal], max(starts_at, now - SCALE_BACK), now)
    fed = sorted((run.product, run.start_min, run.start_min + run.feed_min) for run in runs)
    weights = ((minute_of(scenario, reading.at), reading.value) for reading in readings)
    found = [
        sample
        for sample in scale_samples(weights, sorted(fed, key=lambda run: run[1]), EVERY_MIN, PIECES)
        if own_figure(scenario, asks, scenario.product(sample.product), station) is not None
    ]
    return station, quality_of(scenario, one, found)
