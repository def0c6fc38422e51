"""The line now: on pace or not, the hours made against planned with a cause for what is missing, and what comes next.

Packs are counted where they leave the line; what stood before that shows there once it would have come: a stop of a
station counts in the hour in which its packs are missing. Every pack that an hour lacks has one cause, and the causes
add up to what it lacks.
"""

from collections.abc import Iterator, Sequence
from itertools import pairwise
from math import inf
from typing import Literal, NamedTuple

from rundgang.core.floor.followed import Counted, Stoppage
from rundgang.core.model import Model
from rundgang.core.planning.legs import passings_at
from rundgang.core.planning.model import CutRun, LinePlan, Run, WaveOutcome
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR

PACE_MIN = 15.0
"""The pace is of so many minutes."""

MOST_NEXT = 6
"""So much of what comes next is told."""

AHEAD_MIN = 180.0
"""And so far ahead, min."""

LATE_MIN = 30.0
"""A run may be at a station so much longer than planned, min."""

TOGETHER_MIN = 1.0
"""Stations that begin to stand within so long of each other stand for the same reason, min."""


SAME_SHARE = 0.005
"""A line is on pace that is off by no more of what was planned, or by what is planned in a minute."""

SLOW_SHARE = 0.1
"""A pace or an hour is short that lacks more than this of what was planned."""


class Cause(Model):
    """Why packs are missing: a station that stood, or that the line went slower or later than planned."""

    kind: Literal["stood", "slower"]
    station: str | None = None
    minutes: float = 0
    packs: int


class HourBoard(Model):
    """An hour of a line: packs planned, made and missing, with the causes; made is None where nothing was counted."""

    from_min: float
    until_min: float
    planned: int
    made: int | None
    lost: int
    is_short: bool = False
    causes: tuple[Cause, ...] = ()


class Coming(Model):
    """What comes next on a line, and when, min: at a run's first station, or in a mixer."""

    at_min: float
    what: Literal["dough", "begins", "ends"]
    run: str
    product: str
    station: str
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
    stands : str
        How it stands: "idle" where nothing is planned now, and nothing behind.
    per_h, planned_per_h : float
        Packs an hour, over the last minutes.
    is_slow : bool
        Whether it is slower now than planned.
    """

    since_min: float
    made: int
    planned: int
    stands: Literal["on pace", "ahead", "behind", "idle"]
    per_h: float
    planned_per_h: float
    is_slow: bool


class LorryNow(Model):
    """What a lorry gets of a product, as it was planned and as it looks now.

    Attributes
    ----------
    ready_min : float or None
        When the last of them is made; None where they lie in stock, or are never made.
    in_hand_min : float or None
        From then until it has been loaded, min.
    later_min : float
        By how much later than planned they are ready, min.
    is_worse : bool
        Whether it misses more than was planned.
    """

    wave: str
    product: str
    packs: int
    loaded_by_min: float
    ready_min: float | None
    in_hand_min: float | None
    later_min: float
    short: int
    is_worse: bool


def planned_packs(plan: LinePlan, minute: float) -> float:
    """Packs that a plan has made by a moment."""
    return sum(run.packs * planned_share(run, minute) for run in plan.giving)


def planned_share(run: Run | CutRun, minute: float) -> float:
    """How much of its packs a run has given by a moment, of 1."""
    lasts = max(1e-9, run.last_pack_min - run.first_pack_min)
    return min(1.0, max(0.0, (minute - run.first_pack_min) / lasts))


def pace_of(plan: LinePlan, packs: Counted, now_min: float) -> Pace:
    """How a line does against its plan."""
    begin = max(packs.since_min, now_min - PACE_MIN)
    per_h = MINUTES_PER_HOUR / max(1.0, now_min - begin)
    now_planned = (planned_packs(plan, now_min) - planned_packs(plan, begin)) * per_h
    planned = planned_packs(plan, now_min) - planned_packs(plan, packs.since_min)
    now_made = packs.between(begin, now_min) * per_h
    return Pace(
        since_min=packs.since_min,
        made=round(packs.total),
        planned=round(planned),
        stands=_stands(packs.total - planned, planned, now_planned),
        per_h=now_made,
        planned_per_h=now_planned,
        is_slow=now_made < (1 - SLOW_SHARE) * now_planned,
    )


def _stands(ahead: float, planned: float, per_h: float) -> Literal["on pace", "ahead", "behind", "idle"]:
    if abs(ahead) > max(1.0, SAME_SHARE * planned, per_h / MINUTES_PER_HOUR):
        return "ahead" if ahead > 0 else "behind"
    return "on pace" if per_h else "idle"


def roots(scenario: Scenario, line_id: str, stoppages: Sequence[Stoppage]) -> tuple[Stoppage, ...]:
    """Of stations that stood together, the one that stood for itself: the first.

    Of several at once it is the last in the walk, for it held up the others.
    """
    order = {station.id: place for place, station in enumerate(scenario.line(line_id).stations)}
    found = list[Stoppage]()
    for stoppage in sorted(stoppages, key=lambda stoppage: (stoppage.from_min, -order[stoppage.station])):
        last = found[-1] if found else None
        if last is None or stoppage.from_min > (inf if last.until_min is None else last.until_min) + TOGETHER_MIN:
            found.append(stoppage)
        elif stoppage.from_min - last.from_min <= TOGETHER_MIN and order[stoppage.station] > order[last.station]:
            found[-1] = stoppage
    return tuple(found)


class Felt(NamedTuple):
    """A stoppage as the line's end feels it: from when until when no packs come for it, min."""

    station: str
    from_min: float
    until_min: float


