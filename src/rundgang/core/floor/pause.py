"""A run that has begun, after a stop: paused where it is, or cut short to what had passed.

A pause is part of a run's feeding: what has passed the station goes on as it was, all that follows comes as much
later as the stop lasts. A run of which nothing has reached the station yet is later as a whole in that leg.
"""

from collections.abc import Iterator

from rundgang.core.floor.stop import Stands, Stop
from rundgang.core.planning.model import Batch, FillingBatch, Run, RunItem, RunLeg
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


def paused(one: Stands, stop: Stop, minutes: float, lost_packs: int) -> Run:
    """A run that comes so many minutes later by a stop, less the packs that were lost.

    Parameters
    ----------
    lost_packs : int
        The last of its lorries miss them.
    """
    run, whole = one.run, one.passing.first_in >= stop.from_min
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
        tuple(_later(batch, stop.from_min, stood_from, minutes) for batch in run.batches)
        if one.leg == 0
        else run.batches
    )
    given = max(0, run.packs - lost_packs)
    items = tuple(_given(run.items, given))
    return run.model_copy(
        update={
            "start_min": legs[0].start_min,
            "feed_min": legs[0].feed_min,
            "scaled_per_h": MINUTES_PER_HOUR * run.pieces / legs[0].feed_min,
            "later_legs": tuple(legs[1:]),
            "first_pack_min": run.first_pack_min + (minutes if whole else 0),
            "last_pack_min": run.last_pack_min + minutes,
            "batches": batches,
            "fillings": tuple(_filled_later(filling, stop.from_min, stood_from, minutes) for filling in run.fillings),
            "packs": given,
            "packs_wanted": min(run.packs_wanted, given),
            "items": items,
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


def _given(items: tuple[RunItem, ...], packs: int) -> Iterator[RunItem]:
    """The first of a run's lorries, as far as its packs go."""
    for item in items:
        given = min(item.packs, packs)
        packs -= given
        if given:
            yield item.model_copy(update={"packs": given})


def cut_short(scenario: Scenario, one: Stands, at_min: float) -> Run | None:
    """A run that ends with what had passed the station when it stopped; None where nothing had.

    All that stood before it is thrown away, and what was not mixed yet is not mixed for it any more.
    """
    run, feed = one.run, one.run.legs[one.leg].feed_min
    share = (at_min - one.passing.first_in) / feed
    pieces = int(run.pieces * share + 1e-9)
    if pieces < 1:
        return None
    product = scenario.product(run.product)
    fed, packs = run.feed_min * pieces / run.pieces, int(pieces / float(product.scaled_per_pack) + 1e-9)
    batches, left = list[Batch](), pieces
    for batch in run.batches:
        taken = min(batch.pieces, left)
        left -= taken
        if taken:
            until = batch.divided_min + (batch.last_piece_min - batch.divided_min) * taken / batch.pieces
            grams = round(batch.dough_g * taken / batch.pieces)
            batches.append(batch.model_copy(update={"pieces": taken, "last_piece_min": until, "dough_g": grams}))
    items = tuple(_given(run.items, packs))
    fillings = tuple(filling for filling in run.fillings if filling.start_min < at_min)
    return run.model_copy(
        update={
            "feed_min": fed,
            "pieces": pieces,
            "packs": packs,
            "packs_wanted": min(run.packs_wanted, packs),
            "last_pack_min": run.last_pack_min - (run.feed_min - fed),
            "batches": tuple(batches),
            "fillings": fillings,
            "items": items,
            "later_legs": tuple(
                leg.model_copy(update={"feed_min": leg.feed_min * pieces / run.pieces}) for leg in run.later_legs
            ),
            "split": run.split.model_copy(update={"pieces": tuple(b.pieces for b in batches), "packs": packs}),
        }
    )
