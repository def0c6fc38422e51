"""The routes of checks: what the plant has defined, and what the trade usually checks there."""

from fastapi import APIRouter
from pydantic import Field

from rundgang.api.deps import Author, ChangedSinceError, Planned, Store
from rundgang.core.errors import MalformedError
from rundgang.core.floor.inspections import MEASURES, Inspection, Inspections
from rundgang.core.floor.usual import usual_inspections
from rundgang.core.model import Id, Model, Name

router = APIRouter(prefix="/api/inspections")

MOST_FAULTS = 20


class InspectedStation(Model):
    """A station that can be inspected, and how many zones its oven has."""

    line: Id
    line_name: Name
    station: Id
    name: Name


class SubjectView(Model):
    """What a figure can be of, in which quantity and metric unit."""

    subject: str
    quantity: str
    unit: str


class InspectionsView(Model):
    """What is inspected, what usually is, and where it can be."""

    number: int
    inspections: Inspections
    usual: tuple[Inspection, ...]
    stations: tuple[InspectedStation, ...]
    subjects: tuple[SubjectView, ...]


class InspectionsRequest(Model):
    """What is inspected from now on."""

    inspections: Inspections
    seen: int = Field(ge=0, le=2_000_000_000, description="number of what this is a change of")
    author: Author = "planner"


@router.get("")
def inspections(store: Store) -> InspectionsView:
    """What is inspected by the newest version, and what usually is."""
    newest, scenario = store.inspections.newest(), store.windows.scenario()
    return InspectionsView(
        number=newest.number,
        inspections=newest.inspections,
        usual=usual_inspections(scenario).all,
        stations=tuple(
            InspectedStation(line=line.id, line_name=line.name, station=station.id, name=station.name)
            for line in scenario.plant.lines
            for station in line.stations
        ),
        subjects=tuple(
            SubjectView(subject=subject, quantity=measure.quantity, unit=measure.unit)
            for subject, measure in MEASURES.items()
        ),
    )


@router.post("", status_code=201)
def set_inspections(store: Planned, request: InspectionsRequest) -> InspectionsView:
    """Store what is inspected; it counts from now on, and what was found stays as it was judged."""
    store.windows.locked_window()
    current = store.inspections.newest().number
    if request.seen != current:
        raise ChangedSinceError("the checks", request.seen, current)
    faults = tuple(request.inspections.faults(store.windows.scenario()))
    if faults:
        raise MalformedError("The checks", faults[:MOST_FAULTS])
    store.inspections.write(request.inspections, request.author)
    store.session.commit()
    return inspections(store)
