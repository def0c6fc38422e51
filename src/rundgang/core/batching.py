"""From packs to pieces to dough to whole batches, and the choices for the odd last one.

Nothing is lost to rounding: the pieces of a split add up exactly to the pieces scaled, and every pack
the plan promises has all its pieces.
"""

from fractions import Fraction
from math import ceil, floor

import numpy as np

from rundgang.core.capacity import DoughBounds, pieces_of
from rundgang.core.compiled import Ints, compiled
from rundgang.core.doughs import POLICIES, BatchLimits, BatchSplit
from rundgang.core.errors import InfeasibleError
from rundgang.core.products import OddBatch, Product
from rundgang.core.units import GRAMS_PER_KG


def pieces_for_packs(product: Product, packs: int) -> int:
    """Pieces to scale so that so many good packs come out: packs x conversions / yields, rounded up."""
    return ceil(packs * product.scaled_per_pack)


def packs_from_pieces(product: Product, pieces: int) -> int:
    """Whole good packs from so many scaled pieces."""
    return floor(Fraction(pieces) / product.scaled_per_pack)


def dough_grams(product: Product, pieces: int) -> int:
    """Dough for so many pieces, g, rounded up to the gram."""
    return ceil(pieces * product.scaling_g)


def batch_limits(product: Product, bounds: DoughBounds) -> BatchLimits:
    """Pieces a dough may be scaled to, from what binds its mass.

    Raises
    ------
    InfeasibleError
        The smallest dough that can be made is larger than the largest that can be held and divided in time.
    """
    most = pieces_of(product, bounds.most.kg)
    least = ceil(bounds.least.kg * GRAMS_PER_KG / product.scaling_g)
    if least > most:
        raise InfeasibleError(
            f"{product.name}: a dough is at least {bounds.least.kg:.4g} kg by {bounds.least.because}, but at this pace "
            f"at most {bounds.most.kg:.4g} kg by {bounds.most.because}. Allowed: a faster pace, a smaller mixer, a "
            "larger trough, or a longer maximum age."
        )
    return BatchLimits(least_pieces=least, most_pieces=most)


EQUAL, SHORT_LAST = POLICIES.index("equal"), POLICIES.index("short-last")


@compiled
def dough_sizes(need: int, least: int, most: int, policy: int, sizes: Ints) -> int:
    """Write the pieces of every dough for so many pieces into `sizes`; how many doughs."""
    count = max(1, -(-need // most))
    if policy == EQUAL:
        total = max(need, count * least)
        for dough in range(count):
            sizes[dough] = total // count + (1 if dough < total % count else 0)
        return count
    sizes[:count] = most
    if policy == SHORT_LAST:
        sizes[count - 1] = max(least, need - most * (count - 1))
    return count


@compiled
def saving_pieces(need: int, most: int) -> int:
    """Pieces that a run must get from another run's dough to be one dough fewer: what is left of full doughs."""
    return need - (-(-need // most) - 1) * most


def split(product: Product, packs: int, limits: BatchLimits, policy: OddBatch, shared: int = 0) -> BatchSplit:
    """Cut a demand of packs into doughs.

    Parameters
    ----------
    policy : {"equal", "short-last", "round-up"}
        n equal batches; full ones and a short last one; or all full, the rest to stock. Whatever the
        policy, no dough is smaller than the mixer's minimum.
    shared : int
        Pieces that come of the last dough of another run: the first of the split.
    """
    need = pieces_for_packs(product, packs) - shared
    most, least = limits.most_pieces, limits.least_pieces
    room = np.empty(max(1, ceil(need / most)), dtype=np.int64)
    count = dough_sizes(need, least, most, POLICIES.index(policy), room) if need > 0 else 0
    own = tuple(room[:count].tolist())
    pieces = (shared, *own) if shared else own
    made = packs_from_pieces(product, sum(pieces))
    return BatchSplit(
        policy=policy,
        pieces=pieces,
        packs=made,
        surplus_packs=made - packs,
        least_fill=min(own or pieces) / most,
    )


def options(product: Product, packs: int, limits: BatchLimits) -> tuple[BatchSplit, ...]:
    """Every choice for the odd last batch, the product's own first."""
    return tuple(
        split(product, packs, limits, policy)
        for policy in sorted(POLICIES, key=lambda policy: policy != product.odd_batch)
    )
