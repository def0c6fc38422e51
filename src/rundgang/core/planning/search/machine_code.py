"""Machine code: the compiled search and simulation made before their first use, as two processes can do together.

The search is made from the inside out, each function with all that it calls. What `make_parts` makes, the process
that makes the whole search finds on disk when it gets there.
"""

import numpy as np

from rundgang.core.compiled import make
from rundgang.core.planning.decode.appraisal import oven_empty
from rundgang.core.planning.decode.crews import crew_peak
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.lorries import serve_all
from rundgang.core.planning.decode.room import make_runs, make_state
from rundgang.core.planning.decode.runs import wait_for_room
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.decode.streams import take_all
from rundgang.core.planning.lorries import order_items
from rundgang.core.planning.objective import Weights, weight_array
from rundgang.core.planning.relaxed.beginnings import room_for
from rundgang.core.planning.relaxed.items import RelaxedItems
from rundgang.core.planning.relaxed.line import relaxed_line
from rundgang.core.planning.relaxed.orders import cheapest
from rundgang.core.planning.search.beginnings import ahead_of, least_of
from rundgang.core.planning.search.moves import change
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.planning.search.stretches import best_stretch
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.line_odds import odds_of

ORDERS = 200
"""So many orders of a plant are tried: every part of the search is called."""


def make_search(scenario: Scenario) -> None:
    """Make the whole search: by annealing, and by branching over a few items; and what tells how sure its plans are."""
    few = scenario.model_copy(update={"orders": scenario.orders[:1]})
    for day, orders in ((scenario, ORDERS), (few, 1)):
        plans = plan_plant(day, stop=after_evaluations(orders, orders)).plans
        odds_of(day, max(plans, key=lambda plan: len(plan.runs)))


def make_parts(scenario: Scenario) -> None:
    """Make the parts that the search comes to late, those first that it comes to first."""
    line = scenario.plant.lines[0].id
    shop = Shop(scenario, (line,))
    listed = [*order_items(scenario, line, (), shop.most_packs)]
    fixed, items = fixed_arrays(shop, ()), shop.items(listed)
    state, runs = make_state(shop.arrays, fixed, items), make_runs(shop.arrays, fixed, items)
    order = np.arange(len(items), dtype=np.int64)
    make(take_all, shop.arrays, 0, 0, state, runs)
    make(wait_for_room, shop.arrays, 0, 0, 0, state, runs)
    make(serve_all, shop.arrays, runs, 0)
    make(crew_peak, state, 0, 0, 0)
    make(oven_empty, shop.arrays, runs, 0)
    make(change, order, items, order, order, order, order)
    known, weights = ahead_of(shop, Weights()), weight_array(Weights())
    relaxed = relaxed_line(shop, listed, RelaxedItems(shop, listed), Weights())
    make(cheapest, relaxed, room_for(1, len(relaxed.due)), 0.0, order)
    make(least_of, shop.arrays, known, items, order, order, weights, runs, len(fixed.runs))
    make(best_stretch, shop.arrays, fixed, items, state, runs, order, order, weights, order, 0.0)