def hours_of(
    scenario: Scenario,
    plan: LinePlan,
    packs: Counted,
    stoppages: Sequence[Stoppage],
    hours: Sequence[float],
    now_min: float,
) -> tuple[HourBoard, ...]:  # fmt: skip
    """The hours of a line.

    Parameters
    ----------
    stoppages : sequence of Stoppage
        When stations stood, each for itself.
    hours : sequence of float
        When each begins, min; the last only ends.
    """
    felt = [one for stoppage in stoppages if (one := felt_at_end(scenario, plan, stoppage, now_min))]
    return tuple(_hour(plan, packs, felt, begin, until, now_min) for begin, until in pairwise(hours))


def _hour(
    plan: LinePlan, packs: Counted, felt: Sequence[Felt], begin: float, until: float, now_min: float
) -> HourBoard:  # fmt: skip
    planned = round(planned_packs(plan, until) - planned_packs(plan, begin))
    if begin >= now_min or until <= packs.since_min:
        return HourBoard(from_min=begin, until_min=until, planned=planned, made=None, lost=0)
    first, last = max(begin, packs.since_min), min(until, now_min)
    due, made = planned_packs(plan, last) - planned_packs(plan, first), packs.between(first, last)
    lost = max(0, round(due - made))
    return HourBoard(
        from_min=begin,
        until_min=until,
        planned=planned,
        made=round(made),
        lost=lost,
        is_short=lost > SLOW_SHARE * due,
        causes=tuple(_causes(plan, felt, first, last, lost)),
    )


def _causes(plan: LinePlan, felt: Sequence[Felt], begin: float, until: float, lost: int) -> Iterator[Cause]:
    """What is missing by what stood, as long as that explains, and the rest as slower than planned."""
    left = lost
    for stood in felt:
        from_min, to_min = max(begin, stood.from_min), min(until, stood.until_min)
        if to_min <= from_min:
            continue
        packs = min(left, round(planned_packs(plan, to_min) - planned_packs(plan, from_min)))
        if packs > 0:
            left -= packs
            yield Cause(kind="stood", station=stood.station, minutes=to_min - from_min, packs=packs)
    if left:
        yield Cause(kind="slower", packs=left)


def felt_at_end(scenario: Scenario, plan: LinePlan, stoppage: Stoppage, now_min: float) -> Felt | None:
    """A stoppage so much later as a piece of the run that was there is packed after leaving the station.

    None where no run was there: what stands idle is felt by nobody.
    """
    ends = now_min if stoppage.until_min is None else stoppage.until_min
    for run in plan.runs:
        there = next((p for p in passings_at(scenario, run, {stoppage.station})), None)
        if there and there.first_in < ends and stoppage.from_min <= there.last_out + LATE_MIN:
            later = max(0.0, run.first_pack_min - there.first_out)
            return Felt(stoppage.station, max(stoppage.from_min, there.first_in) + later, ends + later)
    return None


def next_on(scenario: Scenario, plan: LinePlan, now_min: float) -> tuple[Coming, ...]:
    """What comes next: doughs to be mixed, and runs that begin and end at their first station."""
    found = [coming for run in plan.runs for coming in _coming(scenario, run, now_min)]
    coming = [one for one in found if now_min <= one.at_min <= now_min + AHEAD_MIN]
    return tuple(sorted(coming, key=lambda one: one.at_min)[:MOST_NEXT])


def _coming(scenario: Scenario, run: Run, now_min: float) -> Iterator[Coming]:
    product = scenario.product(run.product)
    first, ends = product.piece_steps[0].station, run.start_min + run.feed_min
    yield Coming(at_min=run.start_min, what="begins", run=run.id, product=run.product, station=first)
    yield Coming(at_min=ends, what="ends", run=run.id, product=run.product, station=first)
    dough = next((batch for batch in run.batches if batch.start_min >= now_min and not batch.shared), None)
    if dough:
        yield Coming(
            at_min=dough.start_min,
            what="dough",
            run=run.id,
            product=run.product,
            station=product.mixing.station,
            batch=dough.number,
            mixer=dough.mixer,
        )


def lorries_of(scenario: Scenario, plan: LinePlan, going: LinePlan, now_min: float) -> tuple[LorryNow, ...]:
    """The lorries that have not been loaded yet, by departure.

    Parameters
    ----------
    plan, going : LinePlan
        As it was planned, and as it looks now.
    """
    planned = {(one.wave, one.product): one for one in plan.waves}
    loaded_by = {wave.id: wave.loaded_by_min for wave in scenario.waves if wave.loaded_by_min >= now_min}
    found = (
        _lorry(one, planned.get((one.wave, one.product), one), loaded_by[one.wave])
        for one in going.waves
        if one.wave in loaded_by
    )
    return tuple(sorted(found, key=lambda one: (one.loaded_by_min, one.product)))


def _lorry(one: WaveOutcome, was: WaveOutcome, loaded_by: float) -> LorryNow:
    ready = one.ready_min
    return LorryNow(
        wave=one.wave,
        product=one.product,
        packs=one.packs,
        loaded_by_min=loaded_by,
        ready_min=ready,
        in_hand_min=None if ready is None else loaded_by - ready,
        later_min=0.0 if ready is None or was.ready_min is None else ready - was.ready_min,
        short=one.short,
        is_worse=one.short > was.short,
    )
