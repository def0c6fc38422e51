"""Room for the decoder to work in, large enough for every order of the items."""

import numpy as np

from rundgang.core.compiled import Ints, Records
from rundgang.core.planning.decode.arrays import (
    AT_WORK,
    KEPT,
    LEVEL,
    OVER,
    RUN,
    SETTLING,
    STAND,
    STRETCH,
    TIME,
    WORN,
    Fixed,
    Runs,
    ShopArrays,
    State,
    Units,
)

SMALLEST_BATCH_KG = 1e-3


def _room(shop: ShopArrays, items: Records) -> tuple[int, int]:
    """Batches of streams, and units of all, that runs of the items take at most."""
    batches = slots = 0
    for place in np.unique(items["product"]).tolist():
        packs = items["packs"][items["product"] == place]
        first = int(shop.products[place]["article"])
        classes = range(first, first + int(shop.products[place]["classes"]))
        found = [_room_of_class(shop, packs, shop.products[each]) for each in classes]
        batches += max(most for most, _ in found)
        slots += max(taken for _, taken in found)
    return batches, slots


def _room_of_class(shop: ShopArrays, packs: Ints, product: Records) -> tuple[int, int]:
    """The same for items of a product in one of its heat classes, which are of so many packs."""
    pieces = packs * float(product["ratio"])
    most, slots = np.zeros(len(packs), np.int64), 0
    for stream in shop.streams[int(product["first_stream"]) : int(product["end_stream"])]:
        if stream["ratio"] == 0:
            many = (pieces / float(product["most"])).astype(np.int64) + 2
        else:
            smallest = max(min(float(stream["least"]), float(stream["most"])), SMALLEST_BATCH_KG)
            many = (pieces * float(stream["ratio"]) / smallest).astype(np.int64) + 2
        most = np.maximum(most, many)
        slots += int(many.sum()) * int(stream["end_need"] - stream["first_need"])
    return int(most.sum()), slots


def make_state(shop: ShopArrays, fixed: Fixed, items: Records) -> State:
    """Working room."""
    batches, slots = _room(shop, items)
    stretches, batches = 4 + slots + len(fixed.taken), 4 + batches
    units, pools = int(shop.rooms.pools["end"].max(initial=0)), len(shop.rooms.pools)
    people = len(shop.absences) + (len(items) + len(fixed.runs) + 1) * (len(shop.uses) + 1)
    draws = (batches + len(items)) * len(shop.draws) + 1
    return State(
        units=Units(np.zeros((units, stretches), STRETCH), np.zeros(units, np.int64), np.zeros(pools, np.int64)),
        people=np.zeros(people, AT_WORK),
        line_end=np.zeros(shop.lines),
        line_last=np.zeros(shop.lines, np.int64),
        over=np.zeros(len(shop.products), OVER),
        settling=np.zeros(shop.legs.shape[1], SETTLING),
        stands=np.zeros((len(items) + len(fixed.runs) + 2) * shop.legs.shape[1], STAND),
        near=np.zeros(people, np.int64),
        could=np.zeros(int(shop.products["classes"].max(initial=1))),
        sizes=np.zeros(batches, np.int64),
        used=np.zeros(batches + 1),
        next_place=np.zeros(len(items), np.int64),
        next_of_line=np.zeros(shop.lines, np.int64),
        tools=np.zeros(len(shop.tools), WORN),
        drawn=np.zeros((shop.stocks, draws + len(fixed.drawn)), LEVEL),
        draws=np.zeros(shop.stocks, np.int64),
        own=np.zeros(draws, LEVEL),
        kept=np.zeros(len(fixed.kept), KEPT),
    )


def make_runs(shop: ShopArrays, fixed: Fixed, items: Records) -> Runs:
    """Room for the runs."""
    count = len(items) + len(fixed.runs) + 1
    slots = 4 + _room(shop, items)[1]
    return Runs(
        of=np.zeros(count, RUN),
        times=np.zeros((count, shop.legs.shape[1]), TIME),
        joins=np.full(len(items), -1),
        heads=np.full(len(items), -1),
        slot_unit=np.zeros(slots, np.int64),
        kept=np.zeros((count, fixed.used.shape[1])),
        kept_by=np.zeros((count, fixed.used.shape[1]), np.int64),
    )
