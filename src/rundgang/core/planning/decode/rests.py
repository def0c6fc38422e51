"""What a run leaves for the next: the rest of its last dough, and what is over of its fillings.

A run whose dough is that of the run before it on its line takes its first pieces from that one's last dough, if that
makes it one dough fewer, and if they are divided before the dough is too old. A run that uses a filling of which the
tank still holds some uses that first, if it is used up before it is too old.
"""

from rundgang.core.batching import saving_pieces
from rundgang.core.compiled import inner
from rundgang.core.planning.decode.arrays import (
    CRUMB_KG,
    FOR_THE_RUN,
    SAME_MOMENT_MIN,
    UNTIL_USED,
    WHOLE,
    Fixed,
    Runs,
    ShopArrays,
    State,
)
from rundgang.core.planning.decode.units import can_keep, own_batches, stretch_at


@inner
def begin_rests(fixed: Fixed, state: State) -> None:
    """Only what fixed runs leave of fillings is left."""
    for filling in range(len(fixed.kept)):
        kept, known = state.kept[filling], fixed.kept[filling]
        kept.by, kept.tank, kept.kg = known.by, known.tank, known.kg
        kept.begin, kept.free, kept.old = known.begin, known.free, known.old


@inner
def begin_rest(fixed: Fixed, runs: Runs, run: int) -> None:
    """The last dough of a run that is fixed, and what it uses of what is left."""
    made, known = runs.of[run], fixed.runs[run]
    made.shared, made.shared_of, made.last, made.trough = 0, -1, known.last, known.trough
    made.last_at, made.begun, made.into = known.last_at, known.begun, known.into
    for stream in range(fixed.used.shape[1]):
        runs.kept[run, stream], runs.kept_by[run, stream] = fixed.used[run, stream], -1


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
    """Whether a run divides what it has of the dough before it when that has rested, and before it is too old.

    Its trough must be kept so long. A run with a divider of its own may start before that dough has rested.
    """
    made = runs.of[run]
    if made.shared == 0:
        return True
    before, until = runs.of[made.shared_of], _rest_divided(runs, run)
    if runs.times[run, 0].start < before.last_at - SAME_MOMENT_MIN:
        return False
    if until > before.last_at + shop.products[made.product].age_span + SAME_MOMENT_MIN:
        return False
    pool = _pool(shop, shop.products[made.product].first_stream, UNTIL_USED)
    return before.trough < 0 or can_keep(shop.rooms, state.units, pool, before.trough, before.into, until)


@inner
def _rest_divided(runs: Runs, run: int) -> float:
    """When the last piece of another run's dough is divided for a run, min."""
    return float(runs.times[run, 0].start + 60.0 * runs.of[run].shared / runs.of[run].pace)


@inner
def _pool(shop: ShopArrays, stream: int, how: int) -> int:
    """The pool of the unit that a stream takes in some way; -1 where it takes none so."""
    for need in range(shop.streams[stream].first_need, shop.streams[stream].end_need):
        if shop.rooms.needs[need].how == how:
            return int(shop.rooms.needs[need].pool)
    return -1


@inner
def find_kept(shop: ShopArrays, runs: Runs, run: int, state: State, wanted: bool) -> None:
    """Give a run what is left of its fillings in the tanks of its line, kg; nothing where that is not wanted.

    What is added at two steps is found once.
    """
    product = shop.products[runs.of[run].product]
    for stream in range(product.first_stream, product.end_stream):
        place, of = stream - product.first_stream, shop.streams[stream]
        runs.kept[run, place], runs.kept_by[run, place] = 0.0, -1
        again = False
        for other in range(product.first_stream + 1, stream):
            again = again or shop.streams[other].filling == of.filling
        if not wanted or of.filling < 0 or again:
            continue
        left = state.kept[of.filling]
        if left.by >= 0 and left.kg > CRUMB_KG and shop.products[runs.of[left.by].product].line == product.line:
            runs.kept[run, place] = min(left.kg, runs.of[run].pieces * of.ratio)
            runs.kept_by[run, place] = left.by


@inner
def has_kept(shop: ShopArrays, runs: Runs, run: int) -> bool:
    """Whether a run uses something that is left of a filling."""
    product = shop.products[runs.of[run].product]
    return bool(runs.kept[run, 1 : product.end_stream - product.first_stream].sum() > 0)


@inner
def kept_tank(shop: ShopArrays, runs: Runs, run: int, stream: int, state: State) -> int:
    """The tank of what a run finds left of a filling; -1 where it finds nothing."""
    if runs.kept[run, stream - shop.products[runs.of[run].product].first_stream] == 0:
        return -1
    return int(state.kept[shop.streams[stream].filling].tank)


