"""Which packs are of which dough: a run's pieces come in the order of its doughs, and so do its packs.

A pack belongs to the dough of its last piece. Where a dough ends within a pack, that pack has pieces of two, and both
are named.
"""

from collections.abc import Iterator
from typing import NamedTuple

from rundgang.core.planning.model import CutRun, Run

WHOLE = 1e-9
"""A count this little under a whole number is that number."""


class PackedPart(NamedTuple):
    """The packs of one dough of a run.

    Attributes
    ----------
    batch : int
        The dough's number in its run.
    from_min, to_min : float
        When its first and its last pack came off the line, min.
    doughs : tuple of (int, float)
        How much of each dough is in them, g of dough, by its number.
    """

    batch: int
    packs: int
    from_min: float
    to_min: float
    doughs: tuple[tuple[int, float], ...]


def packed_parts(run: Run, packed: Run | CutRun, dough_share: float = 1.0) -> Iterator[PackedPart]:
    """The packs of a run, or of what is cut out of it, dough by dough; doughs of which no pack ends are left out.

    Parameters
    ----------
    dough_share : float
        How much of the dough goes into these packs: what is cut out of a piece is not in its own.
    """
    total, packs = sum(batch.pieces for batch in run.batches), packed.packs
    if not packs:
        return
    a_pack, before, done = total / packs, 0, 0
    for batch in run.batches:
        before += batch.pieces
        until = packs if before == total else int(before / a_pack + WHOLE)
        if until > done:
            yield PackedPart(
                batch.number,
                until - done,
                _at(packed, done + 1),
                _at(packed, until),
                tuple(_doughs(run, done * a_pack, until * a_pack, dough_share)),
            )
        done = until


def _at(packed: Run | CutRun, pack: int) -> float:
    """When a pack comes off the line, min."""
    return packed.first_pack_min + (packed.last_pack_min - packed.first_pack_min) * pack / packed.packs


def _doughs(run: Run, begin: float, until: float, share: float) -> Iterator[tuple[int, float]]:
    """How much of each dough is in the pieces between two, g."""
    before = 0
    for batch in run.batches:
        pieces = min(until, before + batch.pieces) - max(begin, before)
        if pieces > WHOLE:
            yield batch.number, batch.dough_g * share * pieces / batch.pieces
        before += batch.pieces
