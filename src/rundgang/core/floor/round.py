"""A round: what is due at each stop of a line's walk, with its limits, what was found last, and what is held.

Whoever walks may be without a network for hours: so a round holds all occasions of some hours, each with when it is
due, late and missed, and what is taken for its figure; to show it takes a clock and no rule.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from math import inf
from typing import NamedTuple

from rundgang.core.cautions import Caution, cautions_for
from rundgang.core.floor.due import Day, HeldStretch, Occasion, occasions, passed_since
from rundgang.core.floor.inspections import (
    MEASURES,
    Chosen,
    Inspection,
    Inspections,
    Limits,
    Measured,
    judged_figure,
    limits_of,
    range_of,
    set_up_at,
    unit_of,
)
from rundgang.core.model import Model
from rundgang.core.planning.legs import passings
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario

BACK_MIN, AHEAD_MIN = 600.0, 840.0
"""A round knows what was due so far back, and what will be so far ahead, min."""

MOST_LAST = 8
"""So many of what was found last are shown."""


class Find(Model):
    """What was found at an inspection.

    Attributes
    ----------
    at_min : float
        When, by the plant's clock, min.
    measured : tuple of float
        In metric units.
    good : bool or None
        None where it could not be taken.
    """

    occasion: str
    inspection: str
    at_min: float
    measured: tuple[float, ...] = ()
    word: str | None = None
    good: bool | None
    says: str
    note: str = ""
    author: str


class Due(Model):
    """An occasion of an inspection.

    Attributes
    ----------
    opens_min, due_min, late_min, until_min : float
        From when on it may be taken, is due, is late, is missed.
    low, high : float or None
        What a figure may be.
    usual, possible : tuple of float or None
        What is taken at once, and what can be at all; None where no figure is asked for.
    find : Find or None
        What was found.
    """

    key: str
    run: str | None
    product: str | None
    preparation: str | None = None
    batch: int | None
    opens_min: float
    due_min: float
    late_min: float
    until_min: float
    hint: str
    low: float | None = None
    high: float | None = None
    usual: tuple[float, float] | None = None
    possible: tuple[float, float] | None = None
    find: Find | None = None


class RoundCheck(Model):
    """An inspection on a round; `quantity` and `unit` are of its figure."""

    inspection: Inspection
    quantity: str
    unit: str
    due: tuple[Due, ...]
    last: tuple[Find, ...]


class RoundStop(Model):
    """A station on a round: what runs there now, the cautions that belong to it, and its inspections."""

    station: str
    name: str
    run: str | None
    product: str | None
    until_min: float | None
    cautions: tuple[Caution, ...]
    checks: tuple[RoundCheck, ...]


class Held(Model):
    """What is held because an inspection failed: all that has passed since it was good, until it is good again."""

    inspection: str
    name: str
    station: str
    says: str
    from_min: float
    until_min: float
    stretches: tuple[HeldStretch, ...]


class Round(Model):
    """A line's round; stops without inspections are on it too."""

    line: str
    stops: tuple[RoundStop, ...]
    held: tuple[Held, ...]


class Standing(NamedTuple):
    """How many inspections are due and not late yet, and how many are late."""

    due: int
    late: int


def round_on(
    scenario: Scenario,
    plan: LinePlan,
    inspections: Inspections,
    finds: Sequence[Find],
    probed: Mapping[tuple[str, int], float],
    days: Sequence[Day],
    now_min: float,
) -> Round:
    """The round of a line, at a moment.

    Parameters
    ----------
    plan : LinePlan
        As it goes.
    finds : sequence of Find
        What was found, in the order of its moments.
    probed : mapping of (str, int) to float
        What the dough room has probed, by run and batch, °C: that is not asked for again.
    days : sequence of Day
        That the window touches.
    """
    own = inspections.on(plan.line)
    known = {find.occasion: find for find in finds}
    due = dict[str, list[Due]]()
    for occasion in occasions(own, scenario, plan, days):
        if now_min - BACK_MIN <= occasion.until_min and occasion.opens_min <= now_min + AHEAD_MIN:
            due.setdefault(occasion.inspection.id, []).append(_due(scenario, occasion, known.get(occasion.key), probed))
    there = {one[0]: one for one in _running(scenario, plan, now_min)}
    stops = []
    for station in scenario.line(plan.line).stations:
        _, run, product, until = there.get(station.id, (None, None, None, None))
        checks = (_check(one, due.get(one.id, []), finds) for one in own if one.station == station.id)
        stops.append(
            RoundStop(
                station=station.id,
                name=station.name,
                run=run,
                product=product,
                until_min=until,
                cautions=cautions_for(station.hazards),
                checks=tuple(checks),
            )
        )
    held = tuple(one for check in own if check.holds for one in _held(scenario, plan, check, finds, now_min))
    return Round(line=plan.line, stops=tuple(stops), held=held)


