"""The rest of a dough: one dough divided into two products, where the last dough of a run has room for the next run.

A run whose dough is that of the run before it on its line takes its first pieces from that one's last dough, if that
makes it one dough fewer, and if they are divided before the dough is too old.
"""

from rundgang.core.batching import saving_pieces
from rundgang.core.compiled import inner
from rundgang.core.planning.decode.arrays import SAME_MOMENT_MIN, UNTIL_USED, WHOLE, Fixed, Runs, ShopArrays, State


@inner
def rest_for(shop: ShopArrays, runs: Runs, before: int, p: int, need: int) -> int:
    """Pieces of a run that the last dough of the run before it is made larger by; 0 where it is not.

    What is drawn of a material that binds is drawn dough by dough: there each run keeps to its own.
    """
    if before < 0:
        return 0
    made, product = runs.of[before], shop.products[p]
    of = shop.products[made.product]
    if of.dough != product.dough or made.last == 0 or product.first_draw < product.end_draw:
        return 0
    if made.begun < shop.now - SAME_MOMENT_MIN:
        return 0
    room_kg = min(of.most * of.kg, product.most * product.kg) - made.last * of.kg
    pieces = saving_pieces(need, product.most)
    return pieces if pieces * product.kg <= room_kg + WHOLE else 0


@inner
def rest_in_time(shop: ShopArrays, runs: Runs, run: int, state: State) -> bool:
    """Whether a run divides what it has of the dough before it in time, and that one's trough can be kept so long."""
    made = runs.of[run]
    if made.shared == 0:
        return True
    before, until = runs.of[made.shared_of], _rest_divided(runs, run)
    if until > before.last_at + shop.products[made.product].age_span + SAME_MOMENT_MIN:
        return False
    if before.trough < 0:
        return True
    place = _kept(state, before.trough, before.into)
    return bool(place + 1 == state.filled[before.trough] or until <= state.uses[before.trough, place + 1].begin)


@inner
def _rest_divided(runs: Runs, run: int) -> float:
    """When the last piece of another run's dough is divided for a run, min."""
    return float(runs.times[run, 0].start + 60.0 * runs.of[run].shared / runs.of[run].pace)


@inner
def _kept(state: State, trough: int, into: float) -> int:
    """Where among the stretches of a trough the one stands that begins at a moment."""
    place = state.filled[trough] - 1
    while place > 0 and state.uses[trough, place].begin != into:
        place -= 1
    return int(place)


@inner
def keep_rest(shop: ShopArrays, runs: Runs, run: int, doughs: int, state: State) -> None:
    """Keep the trough of the dough that a run has the rest of until that is divided, and note its own last dough."""
    made = runs.of[run]
    if made.shared > 0 and runs.of[made.shared_of].trough >= 0:
        before = runs.of[made.shared_of]
        use = state.uses[before.trough, _kept(state, before.trough, before.into)]
        use.end = max(use.end, _rest_divided(runs, run))
    made.last, made.trough = (state.sizes[doughs - 1] if doughs > 0 else 0), -1
    made.last_at = runs.times[run, 0].start + 60.0 * (made.pieces - made.last) / made.pace
    stream = shop.streams[shop.products[made.product].first_stream]
    made.begun, slot = made.last_at, made.first_slot + (doughs - 1) * (stream.end_need - stream.first_need)
    for place in range(stream.first_need, stream.end_need):
        need = shop.needs[place]
        made.begun = min(made.begun, made.last_at - need.before)
        if need.how == UNTIL_USED and doughs > 0:
            made.trough, made.into = runs.slot_unit[slot + place - stream.first_need], made.last_at - need.before


@inner
def begin_rest(fixed: Fixed, runs: Runs, run: int) -> None:
    """The last dough of a run that is fixed."""
    made, known = runs.of[run], fixed.runs[run]
    made.shared, made.shared_of, made.last, made.trough = 0, -1, known.last, known.trough
    made.last_at, made.begun, made.into = known.last_at, known.begun, known.into
