"""What a plan is worth: packs short and late by wave, changeovers, surplus.

Packs leave a run evenly: pack i of P is made u i / P after the first piece reaches the last station's
end. A pack belongs to the first wave whose demand it fills; one that is too old for a wave is thrown away,
for it is too old for all later ones as well.
"""

from math import floor

from rundgang.core.planning.decode import Placed
from rundgang.core.planning.lots import Lot
from rundgang.core.planning.plan import Score, WaveOutcome
from rundgang.core.units import MINUTES_PER_HOUR

ON_TIME_MIN = 1e-6
"""A pack made this little after the lorry leaves is on time, min."""


def outcomes(lots: tuple[Lot, ...], runs: tuple[Placed, ...]) -> tuple[WaveOutcome, ...]:
    """What every wave gets of every product, in the order of the lots (by departure)."""
    own: dict[str, list[Placed]] = {}
    for run in sorted(runs, key=lambda run: run.first_pack_min):
        own.setdefault(run.product, []).append(run)
    found = []
    given: dict[str, int] = {}
    for lot in lots:
        mine, first = own.get(lot.product, []), given.get(lot.product, 0)
        stale = max(0, _made_in_all(mine, lot.fresh_from_min - ON_TIME_MIN) - first)
        given[lot.product] = first + stale + lot.packs
        found.append(_outcome(lot, mine, first + stale, stale))
    return tuple(found)


def _outcome(lot: Lot, runs: list[Placed], first: int, stale: int) -> WaveOutcome:
    """The lot's packs are those from number first + 1 on, counted over the product's runs in order."""
    short, hours, ready = 0, 0.0, None
    before, reached = 0, 0
    for run in runs:
        begin, end = max(first - before, 0), min(first + lot.packs - before, run.packs)
        if begin < end:
            late = _made_by(run, lot.departs_min + ON_TIME_MIN, begin, end)
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
        stale=stale,
        ready_min=ready if complete else None,
    )


def made_at(run: Placed, pack: int) -> float:
    """When pack number `pack` of a run is made, min."""
    return run.first_pack_min + run.feed_min * pack / run.packs


def _made_in_all(runs: list[Placed], minute: float) -> int:
    """Packs that the runs have made by a minute."""
    return sum(_made_by(run, minute, 0, run.packs) for run in runs)


def _made_by(run: Placed, minute: float, begin: int, end: int) -> int:
    """Number of the last pack made by a minute, of those numbered begin + 1 to end; `begin` where none is."""
    made = floor((minute - run.first_pack_min) * run.packs / run.feed_min)
    return min(max(made, begin), end)


def _late_hours(run: Placed, departs_min: float, late: int, end: int) -> float:
    """Packs x hours late of the packs numbered late + 1 to end: an arithmetic series."""
    count = end - late
    numbers = count * (late + 1 + end) / 2
    minutes = count * (run.first_pack_min - departs_min) + run.feed_min / run.packs * numbers
    return minutes / MINUTES_PER_HOUR if count else 0.0


def score(runs: tuple[Placed, ...], waves: tuple[WaveOutcome, ...], cut_outs: frozenset[str] = frozenset()) -> Score:
    """The parts a plan is judged by; `cut_outs` are the products cut out of others, which follow them."""
    ordered = sum(wave.packs for wave in waves if wave.product not in cut_outs)
    return Score(
        packs_short=sum(wave.short for wave in waves),
        late_pack_hours=sum(wave.late_pack_hours for wave in waves),
        packs_stale=sum(wave.stale for wave in waves),
        changeover_min=sum(run.changeover_min for run in runs),
        surplus_packs=sum(run.packs for run in runs) - ordered,
        last_pack_min=max((run.last_pack_min for run in runs), default=0.0),
    )
