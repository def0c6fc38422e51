"""What differs between two books: lines that are new, gone, for another number of packs, or for fresher ones."""

from collections.abc import Iterable

from rundgang.core.model import Id, Model
from rundgang.core.orders import Order


class OrderChange(Model):
    """A line of an order that is not as it was.

    Attributes
    ----------
    was, now : int or None
        Packs; None where it was not there, or is there no more.
    fresh_was_h, fresh_now_h : float or None
        How old they may be when the lorry leaves, as the customer asked, h; None where nothing is asked.
    """

    order: str
    product: Id
    wave: Id
    was: int | None
    now: int | None
    fresh_was_h: float | None = None
    fresh_now_h: float | None = None


def order_changes(before: Iterable[Order], after: Iterable[Order]) -> tuple[OrderChange, ...]:
    """The lines that differ, those that are there now first, in their order."""
    old, new = ({order.line: order for order in orders} for orders in (before, after))
    lines = (*new, *(line for line in old if line not in new))
    return tuple(
        OrderChange(
            order=line[0], product=line[1], wave=line[2], was=was[0], now=now[0], fresh_was_h=was[1], fresh_now_h=now[1]
        )
        for line in lines
        if (was := _wants(old.get(line))) != (now := _wants(new.get(line)))
    )


def _wants(order: Order | None) -> tuple[int | None, float | None]:
    """Packs, and how old they may be, h."""
    return (order.packs, order.fresh_for_h) if order else (None, None)
