"""Room for the decoder to work in, large enough for every order of the items."""

import numpy as np

from rundgang.core.compiled import Records
from rundgang.core.planning.decode.arrays import (
    AT_WORK,
    KEPT,
    LEVEL,
    OVER,
    RUN,
    SETTLING,
    STRETCH,
    TIME,
    WORN,
    Fixed,
    Runs,
    ShopArrays,
    State,
)

SMALLEST_BATCH_KG = 1e-3


def _most_batches(shop: ShopArrays, item: Records) -> tuple[int, int]:
    """Batches of one stream, and units of all, that a run of an item takes at most."""
    article = shop.products[item["product"]]
    found = [
        _most_of_class(shop, item, shop.products[place])
        for place in range(article["article"], article["article"] + article["classes"])
    ]
    return max(most for most, _ in found), max(slots for _, slots in found)


def _most_of_class(shop: ShopArrays, item: Records, product: Records) -> tuple[int, int]:
    pieces = float(item["packs"] * product["ratio"])
    most = slots = 0
    for stream in shop.streams[product["first_stream"] : product["end_stream"]]:
        if stream["ratio"] == 0:
            many = int(pieces / product["most"]) + 2
        else:
            smallest = max(min(stream["least"], stream["most"]), SMALLEST_BATCH_KG)
            many = int(pieces * stream["ratio"] / smallest) + 2
        most = max(most, many)
        slots += many * int(stream["end_need"] - stream["first_need"])
    return most, slots


def make_state(shop: ShopArrays, fixed: Fixed, items: Records) -> State:
    """Working room."""
    sizes = [_most_batches(shop, item) for item in items]
    stretches = 4 + sum(slots for _, slots in sizes) + len(fixed.taken)
    batches = 4 + sum(most for most, _ in sizes)
    units = int(shop.pools["end"].max(initial=0))
    people = (len(items) + len(fixed.runs) + 1) * (len(shop.uses) + 1)
    draws = (batches + len(items)) * len(shop.draws) + 1
    return State(
        uses=np.zeros((units, stretches), STRETCH),
        filled=np.zeros(units, np.int64),
        turn=np.zeros(len(shop.pools), np.int64),
        people=np.zeros(people, AT_WORK),
        line_end=np.zeros(shop.lines),
        line_last=np.zeros(shop.lines, np.int64),
        over=np.zeros(len(shop.products), OVER),
        settling=np.zeros(shop.legs.shape[1], SETTLING),
        sizes=np.zeros(batches, np.int64),
        used=np.zeros(batches + 1),
        next_place=np.zeros(len(items), np.int64),
        tools=np.zeros(len(shop.tools), WORN),
        drawn=np.zeros((shop.stocks, draws + len(fixed.drawn)), LEVEL),
        draws=np.zeros(shop.stocks, np.int64),
        own=np.zeros(draws, LEVEL),
        kept=np.zeros(len(fixed.kept), KEPT),
    )


def make_runs(shop: ShopArrays, fixed: Fixed, items: Records) -> Runs:
    """Room for the runs."""
    count = len(items) + len(fixed.runs) + 1
    slots = 4 + sum(_most_batches(shop, item)[1] for item in items)
    return Runs(
        of=np.zeros(count, RUN),
        times=np.zeros((count, shop.legs.shape[1]), TIME),
        joins=np.full(len(items), -1),
        slot_unit=np.zeros(slots, np.int64),
        kept=np.zeros((count, fixed.used.shape[1])),
        kept_by=np.zeros((count, fixed.used.shape[1]), np.int64),
    )
