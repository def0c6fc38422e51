"""A stop: what stands because of it, when each of that is lost, and the last restart without loss.

When station k stands, everything behind it in its leg runs out; everything before it in its leg stands, piece by
piece where it is, and is as much later as the stop lasts. A piece in an oven or a fryer is spoiled after its
grace; in a proofer after what the plant allows; a dough when its last piece would be divided past its age; a
filling past its own. A store before the leg goes on taking in until it is full, and what is in it must come out
within its most hold. Times in minutes from the window's start.
"""

from collections.abc import Iterable, Iterator, Sequence
from math import inf
from typing import Any, Literal, NamedTuple

from pydantic import Field, model_validator

from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.kinds.conveyor import ConveyorStation
from rundgang.core.kinds.operation import Operation
from rundgang.core.model import Id, Model, PositiveMinutes
from rundgang.core.money import kilogram_price
from rundgang.core.planning.headway import gap
from rundgang.core.planning.legs import Passage, Passing, passages, passings
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

A_MOMENT_MIN = 1e-6
"""A limit passed by less than this is kept: moments are sums of floats, min."""

LONGEST_STOOD_MIN = 720.0
"""A stop may have begun so long ago, min."""

What = Literal["pieces", "dough", "filling"]


class Guess(Model):
    """How long a stop may still last: at least, as it seems, and at most, min."""

    low_min: PositiveMinutes
    likely_min: PositiveMinutes
    high_min: PositiveMinutes


GUESSES = (
    Guess(low_min=2, likely_min=8, high_min=20),
    Guess(low_min=8, likely_min=20, high_min=55),
    Guess(low_min=20, likely_min=55, high_min=120),
)
"""Where nobody knows: a jam cleared, a part changed, a repair (common practice, no published source)."""

FIRST_GUESS = GUESSES[1]
"""What a stop is taken for at first."""


class Stop(Model):
    """A station that stands, from when, and for how long: at least, as it seems, and at most.

    Attributes
    ----------
    fails : {"drive", "heat"}
        What has failed: without drive an oven bakes on what is in it; without heat it lets through what is pale.
    told_min : float or None
        When the dough room gets to know it: what it has begun by then is mixed; None: as it begins.
    """

    line: Id
    station: Id
    from_min: float = Field(ge=0, le=10_080)
    low_min: PositiveMinutes
    likely_min: PositiveMinutes
    high_min: PositiveMinutes
    fails: Literal["drive", "heat"] = "drive"
    told_min: float | None = Field(default=None, ge=0, le=10_080)

    @model_validator(mode="after")
    def _in_order(self) -> "Stop":
        if not self.low_min <= self.likely_min <= self.high_min:
            raise ValueError(
                f"low_min, likely_min and high_min are {self.low_min:g}, {self.likely_min:g} and {self.high_min:g}; "
                "allowed: each at least the one before"
            )
        return self

    @property
    def known_min(self) -> float:
        """When it is known, min."""
        return max(self.from_min, self.told_min or 0)

    @property
    def durations(self) -> tuple[float, float, float]:
        """Low, likely and high, min."""
        return self.low_min, self.likely_min, self.high_min


class Stretch(Model):
    """What stands because of a stop: pieces in a station, a dough, or a batch of a filling.

    Attributes
    ----------
    station, batch : str or None, int or None
        Where, and of doughs and fillings which.
    pieces, packs, kg : float
        How much of it; the packs it would give.
    money : float or None
        What its materials cost, in the plant's currency; None where one has no price.
    spoils_after_min : float or None
        It is lost when the line stands longer; None where it only waits.
    aside : int
        Pieces of it that can be put aside, and keep for `aside_min`.
    """

    run: str
    product: Id
    what: What
    station: str
    batch: int | None = None
    pieces: float = 0
    packs: float = 0
    kg: float
    money: float | None = None
    spoils_after_min: float | None
    aside: int = 0
    aside_min: float = 0

    def lost_after(self, minutes: float) -> float:
        """The share of it that is lost when the line stands so long."""
        if self.spoils_after_min is None or minutes <= self.spoils_after_min + A_MOMENT_MIN:
            return 0.0
        saved = min(self.aside, self.pieces) if minutes <= self.aside_min else 0.0
        return 1.0 - saved / self.pieces if self.pieces else 1.0


