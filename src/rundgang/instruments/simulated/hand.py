"""The hand that weighs up in the simulated plant: it puts on each scale what the guide asks for next, a little off.

It goes by the record: the batch that somebody has begun to weigh is at hand, or where there is none, the one that the
plan begins next.
"""

from collections.abc import Iterator
from datetime import timedelta
from math import inf
from typing import NamedTuple

from rundgang.clock import Clock
from rundgang.core.dough.card import find_card
from rundgang.core.errors import UnknownItemError
from rundgang.core.floor.record import made_batches
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario
from rundgang.instruments.simulated.chance import Chance
from rundgang.store.repository import Repository

AT_HAND = timedelta(hours=4)
"""A batch that somebody began to weigh longer ago is not at hand any more."""

BEHIND_MIN = 5.0
"""A batch that is not begun is weighed up until so long after it was to be mixed, min."""

SPREAD_SHARE = 0.0006
"""What a careful hand is off by, by one standard deviation, of what is to be weighed."""


class _Coming(NamedTuple):
    """A batch of a plan: where it is mixed, and when that is to begin, min."""

    line: str
    station: str
    run: str
    key: str
    start_min: float


class Hand:
    """Whoever weighs up by a published plan."""

    def __init__(self, scenario: Scenario, plans: tuple[LinePlan, ...], chance: Chance) -> None:
        self.scenario, self.chance = scenario, chance
        self._plans = {plan.line: plan for plan in plans}
        self._coming = sorted(self._batches(plans), key=lambda one: one.start_min)
        self._asked = dict[tuple[str, str, str], tuple[tuple[str, int], ...]]()

    def _batches(self, plans: tuple[LinePlan, ...]) -> Iterator[_Coming]:
        for plan in plans:
            at = {
                mixer: station.id
                for station in self.scenario.line(plan.line).batch_stations
                for mixer in station.mixers
            }
            for made in made_batches(self.scenario, plan, inf):
                yield _Coming(plan.line, at[made.mixer], made.name.run, made.name.key, made.start_min)

    def on_scales(self, store: Repository, clock: Clock) -> dict[tuple[str, str], float]:
        """What lies on the scale of each mixing station, g."""
        now_min = clock.minute_of(self.scenario.window.starts_at)
        weighed = {(lot.line, lot.run, lot.batch): items for lot, items in store.lots.at_hand(clock.now() - AT_HAND)}
        begun, coming = dict[tuple[str, str], _Coming](), dict[tuple[str, str], _Coming]()
        for one in self._coming:
            place = one.line, one.station
            if (one.line, one.run, one.key) in weighed:
                begun[place] = one
            elif one.start_min >= now_min - BEHIND_MIN:
                coming.setdefault(place, one)
        return {
            place: self._on_scale(one, weighed.get((one.line, one.run, one.key), frozenset()))
            for place, one in (coming | begun).items()
        }

    def _on_scale(self, one: _Coming, weighed: frozenset[str]) -> float:
        for item, grams in self._wanted(one):
            if item not in weighed:
                off = self.chance.of("scale", one.line, one.run, one.key, item).gauss(0, SPREAD_SHARE)
                return float(round(grams * (1 + off)))
        return 0.0

    def _wanted(self, one: _Coming) -> tuple[tuple[str, int], ...]:
        """What a batch's card asks for, in the order in which it goes in, g."""
        batch = one.line, one.run, one.key
        if batch not in self._asked:
            try:
                card = find_card(self.scenario, self._plans[one.line], one.run, one.key)
            except UnknownItemError:
                self._asked[batch] = ()
            else:
                listed = sorted(card.ingredients, key=lambda line: line.at_min)
                self._asked[batch] = tuple((line.ingredient, line.grams) for line in listed)
        return self._asked[batch]
