"""Loading: which packs may go on a lorry, and which go first.

What is held, or not cleared where the plant asks for that, may not go; what would be too old when the lorry leaves may
with a reason. Of what may, the oldest goes first.
"""

from collections.abc import Iterable
from math import inf
from typing import Literal, NamedTuple

from rundgang.core.floor.fifo import Layer, first_in_first_out
from rundgang.core.model import Model
from rundgang.core.orders import Wave
from rundgang.core.planning.lorries import fresh_from_min
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class Loadable(NamedTuple):
    """Packs of a lot that are there, made from when on, min; why they are held, and whether they are cleared."""

    lot: int
    product: str
    packs: int
    made_min: float
    held: str | None = None
    cleared: bool = True


class Refusal(Model):
    """Why packs may not go on a lorry; those that are too old may with a reason."""

    kind: Literal["held", "not cleared", "too old"]
    says: str


def refusal(scenario: Scenario, wave: Wave, packs: Loadable) -> Refusal | None:
    """Why packs may not go on a lorry; None where they may."""
    if packs.held is not None:
        return Refusal(kind="held", says=f"held: {packs.held}")
    if scenario.plant.clears_packs and not packs.cleared:
        return Refusal(kind="not cleared", says="quality control has not cleared it to load")
    orders = (order for order in scenario.orders if (order.product, order.wave) == (packs.product, wave.id))
    asked_h = min((order.fresh_for_h or inf for order in orders), default=inf)
    late = fresh_from_min(scenario.product(packs.product), wave, asked_h) - packs.made_min
    if late <= 0:
        return None
    return Refusal(kind="too old", says=f"too old by {late / MINUTES_PER_HOUR:.1f} h when it leaves")


def oldest_first(scenario: Scenario, wave: Wave, there: Iterable[Loadable], due: int) -> tuple[tuple[int, int], ...]:
    """Which lots give how many packs to a lorry that is due so many, by lot.

    Parameters
    ----------
    there : iterable of Loadable
        The oldest first.
    """
    may = [Layer(packs.lot, packs.packs) for packs in there if refusal(scenario, wave, packs) is None]
    ((*shares,),) = first_in_first_out(may, [max(0, due)])
    return tuple((share.lot, round(share.amount)) for share in shares if share.lot is not None)
