"""A run that is on a line, or of which doughs stand in troughs, and that no plan has: entered by hand.

It is laid as a plan would have laid it from when its first piece was, or will be, divided; doughs that are said to
stand there are as they are. From then on it is a fact like any other run that has begun, and the plan is fitted around
it.
"""

from collections.abc import Iterable, Iterator
from math import ceil
from typing import NamedTuple

from pydantic import Field

from rundgang.core.conditions import MINUTES_PER_DAY
from rundgang.core.errors import OutOfRangeError, RundgangError, UnknownItemError
from rundgang.core.materials import ItemShares, run_draws
from rundgang.core.model import Id, Model
from rundgang.core.orders import LONGEST_WINDOW_MIN, MAX_PACKS, Order, Wave
from rundgang.core.planning.checked import fitted
from rundgang.core.planning.cut_runs import cut_runs
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.pools import coupled
from rundgang.core.planning.decode.reading import lay_out
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.line_plans import line_plan
from rundgang.core.planning.lorries import OrderItem, order_items
from rundgang.core.planning.model import Batch, Binding, PlantPlan, Run, RunItem
from rundgang.core.planning.names import names_beyond
from rundgang.core.planning.past import has_begun, opened
from rundgang.core.planning.repair import Moved
from rundgang.core.products import Product
from rundgang.core.rolling.carried import ends_min
from rundgang.core.rolling.earlier import begun_earlier, most_earlier_min
from rundgang.core.rolling.shifting import shifted
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR

A_DAY_MIN = int(MINUTES_PER_DAY)
SAME_TIME_MIN = 1.0
"""Nobody reads the start of a run more exactly, min."""

WORDS = {
    "opening": "its first dough could not have been ready",
    "headway": "{where} was not free of {after}",
    "units": "nothing was free at the {where}",
    "closing": "{where} was closed",
    "crew": "nobody of {where} was free",
    "shift": "too few of {where} were there",
    "store": "there was no room in the {where}",
    "shared": "{where} worked for another line",
    "tool": "a tool had to be renewed: {where}",
}
"""Why a run cannot have begun when it is said to have."""


class OnLine(Model):
    """A run on a line as somebody enters it.

    Attributes
    ----------
    packs : int
        That it gives in all, what has been made of it included.
    start_min : float
        When its first piece enters the divider, from the window's start, min; below 0 where that was before.
    discharged_min : tuple of float
        When those of its doughs left the bowl that are mixed, the first ones, min; none: as a plan would have them.
    """

    line: Id
    product: Id
    packs: int = Field(ge=1, le=MAX_PACKS)
    start_min: float = Field(ge=-LONGEST_WINDOW_MIN, le=LONGEST_WINDOW_MIN)
    discharged_min: tuple[float, ...] = Field(default=(), max_length=500)


class NotOnLineError(RundgangError):
    """A run that cannot be on the line as it is said to be; the message says why and what is allowed."""


class Entered(NamedTuple):
    """A scenario and its plan with a run that was entered.

    Attributes
    ----------
    earlier_min : int
        So much earlier the window begins now; both are seen from there.
    """

    earlier_min: int
    scenario: Scenario
    plan: PlantPlan
    moved: tuple[Moved, ...]


