"""What a line's relaxation proves: no order of its items costs less, wherever a run waits; against brute force."""

from datetime import date
from itertools import permutations, product
from random import Random

import numpy as np
import pytest

from brute_force import PLANTS, every_order, with_items
from plants import items_on
from rundgang.core.compiled import Floats
from rundgang.core.planning.bound import stock_floor
from rundgang.core.planning.decode.appraisal import appraise, priced
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.room import make_runs, make_state
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.objective import Weights, weight_array
from rundgang.core.planning.relaxed.items import RelaxedItems
from rundgang.core.planning.relaxed.orders import relaxed_bound
from rundgang.core.planning.relaxed.stale import stale_floor
from rundgang.core.planning.relaxed.store import relaxed_store
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import ostermere

DAY = ostermere(date(2026, 3, 11))
MOST = 100_000
STORED = "pastry-line"
"""A line of which all products ripen in one cold store, and are cut from sheets."""

TIGHT = (64, 76, 12, 63, 3, 15, 16, 44)
"""Of 80 draws those with the bound nearest to the best known: 90 to 93 % of it."""

Orders = tuple[tuple[str, str, int], ...]


def with_orders(*orders: tuple[str, str, int]) -> Scenario:
    """The demo with a few orders: a product, a lorry and packs."""
    one = DAY.orders[0]
    made = [
        one.model_copy(update={"id": f"o{place}", "product": made, "wave": lorry, "packs": packs})
        for place, (made, lorry, packs) in enumerate(orders)
    ]
    return DAY.changed(orders=tuple(made), finished=())


def drawn_orders(seed: int) -> Orders:
    """Five orders of the line with the store, for lorries that it has, of other sizes."""
    draw, own = Random(seed), [made.id for made in DAY.products if made.line == STORED]
    known = [(order.product, order.wave) for order in DAY.orders if order.product in own]
    return tuple((*pair, draw.randint(500, 4_500)) for pair in draw.sample(known, 5))


def costs_of(plant: Scenario, line: str, waits: int, seed: int) -> Floats:
    """What all orders of a line's items cost, with every choice of runs set apart; and some in which runs wait."""
    shop, listed = Shop(plant, [line]), items_on(plant, line)
    arrays, table = (shop.arrays, fixed_arrays(shop, ())), shop.items(listed)
    room, weights = (make_state(*arrays, table), make_runs(*arrays, table)), weight_array(Weights())

    def cost(order: tuple[int, ...], apart: tuple[int, ...], held: object) -> float:
        both = np.array(order, dtype=np.int64), np.array(apart, dtype=np.int64)
        return float(priced(appraise(*arrays, held, *both, *room), weights))

    orders, aparts = [*permutations(range(len(listed)))], [*product((0, 1), repeat=len(listed))]
    found, draw = [cost(order, apart, table) for order in orders for apart in aparts], Random(seed)
    for _ in range(waits):
        order, held = draw.choice(orders), table.copy()
        for item in range(len(listed)):
            if draw.random() < 0.5:
                held[item]["hold"] = draw.uniform(0, 2_500)
        found.append(cost(order, draw.choice(aparts), held))
    return np.array(found)


@pytest.mark.parametrize("legs", [1, 2])
@pytest.mark.parametrize("seed", range(4 * PLANTS))
def test_no_order_costs_less_than_the_relaxation_proves(seed: int, legs: int) -> None:
    """Random plants of a few items, with each choice for the odd last dough: all orders, all runs set apart."""
    drawn = with_items(seed + 400, 5 if legs == 1 else 4, legs)
    choice = ("equal", "short-last", "round-up")[seed % 3]
    plant = drawn.changed(products=tuple(p.model_copy(update={"odd_batch": choice}) for p in drawn.products))
    shop, listed = Shop(plant, ["line"]), items_on(plant)
    least = every_order(plant, runs_apart=True)
    found = relaxed_bound(shop, listed, Weights(), MOST, least + 1)
    assert found.bound + stock_floor(shop, Weights()) <= least + 1e-6
    assert found.order is None or sorted(found.order.tolist()) == list(range(len(listed)))


@pytest.mark.parametrize("seed", [*TIGHT, *range(100, 100 + PLANTS)])
def test_no_run_that_waits_for_its_store_costs_less_than_the_relaxation_proves(seed: int) -> None:
    """A line with a cold store: all orders of five lots, and some hundred in which runs begin later than they could."""
    plant = with_orders(*drawn_orders(seed))
    shop, listed = Shop(plant, [STORED]), items_on(plant, STORED)
    assert relaxed_store(shop, listed, RelaxedItems(shop, listed), Weights()).is_there
    least = float(costs_of(plant, STORED, 400, seed).min())
    assert relaxed_bound(shop, listed, Weights(), MOST, least + 1).bound <= least + 1e-6


def test_what_a_full_store_makes_wait_is_part_of_the_bound() -> None:
    """The demo's line: what its store makes the divider wait is most of what its best plan costs, and is proved."""
    shop, listed = Shop(DAY, [STORED]), items_on(DAY, STORED)
    bound = relaxed_bound(shop, listed, Weights(), MOST, 1e5).bound
    stale = stale_floor(shop, listed, RelaxedItems(shop, listed), Weights(), 1e5)
    changes = relaxed_bound(shop, listed, Weights(changeover_min=0), MOST, 1e5).bound
    assert stale > 0
    assert bound - stale > 20 * (changes - stale)


def test_packs_that_whole_sheets_give_too_many_grow_too_old() -> None:
    """109 sheets of 20.77 packs for 2,250 give 14 packs that are too old for the next lorry: 20 points each."""
    made = next(p for p in DAY.products if p.id == "kestrel-rye")
    plant = with_orders((made.id, "depot-260312", 2_250), (made.id, "depot-260313", 2_250))
    shop, listed = Shop(plant, [STORED]), items_on(plant, STORED)
    sheets = -(-2_250 * made.scaled_per_pack // 1)
    assert stale_floor(shop, listed, RelaxedItems(shop, listed), Weights(), 1e4) == 20 * (
        sheets // made.scaled_per_pack - 2_250
    )


def test_fewer_beginnings_prove_less_and_never_more() -> None:
    """Whenever the search is stopped, what it says is a bound."""
    shop, listed = Shop(DAY, ["ring-line"]), items_on(DAY, "ring-line")
    bounds = [relaxed_bound(shop, listed, Weights(), most, 1e6).bound for most in (1, 30, 300, 3_000, MOST)]
    assert bounds == sorted(bounds)
    assert bounds[0] < bounds[-1]
