"""What a stop does: what stands because of it, when each of that is lost, and the last restart without loss.

When station k stands, everything behind it in its leg runs out; everything before it in its leg stands, piece by
piece where it is, and is as much later as the stop lasts. A piece in an oven or a fryer is spoiled after its
grace; in a proofer after what the plant allows; a dough when its last piece would be divided past its age; a
filling past its own. A store before the leg goes on taking in until it is full, and what is in it must come out
within its most hold. Times in minutes from the window's start.
"""

from collections.abc import Iterable, Iterator, Sequence
from math import inf
from typing import Any, Literal

from rundgang.core.floor.stands import Stands, passages_of, standing
from rundgang.core.floor.stop import A_MOMENT_MIN, Stop
from rundgang.core.kinds.conveyor import ConveyorStation
from rundgang.core.kinds.operation import Operation
from rundgang.core.model import Id, Model
from rundgang.core.money import kilogram_price
from rundgang.core.planning.legs import Passing, passings
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

What = Literal["pieces", "dough", "filling"]


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
    for passage, passing in zip(passages_of(scenario, run), passings(scenario, run), strict=True):
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
    for passage, passing in zip(passages_of(scenario, one.run), passings(scenario, one.run), strict=True):
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
