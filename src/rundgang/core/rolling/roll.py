"""The roll: from a window, at a moment of it, to the next, which goes on from there and ends later.

The next window counts from a whole hour before all that comes along, so that what has begun stays in it as it was, to
the minute; nothing new begins in it before the moment of the roll, its *now*.
"""

from collections.abc import Sequence
from math import ceil

from pydantic import Field

from rundgang.core.model import Id, Model
from rundgang.core.opening import Opening
from rundgang.core.orders import Block, Order, Wave
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.names import Names
from rundgang.core.planning.packs import Served, kept_orders, packs_by_now, with_loaded
from rundgang.core.rolling.carried import begins_min, carried_runs
from rundgang.core.rolling.shifting import later_conditions, later_window, shifted
from rundgang.core.rolling.state import blocks_at, drawn, heated_at, last_at, stocks_at, worn_at
from rundgang.core.scenario import Scenario


class Settled(Model):
    """What the old window leaves behind it: over, and counted nowhere else.

    Attributes
    ----------
    served : tuple of Served
        What lorries that have left got, and what they did not.
    thrown : dict of str to int
        Packs too old for their lorry, by product.
    drawn : dict of str to float
        What the runs have drawn that are over, by material, kg or pieces.
    runs : int
        Runs that are over.
    """

    served: tuple[Served, ...] = ()
    thrown: dict[Id, int] = Field(default_factory=dict)
    drawn: dict[str, float] = Field(default_factory=dict)
    runs: int = 0

    @property
    def sent(self) -> int:
        """Packs that went."""
        return sum(one.sent for one in self.served)

    @property
    def short(self) -> int:
        """Packs that lorries did not get."""
        return sum(one.short for one in self.served)


class Rolled(Model):
    """The next window, and what is over.

    Attributes
    ----------
    begin_min : float
        Where its minute 0 is, from the old window's start, min.
    scenario : Scenario
        At the moment of the roll, with all that has begun.
    book : tuple of Order
        All orders that are not over, those for lorries beyond the window too.
    plans : tuple of LinePlan
        The plans that the floor works by, from its view, as far as they are not over.
    """

    begin_min: float
    scenario: Scenario
    book: tuple[Order, ...]
    plans: tuple[LinePlan, ...]
    settled: Settled


def roll(
    scenario: Scenario,
    plans: Sequence[LinePlan],
    book: Sequence[Order],
    *,
    until_min: float,
    waves: Sequence[Wave],
    blocks: Sequence[Block],
) -> Rolled:
    """Go on to the next window.

    Parameters
    ----------
    scenario : Scenario
        The window at the moment of the roll, with what has begun by then.
    plans : sequence of LinePlan
        What the floor works by.
    book : sequence of Order
        All orders, those for lorries beyond the window too.
    until_min : float
        Where the next window ends, from the old one's start, min.
    waves, blocks : sequence
        Lorries and closings until then, those of the old window too, from its start.

    Raises
    ------
    MalformedError
        The parts of the next window do not agree.
    """
    carried = carried_runs(scenario)
    begin, now = begins_min(scenario, carried), scenario.opening.now_min
    along, begun = {(run.line, run.id) for run in carried}, {(run.line, run.id) for run in scenario.opening.begun}
    gone = [run for run in scenario.opening.begun if (run.line, run.id) not in along]
    planned = [run for plan in plans for run in plan.runs if (run.line, run.id) not in begun]
    packs, names = packs_by_now(scenario, planned, carried), Names.kept((*carried, *planned))
    served = with_loaded(book, packs.served, scenario.opening.loaded)
    kept = kept_orders(book, served)
    owed = {order.wave for order in kept}
    minutes = ceil(until_min - begin)
    later = tuple(
        wave.model_copy(update={"departs_min": wave.departs_min - begin})
        for wave in waves
        if (wave.loaded_by_min > now or wave.id in owed) and wave.departs_min <= until_min
    )
    known = {wave.id for wave in later}
    used = drawn(scenario, gone)
    next_one = scenario.going_on(
        window=later_window(scenario.window, begin, minutes),
        waves=later,
        orders=tuple(order for order in kept if order.wave in known),
        conditions=later_conditions(scenario.conditions, begin, minutes),
        stocks=stocks_at(scenario, begin, used),
        finished=tuple(lot.model_copy(update={"made_min": lot.made_min - begin}) for lot in packs.lots),
        blocks=blocks_at(blocks, begin),
        opening=Opening(
            now_min=now - begin,
            begun=tuple(shifted(names.of(run), begin) for run in carried),
            heated=heated_at(scenario, gone),
            worn=worn_at(scenario, begin, gone, plans),
            last=last_at(scenario, begin, gone),
            gives=tuple(one for one in scenario.opening.gives if (one.line, one.run) in along),
        ),
    )
    return Rolled(
        begin_min=begin,
        scenario=next_one,
        book=kept,
        plans=tuple(shifted(names.of_plan(plan), begin) for plan in plans),
        settled=Settled(served=served, thrown=packs.thrown, drawn=used, runs=len(gone)),
    )