class Loss(Model):
    """What a stop of so many minutes costs in scrap, and what can be put aside in time.

    Attributes
    ----------
    stop_min, minutes : float
        It stands for so long; and is no use for so long, an oven's heating up included.
    runs_again_min : float
        When the line runs again, an oven's heating up included.
    mix_again_min : float or None
        When the first dough that is held may be begun; None where none is.
    packs_of : dict of str to float
        Packs lost, by run.
    money : float or None
        What its materials cost, in the plant's currency; None where they have no prices.
    """

    stop_min: float
    minutes: float
    runs_again_min: float
    pieces: float
    kg: float
    packs: float
    put_aside: float
    mix_again_min: float | None
    packs_of: dict[str, float]
    money: float | None = None


class StopEffect(Model):
    """What a stop does.

    Attributes
    ----------
    stretches : tuple of Stretch
        What is lost first stands first.
    restart_by_min : float or None
        The last restart without loss; None where nothing is ever lost.
    hold_from_min : float or None
        The first dough that is not begun yet: hold it, and all after it; None where no dough is left, or where doughs
        go on to a store.
    store_full_min : float or None
        When the store before the leg that stands is full; None where there is none, or it is not filled.
    losses : tuple of Loss
        Low, likely and high.
    """

    stop: Stop
    stretches: tuple[Stretch, ...]
    restart_by_min: float | None
    hold_from_min: float | None
    store_full_min: float | None
    losses: tuple[Loss, ...]


class Stands(NamedTuple):
    """A run that stands because of a stop, or is pushed by one that does.

    Attributes
    ----------
    leg, passing : int, Passing
        Where it is held up: at the station that stands, or at one where the run ahead is.
    spare_min : float
        A stop so long makes it no later: its first piece is not there yet, or white time lies before it.
    """

    run: Run
    leg: int
    passing: Passing
    spare_min: float

    def from_min(self, stop: Stop) -> float:
        """When its leg stands: at the stop, or when its first piece gets there; held at the feed where none is fed."""
        if self.leg == 0 and self.run.start_min >= stop.known_min:
            return stop.known_min
        return max(stop.from_min, self.passing.first_in)

    def late_min(self, minutes: float) -> float:
        """How much later it comes by a stop of so many minutes, min."""
        return max(0.0, minutes - self.spare_min)


def standing(scenario: Scenario, plan: LinePlan, stop: Stop) -> tuple[Stands, ...]:
    """The begun runs that come later by the longest that a station may stand, in the order in which they come out.

    Those that have yet to pass it; and those which these are in the way of at another station.

    Raises
    ------
    UnknownItemError
        The line has no such station.
    OutOfRangeError
        The station is a mixer or a trough: doughs pass it, not pieces.
    """
    line = scenario.line(stop.line)
    if stop.station not in [station.id for station in line.stations]:
        raise UnknownItemError("station of the line", stop.station, tuple(station.id for station in line.stations))
    if not any(step.station == stop.station for p in scenario.products for step in p.piece_steps if p.line == line.id):
        raise OutOfRangeError("The station that stands", line.station(stop.station).name, "one that pieces pass")
    found: list[Stands] = []
    begun = [run for run in plan.runs if run.first_mixed_min < stop.known_min and run.last_pack_min > stop.from_min]
    for run in sorted(begun, key=lambda run: run.first_pack_min):
        found.extend(one for one in _held_up(scenario, plan, stop, run, found) if one.spare_min < stop.high_min)
    return tuple(found)


