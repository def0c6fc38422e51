"""A run that has begun, after a stop: paused where it is, or cut short to what had passed.

A pause is part of a run's feeding: what has passed the station goes on as it was, all that follows comes as much
later as the stop lasts. A run of which nothing has left the station yet is later as a whole in that leg.
"""

from rundgang.core.floor.stands import Stands
from rundgang.core.floor.stop import Stop
from rundgang.core.planning.model import Batch, FillingBatch, Run, RunLeg, split_items
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR

WHOLE = 1e-9
"""A count this little under a whole number is that number: what a product of yields loses as a float."""


def paused(one: Stands, stop: Stop, minutes: float, lost_packs: int) -> Run:
    """A run that comes so many minutes later by a stop, less the packs that were lost.

    Parameters
    ----------
    lost_packs : int
        The last of its lorries miss them.
    """
    run, whole = one.run, one.passing.first_out >= stop.from_min
    stood_from = one.from_min(stop)
    legs = [
        leg
        if place < one.leg
        else RunLeg(
            start_min=leg.start_min + (minutes if whole else 0), feed_min=leg.feed_min + (0 if whole else minutes)
        )
        for place, leg in enumerate(run.legs)
    ]
    batches = (
        tuple(_later(batch, stop.known_min, stood_from, minutes) for batch in run.batches)
        if one.leg == 0
        else run.batches
    )
    given = max(0, run.packs - lost_packs)
    return run.model_copy(
        update={
            "start_min": legs[0].start_min,
            "feed_min": legs[0].feed_min,
            "scaled_per_h": MINUTES_PER_HOUR * run.pieces / legs[0].feed_min,
            "later_legs": tuple(legs[1:]),
            "first_pack_min": run.first_pack_min + (minutes if whole else 0),
            "last_pack_min": run.last_pack_min + minutes,
            "batches": batches,
            "fillings": tuple(_filled_later(filling, stop.known_min, stood_from, minutes) for filling in run.fillings),
        }
    ).with_packs(given)


def delayed(run: Run, now_min: float, minutes: float) -> Run:
    """A begun run of which nothing is fed yet, so much later as a whole; what has been mixed of it waits."""
    legs = tuple(leg.model_copy(update={"start_min": leg.start_min + minutes}) for leg in run.later_legs)
    return run.model_copy(
        update={
            "start_min": run.start_min + minutes,
            "later_legs": legs,
            "first_pack_min": run.first_pack_min + minutes,
            "last_pack_min": run.last_pack_min + minutes,
            "batches": tuple(_later(batch, now_min, run.start_min, minutes) for batch in run.batches),
            "fillings": tuple(_filled_later(made, now_min, run.start_min, minutes) for made in run.fillings),
        }
    )


def _later(batch: Batch, at_min: float, stood_from: float, minutes: float) -> Batch:
    """A dough that is divided later, and mixed later where it had not been begun at the stop."""
    if batch.last_piece_min <= stood_from:
        return batch
    moved = {"last_piece_min": batch.last_piece_min + minutes}
    if batch.divided_min >= stood_from:
        moved["divided_min"] = batch.divided_min + minutes
    if batch.start_min >= at_min:
        moved |= {name: getattr(batch, name) + minutes for name in ("start_min", "discharged_min")}
    slots = tuple(
        slot.model_copy(
            update={name: getattr(slot, name) + minutes for name in ("start_min", "discharged_min", "used_min")}
        )
        if slot.start_min >= at_min
        else slot
        for slot in batch.preparations
    )
    return batch.model_copy(update={**moved, "preparations": slots})


def _filled_later(filling: FillingBatch, at_min: float, stood_from: float, minutes: float) -> FillingBatch:
    """A batch of a filling that is used later, and made later where it had not been begun at the stop."""
    names = [name for name in ("used_from_min", "used_until_min") if getattr(filling, name) >= stood_from]
    if filling.start_min >= at_min:
        names += ["start_min", "mixed_min", "emptied_min", "ready_min"]
    return filling.model_copy(update={name: getattr(filling, name) + minutes for name in names})


def cut_short(scenario: Scenario, one: Stands, at_min: float) -> Run | None:
    """A run that ends with what had left the station when it stopped; None where nothing had.

    All that stood in it and before it is thrown away, and what was not mixed yet is not mixed for it any more.
    """
    run, passing = one.run, one.passing
    share = (at_min - passing.first_out) / (passing.last_out - passing.first_out)
    pieces = int(run.pieces * min(share, 1.0) + WHOLE)
    if pieces < 1:
        return None
    made = shortened(scenario, run, pieces)
    return made.model_copy(update={"fillings": tuple(f for f in made.fillings if f.start_min < at_min)})


def shortened(scenario: Scenario, run: Run, pieces: int) -> Run:
    """A run of its first so many pieces, at least one, at the pace it has."""
    share = pieces / run.pieces
    packs = int(pieces / float(scenario.product(run.product).scaled_per_pack) + WHOLE)
    batches, left = list[Batch](), pieces
    for batch in run.batches:
        taken = min(batch.pieces, left)
        left -= taken
        if taken:
            until = batch.divided_min + (batch.last_piece_min - batch.divided_min) * taken / batch.pieces
            grams = round(batch.dough_g * taken / batch.pieces)
            batches.append(batch.model_copy(update={"pieces": taken, "last_piece_min": until, "dough_g": grams}))
    legs = tuple(leg.model_copy(update={"feed_min": leg.feed_min * share}) for leg in run.later_legs)
    last_feed = run.legs[-1].feed_min
    ends = run.last_pack_min - last_feed * (1 - share)
    return run.model_copy(
        update={
            "feed_min": run.feed_min * share,
            "pieces": pieces,
            "packs": packs,
            "packs_wanted": min(run.packs_wanted, packs),
            "last_pack_min": ends,
            "batches": tuple(batches),
            "fillings": tuple(filling for filling in run.fillings if filling.used_from_min < ends),
            "items": split_items(run.items, packs)[0],
            "later_legs": legs,
            "split": run.split.model_copy(update={"pieces": tuple(b.pieces for b in batches), "packs": packs}),
        }
    )
