"""What happened otherwise than planned to a run that has begun: it went slower from a moment on, or was ended early.

Until somebody says so, the published plan counts as what has happened. A run keeps one pace: fed slower from a
moment on, all that had not been fed by then comes later by the factor that the pace lacks, and so do its last packs.
"""

from collections.abc import Callable
from math import ceil
from typing import Annotated, Literal, assert_never

from pydantic import Field

from rundgang.core.errors import OutOfRangeError, RundgangError
from rundgang.core.floor.options import bettered
from rundgang.core.floor.pause import delayed, shortened
from rundgang.core.model import Id, Model
from rundgang.core.planning.checked import checked, fitted
from rundgang.core.planning.lines_in_place import planned_line
from rundgang.core.planning.model import Batch, FillingBatch, PlantPlan, Run, RunLeg
from rundgang.core.planning.past import opened
from rundgang.core.planning.repair import Repaired
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class NotRunningError(RundgangError):
    """A run of which nothing has been begun, or which has been fed."""

    def __init__(self, run: str) -> None:
        super().__init__(f"{run} is not on the line at that time. Allowed: runs that have begun and are not all fed.")


class _OfRun(Model):
    line: Id
    run: str = Field(min_length=1, max_length=12)


class Slowed(_OfRun):
    """A run goes on at a share of its pace."""

    kind: Literal["slowed"] = "slowed"
    share: float = Field(ge=0.1, le=1)


class Ended(_OfRun):
    """A run ends when it has given so many packs."""

    kind: Literal["ended"] = "ended"
    packs: int = Field(ge=1, le=1_000_000)


Happened = Annotated[Slowed | Ended, Field(discriminator="kind")]


def as_happened(scenario: Scenario, plan: PlantPlan, happened: Happened, at_min: float) -> tuple[Scenario, Repaired]:
    """The scenario with what has happened to a begun run by a moment, and the plan repaired around it.

    Begun runs behind one that goes slower stay where they are if they can; else they come as much later as it does.

    Raises
    ------
    UnknownItemError
        No such line.
    NotRunningError
        The run is not on the line.
    OutOfRangeError
        It has given more already, or was never to give so many.
    """
    then = opened(scenario, plan.plans, max(at_min, scenario.opening.now_min))
    planned_line(plan, happened.line)
    run = next((run for run in then.opening.begun_on(happened.line) if run.id == happened.run), None)
    if run is None or run.start_min + run.feed_min <= at_min:
        raise NotRunningError(happened.run)
    match happened:
        case Slowed():
            made = slowed(run, at_min, happened.share)
        case Ended():
            made = ended(then, run, at_min, happened.packs)
        case _:
            assert_never(happened)
    late = max(0.0, made.feed_min - run.feed_min)
    found = _fitted_to(then, plan, run, made, 0.0)
    if late and not checked(found[0], found[1].plan).sound:
        found = _fitted_to(then, plan, run, made, late)
    after, repaired = found
    return after, bettered(after, plan, run.line, repaired)


def _fitted_to(
    scenario: Scenario, plan: PlantPlan, run: Run, made: Run, behind_min: float
) -> tuple[Scenario, Repaired]:  # fmt: skip
    """The scenario with a begun run as it goes on, the begun runs behind it so much later, and the plan around them."""

    def goes_on(found: Run) -> Run:
        if (found.line, found.id) == (run.line, run.id):
            return made
        behind = found.line == run.line and found.start_min > run.start_min
        return delayed(found, scenario.opening.now_min, behind_min) if behind and behind_min else found

    begun = tuple(goes_on(found) for found in scenario.opening.begun)
    after = scenario.changed(opening=scenario.opening.model_copy(update={"begun": begun}))
    return after, fitted(after, plan, (run.line,))


def slowed(run: Run, at_min: float, share: float) -> Run:
    """A run fed at a share of its pace from a moment on."""
    begin = max(at_min, run.start_min)

    def when(minute: float) -> float:
        return minute if minute <= begin else begin + (minute - begin) / share

    return fed_otherwise(run, at_min, when)


def fed_otherwise(run: Run, at_min: float, when: Callable[[float], float]) -> Run:
    """A run whose pieces were, and will be, fed at other times; all behind the divider comes as much later.

    Parameters
    ----------
    at_min : float
        What has been mixed by then is as it is.
    when : callable
        From the minute at which a piece was to be fed to the one at which it is.
    """
    start, ends = when(run.start_min), when(run.start_min + run.feed_min)
    moved, late, feed = start - run.start_min, ends - run.start_min - run.feed_min, ends - start
    return run.model_copy(
        update={
            "start_min": start,
            "feed_min": feed,
            "scaled_per_h": MINUTES_PER_HOUR * run.pieces / feed,
            "later_legs": tuple(
                RunLeg(start_min=leg.start_min + moved, feed_min=leg.feed_min + late - moved) for leg in run.later_legs
            ),
            "first_pack_min": run.first_pack_min + moved,
            "last_pack_min": run.last_pack_min + late,
            "batches": tuple(
                _slower(batch, at_min, when(batch.divided_min), when(batch.last_piece_min)) for batch in run.batches
            ),
            "fillings": tuple(_drawn_otherwise(made, at_min, moved, late) for made in run.fillings),
        }
    )


def _slower(batch: Batch, at_min: float, divided: float, last_piece: float) -> Batch:
    """A dough that is divided later, and mixed so much later where it had not been begun."""
    later = {"divided_min": divided, "last_piece_min": last_piece}
    moved = divided - batch.divided_min
    if batch.start_min >= at_min:
        later |= {"start_min": batch.start_min + moved, "discharged_min": batch.discharged_min + moved}
    names = ("start_min", "discharged_min", "used_min")
    slots = tuple(
        slot.model_copy(update={name: getattr(slot, name) + moved for name in names})
        if slot.start_min >= at_min
        else slot
        for slot in batch.preparations
    )
    return batch.model_copy(update=later | {"preparations": slots})


def _drawn_otherwise(made: FillingBatch, at_min: float, moved: float, late: float) -> FillingBatch:
    """A batch of a filling that is used, and used up, later, and made later where it had not been begun."""
    later = {"used_from_min": moved}
    if made.used_until_min > at_min:
        later["used_until_min"] = late
    if made.start_min >= at_min:
        later |= dict.fromkeys(("start_min", "mixed_min", "emptied_min", "ready_min", "used_from_min"), late)
    return made.model_copy(update={name: getattr(made, name) + by for name, by in later.items()})


def ended(scenario: Scenario, run: Run, at_min: float, packs: int) -> Run:
    """A run that ends with so many packs: no fewer than have been fed by now, and fewer than it was to give."""
    fed = max(0.0, at_min - run.start_min) / run.feed_min * run.packs
    if not max(1, ceil(fed)) <= packs < run.packs:
        raise OutOfRangeError(f"The packs of {run.id}", packs, f"{max(1, ceil(fed))} to {run.packs - 1}")
    return shortened(scenario, run, ceil(packs * scenario.product(run.product).scaled_per_pack))
