"""The evening: what is asked of hours that are over beside their packs.

What each run gave of what it was to give, how far the plan was kept, for how long ovens burned without product, and
what was given away in pieces that were too heavy.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import pairwise
from typing import NamedTuple

from rundgang.core.floor.followed import Counted
from rundgang.core.floor.now import planned_share
from rundgang.core.model import Id, Model
from rundgang.core.money import kilogram_price
from rundgang.core.planning.model import CutRun, LinePlan, Run
from rundgang.core.planning.score import empty_ovens
from rundgang.core.scenario import Scenario
from rundgang.core.weights import giveaway_kg


class RunMade(Model):
    """What a run, or what is cut out of it, gave in some hours.

    Attributes
    ----------
    planned, made : int
        Packs that were to come in these hours, and that were counted while it was the one to give them.
    first_pack_min, last_pack_min : float
        From when until when it gave packs, as the counters saw it, min.
    late_min : float
        By how much its last pack came later than planned, min.
    """

    run: str
    product: Id
    planned: int
    made: int
    first_pack_min: float
    last_pack_min: float
    late_min: float


class OvenSpell(Model):
    """An oven burned without product, min."""

    station: Id
    from_min: float
    until_min: float


class Weighed(NamedTuple):
    """What pieces of a product weighed at the divider, in the mean, and should have, g; and how many were weighed."""

    pieces: int
    mean_g: float
    target_g: float


class GivenAway(Model):
    """What was given away of a product: so many pieces, each heavier than it should be; below nothing, lighter.

    Attributes
    ----------
    weighed : int
        Pieces that say so.
    money : float or None
        What that dough costs; None where something of it has no price.
    """

    product: Id
    weighed: int
    mean_g: float
    target_g: float
    pieces: int
    kg: float
    money: float | None


class _Giving(NamedTuple):
    """A run, or what is cut out of it, as it gave packs: from when until when, min, and how many."""

    run: str
    product: str
    first_min: float
    last_min: float
    packs: int

    def off(self, minute: float) -> float:
        """How far it is from giving packs at a moment, min."""
        return max(0.0, self.first_min - minute, minute - self.last_min)

    @property
    def per_min(self) -> float:
        return self.packs / max(1e-9, self.last_min - self.first_min)


def runs_made(
    scenario: Scenario, plan: LinePlan, going: LinePlan, packed: Mapping[str, Counted], begin: float, until: float
) -> tuple[RunMade, ...]:
    """What the runs of a line gave between two moments, in the order in which they came; those of nothing left out.

    A pack that is counted is of the run that is giving packs at that station; of the nearest where none is, and where
    two are, of each by its pace. All packs that were counted are of some run.

    Parameters
    ----------
    plan, going : LinePlan
        As it was planned, and as it went.
    packed : mapping of str to Counted
        By station at which runs end, its count.
    """
    at: dict[str, list[_Giving]] = {}
    for run in going.giving:
        last = scenario.product(run.product).piece_steps[-1].station
        at.setdefault(last, []).append(_giving(run))
    made: dict[tuple[str, str], float] = {}
    for station, counted in packed.items():
        for one, packs in _shared(at.get(station, []), counted, begin, until):
            made[one.run, one.product] = made.get((one.run, one.product), 0.0) + packs
    whole = _whole(made, sum(_rose(counted, begin, until) for counted in packed.values()))
    was = {_key(run): run for run in plan.giving}
    found = list[RunMade]()
    for run in sorted(going.giving, key=lambda run: run.first_pack_min):
        before = was.get(_key(run), run)
        planned = round(before.packs * planned_share(before, until)) - round(
            before.packs * planned_share(before, begin)
        )
        if planned or whole.get(_key(run)):
            found.append(
                RunMade(
                    run=_key(run)[0],
                    product=run.product,
                    planned=planned,
                    made=whole.get(_key(run), 0),
                    first_pack_min=run.first_pack_min,
                    last_pack_min=run.last_pack_min,
                    late_min=run.last_pack_min - before.last_pack_min,
                )
            )
    return tuple(found)


def _key(run: Run | CutRun) -> tuple[str, str]:
    return (run.id if isinstance(run, Run) else run.run), run.product


def _giving(run: Run | CutRun) -> _Giving:
    return _Giving(*_key(run), run.first_pack_min, run.last_pack_min, run.packs)


def _rose(counted: Counted, begin: float, until: float) -> int:
    return round(counted.risen_by(until)) - round(counted.risen_by(begin))


def _shared(
    giving: Sequence[_Giving], counted: Counted, begin: float, until: float
) -> Iterator[tuple[_Giving, float]]:  # fmt: skip
    """Who gave how many of the packs that a station counted."""
    if not giving:
        return
    ends = sorted({minute for one in giving for minute in (one.first_min, one.last_min)})
    # Where none gives packs, the nearest is another one from half-way between two on.
    halfway = {(one + then) / 2 for one, then in pairwise(ends)}
    within = {minute for minute in halfway | {*ends} if begin < minute < until}
    for first, then in pairwise(sorted({begin, until} | within)):
        middle = (first + then) / 2
        near = min(one.off(middle) for one in giving)
        there = [one for one in giving if one.off(middle) == near]
        rose, pace = counted.between(first, then), sum(one.per_min for one in there)
        for one in there:
            yield one, rose * (one.per_min / pace if pace else 1 / len(there))


def _whole(made: Mapping[tuple[str, str], float], total: int) -> dict[tuple[str, str], int]:
    """Whole packs that add up to all."""
    found, before, shared, done = dict[tuple[str, str], int](), 0.0, 0, max(1e-9, sum(made.values()))
    for key, packs in made.items():
        before += packs
        found[key] = round(before / done * total) - shared
        shared += found[key]
    return found


def adherence(runs: Iterable[RunMade]) -> float | None:
    """How far the plan was kept: of what was planned of each product, how much was made, of 1.

    More of one product makes up for nothing of another. None where nothing was planned. Common practice, no published
    source.
    """
    planned, made = dict[str, int](), dict[str, int]()
    for run in runs:
        planned[run.product] = planned.get(run.product, 0) + run.planned
        made[run.product] = made.get(run.product, 0) + run.made
    total = sum(planned.values())
    kept = sum(min(packs, made[product]) for product, packs in planned.items())
    return kept / total if total else None


def oven_spells(scenario: Scenario, going: LinePlan, begin: float, until: float) -> Iterator[OvenSpell]:
    """When a line's ovens burned without product between two moments, as its runs went."""
    for empty in empty_ovens(scenario, going.runs):
        first, last = max(begin, empty.until_min - empty.minutes), min(until, empty.until_min)
        if first < last:
            yield OvenSpell(station=empty.station, from_min=first, until_min=last)


def given_away(
    scenario: Scenario, runs: Iterable[RunMade], weighed: Mapping[str, Weighed]
) -> Iterator[GivenAway]:  # fmt: skip
    """What was given away of each product that was weighed at the divider."""
    made = dict[str, int]()
    for run in runs:
        made[run.product] = made.get(run.product, 0) + run.made
    for product_id, found in weighed.items():
        product = scenario.product(product_id)
        pieces = round(made.get(product_id, 0) * product.scaled_per_pack)
        kg, price = giveaway_kg(found.mean_g, found.target_g, pieces), kilogram_price(scenario, scenario.whole(product))
        yield GivenAway(
            product=product_id,
            weighed=found.pieces,
            mean_g=found.mean_g,
            target_g=found.target_g,
            pieces=pieces,
            kg=kg,
            money=None if price is None else kg * price,
        )
