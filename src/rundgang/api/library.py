"""The library's routes: read it, change it, save it as a file, take it from one, bring an earlier version back."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Header, Query, Request, Response
from pydantic import Field, ValidationError

from rundgang.api.deps import XLSX, FileName, Number, Store
from rundgang.core.errors import MalformedError, RundgangError
from rundgang.core.library import Library, changes, library_of, with_library
from rundgang.core.model import Model
from rundgang.core.plant import Ingredient, Line
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.formats.documents import faults_of
from rundgang.formats.library_files import as_library, read_library, read_workbook, write_workbook
from rundgang.store.libraries import LibraryNote
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/library")

KINDS: dict[str, type[Model]] = {
    "ingredients": Ingredient,
    "lines": Line,
    "preparations": Preparation,
    "products": Product,
}


class ChangedMeanwhileError(RundgangError):
    """The library has a newer version than the change was made on."""

    def __init__(self, based_on: int, newest: int) -> None:
        super().__init__(
            f"Somebody saved version {newest} meanwhile; this change was made on version {based_on}. Nothing was "
            "saved. Allowed: a change made on the newest version."
        )


class NotALibraryFileError(RundgangError):
    """A body of another kind than JSON or a workbook."""

    def __init__(self, found: str) -> None:
        super().__init__(f"The upload is {found or 'of no stated type'}; allowed: JSON or a workbook, xlsx.")


class LibraryView(Model):
    """A version of the library with its contents."""

    note: LibraryNote
    library: Library


class LibraryChange(Model):
    """One thing of the library as it shall be; without data it goes.

    Attributes
    ----------
    based_on : int
        The version on which the change was made.
    data : dict or None
        The thing, as its schema says.
    """

    based_on: int = Field(ge=1, le=2_000_000_000)
    kind: Literal["ingredients", "lines", "preparations", "products"]
    id: str = Field(min_length=1, max_length=40)
    data: dict[str, Any] | None = None


class Taken(Model):
    """What a change or a file would do, and the version it was saved as, if it was.

    Attributes
    ----------
    note : LibraryNote or None
        None where it was only read.
    """

    changes: tuple[str, ...]
    note: LibraryNote | None


@router.get("")
def library(store: Store) -> LibraryView:
    """The newest version."""
    scenario = store.windows.scenario()
    return LibraryView(note=store.libraries.notes()[0], library=library_of(scenario))


@router.get("/versions")
def versions(store: Store) -> tuple[LibraryNote, ...]:
    """Every version, newest first."""
    return store.libraries.notes()


@router.get("/schemas")
def schemas() -> dict[str, Any]:
    """The JSON Schema of each kind of thing, for forms."""
    return {name: model.model_json_schema() for name, model in KINDS.items()}


@router.get("/file.json", response_class=Response)
def as_json(store: Store) -> Response:
    """The newest version as one JSON document."""
    text = library_of(store.windows.scenario()).model_dump_json(indent=2) + "\n"
    return _file(text.encode(), "application/json", "library.json")


@router.get("/file.xlsx", response_class=Response)
def as_workbook(store: Store) -> Response:
    """The newest version as a workbook."""
    return _file(write_workbook(library_of(store.windows.scenario())), XLSX, "library.xlsx")


def _file(data: bytes, media_type: str, name: str) -> Response:
    return Response(data, media_type=media_type, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.post("/change", status_code=201)
def change(store: Store, request: LibraryChange) -> Taken:
    """Change, add or take away one thing; the whole library is checked before anything is saved."""
    scenario, newest = store.windows.scenario(), store.libraries.number()
    if request.based_on != newest:
        raise ChangedMeanwhileError(request.based_on, newest)
    before = library_of(scenario)
    data = before.model_dump(mode="json")
    things = data[request.kind] if request.kind in data else data["plant"][request.kind]
    places = [place for place, thing in enumerate(things) if thing["id"] == request.id]
    if request.data is None:
        things[:] = [thing for thing in things if thing["id"] != request.id]
    elif places:
        things[places[0]] = request.data
    else:
        things.append(request.data)
    did = "taken away" if request.data is None else "changed" if places else "added"
    return _take(store, scenario, before, as_library(data), f"{request.kind}: {request.id} {did}")


async def _raw(request: Request) -> bytes:
    """The body as it came: a JSON document is read like any other file."""
    return await request.body()


A_FILE = {"content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}, "required": True}


@router.post("/file", openapi_extra={"requestBody": A_FILE})
def take_file(
    store: Store,
    data: Annotated[bytes, Depends(_raw)],
    take: Annotated[bool, Query(description="Save it; without, it is only read.")] = False,
    name: FileName = "library.json",
    content_type: Annotated[str, Header()] = "",
) -> Taken:
    """Read a whole library from a file and say what it would change; take it if asked."""
    kind = content_type.partition(";")[0].strip()
    if kind not in {"application/json", XLSX}:
        raise NotALibraryFileError(kind)
    after = read_workbook(data) if kind == XLSX else read_library(data)
    scenario = store.windows.scenario()
    before = library_of(scenario)
    if take:
        return _take(store, scenario, before, after, f"file {name}")
    _checked(scenario, after)
    return Taken(changes=changes(before, after), note=None)


@router.post("/versions/{number}/restore", status_code=201)
def restore(store: Store, number: Number) -> Taken:
    """Bring an earlier version back, as the newest."""
    scenario = store.windows.scenario()
    return _take(store, scenario, library_of(scenario), store.libraries.read(number), f"version {number} brought back")


def _take(store: Repository, scenario: Scenario, before: Library, after: Library, origin: str) -> Taken:
    whole = _checked(scenario, after)
    found = changes(before, after)
    note = store.libraries.add(whole, origin) if found else None
    store.session.commit()
    return Taken(changes=found, note=note)


def _checked(scenario: Scenario, library: Library) -> Scenario:
    """The day with this library; MalformedError where the parts, or the orders, do not fit."""
    try:
        return with_library(scenario, library)
    except ValidationError as error:
        raise MalformedError("The library does not hold together. It", faults_of(error)) from None
