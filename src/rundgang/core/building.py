"""Building a plant: a line after a pattern of its family, its usual figures filled in with one's own.

A pattern is a product on its line: the stations that it passes, what is prepared for it, and what it is made of. What
is asked of each station, and of each product at it, are the figures that set the line's pace; all else is as the
pattern has it, and can be changed later.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, NamedTuple, TypeVar, assert_never
from unicodedata import normalize

from pydantic import Field

from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.kinds.batch import BatchStation, BatchStep
from rundgang.core.kinds.bench import BenchStation, BenchStep
from rundgang.core.kinds.chamber import ChamberStation, ChamberStep
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import AnyStation, Station, Step
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.load import LoadStation, LoadStep
from rundgang.core.kinds.rate import RateStation, RateStep
from rundgang.core.library import Library
from rundgang.core.model import FreshFor, Id, Model, Name
from rundgang.core.orders import Window
from rundgang.core.plant import Line, Plant
from rundgang.core.products import Preparation, Product
from rundgang.core.whole_plant import WholePlant, begun_with


class Asked(Model):
    """A figure that is asked for, with what is usual.

    Attributes
    ----------
    key : str
        By which it is answered.
    quantity : str
        As the table of units has it; empty where it is counted.
    value : float
        What is usual.
    whole : bool
        Whether it is counted.
    """

    key: str
    name: str
    quantity: str
    unit: str
    value: float
    least: float
    most: float
    whole: bool


class AskedStation(Model):
    """A station of the walk: what is asked of it, and of every product at it."""

    station: Id
    name: Name
    kind: str
    of_station: tuple[Asked, ...]
    of_product: tuple[Asked, ...]


class Pattern(Model):
    """A family's line, walked past once, with its usual figures.

    Attributes
    ----------
    id : str
        Of the product that is the pattern.
    """

    id: Id
    family: Name
    line: Name
    piece: Name
    pieces_per_pack: int
    baked_g: float
    target_per_hour: float
    fresh_for_h: float | None
    walk: tuple[AskedStation, ...]


class Starter(Model):
    """A station of a kind with the step that a product does there, as they usually are: to begin a new one from."""

    station: Station
    step: Step


Figures = Mapping[str, float]


class ProductDraft(Model):
    """A product as it is built: what differs from the pattern, by station and key."""

    name: Name
    pieces_per_pack: int = Field(ge=1, le=10_000)
    baked_g: float = Field(ge=0.1, le=20_000)
    target_per_hour: float = Field(ge=1, le=1_000_000)
    fresh_for_h: FreshFor | None = None
    figures: dict[Id, dict[str, float]] = Field(default_factory=dict, max_length=60)


class Draft(Model):
    """A plant with one line as it is built."""

    plant: Name
    town: Name
    time_zone: Name
    line: Name
    pattern: Id
    figures: dict[Id, dict[str, float]] = Field(default_factory=dict, max_length=60)
    products: tuple[ProductDraft, ...] = Field(min_length=1, max_length=12)


class _Field(NamedTuple):
    """A field of a station or a step that sets the pace."""

    key: str
    name: str
    unit: str
    least: float
    most: float
    quantity: str = ""
    whole: bool = False


def _station_fields(station: AnyStation) -> tuple[_Field, ...]:
    found: tuple[_Field, ...]
    match station:
        case BatchStation():
            largest = _Field("max_fill_kg", "largest dough", "kg", 1, 5_000, "dough mass")
            found = (_counted("mixers", "mixers", 26), largest)
        case HeldStation():
            found = (_counted("positions", f"places: {station.position}s", 10_000),)
        case RateStation():
            found = (_counted("machines", "machines", 100), _counted("lanes", "lanes each", 200))
        case ConveyorStation():
            found = (_counted("places", "places on it", 1_000_000),) if station.places else ()
        case ChamberStation():
            found = (_counted("racks", "racks", 10_000),)
        case LoadStation():
            found = (_counted("chambers", "chambers", 100),)
        case BenchStation():
            found = (_counted("people", "people", 500),)
        case _:
            assert_never(station)
    return found


def _counted(key: str, name: str, most: int) -> _Field:
    return _Field(key, name, "", 1, most, whole=True)


def _step_fields(step: Step) -> tuple[_Field, ...]:
    match step:
        case BatchStep():
            return ()
        case HeldStep():
            return (_Field("least_min", "stays at least", "min", 0, 10_080),)
        case RateStep():
            return (_Field("strokes_per_min", "strokes a minute", "/min", 0.01, 10_000),)
        case ConveyorStep() | ChamberStep() | LoadStep():
            dwell = _Field("dwell_min", "stays", "min", 0.01, 10_080)
            heat = _Field("temperature_c", "at", "°C", -40, 400, "temperature")
            return (dwell, heat) if step.temperature_c is not None else (dwell,)
        case BenchStep():
            return (_Field("pieces_per_person_min", "pieces a person", "/min", 0.01, 1_000_000),)
        case _:
            assert_never(step)


def _value(of: AnyStation | Step, key: str) -> float:
    found = getattr(of, key)
    return float(len(found)) if isinstance(found, tuple) else float(found)


def _asked(of: AnyStation | Step, fields: Iterable[_Field]) -> tuple[Asked, ...]:
    return tuple(
        Asked(
            key=field.key,
            name=field.name,
            quantity=field.quantity,
            unit=field.unit,
            value=_value(of, field.key),
            least=field.least,
            most=field.most,
            whole=field.whole,
        )
        for field in fields
    )


def patterns(library: Library) -> tuple[Pattern, ...]:
    """A pattern for every family: its first product that is made for itself, and cuts out nothing that is sold."""
    cut = {found.cut_out[1].product for found in library.products if found.cut_out}
    first: dict[str, Product] = {}
    for made in library.products:
        sells_more = made.cut_out is not None and made.cut_out[1].product is not None
        if made.formula and made.id not in cut and not sells_more:
            first.setdefault(made.family, made)
    return tuple(_pattern(library, made) for made in first.values())


OF_ONE_STATION: Mapping[str, Any] = {"staffed": None, "aside": None, "tools": (), "zones": (), "transfer_min": 0}
"""What a station has only where it stands."""

OF_ONE_PRODUCT: Mapping[str, Any] = {
    "adds": (),
    "set_up": (),
    "rework": 0,
    "yield_": 1,
    "next_within_s": None,
    "tool": None,
    "takes": 1,
    "makes": 1,
    "laminates": None,
    "bands": None,
    "cut_out": None,
    "bakes": False,
    "bears": None,
    "zone_c": (),
}
"""What a step has only for the product that it is from: pieces go through one for one, and nothing is put on them."""


def usual_stations(library: Library) -> dict[str, Starter]:
    """By kind, the library's first station with a step done there, without what only that plant has."""
    found: dict[str, Starter] = {}
    for made in library.products:
        line = next(line for line in library.plant.lines if line.id == made.line)
        for step in made.route:
            if step.kind not in found:
                station = _without(line.station(step.station), OF_ONE_STATION)
                found[step.kind] = Starter(station=station, step=_without(step, OF_ONE_PRODUCT))
    return found


