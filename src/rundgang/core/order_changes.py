"""What differs between two books: lines that are new, gone, or for another number of packs."""

from collections.abc import Iterable

from rundgang.core.model import Id, Model
from rundgang.core.orders import Order


class OrderChange(Model):
    """A line of an order that is not as it was.

    Attributes
    ----------
    was, now : int or None
        Packs; None where it was not there, or is there no more.
    """

    order: str
    product: Id
    wave: Id
    was: int | None
    now: int | None


def order_changes(before: Iterable[Order], after: Iterable[Order]) -> tuple[OrderChange, ...]:
    """The lines that differ, those that are there now first, in their order."""
    old, new = ({order.line: order.packs for order in orders} for orders in (before, after))
    lines = (*new, *(line for line in old if line not in new))
    return tuple(
        OrderChange(order=line[0], product=line[1], wave=line[2], was=old.get(line), now=new.get(line))
        for line in lines
        if old.get(line) != new.get(line)
    )