def as_entered(scenario: Scenario, plan: PlantPlan, made: OnLine) -> Entered:
    """The scenario with a run that is on a line, and the plan fitted around it.

    Parameters
    ----------
    scenario : Scenario
        At this moment, with what has begun by the plan.

    Raises
    ------
    UnknownItemError
        No such line, or the line mixes no such product.
    OutOfRangeError
        More packs than one run can give; or so early that no window can begin before it.
    NotOnLineError
    """
    run = _as_mixed(scenario, _laid(scenario, made), made.discharged_min)
    now = scenario.opening.now_min
    if not has_begun(run, now):
        raise NotOnLineError("Nothing of it has begun by now. Allowed: what is on the line, or stands in a trough.")
    if ends_min(scenario, run) <= now:
        raise NotOnLineError("It would be over by now. Allowed: what is on the line still; count its packs as stock.")
    earlier = ceil(max(0.0, -run.first_mixed_min) / MINUTES_PER_HOUR) * MINUTES_PER_HOUR
    run = shifted(run, -earlier)
    seen = _drawn_before(begun_earlier(scenario, earlier), run, earlier) if earlier else scenario
    run = _for_lorries(seen, run)
    begun, plans = seen.opening.begun, [shifted(line, -earlier) for line in plan.plans]
    others = (*seen.opening.begun_on(run.line), *(own for line in plans if line.line == run.line for own in line.runs))
    run = run.model_copy(
        update={"id": next(names_beyond(others)), "binding": run.binding.model_copy(update={"after": None})}
    )
    opening = seen.opening.model_copy(update={"begun": (*begun, run)})
    known = [line.model_copy(update={"runs": (*line.runs, run)}) if line.line == run.line else line for line in plans]
    found = fitted(seen.changed(opening=opening), plan.model_copy(update={"plans": tuple(known)}), (run.line,))
    after = opened(seen, found.plan.plans, seen.opening.now_min)
    return Entered(earlier, after, found.plan, found.moved)


def _laid(scenario: Scenario, made: OnLine) -> Run:
    """The run as a plan would have laid it, beside what has begun; NotOnLineError where it could not have been so.

    Its materials were there, or it would not be: the stock may have been counted after it had drawn them.
    """
    product = _product(scenario, made)
    wide = A_DAY_MIN + ceil(max(0.0, -made.start_min) / MINUTES_PER_HOUR) * MINUTES_PER_HOUR
    room = most_earlier_min(scenario)
    if room < wide - A_DAY_MIN:
        raise OutOfRangeError("The first piece", f"{-made.start_min:.0f} min before the window", f"at most {room} min")
    wide = min(wide, room)
    begun = begun_earlier(scenario, wide) if wide else scenario
    start = made.start_min + wide
    wave = Wave(id="on-the-line", name="On the line", departs_min=start)
    order = Order(id=wave.id, product=product.id, wave=wave.id, packs=made.packs)
    opening = begun.opening.model_copy(update={"now_min": 0.0})
    free = begun.changed(waves=(wave,), orders=(order,), stocks=(), opening=opening)
    lines = next(group for group in coupled(free) if made.line in group)
    fixed = tuple(run for line in lines for run in free.opening.begun_on(line))
    shop = Shop(free, lines, fixed)
    most = shop.most_packs[product.id]
    if made.packs > most:
        raise OutOfRangeError("The packs of one run", made.packs, f"1 to {most}")
    item = OrderItem(product=product.id, wave=wave.id, packs=made.packs, pinned_min=start, alone=True)
    laid = line_plan(lay_out(shop, fixed_arrays(shop, fixed), (item,)), made.line, fixed, "", 1)
    run = next((run for run in laid.runs if any(one.wave == wave.id for one in run.items)), None)
    if run is None:
        raise NotOnLineError(
            f"{product.name} cannot have been made then. Allowed: a time of the window at which the line was free."
        )
    if abs(run.start_min - start) > SAME_TIME_MIN:
        raise _cannot_have_begun(product, run.binding, run.start_min - start)
    return shifted(run, wide)


def _product(scenario: Scenario, made: OnLine) -> Product:
    line = scenario.line(made.line)
    mixed = {product.id: product for product in scenario.made_on(line.id) if product.formula}
    if made.product not in mixed:
        raise UnknownItemError("product of that line", made.product, tuple(mixed))
    return mixed[made.product]


