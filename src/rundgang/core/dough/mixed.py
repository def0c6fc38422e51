"""The doughs of a plan as they are mixed: each with the rest of it that the next run takes."""

from collections.abc import Iterator
from typing import NamedTuple

from rundgang.core.errors import UnknownItemError
from rundgang.core.planning.model import Batch, FillingBatch, LinePlan, PreparationSlot, Run


def preparation_key(batch: Batch, slot: PreparationSlot) -> str:
    """By which the card of a preparation for a dough is known in its run; a dough's own is its number."""
    return f"{batch.number}-{slot.preparation}"


def filling_key(filling: FillingBatch) -> str:
    """By which the card of a batch of a filling is known in its run."""
    return f"{filling.preparation}-{filling.number}"


class Dough(NamedTuple):
    """A dough of a run; and of the run that takes the rest of it, that run and its part, if there is one."""

    run: Run
    batch: Batch
    rest: tuple[Run, Batch] | None = None

    @property
    def whole(self) -> Batch:
        """The dough as it is mixed, with what is prepared for it."""
        if self.rest is None:
            return self.batch
        part = self.rest[1]
        grams = {slot.preparation: slot.grams for slot in part.preparations}
        slots = tuple(
            slot.model_copy(update={"grams": slot.grams + grams[slot.preparation]}) for slot in self.batch.preparations
        )
        return self.batch.model_copy(update={"dough_g": self.batch.dough_g + part.dough_g, "preparations": slots})


def doughs(plan: LinePlan) -> Iterator[Dough]:
    """Every dough that is mixed for a plan, run by run."""
    rests = {(batch.mixer, batch.start_min): (run, batch) for run in plan.runs for batch in run.batches if batch.shared}
    for run in plan.runs:
        for batch in run.mixed:
            yield Dough(run, batch, rests.get((batch.mixer, batch.start_min)))


def find_dough(plan: LinePlan, run_id: str, number: int) -> Dough:
    """A dough of a plan by its run and number, or UnknownItemError."""
    for dough in doughs(plan):
        if (dough.run.id, dough.batch.number) == (run_id, number):
            return dough
    raise UnknownItemError("batch", f"{run_id} {number}", tuple(run.id for run in plan.runs))
