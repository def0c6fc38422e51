"""Stock: what a count finds, and what a delivery brings, against what the plan thinks is there."""

from collections.abc import Iterable

from rundgang.core.errors import RundgangError
from rundgang.core.materials import Draw
from rundgang.core.orders import FinishedStock
from rundgang.core.planning.packs import packs_by_now
from rundgang.core.scenario import Delivery, Scenario, Stock


class TooFewCountedError(RundgangError):
    """Fewer packs were counted than the runs of the plan alone have made and no lorry has taken."""


class MadeSinceError(RundgangError):
    """Packs that nobody knew of are said to have been made since the window began."""

    def __init__(self, product: str) -> None:
        super().__init__(
            f"More {product} was counted than is known of, made since the window began. Allowed: made before that; "
            "enter at the run what it made."
        )


def counted_packs(
    scenario: Scenario, product: str, packs: int, since_min: float, made_min: float | None = None
) -> tuple[FinishedStock, ...]:
    """All lots in stock once so many packs of a product have been counted now.

    Of fewer than there should be the oldest have gone; more than that were made when somebody says so. Where nobody
    does they are as old as the oldest, or where there were none, as what the window began with: what is taken for
    older is sent sooner.

    Parameters
    ----------
    since_min : float
        When the window began, min: what runs have made since is counted by itself.
    made_min : float, optional
        When those were made that nobody knew of, min.

    Raises
    ------
    TooFewCountedError
        Packs of the plan's runs are missing: that is what happened to a run.
    MadeSinceError
        Those that nobody knew of were made since the window began: that is what happened to a run too.
    """
    if made_min is not None and made_min > since_min:
        raise MadeSinceError(scenario.product(product).name)
    own = sorted((lot for lot in scenario.finished if lot.product == product), key=lambda lot: lot.made_min)
    known = sum(lot.packs for lot in own)
    lying = sum(lot.packs for lot in packs_by_now(scenario, (), ()).lots if lot.product == product)
    left, kept = known + packs - lying, list[FinishedStock]()
    if left < 0:
        raise TooFewCountedError(
            f"{packs:,} packs of {scenario.product(product).name} were counted; runs have made {lying - known:,} that "
            "no lorry has taken. Allowed: that many or more; enter at the run what it made."
        )
    for lot in reversed(own):
        taken = min(left, lot.packs)
        left -= taken
        if taken:
            kept.insert(0, lot.model_copy(update={"packs": taken}))
    if left and made_min is not None:
        kept = sorted(
            (*kept, FinishedStock(product=product, packs=left, made_min=made_min)), key=lambda lot: lot.made_min
        )
    elif left:
        oldest = own[0].made_min if own else since_min
        more = left + (kept[0].packs if kept else 0)
        kept = [FinishedStock(product=product, packs=more, made_min=oldest), *kept[1:]]
    return (*(lot for lot in scenario.finished if lot.product != product), *kept)


def level_at(stock: Stock, drawn: Iterable[Draw], minute: float) -> float:
    """What should be there of a material at a minute, kg or pieces: deliveries of that minute come before its draws."""
    came = sum(come.amount for come in stock.deliveries if come.at_min <= minute)
    used = sum(draw.amount for draw in drawn if draw.item == stock.item and draw.at_min <= minute)
    return stock.on_hand + came - used


def counted_stock(stock: Stock, drawn: Iterable[Draw], minute: float, counted: float) -> Stock:
    """A material once so much of it has been counted at a minute: the difference is as if it had been so before."""
    off = counted - level_at(stock, drawn, minute)
    return stock.model_copy(update={"on_hand": stock.on_hand + off})


def with_delivery(stock: Stock, delivery: Delivery) -> Stock:
    """A material with one more delivery."""
    coming = sorted((*stock.deliveries, delivery), key=lambda one: one.at_min)
    return stock.model_copy(update={"deliveries": tuple(coming)})
