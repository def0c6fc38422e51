"""The routes of the plant as a whole: the demo, one's own brought in, all of it taken out, the demo thrown away."""

from datetime import timedelta
from typing import Annotated

from fastapi import APIRouter, Header, Query, Request, Response
from pydantic import Field

from rundgang.api.deps import XLSX, Now, Store
from rundgang.api.library import A_FILE, NotALibraryFileError
from rundgang.clock import Clock
from rundgang.core.calendar import Calendar
from rundgang.core.errors import RundgangError
from rundgang.core.library import library_of
from rundgang.core.model import Model
from rundgang.core.orders import Window
from rundgang.core.scenario import Scenario
from rundgang.demo.lorries import TIME_ZONE
from rundgang.demo.ostermere import demo_plant
from rundgang.formats.clock import zone_named
from rundgang.formats.documents import read_whole_plant, write
from rundgang.formats.plant_workbook import read_plant_workbook, write_plant_workbook
from rundgang.jobs.founding import SOON, found
from rundgang.store.plants import Origin

router = APIRouter(prefix="/api/plant")

FIRST_DAYS = 3
"""A plant that comes without a window is planned so many days ahead."""


class Contents(Model):
    """What there is: what would go with the demo, or comes with a file."""

    name: str
    lines: int
    products: int
    orders: int
    lorries: int
    plans: int = 0


class PlantState(Model):
    """Whose plant it is; without origin there is none yet."""

    origin: Origin | None
    contents: Contents | None


class WrongNameError(RundgangError):
    """The name of the plant that shall go was not typed."""

    def __init__(self, typed: str, name: str) -> None:
        super().__init__(f"“{typed}” is not the demo's name, so nothing was deleted. Allowed: {name}.")


class DiscardRequest(Model):
    """The demo's name, typed by whoever wants it gone."""

    name: str = Field(max_length=120)


def coming_window(now: Clock) -> Window:
    """The first window of a plant that comes without one: from this hour on."""
    starts = now.now().replace(minute=0, second=0, microsecond=0)
    return Window(starts_at=starts, minutes=FIRST_DAYS * 24 * 60)


def _contents(scenario: Scenario, calendar: Calendar | None, later: int, plans: int = 0) -> Contents:
    return Contents(
        name=scenario.plant.name,
        lines=len(scenario.plant.lines),
        products=len(scenario.products),
        orders=len(scenario.orders) + later,
        lorries=len(calendar.lorries) if calendar else len(scenario.waves),
        plans=plans,
    )


@router.get("")
def state(store: Store) -> PlantState:
    """Whose plant there is, and what it has."""
    origin = store.plants.origin()
    if origin is None or store.windows.is_empty():
        return PlantState(origin=None, contents=None)
    scenario, newest = store.windows.scenario(), store.calendars.newest()
    later, plans = len(store.windows.beyond(scenario)), store.plans.newest_number() or 0
    contents = _contents(scenario, newest.calendar if newest else None, later, plans)
    return PlantState(origin=origin, contents=contents)


@router.get("/file.json", response_class=Response)
def as_file(store: Store) -> Response:
    """The whole plant as one document: library, calendar, orders, stock, and what has begun."""
    headers = {"Content-Disposition": 'attachment; filename="plant.json"'}
    return Response(write(store.plants.whole()), media_type="application/json", headers=headers)


@router.get("/file.xlsx", response_class=Response)
def as_workbook(store: Store) -> Response:
    """The plant's library and calendar as a workbook."""
    newest = store.calendars.newest()
    library = library_of(store.windows.scenario())
    data = write_plant_workbook(library, newest.calendar if newest else Calendar())
    headers = {"Content-Disposition": 'attachment; filename="plant.xlsx"'}
    return Response(data, media_type=XLSX, headers=headers)


@router.post("/demo", status_code=201)
def bring_demo(store: Store, now: Now) -> PlantState:
    """Fill an empty Rundgang with the made-up demo plant, its first lorries tomorrow."""
    tomorrow = now.now().astimezone(zone_named(TIME_ZONE)).date() + timedelta(days=1)
    found(store, demo_plant(tomorrow), "demo", SOON)
    return state(store)


@router.post("/file", openapi_extra={"requestBody": A_FILE})
async def bring_file(
    request: Request,
    store: Store,
    now: Now,
    take: Annotated[bool, Query(description="Store it; without, it is only read.")] = False,
    content_type: Annotated[str, Header()] = "",
) -> PlantState:
    """Read a plant from a file, whole or its library alone, and say what is in it; bring it in if asked."""
    kind = content_type.partition(";")[0].strip()
    if kind not in {"application/json", XLSX}:
        raise NotALibraryFileError(kind)
    data = await request.body()
    window = coming_window(now)
    whole = read_plant_workbook(data, window) if kind == XLSX else read_whole_plant(data, window)
    if not take:
        contents = _contents(whole.scenario, whole.calendar, len(whole.later))
        return PlantState(origin=None, contents=contents)
    found(store, whole, "own", SOON)
    return state(store)


@router.post("/discard", status_code=201)
def discard(store: Store, request: DiscardRequest) -> PlantState:
    """Delete the demo and all that was done with it; its name must be typed."""
    name = store.windows.scenario().plant.name
    if request.name.strip() != name:
        raise WrongNameError(request.name, name)
    store.plants.discard_demo()
    return state(store)
