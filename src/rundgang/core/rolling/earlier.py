"""Earlier: the same window from an earlier beginning, so that what had begun before it has its place in it."""

from rundgang.core.opening import Opening
from rundgang.core.orders import LONGEST_WINDOW_MIN
from rundgang.core.rolling.shifting import later_conditions, later_window, shifted
from rundgang.core.rolling.state import blocks_at, heated_at, last_at, stocks_at, worn_at
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


def most_earlier_min(scenario: Scenario) -> int:
    """How much earlier its window can begin, in whole hours, min: nothing in it is more than a week from there."""
    deliveries = (delivery.at_min for stock in scenario.stocks for delivery in stock.deliveries)
    last = max((scenario.window.minutes, *deliveries, *(block.from_min for block in scenario.blocks)))
    return max(0, int((LONGEST_WINDOW_MIN - last) // MINUTES_PER_HOUR) * int(MINUTES_PER_HOUR))


def begun_earlier(scenario: Scenario, minutes: int) -> Scenario:
    """A scenario whose window begins so many whole hours earlier and ends when it did, min.

    Nothing else is different: the moments are the same, counted from there. Ovens, tools and stock were at the earlier
    beginning what they were at the later.

    Raises
    ------
    MalformedError
        The parts do not agree any more.
    """
    begin, opening = float(-minutes), scenario.opening
    longer = scenario.window.minutes + minutes
    return scenario.going_on(
        window=later_window(scenario.window, begin, longer),
        waves=tuple(wave.model_copy(update={"departs_min": wave.departs_min - begin}) for wave in scenario.waves),
        conditions=later_conditions(scenario.conditions, begin, longer),
        stocks=stocks_at(scenario, begin, {}),
        finished=tuple(lot.model_copy(update={"made_min": lot.made_min - begin}) for lot in scenario.finished),
        blocks=blocks_at(scenario.blocks, begin),
        absences=tuple(
            away.model_copy(update={"from_min": away.from_min - begin, "to_min": away.to_min - begin})
            for away in scenario.absences
        ),
        opening=Opening(
            now_min=opening.now_min - begin,
            begun=tuple(shifted(run, begin) for run in opening.begun),
            heated=heated_at(scenario, ()),
            worn=worn_at(scenario, begin, (), ()),
            last=last_at(scenario, begin, ()),
            gives=opening.gives,
            loaded=opening.loaded,
        ),
    )
