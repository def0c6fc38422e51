"""Runs as the counters have seen them: begun later, fed slower, held up, given less; and the plan re-timed around that.

The first station's count tells when each run's pieces were fed: the runs come in the order of the plan, so a run has
begun when the count has risen by more than all before it were to be fed, and is fed when it has risen by its own too.
What is fed moves rigidly down the line; a stop behind the divider, while a run's last piece is before it or in it,
holds that up once more. A run that nobody saw begin is as late as its first packs came. What a run gave is what the
last station counted while it came out: less than planned where pieces were spoiled or taken off.
"""

from bisect import bisect_left
from collections.abc import Callable, Iterator, Mapping, Sequence
from math import inf
from typing import NamedTuple

import numpy as np

from rundgang.core.floor.actual import fed_otherwise
from rundgang.core.kinds.held import HeldStep
from rundgang.core.model import Model
from rundgang.core.planning.checked import fitted
from rundgang.core.planning.legs import passings
from rundgang.core.planning.model import LinePlan, PlantPlan, Run
from rundgang.core.planning.past import has_begun
from rundgang.core.planning.repair import Repaired
from rundgang.core.scenario import Scenario

SAME_MIN = 1.0
"""Nobody is late by less, min."""

EARLY_MIN = 3.0
"""People begin a run so much before its time at most: what was counted earlier is of the run before it, min."""

LATE_MIN = 10.0
"""Packs that come so much later than planned may be those of another run, min."""

PAUSE_MIN = 3.0
"""A counter of which nothing is read for longer stands still, min."""

QUIET_MIN = 10.0
"""A run of which nearly all is counted is fed when nothing more comes for so long, min."""

BEGUN_SHARE = 0.005
"""A run has begun when so much of it, or what is fed in a minute, has been fed: counters are off by less."""

OVER_MIN = 5.0
"""A run is over so long after its last pack was to come, min: nothing of it comes any more."""

OFF = 1.5
"""A counter may be off by so much of a run, of which it counts whole ones."""


class Counted(NamedTuple):
    """How a count rose: evenly from one reading to the next, whatever was missed in between.

    Attributes
    ----------
    at_min : tuple of float
        When it was read, in order, min.
    risen : tuple of float
        By how much it had risen then since the first reading.
    """

    at_min: tuple[float, ...]
    risen: tuple[float, ...]

    @property
    def since_min(self) -> float:
        """From when on it is known, min."""
        return self.at_min[0]

    def known_until(self, now_min: float) -> float:
        """Up to when it is known: to its last reading, as each takes a moment; to now where nothing more comes."""
        return self.at_min[-1] if now_min - self.at_min[-1] <= PAUSE_MIN else now_min

    @property
    def total(self) -> float:
        """By how much it rose in all."""
        return self.risen[-1]

    def between(self, begin: float, until: float) -> float:
        """By how much it rose from a moment until another."""
        return self.risen_by(until) - self.risen_by(begin)

    def risen_by(self, minute: float) -> float:
        """By how much it had risen at a moment."""
        return float(np.interp(minute, self.at_min, self.risen))

    def quiet_after(self, minute: float, until: float) -> float | None:
        """From when on, at or after a moment, nothing was counted for a good while; None where that has not been."""
        rose = np.flatnonzero(np.diff(self.risen) > 0)
        begins, ends = np.asarray(self.at_min)[rose], np.asarray(self.at_min)[rose + 1]
        still = np.append(begins[1:], until) - ends > QUIET_MIN
        found = ends[still & (ends >= minute)]
        return float(found[0]) if len(found) else None

    def last_rise(self, before: float) -> float | None:
        """When it rose last before a moment; None where it has not."""
        at = np.asarray(self.at_min)[1:][np.diff(self.risen) > 0]
        return float(at[at <= before][-1]) if (at <= before).any() else None

    def when(self, risen: float) -> float | None:
        """When it had risen by so much; None where it has not yet."""
        place = bisect_left(self.risen, risen)
        if place == len(self.risen):
            return None
        if place == 0:
            return self.since_min
        begin, end = self.risen[place - 1 : place + 1]
        from_min, to_min = self.at_min[place - 1 : place + 1]
        return from_min + (risen - begin) / (end - begin) * (to_min - from_min)