Begun = TypeVar("Begun", bound=Model)


def _without(of: Begun, own: Mapping[str, Any]) -> Begun:
    return of.model_copy(update={name: value for name, value in own.items() if name in type(of).model_fields})


def _pattern(library: Library, made: Product) -> Pattern:
    line = next(line for line in library.plant.lines if line.id == made.line)
    return Pattern(
        id=made.id,
        family=made.family,
        line=line.name,
        piece=made.piece,
        pieces_per_pack=made.pieces_per_pack,
        baked_g=made.baked_g,
        target_per_hour=made.target_per_hour,
        fresh_for_h=made.fresh_for_h,
        walk=tuple(_asked_station(line, step) for step in made.route),
    )


def _asked_station(line: Line, step: Step) -> AskedStation:
    station = line.station(step.station)
    return AskedStation(
        station=station.id,
        name=station.name,
        kind=station.kind,
        of_station=_asked(station, _station_fields(station)),
        of_product=_asked(step, _step_fields(step)),
    )


def built(library: Library, draft: Draft, window: Window) -> WholePlant:
    """The plant of a draft, with nothing ordered yet.

    Parameters
    ----------
    library : Library
        Where the pattern is.

    Raises
    ------
    UnknownItemError
        No such pattern; or a figure of a station that is not walked past, or that is not asked of it.
    OutOfRangeError
        So many pieces cannot be in a pack.
    pydantic.ValidationError
        What was filled in does not hold together.
    """
    made = next((product for product in library.products if product.id == draft.pattern), None)
    if made is None or not made.formula:
        raise UnknownItemError("pattern", draft.pattern, tuple(one.id for one in patterns(library)))
    used = _used(library, made)
    walked = tuple(step.station for step in made.route)
    for given in (draft.figures, *(product.figures for product in draft.products)):
        for station in given:
            if station not in walked:
                raise UnknownItemError("station", station, walked)
    line = _line(library, made, used, draft)
    names = keys([product.name for product in draft.products])
    products = tuple(_product(made, line.id, key, product) for key, product in zip(names, draft.products, strict=True))
    own = Library(
        plant=Plant(
            name=draft.plant,
            town=draft.town,
            time_zone=draft.time_zone,
            ingredients=tuple(item for item in library.plant.ingredients if item.id in used.items),
            lines=(line,),
            humidity_rule=library.plant.humidity_rule,
            ice_machine=library.plant.ice_machine,
        ),
        preparations=tuple(one.model_copy(update={"line": line.id}) for one in used.preparations),
        products=products,
    )
    return begun_with(own, window)


