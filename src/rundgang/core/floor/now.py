"""The line now: on pace or not, the hours made against planned with a cause for what is missing, and what comes next.

Packs are counted where they leave the line; what stood before that shows there once it would have come: a stop of a
station counts in the hour in which its packs are missing. Every pack that an hour lacks has one cause, and the causes
add up to what it lacks.
"""

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Literal

from rundgang.core.floor.followed import Counted, Spell
from rundgang.core.model import Model
from rundgang.core.planning.legs import passings
from rundgang.core.planning.model import CutRun, LinePlan, Run
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR

PACE_MIN = 15.0
"""The pace is of so many minutes."""

MOST_NEXT = 6
"""So much of what comes next is told."""

AHEAD_MIN = 180.0
"""And so far ahead, min."""

TOGETHER_MIN = 1.0
"""Stations that begin to stand within so long of each other stand for the same reason, min."""


class Cause(Model):
    """Why packs are missing: a station that stood, or that the line went slower or later than planned."""

    kind: Literal["stood", "slower"]
    station: str | None = None
    minutes: float = 0
    packs: int


class HourBoard(Model):
    """An hour of a line: packs planned, made and missing, with the causes; made is None where it has not begun."""

    from_min: float
    until_min: float
    planned: int
    made: int | None
    lost: int
    causes: tuple[Cause, ...] = ()


class Coming(Model):
    """What comes next on a line, and when, min."""

    at_min: float
    what: Literal["dough", "begins", "ends"]
    run: str
    product: str
    batch: int | None = None
    mixer: str | None = None


class Pace(Model):
    """How a line does.

    Attributes
    ----------
    since_min : float
        From when on its packs have been counted, min.
    made, planned : int
        Packs since then.
    per_h, planned_per_h : float
        Packs an hour, over the last minutes.
    """

    since_min: float
    made: int
    planned: int
    per_h: float
    planned_per_h: float


def planned_packs(plan: LinePlan, minute: float) -> float:
    """Packs that a plan has made by a moment."""
    return sum(run.packs * _share(run, minute) for run in plan.giving)


def _share(run: Run | CutRun, minute: float) -> float:
    lasts = max(1e-9, run.last_pack_min - run.first_pack_min)
    return min(1.0, max(0.0, (minute - run.first_pack_min) / lasts))


def pace_of(plan: LinePlan, packs: Counted, now_min: float) -> Pace:
    """How a line does against its plan."""
    begin = max(packs.since_min, now_min - PACE_MIN)
    per_min = 1 / max(1.0, now_min - begin)
    planned = planned_packs(plan, now_min) - planned_packs(plan, begin)
    return Pace(
        since_min=packs.since_min,
        made=round(packs.total),
        planned=round(planned_packs(plan, now_min) - planned_packs(plan, packs.since_min)),
        per_h=packs.between(begin, now_min) * per_min * MINUTES_PER_HOUR,
        planned_per_h=planned * per_min * MINUTES_PER_HOUR,
    )


def roots(scenario: Scenario, line_id: str, spells: Sequence[Spell]) -> tuple[Spell, ...]:
    """Of stations that stood together, the one that stood for itself: the first.

    Of several at once it is the last in the walk, for it held up the others.
    """
    order = {station.id: place for place, station in enumerate(scenario.line(line_id).stations)}
    found = list[Spell]()
    for spell in sorted(spells, key=lambda spell: (spell.from_min, -order.get(spell.station, 0))):
        last = found[-1] if found else None
        until = float("inf") if last and last.until_min is None else last.until_min if last else None
        if last and until is not None and spell.from_min <= until + TOGETHER_MIN:
            if spell.from_min - last.from_min <= TOGETHER_MIN and order.get(spell.station, 0) > order.get(
                last.station, 0
            ):
                found[-1] = spell
            continue
        found.append(spell)
    return tuple(found)


def hours_of(
    scenario: Scenario, plan: LinePlan, packs: Counted, spells: Sequence[Spell], hours: Sequence[float], now_min: float
) -> tuple[HourBoard, ...]:  # fmt: skip
    """The hours of a line.

    Parameters
    ----------
    spells : sequence of Spell
        When stations stood, each for itself.
    hours : sequence of float
        When each begins, min; the last only ends.
    """
    return tuple(_hour(scenario, plan, packs, spells, begin, until, now_min) for begin, until in pairwise(hours))


def _hour(
    scenario: Scenario,
    plan: LinePlan,
    packs: Counted,
    spells: Sequence[Spell],
    begin: float,
    until: float,
    now_min: float,
) -> HourBoard:
    planned = round(planned_packs(plan, until) - planned_packs(plan, begin))
    if begin >= now_min or until <= packs.since_min:
        return HourBoard(from_min=begin, until_min=until, planned=planned, made=None, lost=0)
    first, last = max(begin, packs.since_min), min(until, now_min)
    due = planned_packs(plan, last) - planned_packs(plan, first)
    made = packs.between(first, last)
    lost = max(0, round(due - made))
    causes = tuple(_causes(scenario, plan, spells, first, last, lost, now_min))
    return HourBoard(from_min=begin, until_min=until, planned=planned, made=round(made), lost=lost, causes=causes)


def _causes(
    scenario: Scenario,
    plan: LinePlan,
    spells: Sequence[Spell],
    begin: float,
    until: float,
    lost: int,
    now_min: float,
) -> Iterator[Cause]:
    """What is missing by what stood, as long as that explains, and the rest as slower than planned."""
    left = lost
    for spell in spells:
        late = _behind_min(scenario, plan, spell)
        ends = now_min if spell.until_min is None else spell.until_min
        from_min, to_min = max(begin, spell.from_min + late), min(until, ends + late)
        if to_min <= from_min:
            continue
        packs = min(left, round(planned_packs(plan, to_min) - planned_packs(plan, from_min)))
        if packs > 0:
            left -= packs
            yield Cause(kind="stood", station=spell.station, minutes=to_min - from_min, packs=packs)
    if left:
        yield Cause(kind="slower", packs=left)


def _behind_min(scenario: Scenario, plan: LinePlan, spell: Spell) -> float:
    """How long after leaving a station a piece is packed, of the run that was there when it stood, min."""
    for run in plan.runs:
        found = {passing.station: passing for passing in passings(scenario, run)}
        there = found.get(spell.station)
        if there and there.first_in <= spell.from_min <= there.last_out:
            return max(0.0, run.first_pack_min - there.first_out)
    return 0.0


def next_on(plan: LinePlan, now_min: float) -> tuple[Coming, ...]:
    """What comes next: doughs to be mixed, and runs that begin and end at the divider."""
    found = list[Coming]()
    for run in plan.runs:
        ends = run.start_min + run.feed_min
        found.append(Coming(at_min=run.start_min, what="begins", run=run.id, product=run.product))
        found.append(Coming(at_min=ends, what="ends", run=run.id, product=run.product))
        dough = next((batch for batch in run.batches if batch.start_min >= now_min and not batch.shared), None)
        if dough:
            found.append(
                Coming(
                    at_min=dough.start_min,
                    what="dough",
                    run=run.id,
                    product=run.product,
                    batch=dough.number,
                    mixer=dough.mixer,
                )
            )
    coming = [one for one in found if now_min <= one.at_min <= now_min + AHEAD_MIN]
    return tuple(sorted(coming, key=lambda one: one.at_min)[:MOST_NEXT])
