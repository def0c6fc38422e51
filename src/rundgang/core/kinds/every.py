"""Any kind: the union of them all, and the one place that tells a step's kind."""

from typing import Annotated, Any, TypeVar, assert_never

from pydantic import Field

from rundgang.core.kinds.batch import BatchStation, BatchStep
from rundgang.core.kinds.bench import Bench, BenchStation, BenchStep
from rundgang.core.kinds.chamber import Chamber, ChamberStation, ChamberStep
from rundgang.core.kinds.conveyor import Conveyor, ConveyorStation, ConveyorStep
from rundgang.core.kinds.held import Held, HeldStation, HeldStep
from rundgang.core.kinds.load import Load, LoadStation, LoadStep
from rundgang.core.kinds.operation import Operation
from rundgang.core.kinds.rate import Rate, RateStation, RateStep

PieceStation = HeldStation | RateStation | ConveyorStation | ChamberStation | LoadStation | BenchStation
AnyStation = BatchStation | PieceStation
Station = Annotated[AnyStation, Field(discriminator="kind")]

PieceStep = HeldStep | RateStep | ConveyorStep | ChamberStep | LoadStep | BenchStep
Step = Annotated[BatchStep | PieceStep, Field(discriminator="kind")]

Chosen = TypeVar("Chosen")


def operation(step: PieceStep, station: PieceStation) -> Operation[Any, Any]:
    """A step done at its station; the scenario has made sure that the two are of one kind."""
    match step:
        case HeldStep():
            return Held(step, _of(station, HeldStation))
        case RateStep():
            return Rate(step, _of(station, RateStation))
        case ConveyorStep():
            return Conveyor(step, _of(station, ConveyorStation))
        case ChamberStep():
            return Chamber(step, _of(station, ChamberStation))
        case LoadStep():
            return Load(step, _of(station, LoadStation))
        case BenchStep():
            return Bench(step, _of(station, BenchStation))
        case _:
            assert_never(step)


def _of(station: object, kind: type[Chosen]) -> Chosen:
    assert isinstance(station, kind)  # noqa: S101  (the scenario has matched steps and stations)
    return station
