"""When inspections are due on a line: each occasion with when it may be taken, is due, is late, and is missed.

An occasion belongs to a run at a station, or to a day, and keeps its key when the run comes earlier or later: what was
found on it stays found. One that comes again and again is counted from the run's first piece there.
"""

from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise
from math import ceil
from typing import NamedTuple

from rundgang.core.floor.inspections import (
    DAILY_LATE_MIN,
    EARLY_SHARE,
    LATE_MIN,
    LATE_SHARE,
    AtChangeover,
    AtStart,
    Daily,
    EachBatch,
    Every,
    Inspection,
)
from rundgang.core.kinds.batch import BatchStep
from rundgang.core.kinds.held import HeldStep
from rundgang.core.model import Model
from rundgang.core.planning.legs import Passing, passings
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.scenario import Scenario


class Day(NamedTuple):
    """A day of the plant: what it is called, and when it begins, min."""

    name: str
    begins_min: float


class Occasion(NamedTuple):
    """An inspection that is to be made once.

    Attributes
    ----------
    key : str
        The same, however the plan is moved.
    run, product, preparation, batch : str or None, int or None
        What it is of; of the day, no run.
    opens_min, due_min, late_min, until_min : float
        From when it may be made; when it should be; from when on it is late; and missed.
    """

    key: str
    inspection: Inspection
    run: str | None
    product: str | None
    preparation: str | None
    batch: int | None
    opens_min: float
    due_min: float
    late_min: float
    until_min: float


class _Presence(NamedTuple):
    """A run at a station: its first and last piece there, and its batches, each with when it comes, min.

    Attributes
    ----------
    preparation : str or None
        What is mixed for it; None: the run itself, or what is cut out of it.
    """

    run: Run
    product: str
    preparation: str | None
    first_min: float
    last_min: float
    batches: tuple[tuple[int, float], ...]

    @property
    def mark(self) -> str:
        """Its run, and which of the run's it is."""
        cut = self.product if self.product != self.run.product else None
        return "/".join(part for part in (self.run.id, cut, self.preparation) if part)


def occasions(
    inspections: Iterable[Inspection], scenario: Scenario, plan: LinePlan, days: Sequence[Day]
) -> tuple[Occasion, ...]:
    """All occasions of a line's inspections by its plan, in order of the clock."""
    passed = {run.id: passings(scenario, run) for run in plan.runs}
    found = list[Occasion]()
    for one in inspections:
        if one.line != plan.line:
            continue
        there = sorted(_present(scenario, one, plan, passed), key=lambda presence: presence.first_min)
        found.extend(_occasions(scenario, one, there, days))
    return tuple(sorted(found, key=lambda occasion: (occasion.due_min, occasion.key)))


def _present(
    scenario: Scenario, one: Inspection, plan: LinePlan, passed: dict[str, tuple[Passing, ...]]
) -> Iterator[_Presence]:
    """The runs at an inspection's station, of all products: what is only of one must know what is before it."""
    for run in plan.runs:
        yield from _mixed(scenario, one.station, run)
        for passing in passed[run.id]:
            if passing.station == one.station:
                yield _passing(one, run, passing)


def _mixed(scenario: Scenario, station: str, run: Run) -> Iterator[_Presence]:
    """A run's doughs, and each of its preparations, that are mixed at a station, or put there into a trough."""
    product = scenario.product(run.product)
    own = [batch for batch in run.batches if not batch.shared]
    if own and product.formula and station in _places(product.mixing, product.trough):
        doughs = tuple((batch.number, batch.discharged_min) for batch in own)
        yield _Presence(run, run.product, None, *_ends(doughs), doughs)
    slots = [(slot.preparation, slot.discharged_min) for batch in own for slot in batch.preparations]
    slots += [(filling.preparation, filling.mixed_min) for filling in run.fillings if not filling.kept]
    for name in sorted({name for name, _ in slots}):
        made = scenario.preparation(name)
        if station in _places(made.mixing, made.held):
            moments = sorted(moment for each, moment in slots if each == name)
            yield _Presence(run, run.product, name, moments[0], moments[-1], tuple(enumerate(moments, start=1)))


def _ends(batches: Sequence[tuple[int, float]]) -> tuple[float, float]:
    moments = [moment for _, moment in batches]
    return min(moments), max(moments)


def _places(mixing: BatchStep, held: HeldStep | None) -> tuple[str, ...]:
    return (mixing.station, held.station) if held else (mixing.station,)


def _passing(one: Inspection, run: Run, passing: Passing) -> _Presence:
    first, last = (passing.first_out, passing.last_out) if one.leaving else (passing.first_in, passing.last_in)
    fed = run.legs[0]
    batches = tuple(
        (batch.number, first + (batch.divided_min - fed.start_min) / fed.feed_min * (last - first))
        for batch in run.batches
    )
    return _Presence(run, passing.product.listed_id, None, first, last, batches)


