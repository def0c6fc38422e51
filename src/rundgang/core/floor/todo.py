"""What to do at once when a station stands, in order; and what runs out beyond it as it should.

Doughs that are not begun are held first: every one of them would age. Then comes what is lost soonest.
"""

from collections.abc import Iterator
from typing import Literal

from rundgang.core.floor.effect import StopEffect, Stretch, measured, operation_at, share_inside
from rundgang.core.floor.stands import standing
from rundgang.core.floor.stop import Stop
from rundgang.core.kinds.parts import bakes
from rundgang.core.model import Id, Model
from rundgang.core.planning.legs import passings
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario


class ToDo(Model):
    """Something to do.

    Attributes
    ----------
    what : str
        "hold" a mixer; "feed nothing" into a station; "aside": put pieces aside; "pull" them out; "watch" them;
        "use" a dough or filling in time.
    by_min : float
        Until when it must be done, or looked at.
    """

    key: str
    what: Literal["hold", "feed nothing", "aside", "pull", "watch", "use"]
    station: Id
    run: str
    product: Id
    batch: int | None = None
    mixer: str | None = None
    pieces: float = 0
    by_min: float


class RunsOut(Model):
    """Pieces beyond the station that stands: they go on, and are out by a moment, min."""

    run: str
    product: Id
    station: Id
    pieces: float
    until_min: float


def to_do(scenario: Scenario, plan: LinePlan, stop: Stop, effect: StopEffect) -> tuple[ToDo, ...]:
    """What to do, first things first."""
    limited = (one for one in effect.stretches if one.spoils_after_min is not None)
    rest = [*_fed(scenario, plan, stop), *(_for(scenario, plan, stop, one) for one in limited)]
    later = sorted(rest, key=lambda one: one.by_min)
    return (*_held(scenario, plan, stop), *later)


def _held(scenario: Scenario, plan: LinePlan, stop: Stop) -> Iterator[ToDo]:
    """The next dough of each mixer that is not begun."""
    seen = set[str]()
    for one in standing(scenario, plan, stop):
        if one.leg:
            continue
        station = scenario.product(one.run.product).mixing.station
        for batch in one.run.batches:
            if batch.start_min < stop.known_min or batch.shared or batch.mixer in seen:
                continue
            seen.add(batch.mixer)
            yield ToDo(
                key=f"hold {batch.mixer}",
                what="hold",
                station=station,
                run=one.run.id,
                product=one.run.product,
                batch=batch.number,
                mixer=batch.mixer,
                by_min=batch.start_min,
            )


def _fed(scenario: Scenario, plan: LinePlan, stop: Stop) -> Iterator[ToDo]:
    """Where pieces begin: what is fed there only stands further down."""
    seen = {stop.station}
    for one in standing(scenario, plan, stop):
        first = scenario.product(one.run.product).piece_steps[0].station
        if one.leg == 0 and first not in seen and one.passing.first_in <= stop.known_min:
            seen.add(first)
            yield ToDo(
                key=f"feed {first}",
                what="feed nothing",
                station=first,
                run=one.run.id,
                product=one.run.product,
                by_min=stop.known_min,
            )


def _for(scenario: Scenario, plan: LinePlan, stop: Stop, stretch: Stretch) -> ToDo:
    what: Literal["aside", "pull", "watch", "use"] = "use"
    if stretch.what == "pieces":
        what = "aside" if stretch.aside else "watch"
        if _is_baking(scenario, plan, stretch):
            what = "pull"
    return ToDo(
        key=f"{what} {stretch.run} {stretch.station} {stretch.batch or ''}".strip(),
        what=what,
        station=stretch.station,
        run=stretch.run,
        product=stretch.product,
        batch=stretch.batch,
        pieces=min(stretch.pieces, stretch.aside) if what == "aside" else stretch.pieces,
        by_min=stop.from_min + (stretch.spoils_after_min or 0),
    )


def _is_baking(scenario: Scenario, plan: LinePlan, stretch: Stretch) -> bool:
    run = next(run for run in plan.runs if run.id == stretch.run)
    passing = next(one for one in passings(scenario, run) if one.station == stretch.station)
    return bakes(operation_at(scenario, run, passing).step)


def running_out(scenario: Scenario, plan: LinePlan, stop: Stop) -> tuple[RunsOut, ...]:
    """What is beyond the station when it stops, and on its way out."""
    found = list[RunsOut]()
    for one in standing(scenario, plan, stop):
        beyond = False
        for passing in passings(scenario, one.run):
            if beyond and passing.product is one.passing.product:
                pieces = measured(passing, share_inside(passing, stop.from_min))[0]
                if pieces >= 1:
                    stays = passing.first_out - passing.first_in
                    until = min(passing.last_out, stop.from_min + stays)
                    out = RunsOut(
                        run=one.run.id,
                        product=passing.product.listed_id,
                        station=passing.station,
                        pieces=pieces,
                        until_min=until,
                    )
                    found.append(out)
            beyond = beyond or passing.station == one.passing.station
    return tuple(found)