def _held_up(
    scenario: Scenario, plan: LinePlan, stop: Stop, run: Run, ahead: Sequence[Stands]
) -> list[Stands]:  # fmt: skip
    """Where a run is held up: at the station that stands; or, if it does not pass that, by a run that is held up."""
    places = [
        (passage.stop.leg, passing)
        for passage, passing in zip(_passages(scenario, run), passings(scenario, run), strict=True)
        if passing.last_out > stop.from_min
    ]
    pushed = [
        Stands(run, leg, passing, one.spare_min + white)
        for leg, passing in places
        for one in ahead
        if (white := _white_min(scenario, plan, stop, one, passing)) is not None
    ]
    soonest = min(pushed, key=lambda one: one.spare_min, default=None)
    own = [
        Stands(run, leg, passing, max(0.0, passing.first_in - stop.from_min))
        for leg, passing in places
        if passing.station == stop.station
    ]
    if own and soonest:
        return [one._replace(spare_min=min(one.spare_min, soonest.spare_min)) for one in own]
    return own or ([soonest] if soonest else [])


def _white_min(
    scenario: Scenario, plan: LinePlan, stop: Stop, ahead: Stands, passing: Passing
) -> float | None:  # fmt: skip
    """The white time behind a run that is held up, before what comes behind it to a station; None where nothing does.

    A tool that is renewed between the two takes its time; what has left the station when all stands is in nobody's way.
    """
    for passage, theirs in zip(_passages(scenario, ahead.run), passings(scenario, ahead.run), strict=True):
        comes = theirs.station == passing.station and theirs.first_in < passing.first_in
        if comes and passage.stop.leg >= ahead.leg and theirs.last_out > stop.from_min:
            needed = gap(scenario, passing.station, theirs.product, passing.product).minutes
            between = [one for one in plan.renewals if one.station == passing.station]
            renewing = [
                one.to_min - one.from_min for one in between if theirs.first_in < one.from_min < passing.first_in
            ]
            free = max(theirs.last_in + needed, *(theirs.last_out + minutes for minutes in renewing), 0.0)
            return max(0.0, passing.first_in - free)
    return None


def all_as_late(
    scenario: Scenario, plan: LinePlan, stop: Stop, stands: Sequence[Stands]
) -> tuple[Stands, ...]:  # fmt: skip
    """The begun runs that stand, and all that are not fed yet, each of which comes as much later as the stop lasts."""
    known = {one.run.id for one in stands}
    fed_later = [
        Stands(run, 0, passings(scenario, run)[0], 0.0)
        for run in plan.runs
        if run.first_mixed_min < stop.known_min <= run.start_min and run.id not in known
    ]
    return (*(one._replace(spare_min=0.0) for one in stands), *fed_later)


def _passages(scenario: Scenario, run: Run) -> tuple[Passage, ...]:
    return passages(scenario, scenario.dwelling(run.product, run.dwell_min))


def effect_of(scenario: Scenario, plan: LinePlan, stop: Stop) -> StopEffect:
    """What a stop does to what is on a line, by the plan that it runs."""
    return effect_by(scenario, stop, standing(scenario, plan, stop))


def effect_by(scenario: Scenario, stop: Stop, stands: Sequence[Stands]) -> StopEffect:
    """What a stop does by the runs that come later because of it."""
    stretches = [stretch for one in stands for stretch in _stretches(scenario, stop, one)]
    stretches.sort(key=lambda stretch: inf if stretch.spoils_after_min is None else stretch.spoils_after_min)
    soonest = next((s.spoils_after_min for s in stretches if s.spoils_after_min is not None), None)
    held = [batch for one in stands if one.leg == 0 for batch in one.run.batches if batch.start_min >= stop.known_min]
    hold = min(held, key=lambda batch: batch.start_min, default=None)
    full = [at for one in stands for at in (_store_full_min(scenario, stop, one),) if at is not None]
    losses = []
    for minutes in stop.durations:
        stood = minutes + _reheating_min(scenario, stop, minutes)
        late = max((one.late_min(stood) for one in stands if one.leg == 0), default=0.0)
        losses.append(_loss(stop, stretches, minutes, stood, hold.start_min + late if hold else None))
    return StopEffect(
        stop=stop,
        stretches=tuple(stretches),
        restart_by_min=None if soonest is None else stop.from_min + soonest,
        hold_from_min=hold.start_min if hold else None,
        store_full_min=min(full, default=None),
        losses=tuple(losses),
    )


