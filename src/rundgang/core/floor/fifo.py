"""First in, first out: which lots a silo, a tank or a shelf gives, and where two of them met.

What lies in it is a row of lots, the oldest first; each draw takes the next stretch of the row. In a silo or a tank two
lots blend where they meet: a draw within so much of the border may hold some of both, and both are named.
"""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

CRUMB = 1e-9
"""What adding floats leaves over."""


class Layer(NamedTuple):
    """What is left of a lot, kg or pieces."""

    lot: int
    amount: float


class Share(NamedTuple):
    """What a draw has of a lot; 0 where it only met it. No lot: more was drawn than is known to have been there."""

    lot: int | None
    amount: float


def first_in_first_out(
    layers: Sequence[Layer], wanted: Iterable[float], blends: float = 0.0
) -> tuple[tuple[Share, ...], ...]:  # fmt: skip
    """What each draw has, one after the other.

    Parameters
    ----------
    layers : sequence of Layer
        The oldest first.
    wanted : iterable of float
        How much each takes, as the layers are counted.
    blends : float
        So much on either side of a border between two lots is a blend of both.
    """
    ends, total = list[float](), 0.0
    for layer in layers:
        total += layer.amount
        ends.append(total)
    found, at = list[tuple[Share, ...]](), 0.0
    for amount in wanted:
        found.append(tuple(_shares(layers, ends, at, at + amount, blends)))
        at += amount
    return tuple(found)


def _shares(
    layers: Sequence[Layer], ends: Sequence[float], begin: float, until: float, blends: float
) -> Iterable[Share]:  # fmt: skip
    before = 0.0
    for layer, end in zip(layers, ends, strict=True):
        taken = min(until, end) - max(begin, before)
        if taken > CRUMB:
            yield Share(layer.lot, taken)
        elif blends and layer.amount > CRUMB and begin < end + blends and until > before - blends:
            yield Share(layer.lot, 0.0)
        before = end
    beyond = until - max(begin, before)
    if beyond > CRUMB:
        yield Share(None, beyond)