def as_read(at_min: Sequence[float], risen: Sequence[float]) -> Counted:
    """A count from readings that are told when they change: what rises little in a long time stood still till then.

    What rises much has been missed, and rose evenly.
    """
    at, total = np.asarray(at_min, dtype=float), np.asarray(risen, dtype=float)
    lasts, rises = np.diff(at), np.diff(total)
    often = (lasts <= PAUSE_MIN) & (rises > 0)
    per_min = float(np.median(rises[often] / lasts[often])) if often.any() else 0.0
    stood = np.flatnonzero((lasts > PAUSE_MIN) & (rises <= per_min * PAUSE_MIN))
    ends = at[stood + 1] - (rises[stood] / per_min if per_min else 0.0)
    at, total = np.insert(at, stood + 1, ends), np.insert(total, stood + 1, total[stood])
    return Counted(tuple(at.tolist()), tuple(total.tolist()))


def counted_together(counts: Sequence[Counted], not_before: float = -inf) -> Counted:
    """Several counts as one, from when on all are known, and not before a moment."""
    since = max(not_before, *(count.since_min for count in counts))
    at_min = sorted({since} | {minute for count in counts for minute in count.at_min if minute > since})
    moments, risen = np.asarray(at_min), np.zeros(len(at_min))
    for count in counts:
        risen += np.interp(moments, count.at_min, count.risen) - count.risen_by(since)
    return Counted(tuple(at_min), tuple(risen.tolist()))


class Stoppage(Model):
    """A time in which a station stood, min; until nothing where it still does."""

    station: str
    from_min: float
    until_min: float | None


class Followed(NamedTuple):
    """A run as it went so far.

    Attributes
    ----------
    run : Run
        As it is now, with what it will still do.
    late_min : float
        By how much its last pack is later than planned, min.
    """

    run: Run
    late_min: float


def followed(
    scenario: Scenario,
    plan: LinePlan,
    fed: Mapping[str, Counted],
    packed: Mapping[str, Counted],
    stoppages: Sequence[Stoppage],
    now_min: float,
) -> tuple[Followed, ...]:
    """The begun runs of a line as the counters have seen them; those of which nothing is known are left out.

    Parameters
    ----------
    fed, packed : mapping of str to Counted
        By station at which runs begin, and at which they end, its count.
    stoppages : sequence of Stoppage
        When stations stood, each for itself, not for what is behind it.
    """
    found = []
    for station, counted in fed.items():
        runs = [run for run in plan.runs if _first(scenario, run) == station and has_begun(run, now_min)]
        before = 0.0
        for planned in sorted(runs, key=lambda run: run.start_min):
            run = _as_packs_tell(scenario, planned, counted, packed, stoppages)
            gives = _counted_of(scenario, run)
            known = max(0.0, min(1.0, (run.start_min + run.feed_min - counted.since_min) / run.feed_min))
            if known == 0.0:
                if planned.last_pack_min > counted.since_min:
                    found.append(_held_up(scenario, planned, run, stoppages, now_min))
                continue
            came = counted.risen_by(run.start_min - EARLY_MIN)
            before = came if came > before - OFF else before
            when, before = _when(run, counted, before, gives * known, now_min)
            if when:
                made = _waiting_less(scenario, planned, fed_otherwise(run, now_min, when))
                found.append(_held_up(scenario, planned, made, stoppages, now_min))
    return tuple(_given(scenario, found, packed))


def _given(scenario: Scenario, found: Sequence[Followed], packed: Mapping[str, Counted]) -> Iterator[Followed]:
    """The runs, those that are over with the packs that were counted from half-way to the run before to the next.

    A run is over once a pack was counted after it: of a counter that is silent nobody knows.
    """
    for station, there in _by_last(scenario, found).items():
        counted = packed.get(station)
        for before, one, then in zip([None, *there], there, [*there[1:], None], strict=False):
            begin = one.run.first_pack_min - OVER_MIN
            until = one.run.last_pack_min + OVER_MIN
            if before:
                begin = (before.run.last_pack_min + one.run.first_pack_min) / 2
            if then:
                until = min(until, (one.run.last_pack_min + then.run.first_pack_min) / 2)
            known = counted and counted.since_min <= begin < until <= counted.at_min[-1]
            yield _shorter(one, counted.between(begin, until)) if counted and known else one