def _loss(
    stop: Stop, stretches: list[Stretch], stop_min: float, minutes: float, mix_again_min: float | None
) -> Loss:  # fmt: skip
    lost = [(stretch, stretch.lost_after(minutes)) for stretch in stretches]
    packs_of: dict[str, float] = {}
    for stretch, share in lost:
        if share:
            packs_of[stretch.run] = packs_of.get(stretch.run, 0.0) + share * stretch.packs
    limits = [inf if stretch.spoils_after_min is None else stretch.spoils_after_min for stretch, _ in lost]
    spoiled = [one for one, limit in zip(lost, limits, strict=True) if minutes > limit + A_MOMENT_MIN]
    return Loss(
        stop_min=stop_min,
        minutes=minutes,
        runs_again_min=stop.from_min + minutes,
        pieces=sum(share * stretch.pieces for stretch, share in lost),
        kg=sum(share * stretch.kg for stretch, share in lost),
        packs=sum(packs_of.values()),
        put_aside=sum((1 - share) * stretch.pieces for stretch, share in spoiled),
        mix_again_min=mix_again_min,
        packs_of=packs_of,
        money=worth(lost),
    )


def worth(lost: Iterable[tuple[Stretch, float]]) -> float | None:
    """What the lost shares of some stretches cost; None where one of them has no price."""
    parts = [(stretch.money, share) for stretch, share in lost if share]
    return None if any(money is None for money, _ in parts) else sum((money or 0.0) * share for money, share in parts)


def _reheating_min(scenario: Scenario, stop: Stop, minutes: float) -> float:
    """How long an oven that lost its heat takes to be hot again: what it cooled meanwhile, at its rate of heating."""
    station = scenario.line(stop.line).station(stop.station)
    if stop.fails != "heat" or not isinstance(station, ConveyorStation) or not station.heating_c_per_min:
        return 0.0
    return minutes * (station.cooling_c_per_min or 0.0) / station.heating_c_per_min


def _stretches(scenario: Scenario, stop: Stop, one: Stands) -> Iterator[Stretch]:
    """Everything of a run that stands."""
    run = one.run
    before = True
    for passage, passing in zip(_passages(scenario, run), passings(scenario, run), strict=True):
        if passage.stop.leg == one.leg and passing.product is one.passing.product and before:
            yield from _pieces(scenario, stop, one, passing, _stands_min(scenario, stop, run, passing))
        elif passage.stop.leg == one.leg - 1 and passage.stop.splits:
            yield from _pieces(scenario, stop, one, passing, _stored_min(scenario, run, passing))
        before = before and passing.station != one.passing.station
    if one.leg == 0:
        yield from _doughs(scenario, stop, one)
    yield from _fillings(scenario, stop, one)


def share_inside(passing: Passing, at: float) -> float:
    """The share of a run's pieces that are in a station at a moment."""
    feed, leaving = passing.last_in - passing.first_in, passing.last_out - passing.first_out
    came = min(max((at - passing.first_in) / feed, 0.0), 1.0)
    gone = min(max((at - passing.first_out) / leaving, 0.0), 1.0)
    return came - gone


def measured(passing: Passing, share: float) -> tuple[float, float, float]:
    """Pieces, packs and kg of a share of what passes a station."""
    product = passing.product
    place = [step.station for step in product.piece_steps].index(passing.station)
    pieces = share * passing.flow_per_h * (passing.last_in - passing.first_in) / MINUTES_PER_HOUR
    for_one = float(product.taken_per_finished[place]) * product.pieces_per_pack
    return pieces, pieces / for_one, pieces * product.entering_g[place] / GRAMS_PER_KG


def _pieces(scenario: Scenario, stop: Stop, one: Stands, passing: Passing, limit: float) -> Iterator[Stretch]:
    """Pieces that are kept in a station, and may be so for so much longer."""
    share = share_inside(passing, one.from_min(stop))
    if share <= 0:
        return
    pieces, packs, kg = measured(passing, share)
    aside = scenario.line(one.run.line).station(passing.station).aside
    yield Stretch(
        run=one.run.id,
        product=passing.product.listed_id,
        what="pieces",
        station=passing.station,
        pieces=pieces,
        packs=packs,
        kg=kg,
        money=_money(scenario, scenario.whole(passing.product), kg),
        spoils_after_min=None if limit == inf else one.spare_min + limit,
        aside=int(min(aside.pieces, pieces)) if aside else 0,
        aside_min=one.spare_min + aside.keeps_min if aside else 0,
    )