def _occasions(
    scenario: Scenario, one: Inspection, there: Sequence[_Presence], days: Sequence[Day]
) -> Iterator[Occasion]:  # fmt: skip
    meant = [presence for presence in there if one.product in {None, presence.product}]
    match one.when:
        case Every(minutes=minutes):
            for presence in meant:
                yield from _again(one, presence, minutes)
        case AtStart():
            for presence in meant:
                yield _once(one, presence, "", None, presence.first_min, presence.last_min)
        case EachBatch(after_min=after):
            for presence in meant:
                yield from _batches(one, presence, after)
        case AtChangeover(allergens_only=only):
            yield from _changeovers(scenario, one, there, only)
        case Daily():
            yield from _daily(one, meant, days)


def _again(one: Inspection, presence: _Presence, minutes: float) -> Iterator[Occasion]:
    lasts = presence.last_min - presence.first_min
    for number in range(max(1, ceil(lasts / minutes))):
        due = presence.first_min + number * minutes
        yield Occasion(
            key=f"{one.id}/{presence.mark}/{number}",
            inspection=one,
            run=presence.run.id,
            product=presence.product,
            preparation=presence.preparation,
            batch=None,
            opens_min=due - EARLY_SHARE * minutes,
            due_min=due,
            late_min=due + LATE_SHARE * minutes,
            until_min=due + minutes,
        )


def _once(
    one: Inspection, presence: _Presence, mark: str, batch: int | None, due_min: float, until_min: float
) -> Occasion:  # fmt: skip
    return Occasion(
        key=f"{one.id}/{presence.mark}{mark}",
        inspection=one,
        run=presence.run.id,
        product=presence.product,
        preparation=presence.preparation,
        batch=batch,
        opens_min=due_min - LATE_MIN,
        due_min=due_min,
        late_min=due_min + LATE_MIN,
        until_min=max(until_min, due_min + LATE_MIN),
    )


def _batches(one: Inspection, presence: _Presence, after_min: float) -> Iterator[Occasion]:
    ends = [*(moment for _, moment in presence.batches[1:]), presence.last_min]
    for (number, moment), until in zip(presence.batches, ends, strict=True):
        yield _once(one, presence, f"/batch-{number}", number, moment + after_min, until + after_min)


def _changeovers(
    scenario: Scenario, one: Inspection, there: Sequence[_Presence], allergens_only: bool
) -> Iterator[Occasion]:
    """Between a run and the next of another product: due once the last piece has gone, late when the next one comes."""
    for before, then in pairwise(there):
        left, coming = scenario.product(before.product), scenario.product(then.product)
        changes = bool(scenario.allergens(left) - scenario.allergens(coming))
        if before.product == then.product or (allergens_only and not changes) or one.product not in {None, coming.id}:
            continue
        due = min(before.last_min, then.first_min)
        yield Occasion(
            key=f"{one.id}/{then.mark}/after-{before.mark}",
            inspection=one,
            run=then.run.id,
            product=then.product,
            preparation=then.preparation,
            batch=None,
            opens_min=due - LATE_MIN,
            due_min=due,
            late_min=then.first_min,
            until_min=max(then.last_min, then.first_min + LATE_MIN),
        )


def _daily(one: Inspection, meant: Sequence[_Presence], days: Sequence[Day]) -> Iterator[Occasion]:
    """With the first pieces of a day; of a run that goes on over midnight, with its first after it."""
    for place, day in enumerate(days):
        ends = days[place + 1].begins_min if place + 1 < len(days) else float("inf")
        during = [run for run in meant if run.first_min < ends and run.last_min > day.begins_min]
        if not during:
            continue
        due = max(day.begins_min, during[0].first_min)
        yield Occasion(
            key=f"{one.id}/{day.name}",
            inspection=one,
            run=None,
            product=during[0].product,
            preparation=during[0].preparation,
            batch=None,
            opens_min=day.begins_min,
            due_min=due,
            late_min=due + DAILY_LATE_MIN,
            until_min=min(ends, during[-1].last_min + DAILY_LATE_MIN),
        )


class HeldStretch(Model):
    """A stretch of a run that has passed a station, min, and the packs that it gives."""

    run: str
    product: str
    from_min: float
    until_min: float
    packs: float


def passed_since(
    scenario: Scenario, plan: LinePlan, station: str, from_min: float, until_min: float
) -> tuple[HeldStretch, ...]:
    """What has left a station between two moments, run by run; what is held when nothing says that it was good."""
    found = list[HeldStretch]()
    for run in plan.runs:
        for passing in passings(scenario, run):
            begin, end = (min(max(at, passing.first_out), passing.last_out) for at in (from_min, until_min))
            if passing.station != station or end <= begin:
                continue
            product = passing.product.listed_id
            cut = sum(one.packs for one in plan.cut_runs if (one.run, one.product) == (run.id, product))
            packs = run.packs if product == run.product else cut
            share = (end - begin) / (passing.last_out - passing.first_out)
            found.append(HeldStretch(run=run.id, product=product, from_min=begin, until_min=end, packs=packs * share))
    return tuple(found)