def _cannot_have_begun(product: Product, binding: Binding, late_min: float) -> NotOnLineError:
    words = WORDS.get(binding.kind, "the line was not free")
    why = words.format(where=binding.where, after=binding.after or "what was on it before")
    return NotOnLineError(
        f"{product.name} cannot have begun then: {why}. Allowed: from {ceil(late_min)} min later on; or enter "
        "first what was on the line before it."
    )


def _as_mixed(scenario: Scenario, run: Run, discharged_min: tuple[float, ...]) -> Run:
    """The run with its first doughs as they left the bowl; NotOnLineError where they do not suit when it is divided."""
    if not discharged_min:
        return run
    product, now = scenario.product(run.product), scenario.opening.now_min
    if len(discharged_min) > len(run.mixed):
        raise NotOnLineError(f"So many packs take {len(run.mixed)} doughs. Allowed: at most so many that are mixed.")
    mixed = tuple(_left_bowl(product, *one, now) for one in zip(run.mixed, discharged_min, strict=False))
    rest = run.mixed[len(mixed) :]
    for dough in rest:
        late = now - min(slot.start_min for slot in dough.slots)
        if late > 0:
            raise NotOnLineError(
                f"Dough {dough.number} had to be begun {late:.0f} min ago to follow the others without a gap. "
                "Allowed: say when it left the bowl; or fewer packs, or a later first piece."
            )
    shared = tuple(batch for batch in run.batches if batch.shared)
    return run.model_copy(update={"batches": (*shared, *mixed, *rest)})


def _left_bowl(product: Product, dough: Batch, discharged_min: float, now: float) -> Batch:
    """A dough that left the bowl then: no later than now, rested when it is divided, and not too old."""
    mixing, said = product.mixing, f"Dough {dough.number} left the bowl"
    if discharged_min > now:
        raise NotOnLineError(f"{said} {discharged_min - now:.0f} min from now. Allowed: doughs that are mixed.")
    rested = dough.divided_min - discharged_min - mixing.rest_min
    if rested < -SAME_TIME_MIN:
        raise NotOnLineError(
            f"{said} {-rested:.0f} min too late to have rested {mixing.rest_min:g} min when it is divided. "
            "Allowed: an earlier time, or a later first piece."
        )
    age = dough.last_piece_min - discharged_min - product.max_age_min
    if age > SAME_TIME_MIN:
        raise NotOnLineError(
            f"{said} {age:.0f} min too early: its last piece would be older than {product.max_age_min:g} min. "
            "Allowed: a later time, or an earlier first piece; or throw it away."
        )
    mixed = shifted(dough, dough.discharged_min - discharged_min)
    return mixed.model_copy(update={"divided_min": dough.divided_min, "last_piece_min": dough.last_piece_min})


def _drawn_before(scenario: Scenario, run: Run, until_min: float) -> Scenario:
    """What the run had drawn when the stocks were told, at that minute, was there when the window begins now."""
    cuts = cut_runs(scenario, (run,))
    draws = [
        draw for draw in run_draws(ItemShares(scenario), run, cuts[0] if cuts else None) if draw.at_min < until_min
    ]
    return scenario.changed(
        stocks=tuple(
            stock.model_copy(
                update={"on_hand": stock.on_hand + sum(draw.amount for draw in draws if draw.item == stock.item)}
            )
            for stock in scenario.stocks
        )
    )


def _for_lorries(scenario: Scenario, run: Run) -> Run:
    """The run with the lorries that it is for: the first that nothing has been made for; the rest goes to stock."""
    items = tuple(
        _items(order_items(scenario, run.line, scenario.opening.begun_on(run.line), {run.product: MAX_PACKS}), run)
    )
    return run.model_copy(
        update={"id": "entered", "items": items, "packs_wanted": sum(item.packs for item in items), "pinned_min": None}
    )


def _items(wanted: Iterable[OrderItem], run: Run) -> Iterator[RunItem]:
    left = run.packs
    for item in wanted:
        packs = min(left, item.packs)
        left -= packs
        if packs:
            yield RunItem(wave=item.wave, packs=packs)