@inner
def kept_in_time(shop: ShopArrays, runs: Runs, run: int, state: State) -> bool:
    """Whether a run uses up what it finds left before that is too old, and can keep the tank until it has done with it.

    Nobody else draws on the tank then, and nothing new comes into it before.
    """
    product = shop.products[runs.of[run].product]
    for stream in range(product.first_stream + 1, product.end_stream):
        kg = runs.kept[run, stream - product.first_stream]
        if kg == 0:
            continue
        of = shop.streams[stream]
        left, feed = state.kept[of.filling], runs.times[run, of.leg].feed
        start = runs.times[run, of.leg].start + of.offset
        used_up = start + kg / (runs.of[run].pieces * of.ratio) * feed
        pool, ripens, turn = _tank_times(shop, stream)
        fresh = used_up - ripens if own_batches(shop, runs, run, stream)[0] > 0 else start
        if used_up > left.old + SAME_MOMENT_MIN or min(start, fresh) < left.free - SAME_MOMENT_MIN:
            return False
        if not can_keep(shop.rooms, state.units, pool, left.tank, left.begin, start + feed + turn):
            return False
    return True


@inner
def _tank_times(shop: ShopArrays, stream: int) -> tuple[int, float, float]:
    """The pool of a filling's tank; how long a batch ripens before it is used, and the tank's turn-round, min."""
    pool, ripens, turn = -1, 0.0, 0.0
    for need in range(shop.streams[stream].first_need, shop.streams[stream].end_need):
        if shop.rooms.needs[need].how == FOR_THE_RUN:
            pool, ripens, turn = (
                shop.rooms.needs[need].pool,
                shop.rooms.needs[need].before,
                shop.rooms.needs[need].length,
            )
    return pool, ripens, turn


@inner
def keep_rests(shop: ShopArrays, runs: Runs, run: int, doughs: int, state: State) -> None:
    """Note what a run leaves, and keep the trough and the tanks of what it has found for as long as it needs them.

    What is left of a dough goes to one run only.
    """
    made = runs.of[run]
    if made.shared > 0:
        before = runs.of[made.shared_of]
        before.last = 0
        if before.trough >= 0:
            use = state.units.uses[before.trough, stretch_at(state.units, before.trough, before.into)]
            use.end = max(use.end, _rest_divided(runs, run))
    made.last, made.trough = (state.sizes[doughs - 1] if doughs > 0 else 0), -1
    made.last_at = runs.times[run, 0].start + 60.0 * (made.pieces - made.last) / made.pace
    product = shop.products[made.product]
    stream = shop.streams[product.first_stream]
    made.begun, slot = made.last_at, made.first_slot + (doughs - 1) * (stream.end_need - stream.first_need)
    for place in range(stream.first_need, stream.end_need):
        need = shop.rooms.needs[place]
        made.begun = min(made.begun, made.last_at - need.before)
        if need.how == UNTIL_USED and doughs > 0:
            made.trough, made.into = runs.slot_unit[slot + place - stream.first_need], made.last_at - need.before
    slot = made.first_slot + doughs * (stream.end_need - stream.first_need)
    for filling in range(product.first_stream + 1, product.end_stream):
        slot = _keep_filling(shop, runs, run, filling, slot, state)


@inner
def _keep_filling(shop: ShopArrays, runs: Runs, run: int, stream: int, slot: int, state: State) -> int:
    """Note what a run leaves of a filling in its tank, the first of its slots; where the next stream's begin."""
    of, low = shop.streams[stream], shop.products[runs.of[run].product].first_stream
    count, size = own_batches(shop, runs, run, stream)
    pool, ripens, turn = _tank_times(shop, stream)
    behind: int = slot + count * (of.end_need - of.first_need - (1 if pool >= 0 else 0)) + (1 if pool >= 0 else 0)
    if pool < 0:
        return behind
    kept, kg, total = state.kept[of.filling], runs.kept[run, stream - low], runs.of[run].pieces * of.ratio
    start, feed = runs.times[run, of.leg].start + of.offset, runs.times[run, of.leg].feed
    if kg > 0:
        use = state.units.uses[kept.tank, stretch_at(state.units, kept.tank, kept.begin)]
        use.end = max(use.end, start + feed + turn)
    else:
        kept.tank, kept.begin = runs.slot_unit[slot], start - ripens
    kept.free = start + feed
    if count == 0:
        kept.kg -= total
        return behind
    kept.kg = kg + count * size - total
    kept.old, kept.by = start + (kg + (count - 1) * size) / total * feed + of.age_span, run
    return behind