def _by_last(scenario: Scenario, found: Sequence[Followed]) -> dict[str, list[Followed]]:
    """The runs by the station at which they end, in the order in which they come there."""
    at = dict[str, list[Followed]]()
    for one in sorted(found, key=lambda one: one.run.first_pack_min):
        at.setdefault(scenario.product(one.run.product).piece_steps[-1].station, []).append(one)
    return at


def _shorter(one: Followed, packs: float) -> Followed:
    """A run that gave no more than so many packs: the last of its lorries miss the rest."""
    run, given = one.run, max(0, round(packs))
    if run.packs - given <= max(OFF, BEGUN_SHARE * run.packs):
        return one
    return one._replace(run=run.with_packs(given))


def _first(scenario: Scenario, run: Run) -> str:
    return scenario.product(run.product).piece_steps[0].station


def _counted_of(scenario: Scenario, run: Run) -> int:
    """What the first station counts of a run: whole ones."""
    step = scenario.product(run.product).piece_steps[0]
    return int(run.pieces * step.yield_ / step.conversion)


def _when(
    run: Run, counted: Counted, before: float, gives: float, now_min: float
) -> tuple[Callable[[float], float] | None, float]:  # fmt: skip
    """From when a piece of a run was to be fed to when it is, by the count; None where that tells nothing of it.

    And what has been counted once it is fed.
    """
    planned = max(run.start_min, counted.since_min)
    ends = run.start_min + run.feed_min
    little = min(BEGUN_SHARE * gives, gives / run.feed_min)
    begun, over, after = counted.when(before + little), counted.when(before + gives - little), before + gives
    if begun is None:
        if planned > now_min - SAME_MIN:
            return None, after
        return lambda minute: minute + (now_min - planned if minute >= planned else 0.0), after
    begun -= little / gives * run.feed_min
    almost = counted.when(before + gives * max(0.0, 1 - EARLY_MIN / (ends - planned)))
    quiet = None if almost is None else counted.quiet_after(max(almost, begun), now_min)
    if quiet is not None and (over is None or quiet < over):
        over, after = quiet, counted.risen_by(quiet)
    if over is None:
        share = (counted.total - before) / gives
        over = max(counted.known_until(now_min), begun) + (1 - share) * (ends - planned)
    scale = max(1e-9, over - begun) / max(1e-9, ends - planned)
    begun = begun if run.start_min > counted.since_min else planned

    def when(minute: float) -> float:
        if minute < planned:
            return minute + (begun - planned if run.start_min >= planned else 0.0)
        return begun + (minute - planned) * scale

    return when, after


def _as_packs_tell(
    scenario: Scenario, run: Run, counted: Counted, packed: Mapping[str, Counted], stoppages: Sequence[Stoppage]
) -> Run:  # fmt: skip
    """A run that nobody saw begin, as late or early as its first packs came; as planned where they tell nothing.

    They tell it where the last station was heard to stand still before them, and no station is known to have stood
    while they were on the line: that is taken into account by itself.
    """
    last = packed.get(scenario.product(run.product).piece_steps[-1].station)
    if run.start_min >= counted.since_min or last is None:
        return run
    lasts = max(1.0, run.last_pack_min - run.first_pack_min)
    few = max(BEGUN_SHARE, 1 / lasts)
    came = last.when(few * run.packs)
    if came is None:
        return run
    late = came - few * lasts - run.first_pack_min
    known = last.since_min < run.first_pack_min + late - SAME_MIN and abs(late) <= LATE_MIN
    held_up = any(one.from_min < came and (one.until_min is None or one.until_min > run.start_min) for one in stoppages)
    return fed_otherwise(run, came, lambda minute: minute + late) if known and not held_up else run


