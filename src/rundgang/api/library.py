"""The library's routes: read it, change it, save it as a file, take it from one, bring an earlier version back."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Header, Query, Request, Response
from pydantic import Field

from rundgang.api.deps import XLSX, FileName, Now, Number, Store, at_present
from rundgang.clock import Clock
from rundgang.core.balance import LineBalance, balance
from rundgang.core.building import Starter
from rundgang.core.dough.sheet import ProductSheet, product_sheet
from rundgang.core.errors import InfeasibleError, MalformedError, RundgangError
from rundgang.core.library import Library, library_of
from rundgang.core.model import Id, Model
from rundgang.core.planning.amended import LineAmended, amended
from rundgang.core.plant import Ingredient, Line, Plant
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.demo.usual import usual_starters
from rundgang.formats.library_edits import Edit, edited
from rundgang.formats.library_files import as_library, read_library, read_workbook, write_workbook
from rundgang.formats.library_words import Fault, Kind, Word, changes_in_words, faults_in_words, form_of, kinds
from rundgang.jobs.libraries import Taken, change_library, held_together, read_only, take_library
from rundgang.store.libraries import LibraryNote
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/library")

KINDS: dict[Kind, type[Model]] = {
    "plant": Plant,
    "ingredients": Ingredient,
    "lines": Line,
    "preparations": Preparation,
    "products": Product,
}


class NotALibraryFileError(RundgangError):
    """A body of another kind than JSON or a workbook."""

    def __init__(self, found: str) -> None:
        super().__init__(f"The upload is {found or 'of no stated type'}; allowed: JSON or a workbook, xlsx.")


class LibraryView(Model):
    """A version of the library with its contents."""

    note: LibraryNote
    library: Library


class LibraryChange(Model):
    """Things of the library as they shall be, all at once.

    Attributes
    ----------
    based_on : int
        The version on which the change was made.
    """

    based_on: int = Field(ge=1, le=2_000_000_000)
    edits: tuple[Edit, ...] = Field(min_length=1, max_length=500)


class TrialRequest(Model):
    """A change of the newest version to try, perhaps none, and the product whose line is shown with it."""

    edits: tuple[Edit, ...] = Field(default=(), max_length=500)
    product: Id | None = None


class Shown(Model):
    """A product's line as it is balanced for it; None where it cannot be made, which `refused` explains."""

    balance: LineBalance | None
    sheet: ProductSheet | None
    refused: str | None = None


class Trial(Model):
    """What a change of the library would do; nothing is saved.

    Attributes
    ----------
    faults : tuple of Fault
        Why it cannot be saved; none where it can.
    changes : tuple of str
        What differs from the newest version, in words.
    was, now : Shown or None
        The line of the product asked for; None where it is not in that library.
    version : int or None
        The plan that `plan` is about.
    plan : tuple of LineAmended
        What changes in it.
    cannot : str or None
        Why the plan's runs could not be made at all.
    """

    faults: tuple[Fault, ...] = ()
    changes: tuple[str, ...] = ()
    was: Shown | None = None
    now: Shown | None = None
    version: int | None = None
    plan: tuple[LineAmended, ...] = ()
    cannot: str | None = None


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
def schemas() -> dict[Kind, Any]:
    """The JSON Schema of each kind of thing, for forms; each field has its words."""
    return {kind: form_of(model) for kind, model in KINDS.items()}


@router.get("/kinds")
def station_kinds() -> dict[str, Word]:
    """What each kind of station is called."""
    return kinds()


@router.get("/starters")
def starters() -> dict[str, Starter]:
    """By kind, a station and its step with the usual figures, those of the demo plant."""
    return usual_starters()


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
    """Change, add or take away things; the whole library is checked before anything is saved."""
    return change_library(store, request.based_on, request.edits)


@router.post("/try")
def try_change(store: Store, now: Now, request: TrialRequest) -> Trial:
    """What a change would do to a product's line and to the newest plan; nothing is saved."""
    scenario = store.windows.scenario()
    before = library_of(scenario)
    data = edited(before, request.edits)
    was = _shown(scenario, request.product)
    try:
        library = as_library(data)
        after = held_together(store, library)
    except MalformedError as error:
        return Trial(faults=faults_in_words(data, error.faults), was=was)
    trial = Trial(changes=changes_in_words(before, library), was=was, now=_shown(after, request.product))
    return trial.model_copy(update=_of_the_plan(store, now, scenario, after))


def _of_the_plan(store: Repository, now: Clock, before: Scenario, after: Scenario) -> dict[str, Any]:
    """What changes in the newest plan, where there is one that was made for the library as it is."""
    number = store.plans.newest_number()
    if number is None:
        return {}
    version = store.plans.version(number)
    if store.basis().outdates(version.note):
        return {}
    known = {"version": number}
    try:
        return known | {"plan": amended(at_present(store, now, before), at_present(store, now, after), version.plan)}
    except InfeasibleError as error:
        return known | {"cannot": str(error)}


def _shown(scenario: Scenario, product_id: str | None) -> Shown | None:
    product = next((made for made in scenario.products if made.id == product_id), None)
    if product is None:
        return None
    try:
        found = balance(scenario, product.id)
    except InfeasibleError as error:
        return Shown(balance=None, sheet=None, refused=str(error))
    return Shown(balance=found, sheet=product_sheet(scenario, product, found.batch_kg))


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
    return take_library(store, after, f"file {name}") if take else read_only(store, after)


@router.post("/versions/{number}/restore", status_code=201)
def restore(store: Store, number: Number) -> Taken:
    """Bring an earlier version back, as the newest."""
    return take_library(store, store.libraries.read(number), f"version {number} restored")