class _Used(NamedTuple):
    """What a pattern needs: preparations, materials, and stations besides those of its route."""

    preparations: tuple[Preparation, ...]
    items: frozenset[str]
    stations: frozenset[str]


def _used(library: Library, made: Product) -> _Used:
    added = {addition.item for step in made.piece_steps for addition in step.adds}
    named = {line.ingredient for line in made.formula} | added
    preparations = tuple(one for one in library.preparations if one.id in named)
    inside = {line.ingredient for one in preparations for line in one.formula}
    stations = {step.station for step in made.route}
    stations |= {one.mixing.station for one in preparations} | {one.held.station for one in preparations if one.held}
    return _Used(preparations, frozenset(named | inside | {use.item for use in made.packing}), frozenset(stations))


def _line(library: Library, made: Product, used: _Used, draft: Draft) -> Line:
    """The pattern's line with the stations that it needs, filled in; nobody is counted at them yet."""
    line = next(line for line in library.plant.lines if line.id == made.line)
    carried = {use.carrier for use in made.carriers}
    return Line(
        id=keys([draft.line])[0],
        name=draft.line,
        stations=tuple(
            _filled_in(station, station.id, _station_fields(station), draft.figures.get(station.id, {})).model_copy(
                update={"staffed": None}
            )
            for station in line.stations
            if station.id in used.stations
        ),
        carriers=tuple(carrier for carrier in line.carriers if carrier.id in carried),
    )


def _product(made: Product, line: str, key: str, draft: ProductDraft) -> Product:
    """A product after the pattern; what packs it takes as many pieces as a pack has."""
    route: list[Step] = [
        _filled_in(step, step.station, _step_fields(step), draft.figures.get(step.station, {})) for step in made.route
    ]
    place = max((n for n, step in enumerate(route) if getattr(step, "takes", 1) > 1), default=-1)
    if draft.pieces_per_pack != made.pieces_per_pack:
        route[place] = _packing(made, route[place], draft)
    known = {name: getattr(made, name) for name in Product.model_fields}
    return Product.model_validate(
        known
        | {
            "id": key,
            "name": draft.name,
            "line": line,
            "pieces_per_pack": draft.pieces_per_pack,
            "baked_g": draft.baked_g,
            "target_per_hour": draft.target_per_hour,
            "fresh_for_h": draft.fresh_for_h,
            "route": tuple(route),
            "same_as": None,
            "price": None,
        }
    )


def _packing(made: Product, step: Step, draft: ProductDraft) -> Step:
    """The step that makes packs, with so many pieces in each."""
    takes = getattr(step, "takes", 1) * draft.pieces_per_pack / made.pieces_per_pack
    if not isinstance(step, RateStep | BenchStep) or takes != round(takes):
        each = made.pieces_per_pack / getattr(step, "takes", made.pieces_per_pack)
        raise OutOfRangeError(f"{draft.name}: pieces in a pack", draft.pieces_per_pack, f"a multiple of {each:g}")
    return step.model_copy(update={"takes": round(takes)})


def _filled_in(of: Any, of_name: str, fields: Iterable[_Field], figures: Figures) -> Any:
    """A station or a step with figures of one's own; checked as it is. UnknownItemError where one is not asked."""
    known = {field.key: field for field in fields}
    changed: dict[str, Any] = {}
    for key, value in figures.items():
        if key not in known:
            raise UnknownItemError(f"figure of {of_name}", key, tuple(known))
        changed[key] = round(value) if known[key].whole else value
    if "mixers" in changed:
        changed["mixers"] = tuple(f"Mixer {number}" for number in range(1, changed["mixers"] + 1))
    if "max_fill_kg" in changed:
        changed["min_fill_kg"] = min(of.min_fill_kg, changed["max_fill_kg"])
    if "least_min" in changed:
        changed["most_min"] = changed["least_min"] + of.most_min - of.least_min
    data = {name: getattr(of, name) for name in type(of).model_fields}
    return type(of).model_validate(data | changed, by_name=True)


def keys(names: Sequence[str]) -> tuple[str, ...]:
    """Keys after names, each once."""
    found = list[str]()
    for name in names:
        plain = normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
        stem = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:32] or "one"
        number, key = 2, stem
        while key in found:
            number, key = number + 1, f"{stem}-{number}"
        found.append(key)
    return tuple(found)
