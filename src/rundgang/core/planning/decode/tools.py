"""Tools: worn run by run, and renewed before the run in which their life would end."""

import numpy as np

from rundgang.core.compiled import Records, compiled, inner
from rundgang.core.planning.decode.arrays import SAME_MOMENT_MIN, WHOLE, Runs, ShopArrays


@compiled
def begin_tools(shop: ShopArrays, tools: Records) -> None:
    """Every tool as it is when the window starts."""
    for tool in range(len(shop.tools)):
        known = tools[tool]
        known.worn, known.since, known.left = shop.tools[tool].worn, 0.0, -np.inf
        if shop.tools[tool].by_days:
            known.worn, known.since = 0.0, -shop.tools[tool].worn


@inner
def _used(shop: ShopArrays, runs: Runs, run: int, use: int) -> tuple[float, float, float]:
    """When a run enters and leaves where a tool is worn, min, and what it wears of it."""
    of = shop.tool_uses[use]
    time = runs.times[run, of.leg]
    enters = time.start + of.offset
    return enters, enters + time.feed + of.stay, runs.of[run].pieces * of.per_piece + (time.feed + of.stay) * of.per_min


@inner
def _so_far(shop: ShopArrays, tools: Records, tool: int, enters: float) -> tuple[float, float]:
    """How far a tool is worn when a run enters, and since when it has been in: after the closings that renew it."""
    worn, since = tools[tool].worn, tools[tool].since
    for place in range(len(shop.renewals)):
        until = shop.renewals[place].until
        if shop.renewals[place].tool == tool and since < until <= enters + SAME_MOMENT_MIN:
            worn, since = 0.0, until
    return worn, since


@inner
def _ends_in(shop: ShopArrays, tools: Records, tool: int, enters: float, leaves: float, wears: float) -> bool:
    """Whether the life of a tool would end while a run wears it."""
    worn, since = _so_far(shop, tools, tool, enters)
    had = leaves - since if shop.tools[tool].by_days else worn + wears
    return bool(had > shop.tools[tool].life * (1 + WHOLE))


@inner
def tool_delay(shop: ShopArrays, runs: Runs, run: int, tools: Records) -> tuple[float, int]:
    """By how much a run must wait for a new tool, min, and for which; inf where it would wear out a new one."""
    product = shop.products[runs.of[run].product]
    for use in range(product.first_tool, product.end_tool):
        tool = shop.tool_uses[use].tool
        enters, leaves, wears = _used(shop, runs, run, use)
        if not shop.tool_uses[use].wears:
            continue
        alone = leaves - enters if shop.tools[tool].by_days else wears
        if alone > shop.tools[tool].life * (1 + WHOLE):
            return np.inf, tool
        if _ends_in(shop, tools, tool, enters, leaves, wears):
            ready = max(tools[tool].left, shop.now) + shop.tools[tool].renew
            if ready > enters + SAME_MOMENT_MIN:
                return ready - enters, tool
    return 0.0, -1


@compiled
def wear_tool(shop: ShopArrays, runs: Runs, run: int, use: int, tools: Records) -> float:
    """Count what a run wears of a tool, renewed before it where its life would end; how far it was worn then, or -1."""
    tool = shop.tool_uses[use].tool
    enters, leaves, wears = _used(shop, runs, run, use)
    if not shop.tool_uses[use].wears:
        tools[tool].left = max(tools[tool].left, leaves)
        return -1.0
    worn, since = _so_far(shop, tools, tool, enters)
    had = -1.0
    if _ends_in(shop, tools, tool, enters, leaves, wears):
        had = enters - since if shop.tools[tool].by_days else worn
        worn, since = 0.0, enters
    known = tools[tool]
    known.worn, known.since, known.left = worn + wears, since, max(known.left, leaves)
    return had


@inner
def wear_tools(shop: ShopArrays, runs: Runs, run: int, tools: Records) -> None:
    """Count what a run wears."""
    product = shop.products[runs.of[run].product]
    for use in range(product.first_tool, product.end_tool):
        wear_tool(shop, runs, run, use, tools)