def _waiting_less(scenario: Scenario, planned: Run, made: Run) -> Run:
    """A run that comes later to its stores, and waits there so much less, as far as it may."""
    if not planned.later_legs:
        return made
    product, moved, legs = scenario.product(planned.product), made.start_min - planned.start_min, list(made.later_legs)
    holds = [step for step in product.piece_steps if isinstance(step, HeldStep)]
    if len(holds) != len(legs):
        return made
    at = {passing.station: passing for passing in passings(scenario, planned)}
    for number, (hold, leg) in enumerate(zip(holds, planned.later_legs, strict=True)):
        waits = at[hold.station].first_out - at[hold.station].first_in - hold.least_min
        moved = max(0.0, moved - max(0.0, waits)) if moved > 0 else 0.0
        legs[number] = leg.model_copy(update={"start_min": leg.start_min + moved})
    return made.model_copy(
        update={
            "later_legs": tuple(legs),
            "first_pack_min": planned.first_pack_min + moved,
            "last_pack_min": planned.last_pack_min + moved,
        }
    )


def _held_up(scenario: Scenario, planned: Run, run: Run, stoppages: Sequence[Stoppage], now_min: float) -> Followed:
    """A run whose last piece was, or is, held up where stations stood while it was before them or in them."""
    at = {passing.station: passing for passing in passings(scenario, run)}
    steps = scenario.product(run.product).piece_steps
    fed_until, held = run.legs[-1].start_min + run.legs[-1].feed_min, 0.0
    stores = [place for place, step in enumerate(steps) if isinstance(step, HeldStep)]
    behind = {step.station for step in steps[stores[-1] + 1 if stores else 0 :]}
    for stoppage in sorted(stoppages, key=lambda stoppage: stoppage.from_min):
        passing = at.get(stoppage.station) if stoppage.station in behind else None
        until = now_min if stoppage.until_min is None else stoppage.until_min
        if passing and stoppage.from_min < passing.last_out + held and until > fed_until:
            held += until - max(stoppage.from_min, fed_until)
    made = run.model_copy(update={"last_pack_min": run.last_pack_min + held})
    return Followed(made, made.last_pack_min - planned.last_pack_min)


def retimed(
    scenario: Scenario, plan: PlantPlan, line_id: str, found: Sequence[Followed]
) -> tuple[Scenario, Repaired]:  # fmt: skip
    """The scenario with a line's begun runs as they went, and the plan fitted to it; as it is where nobody is late."""
    made = {followed.run.id: followed.run for followed in found if _differs(plan, line_id, followed)}
    if not made:
        return scenario, Repaired(plan=plan, moved=())
    begun = tuple(made.get(run.id, run) if run.line == line_id else run for run in scenario.opening.begun)
    after = scenario.changed(opening=scenario.opening.model_copy(update={"begun": begun}))
    return after, fitted(after, plan, (line_id,))


def _differs(plan: PlantPlan, line_id: str, found: Followed) -> bool:
    was = next((run for run in plan.of(line_id).runs if run.id == found.run.id), None)
    if was is None:
        return False
    ends = found.run.start_min + found.run.feed_min - was.start_min - was.feed_min
    later = max(abs(found.run.start_min - was.start_min), abs(ends), abs(found.late_min)) > SAME_MIN
    return later or found.run.packs < was.packs


class GaveLess(Model):
    """A run that is over and gave fewer packs than planned."""

    run: str
    product: str
    packs: int
    planned: int


def gave_less(plan: LinePlan, found: Sequence[Followed]) -> tuple[GaveLess, ...]:
    """The runs that gave less than planned, in the order of the plan."""
    went = {one.run.id: one.run.packs for one in found}
    return tuple(
        GaveLess(run=run.id, product=run.product, packs=went[run.id], planned=run.packs)
        for run in plan.runs
        if went.get(run.id, run.packs) < run.packs
    )


def as_it_went(plan: LinePlan, found: Sequence[Followed]) -> LinePlan:
    """A plan with its begun runs as they went, those that are over too."""
    went = {one.run.id: one.run for one in found}
    return plan.model_copy(update={"runs": tuple(went.get(run.id, run) for run in plan.runs)})
