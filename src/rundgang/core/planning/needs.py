"""What every dough of a product takes in the dough room, and how fast such doughs can be fed."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from rundgang.core.errors import InfeasibleError
from rundgang.core.planning.kernel import SAME_MOMENT_MIN, fed_pace
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class Need(NamedTuple):
    """What every dough of a product takes in the dough room: a unit of a station for a stretch of time.

    Attributes
    ----------
    before_min : float
        From the stretch's beginning to the dough's first piece at the divider, min.
    length_min : float
        Of the stretch, min.
    empties : bool
        Whether it lasts at least until the dough's last piece is divided: a trough by the divider.
    """

    station: str
    before_min: float
    length_min: float
    empties: bool = False


def needs_of(scenario: Scenario, product: Product) -> tuple[Need, ...]:
    """What every dough of a product takes in the dough room; its mixer first, then its trough, then preparations."""
    line, mixing = scenario.line_of(product), product.mixing
    mixed = product.rest_min + mixing.cycle_min
    needs = [Need(mixing.station, mixed, mixing.cycle_min)]
    if product.trough:
        hold = product.trough.least_min
        turn = line.holder(product.trough.station).turn_round_min
        needs.append(Need(product.trough.station, hold, hold + turn, empties=True))
    for made, _ in scenario.preparations_in(product):
        cycle = made.mixing.cycle_min
        needs.append(Need(made.mixing.station, mixed + made.least_hold_min + cycle, cycle))
        if made.held:
            hold, turn = made.held.least_min, line.holder(made.held.station).turn_round_min
            needs.append(Need(made.held.station, mixed + hold, hold + turn))
    return tuple(needs)


def steady_pace(pace_per_h: float, pieces: Sequence[int], units: Sequence[int], needs: Sequence[Need]) -> float:
    """Pace at which doughs of these sizes can be fed, pieces/h; 0 where they cannot without a break.

    Parameters
    ----------
    pieces : sequence of int
        Of every dough, in order.
    units : sequence of int
        Mixers, troughs and so on that there are for each need.
    """
    return fed_pace(
        pace_per_h,
        np.array(pieces, dtype=np.int64),
        np.array(units, dtype=np.int64),
        np.array([need.length_min for need in needs]),
        np.array([need.before_min for need in needs]),
        np.array([int(need.empties) for need in needs], dtype=np.int64),
    )


def refuse_old_dough(product: Product, most_pieces: int, scaled_per_h: float) -> None:
    """Refuse doughs that mixers or troughs bring so slowly that they are too old before they are divided.

    A smaller dough does not help: with m units of which each is taken for L, one comes every L / m.
    """
    longest = MINUTES_PER_HOUR * most_pieces / scaled_per_h
    window = product.max_age_min - product.rest_min
    if longest > window + SAME_MOMENT_MIN:
        raise InfeasibleError(
            f"{product.name}: its mixers and troughs bring a dough every {longest:.1f} min, but one must be divided "
            f"within {window:.1f} min. Allowed: more mixers or troughs, a shorter cycle, or a longer maximum age."
        )