def standing_of(found: Round, now_min: float) -> Standing:
    """What of a round is due now, and what is late."""
    waiting = [
        due
        for stop in found.stops
        for check in stop.checks
        for due in check.due
        if due.find is None and due.due_min <= now_min < due.until_min
    ]
    late = sum(due.late_min <= now_min for due in waiting)
    return Standing(due=len(waiting) - late, late=late)


def _running(
    scenario: Scenario, plan: LinePlan, now_min: float
) -> Iterable[tuple[str, str, str, float]]:  # fmt: skip
    for run in plan.runs:
        for passing in passings(scenario, run):
            if passing.first_in <= now_min <= passing.last_out:
                yield passing.station, run.id, passing.product.listed_id, passing.last_out
        for batch in run.batches:
            if batch.start_min <= now_min <= batch.discharged_min:
                yield scenario.product(run.product).mixing.station, run.id, run.product, batch.discharged_min


def _due(
    scenario: Scenario, occasion: Occasion, find: Find | None, probed: Mapping[tuple[str, int], float]
) -> Due:  # fmt: skip
    one = occasion.inspection
    limits = limits_of(scenario, one, occasion.product, occasion.preparation)
    asked = None if isinstance(one.asks, Chosen) else range_of(one.asks, limits)
    set_up = set_up_at(scenario.product(occasion.product), one.station) if occasion.product else ""
    return Due(
        key=occasion.key,
        run=occasion.run,
        product=occasion.product,
        preparation=occasion.preparation,
        batch=occasion.batch,
        opens_min=occasion.opens_min,
        due_min=occasion.due_min,
        late_min=occasion.late_min,
        until_min=occasion.until_min,
        hint="; ".join(text for text in (one.hint, set_up if one.when.kind == "start" else "") if text),
        low=limits.low,
        high=limits.high,
        usual=asked.usual if asked else None,
        possible=asked.possible if asked else None,
        find=find or _by_probe(occasion, limits, probed),
    )


def _by_probe(occasion: Occasion, limits: Limits, probed: Mapping[tuple[str, int], float]) -> Find | None:
    """What the dough room found at a dough, which says as much as to find it on the walk."""
    one, dough_c = occasion.inspection, probed.get((occasion.run or "", occasion.batch or 0))
    if dough_c is None or occasion.preparation or not one.is_probe or not isinstance(one.asks, Measured):
        return None
    found = judged_figure(one.asks, limits, dough_c)
    return Find(
        occasion=occasion.key,
        inspection=one.id,
        at_min=occasion.due_min,
        measured=(dough_c,),
        good=found.good,
        says=found.says,
        author="dough room",
    )


def _check(one: Inspection, due: Sequence[Due], finds: Sequence[Find]) -> RoundCheck:
    quantity = MEASURES[one.asks.subject].quantity if isinstance(one.asks, Measured) else ""
    last = [find for find in finds if find.inspection == one.id and find.good is not None][-MOST_LAST:]
    return RoundCheck(inspection=one, quantity=quantity, unit=unit_of(one.asks), due=tuple(due), last=tuple(last))


def _held(
    scenario: Scenario, plan: LinePlan, one: Inspection, finds: Sequence[Find], now_min: float
) -> Iterable[Held]:  # fmt: skip
    """From the last good one before a failed one until the next good one: nothing says that what passed was good."""
    mine = [find for find in finds if find.inspection == one.id and find.good is not None]
    for spell in failed_spells([(find.at_min, bool(find.good)) for find in mine], now_min):
        yield Held(
            inspection=one.id,
            name=one.name,
            station=one.station,
            says=mine[spell.place].says,
            from_min=spell.from_min,
            until_min=spell.until_min,
            stretches=passed_since(scenario, plan, one.station, spell.from_min, spell.until_min),
        )


def packed_before(packed_min: float, good_min: Sequence[float]) -> bool:
    """Whether packs of a run were packed before its go-ahead: before the first time that it was found good, min."""
    return packed_min < min(good_min, default=inf)


class FailedSpell(NamedTuple):
    """A time of which nothing says that what passed was good, min, and which find said so first."""

    place: int
    from_min: float
    until_min: float


def failed_spells(finds: Sequence[tuple[float, bool]], now_min: float) -> Iterator[FailedSpell]:
    """From the last good find of an inspection before a failed one until the next good one, or now.

    Parameters
    ----------
    finds : sequence of (float, bool)
        When each was, min, and whether it was good.
    """
    for place, (at_min, good) in enumerate(finds):
        if good or (place and not finds[place - 1][1]):
            continue
        begin = finds[place - 1][0] if place else at_min - BACK_MIN
        yield FailedSpell(place, begin, next((then for then, fine in finds[place:] if fine), now_min))
