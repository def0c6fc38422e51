"""Weighing up: a batch card as a guide, ingredient by ingredient, lot by lot, each within its tolerance.

The oldest lot that is good is offered first. What has expired, is held, or brings an allergen that the product does not
declare is refused. What is off needs a reason.
"""

from collections.abc import Iterable, Mapping, Sequence
from datetime import date

from rundgang.core.dough.card import BatchCard
from rundgang.core.dough.scaling import Role, ScaledIngredient
from rundgang.core.errors import RundgangError
from rundgang.core.floor.lots import Lot
from rundgang.core.model import Model
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG

LEAST_TOLERANCE_STEPS = 1
"""A scale cannot be asked for less than a step of it."""

PREPARED_TOLERANCE_PCT = 2.0
"""What is made in the house goes in whole; what sticks to its bowl is no fault, % (common practice)."""

CRUMB_KG = 1e-6


class LeftOf(Model):
    """A lot, what is left of it, kg, and why it is held, where it is."""

    lot: Lot
    left: float
    held: str | None = None


class OfferedLot(Model):
    """A lot that may be taken for an ingredient; or why not."""

    lot: int
    code: str
    supplier: str | None
    best_before: date | None
    left_kg: float
    refused: str | None


class Weighed(Model):
    """What was put on the scale for an ingredient, g, out of which lot; with a reason where it was off."""

    ingredient: str
    lot: int | None
    grams: int
    reason: str = ""


class WeighingStep(Model):
    """An ingredient of the guide.

    Attributes
    ----------
    grams, low_g, high_g : int
        To weigh, and what is taken without a reason.
    weighed_g : int
        What has been put in.
    done : bool
        Whether that is all of it.
    lots : tuple of OfferedLot
        The oldest first, those that may not be taken last; none for water.
    """

    ingredient: str
    name: str
    role: Role
    grams: int
    low_g: int
    high_g: int
    at_min: float
    allergens: tuple[str, ...]
    weighed_g: int
    done: bool
    lots: tuple[OfferedLot, ...]


class LotRefusedError(RundgangError):
    """A lot that may not go into this batch; the message says why and which may."""


class OffWeightError(RundgangError):
    """A weight outside of its tolerance, without a reason."""


def weighing_steps(
    scenario: Scenario,
    card: BatchCard,
    lots: Mapping[str, Sequence[LeftOf]],
    weighed: Sequence[Weighed],
    today: date,
) -> tuple[WeighingStep, ...]:
    """The steps of a card's guide, in the order in which things go in.

    Parameters
    ----------
    lots : mapping of str to sequence of LeftOf
        What lies there, by ingredient, the oldest first.
    weighed : sequence of Weighed
        What has been weighed for it.
    """
    declared = scenario.allergens(scenario.product(card.product))
    ordered = sorted(card.ingredients, key=lambda line: line.at_min)
    return tuple(
        _step(
            scenario,
            line,
            _offered(scenario, line, lots.get(line.ingredient, ()), declared, today),
            [one for one in weighed if one.ingredient == line.ingredient],
        )
        for line in ordered
    )


def _step(
    scenario: Scenario, line: ScaledIngredient, offered: tuple[OfferedLot, ...], weighed: Sequence[Weighed]
) -> WeighingStep:  # fmt: skip
    off, total = tolerance_g(scenario, line), sum(one.grams for one in weighed)
    told = any(one.reason for one in weighed)
    return WeighingStep(
        ingredient=line.ingredient,
        name=line.name,
        role=line.role,
        grams=line.grams,
        low_g=line.grams - off,
        high_g=line.grams + off,
        at_min=line.at_min,
        allergens=line.allergens,
        weighed_g=total,
        done=bool(weighed) and (told or total >= line.grams - off),
        lots=offered if line.role != "water" else (),
    )


def tolerance_g(scenario: Scenario, line: ScaledIngredient) -> int:
    """By how much an ingredient may be off, g: its share, and no less than a step of its scale."""
    if line.role == "preparation":
        return max(1, round(line.grams * PREPARED_TOLERANCE_PCT / 100))
    item = scenario.ingredient(line.ingredient)
    return max(LEAST_TOLERANCE_STEPS * item.scale_step_g, round(line.grams * item.tolerance_pct / 100))


def _offered(
    scenario: Scenario, line: ScaledIngredient, lots: Iterable[LeftOf], declared: frozenset[str], today: date
) -> tuple[OfferedLot, ...]:  # fmt: skip
    found = [
        OfferedLot(
            lot=one.lot.number,
            code=one.lot.code,
            supplier=one.lot.supplier,
            best_before=one.lot.best_before,
            left_kg=one.left,
            refused=_refused(one, declared, today),
        )
        for one in lots
    ]
    return tuple(sorted(found, key=lambda one: one.refused is not None))


def _refused(one: LeftOf, declared: frozenset[str], today: date) -> str | None:
    """Why a lot may not be taken; None where it may."""
    if one.held is not None:
        return f"held: {one.held}"
    if one.lot.best_before is not None and one.lot.best_before < today:
        return f"expired on {one.lot.best_before:%Y-%m-%d}"
    brings = sorted(one.lot.allergens - declared)
    if brings:
        return f"brings {', '.join(brings)}, which the product does not declare"
    return "nothing is left of it" if one.left <= CRUMB_KG else None


def refuse_weighed(step: WeighingStep, one: Weighed) -> None:
    """Take what was weighed, or say why not.

    Raises
    ------
    LotRefusedError
        The lot is not of this ingredient, or may not be taken; or none is said.
    OffWeightError
        It would be too much, or there is not so much of the lot; and no reason is given.
    """
    if step.role != "water":
        _refuse_lot(step, one)
    total = step.weighed_g + one.grams
    if total > step.high_g and not one.reason:
        raise OffWeightError(
            f"{step.name}: {_kg(total)} would be in it. Allowed: {_kg(step.low_g)} to {_kg(step.high_g)}; or more, "
            "with a reason."
        )


def _refuse_lot(step: WeighingStep, one: Weighed) -> None:
    offered = {lot.lot: lot for lot in step.lots}
    good = [lot.code for lot in step.lots if lot.refused is None]
    allowed = f"Allowed: {', '.join(good)}." if good else "No lot of it may be taken; receive one, or release one."
    if one.lot is None:
        if good:
            raise LotRefusedError(f"{step.name}: no lot is said. {allowed}")
        return
    lot = offered.get(one.lot)
    if lot is None:
        raise LotRefusedError(f"{step.name}: this lot is of something else. {allowed}")
    if lot.refused is not None:
        raise LotRefusedError(f"{step.name}: lot {lot.code} is refused, it {_is(lot.refused)}. {allowed}")
    if one.grams > lot.left_kg * GRAMS_PER_KG * 1.001 and not one.reason:
        raise OffWeightError(
            f"{step.name}: {_kg(one.grams)} are said, but lot {lot.code} has {lot.left_kg:,.2f} kg left. Allowed: as "
            "much as is left, and the rest of another lot; or more, with a reason."
        )


def _is(refused: str) -> str:
    return (
        refused if refused.startswith("brings") else f"is {refused}" if refused.startswith("held") else f"has {refused}"
    )


def _kg(grams: int) -> str:
    return f"{grams / GRAMS_PER_KG:,.3f} kg"
