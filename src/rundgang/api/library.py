"""The library's routes: read it, change it, save it as a file, take it from one, bring an earlier version back."""

from typing import Annotated, Any, assert_never

from fastapi import APIRouter, Depends, Header, Query, Request, Response
from pydantic import Field

from rundgang.api.deps import XLSX, FileName, Now, Number, Store, at_present
from rundgang.clock import Clock
from rundgang.core.balance import LineBalance, balance
from rundgang.core.building import Starter
from rundgang.core.dough.scaling import ScaledIngredient, scale_formula
from rundgang.core.errors import InfeasibleError, MalformedError, RundgangError
from rundgang.core.library import Library, library_of
from rundgang.core.model import Id, Model
from rundgang.core.planning.amended import LineAmended, amended
from rundgang.core.plant import Ingredient, Line, Plant
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG
from rundgang.demo.usual import usual_starters
from rundgang.formats.library_files import as_library, read_library, read_workbook, write_workbook
from rundgang.formats.library_words import (
    LONGEST_ID,
    Fault,
    Kind,
    Word,
    changes_in_words,
    faults_in_words,
    form_of,
    kinds,
)
from rundgang.jobs.libraries import Taken, held_together, read_only, take_library
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


class ChangedMeanwhileError(RundgangError):
    """The library has a newer version than the change was made on.

    Attributes
    ----------
    faults : tuple of str
        What was changed meanwhile.
    """

    def __init__(self, based_on: int, newest: int, meanwhile: tuple[str, ...]) -> None:
        self.faults = meanwhile
        super().__init__(
            f"Somebody saved version {newest} meanwhile; this change was made on version {based_on}. Nothing was "
            "saved, and nothing of yours is lost. Allowed: the same change on the newest version."
        )


class UnsoundLibraryError(RundgangError):
    """A library whose parts, or orders, do not fit together.

    Attributes
    ----------
    faults : tuple of str
        Each in words.
    """

    def __init__(self, faults: tuple[str, ...]) -> None:
        self.faults = faults
        super().__init__("The plant does not hold together like this. Nothing was saved.")


class NotALibraryFileError(RundgangError):
    """A body of another kind than JSON or a workbook."""

    def __init__(self, found: str) -> None:
        super().__init__(f"The upload is {found or 'of no stated type'}; allowed: JSON or a workbook, xlsx.")


class LibraryView(Model):
    """A version of the library with its contents."""

    note: LibraryNote
    library: Library


class Edit(Model):
    """One thing of the library as it shall be; without data it goes.

    Attributes
    ----------
    data : dict or None
        The thing, as its schema says; of the plant itself what is neither line nor ingredient.
    """

    kind: Kind
    id: str = Field(min_length=1, max_length=LONGEST_ID)
    data: dict[str, Any] | None = None


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


class ProductSheet(Model):
    """What follows from a product's formula and way.

    Attributes
    ----------
    scaling_g : float
        Dough in one piece as it enters the first step after mixing, g.
    batch_kg : float
        The largest dough.
    formula : tuple of ScaledIngredient
        Weighed for that dough.
    allergens : tuple of str
        From its ingredients.
    """

    scaling_g: float
    batch_kg: float
    formula: tuple[ScaledIngredient, ...]
    allergens: tuple[str, ...]


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
    scenario, newest = store.windows.scenario(), store.libraries.number()
    if request.based_on != newest:
        raise ChangedMeanwhileError(request.based_on, newest, _meanwhile(store, request.based_on, scenario))
    before = library_of(scenario)
    data = _edited(before, request.edits)
    try:
        return take_library(store, as_library(data), _origin(before, request.edits))
    except MalformedError as error:
        raise UnsoundLibraryError(tuple(fault.says for fault in faults_in_words(data, error.faults))) from None


@router.post("/try")
def try_change(store: Store, now: Now, request: TrialRequest) -> Trial:
    """What a change would do to a product's line and to the newest plan; nothing is saved."""
    scenario = store.windows.scenario()
    before = library_of(scenario)
    data = _edited(before, request.edits)
    was = _shown(scenario, request.product)
    try:
        library = as_library(data)
        after = held_together(scenario, library)
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
    whole = scenario.whole(product)
    sheet = ProductSheet(
        scaling_g=whole.scaling_g,
        batch_kg=found.batch_kg,
        formula=scale_formula(scenario, whole.formula, round(found.batch_kg * GRAMS_PER_KG)),
        allergens=tuple(sorted(scenario.allergens(product))),
    )
    return Shown(balance=found, sheet=sheet)


def _meanwhile(store: Repository, based_on: int, scenario: Scenario) -> tuple[str, ...]:
    """What changed in the library since a version."""
    return changes_in_words(store.libraries.read(based_on), library_of(scenario))


def _edited(library: Library, edits: tuple[Edit, ...]) -> dict[str, Any]:
    """The library as plain data with its things as they shall be."""
    data = library.model_dump(mode="json")
    for edit in edits:
        _apply(data, edit)
    return data


def _apply(data: dict[str, Any], edit: Edit) -> None:
    if edit.kind == "plant":
        data["plant"] |= {key: value for key, value in (edit.data or {}).items() if key not in {"lines", "ingredients"}}
        return
    things = data["plant"][edit.kind] if edit.kind in {"lines", "ingredients"} else data[edit.kind]
    places = [place for place, thing in enumerate(things) if thing["id"] == edit.id]
    if edit.data is None:
        things[:] = [thing for thing in things if thing["id"] != edit.id]
    elif places:
        things[places[0]] = edit.data
    else:
        things.append(edit.data)


MOST_NAMED = 3
"""So many things are named in the history; of more, how many."""


def _origin(library: Library, edits: tuple[Edit, ...]) -> str:
    """A change in the words of the history: Lantern Plain and Ring line changed."""
    names = [_name(library, edit) for edit in edits]
    if len(names) > MOST_NAMED:
        return f"{', '.join(names[:MOST_NAMED])} and {len(names) - MOST_NAMED} more changed"
    return ", ".join(names)


def _name(library: Library, edit: Edit) -> str:
    if edit.kind == "plant":
        return f"{library.plant.name} changed"
    known: dict[str, str] = {thing.id: thing.name for thing in _things(library, edit.kind)}
    name = str((edit.data or {}).get("name") or known.get(edit.id, edit.id))
    did = "deleted" if edit.data is None else "changed" if edit.id in known else "added"
    return f"{name} {did}"


def _things(library: Library, kind: Kind) -> tuple[Ingredient | Line | Preparation | Product, ...]:
    match kind:
        case "lines":
            return library.plant.lines
        case "ingredients":
            return library.plant.ingredients
        case "preparations":
            return library.preparations
        case "products":
            return library.products
        case "plant":
            return ()
        case _:
            assert_never(kind)


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
    return take_library(store, store.libraries.read(number), f"version {number} brought back")
