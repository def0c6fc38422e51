"""What a plan is worth: packs short and late by wave, changeovers, surplus.

Packs leave a run evenly: pack i of P is made u i / P after the first piece reaches the last station's
end. A pack belongs to the first wave whose demand it fills.
"""

from itertools import pairwise
from math import floor

from rundgang.core.planning.decode import Placed
from rundgang.core.planning.lots import Lot
from rundgang.core.planning.plan import Score, WaveOutcome
from rundgang.core.units import MINUTES_PER_HOUR

ON_TIME_MIN = 1e-6
"""A pack made this little after the lorry leaves is on time, min."""


def outcomes(lots: tuple[Lot, ...], runs: tuple[Placed, ...]) -> tuple[WaveOutcome, ...]:
    """What every wave gets of every product, in the order of the lots (by departure)."""
    found = []
    given: dict[str, int] = {}
    for lot in lots:
        own = tuple(run for run in runs if run.product == lot.product)
        first = given.get(lot.product, 0)
        given[lot.product] = first + lot.packs
        found.append(_outcome(lot, own, first))
    return tuple(found)


def _outcome(lot: Lot, runs: tuple[Placed, ...], first: int) -> WaveOutcome:
    """The lot's packs are those from number first + 1 on, counted over the product's runs in order."""
    short, hours, ready = 0, 0.0, None
    before, reached = 0, 0
    for run in sorted(runs, key=lambda run: run.first_pack_min):
        begin, end = max(first - before, 0), min(first + lot.packs - before, run.packs)
        if begin < end:
            late = _late_from(run, lot.departs_min, begin, end)
            short += end - late
            hours += _late_hours(run, lot.departs_min, late, end)
            ready = made_at(run, end)
            reached += end - begin
        before += run.packs
    complete = reached == lot.packs
    return WaveOutcome(
        wave=lot.wave,
        product=lot.product,
        packs=lot.packs,
        short=short + lot.packs - reached,
        late_pack_hours=hours,
        ready_min=ready if complete else None,
    )


def made_at(run: Placed, pack: int) -> float:
    """When pack number `pack` of a run is made, min."""
    return run.first_pack_min + run.feed_min * pack / run.packs


def _late_from(run: Placed, departs_min: float, begin: int, end: int) -> int:
    """Number of the last pack made in time, of those numbered begin + 1 to end; `begin` where none is."""
    in_time = floor((departs_min + ON_TIME_MIN - run.first_pack_min) * run.packs / run.feed_min)
    return min(max(in_time, begin), end)


def _late_hours(run: Placed, departs_min: float, late: int, end: int) -> float:
    """Packs x hours late of the packs numbered late + 1 to end: an arithmetic series."""
    count = end - late
    numbers = count * (late + 1 + end) / 2
    minutes = count * (run.first_pack_min - departs_min) + run.feed_min / run.packs * numbers
    return minutes / MINUTES_PER_HOUR if count else 0.0


def score(runs: tuple[Placed, ...], waves: tuple[WaveOutcome, ...]) -> Score:
    """The parts a plan is judged by."""
    ordered = sum(wave.packs for wave in waves)
    return Score(
        packs_short=sum(wave.short for wave in waves),
        late_pack_hours=sum(wave.late_pack_hours for wave in waves),
        changeover_min=sum(max(0.0, then.start_min - run.start_min - run.feed_min) for run, then in pairwise(runs)),
        surplus_packs=sum(run.packs for run in runs) - ordered,
        last_pack_min=max((run.last_pack_min for run in runs), default=0.0),
    )
