"""Materials as they were weighed: what batches took more, or less, than their cards ask for is in the stock."""

from rundgang.core.scenario import Scenario
from rundgang.store.repository import Repository


def as_weighed(store: Repository, scenario: Scenario) -> Scenario:
    """The window's scenario with its materials as if what was weighed otherwise had been so before."""
    off = store.lots.weighed_off()
    if not off:
        return scenario
    stocks = (
        stock.model_copy(update={"on_hand": stock.on_hand - off.get(stock.item, 0.0)}) for stock in scenario.stocks
    )
    return scenario.changed(stocks=tuple(stocks))