def _money(scenario: Scenario, made: Product | Preparation, kg: float) -> float | None:
    """What the materials of so much of it cost."""
    price = kilogram_price(scenario, made)
    return None if price is None else kg * price


def _stands_min(scenario: Scenario, stop: Stop, run: Run, passing: Passing) -> float:
    """How much longer pieces in the leg that stands may stay in a station, min; inf where they only wait."""
    limit = operation_at(scenario, run, passing).stands_min
    return 0.0 if passing.station == stop.station and stop.fails == "heat" and limit < inf else limit


def _stored_min(scenario: Scenario, run: Run, passing: Passing) -> float:
    """How much longer pieces may stay in the store before the leg that stands: its most hold less theirs, min."""
    done = operation_at(scenario, run, passing)
    longest = max(passing.first_out - passing.first_in, passing.last_out - passing.last_in)
    return max(0.0, done.dwell_min + done.slack_min - longest)


def operation_at(scenario: Scenario, run: Run, passing: Passing) -> Operation[Any, Any]:
    """What a run is done at a station that it passes."""
    step = next(step for step in passing.product.piece_steps if step.station == passing.station)
    return scenario.line(run.line).operation(step)


def _store_full_min(scenario: Scenario, stop: Stop, one: Stands) -> float | None:
    """When the store before the leg that stands is full, if its run alone still fills it."""
    if one.leg == 0:
        return None
    for passage, passing in zip(_passages(scenario, one.run), passings(scenario, one.run), strict=True):
        if passage.stop.leg == one.leg - 1 and passage.stop.splits:
            places = operation_at(scenario, one.run, passing).places
            pieces = measured(passing, share_inside(passing, one.from_min(stop)))[0]
            full = one.from_min(stop) + (places - pieces) / passing.flow_per_h * MINUTES_PER_HOUR
            return full if full < passing.last_in else None
    return None


def _doughs(scenario: Scenario, stop: Stop, one: Stands) -> Iterator[Stretch]:
    """Doughs begun and not all divided: each is lost when its last piece would be divided past its age."""
    run, stands_from = one.run, one.from_min(stop)
    product: Product = scenario.product(run.product)
    for batch in run.batches:
        if batch.start_min >= stop.known_min or batch.last_piece_min <= stands_from:
            continue
        undivided = batch.last_piece_min - max(batch.divided_min, stands_from)
        left = undivided / (batch.last_piece_min - batch.divided_min)
        spare = batch.discharged_min + product.max_age_min - batch.last_piece_min
        yield Stretch(
            run=run.id,
            product=product.id,
            what="dough",
            station=product.mixing.station,
            batch=batch.number,
            pieces=left * batch.pieces,
            packs=left * batch.pieces / float(product.scaled_per_pack),
            kg=left * batch.dough_g / GRAMS_PER_KG,
            money=_money(scenario, product, left * batch.dough_g / GRAMS_PER_KG),
            spoils_after_min=one.spare_min + max(0.0, spare),
        )


def _fillings(scenario: Scenario, stop: Stop, one: Stands) -> Iterator[Stretch]:
    """Batches of fillings begun and not used up: each is lost past its age."""
    run, stands_from = one.run, one.from_min(stop)
    for batch in run.fillings:
        if batch.start_min >= stop.known_min or batch.used_until_min <= stands_from:
            continue
        made = scenario.preparation(batch.preparation)
        left = (batch.used_until_min - max(batch.used_from_min, stands_from)) / (
            batch.used_until_min - batch.used_from_min
        )
        yield Stretch(
            run=run.id,
            product=run.product,
            what="filling",
            station=made.mixing.station,
            batch=batch.number,
            kg=left * batch.used_g / GRAMS_PER_KG,
            money=_money(scenario, made, left * batch.used_g / GRAMS_PER_KG),
            spoils_after_min=one.spare_min + max(0.0, batch.mixed_min + made.most_hold_min - batch.used_until_min),
        )
