"""The library in words: how each of its fields is called, what it is for, and a fault as a person reads it.

The words stand in `library_words.toml`; what the API says of a field, and what it says is wrong with one, take them
from here.
"""

import re
import tomllib
from collections.abc import Iterator, Mapping, Sequence
from functools import cache
from importlib.resources import files
from typing import Any, Literal, assert_never

from pydantic import BaseModel, Field

from rundgang.core.library import MOST_CHANGES, NAMED_BY, Difference, Library, differences
from rundgang.core.model import Model
from rundgang.core.units import unit_of

Schema = dict[str, Any]

Kind = Literal["plant", "lines", "products", "ingredients", "preparations"]


class Word(Model):
    """What a field is called, and what helps to fill it in.

    Attributes
    ----------
    quantity : str
        A row of the table of units; `unit` is said where it has none.
    refers : str
        What it picks from: item, ingredient, packing, station, line, product, carrier, crew.
    share : bool
        Whether it is a share that is written as per cent.
    choices : dict of str to str
        The words of each of its values.
    """

    name: str
    help: str = ""
    unit: str = ""
    quantity: str = ""
    refers: str = ""
    share: bool = False
    choices: dict[str, str] = Field(default_factory=dict)


class Fault(Model):
    """What is wrong, and with which thing of the library.

    Attributes
    ----------
    kind, id : str or None
        The thing, as the document calls it, sound or not; None where it is the library as a whole.
    says : str
        In words, with its place before it.
    """

    kind: Kind | None = None
    id: str | None = None
    says: str


@cache
def _catalogue() -> dict[str, dict[str, Any]]:
    return tomllib.loads((files("rundgang.formats") / "library_words.toml").read_text("utf-8"))


@cache
def kinds() -> dict[str, Word]:
    """What each kind of station is called."""
    return {kind: Word.model_validate(word) for kind, word in _catalogue()["kinds"].items()}


@cache
def words_of(model: type[BaseModel]) -> Mapping[str, Word]:
    """The words of a model's fields, its own and those of what it is a kind of; `id` and `kind` have none."""
    found: dict[str, Word] = {}
    for owner in reversed(model.__mro__):
        for field, word in _catalogue().get(owner.__name__, {}).items():
            choices = _catalogue()["hazards"] if field == "hazards" else word.get("choices", {})
            found[field] = Word.model_validate({**word, "choices": choices})
    return found


def form_of(model: type[BaseModel]) -> Schema:
    """The JSON Schema of a model, each field with its words; what no person fills in is left as it is."""
    schema = model.model_json_schema()
    known = {made.__name__: made for made in _all_models(Model)}
    for name, part in ((model.__name__, schema), *schema.get("$defs", {}).items()):
        if name in known:
            for field, word in words_of(known[name]).items():
                if field in part.get("properties", {}):
                    part["properties"][field]["words"] = word.model_dump()
    return schema


def _all_models(model: type[BaseModel]) -> Iterator[type[BaseModel]]:
    for made in model.__subclasses__():
        yield made
        yield from _all_models(made)


@cache
def _library_schema() -> Schema:
    return form_of(Library)


def faults_in_words(data: Any, faults: tuple[str, ...]) -> tuple[Fault, ...]:
    """Faults of a library as a person reads them: its things by name, its fields by their words.

    Parameters
    ----------
    data : dict
        The library as plain data, faulty as it is.
    faults : tuple of str
        As `faults_of` has them: a path with dots, then what is wrong.
    """
    return tuple(_in_words(data, fault) for fault in faults)


def changes_in_words(before: Library, after: Library) -> tuple[str, ...]:
    """What differs between two versions, as a person reads it: where, what it was, what it is."""
    old, new = before.model_dump(mode="json"), after.model_dump(mode="json")
    found = differences(before, after)
    said = [_change(old if one.what == "gone" else new, one) for one in found]
    return (*said, "and more") if len(found) == MOST_CHANGES else tuple(said)


def _change(data: Any, one: Difference) -> str:
    where = ", ".join(_place(data, one.path)) or "The library"
    match one.what:
        case "gone" | "new":
            return f"{where} is {one.what}"
        case "reordered":
            return f"{where} stand in another order"
        case "changed":
            word = _word_at(data, one.path)
            return f"{where}: {_figure(data, one.was, word)} → {_figure(data, one.now, word)}"
        case _:
            assert_never(one.what)


def _word_at(data: Any, path: Sequence[str]) -> Word | None:
    """The words of the field that a path leads to."""
    root = _library_schema()
    schema, here, word = root, data, None
    for token in path:
        if isinstance(here, list):
            here = _member(here, token)
            schema = _resolved(schema.get("items", {}), root, here)
            continue
        field = schema.get("properties", {}).get(token, {})
        word = field.get("words")
        here = here.get(token) if isinstance(here, dict) else None
        schema = _resolved(field, root, here)
    return Word.model_validate(word) if word else None


def _figure(data: Any, value: Any, word: Word | None) -> str:
    """A value in words, with its unit; what it refers to by name."""
    match value:
        case None | []:
            return "none"
        case bool():
            return "yes" if value else "no"
        case list():
            return ", ".join(_figure(data, member, word) for member in value)
        case dict():
            return ", ".join(_figure(data, inner, None) for inner in value.values())
        case int() | float():
            return _with_unit(value, word)
        case _:
            named = _names(data).get(value, value) if word and word.refers else value
            return str(word.choices.get(value, named) if word else value)


def _with_unit(value: float, word: Word | None) -> str:
    if word is None:
        return f"{value:,g}"
    if word.share:
        return f"{value * PER_CENT:g} %"
    return f"{value:,g} {unit_of(word.quantity).metric if word.quantity else word.unit}".strip()


PER_CENT = 100

PATH = re.compile(r"^(?:[a-z_0-9-]+(?: \([^)]*\))?)(?:\.[a-z_0-9-]+(?: \([^)]*\))?)+")


def _in_words(data: Any, fault: str) -> Fault:
    found = PATH.match(fault)
    if not found:
        return Fault(says=_said(data, fault))
    tokens = [re.sub(r" \(.*\)$", "", part) for part in re.split(r"\.(?![^(]*\))", found.group())]
    place = tuple(_place(data, tokens))
    if tokens[0] == "orders":
        return Fault(says=_of_an_order(data, fault))
    kind, thing = _thing(data, tokens)
    rest = fault[found.end() :].removeprefix(":").strip()
    where = ", ".join(place)
    return Fault(kind=kind, id=thing, says=f"{where}: {_said(data, rest)}" if where else _said(data, rest))


ORDERED = re.compile(r"^orders\.\d+ \(([^)]*)\)\.product is ([^;]*);")


def _of_an_order(data: Any, fault: str) -> str:
    """An order whose product there is not."""
    found = ORDERED.match(fault)
    if not found:
        return _said(data, fault)
    return f"Order {found[1]} is for {found[2]}, which would not be there; allowed: to delete the order first"


def _thing(data: Any, tokens: list[str]) -> tuple[Kind | None, str | None]:
    """The thing of the library that a path leads into."""
    inside = tokens[1:] if tokens[0] == "plant" else tokens
    in_the_plant: tuple[Kind, ...] = ("ingredients", "lines")
    beside_it: tuple[Kind, ...] = ("preparations", "products")
    for kind in (*in_the_plant, *beside_it):
        if len(inside) > 1 and inside[0] == kind and inside[1].isdigit():
            members = data.get("plant", {}).get(kind) if kind in in_the_plant else data.get(kind)
            member = _member(members, inside[1])
            if isinstance(member, dict) and isinstance(member.get("id"), str):
                return kind, member["id"]
    return ("plant", "plant") if tokens[0] == "plant" else (None, None)


LONGEST_ID = 40


def _member(members: Any, token: str) -> Any:
    """A member of a list, by its number or by what tells it apart."""
    if not isinstance(members, list):
        return None
    if token.isdigit():
        return members[int(token)] if int(token) < len(members) else None
    for key in NAMED_BY:
        for member in members:
            if isinstance(member, dict) and member.get(key) == token:
                return member
    return None


def _place(data: Any, tokens: Sequence[str]) -> Iterator[str]:
    """The names of what a path passes: Harvest Sesame, Steam oven, Stays."""
    root = _library_schema()
    schema, here, listed, line = root, data, "", None
    for token in tokens:
        if isinstance(here, list):
            here = _member(here, token)
            schema = _resolved(schema.get("items", {}), root, here)
            line = here.get("line", line) if isinstance(here, dict) else line
            own = isinstance(here, dict) and ("name" in here or "station" in here)
            yield ", ".join(part for part in ("" if own else listed, _name_of(data, here, line, token)) if part)
            listed = ""
            continue
        field = schema.get("properties", {}).get(token)
        if field is None:
            continue
        here = here.get(token) if isinstance(here, dict) else None
        schema = _resolved(field, root, here)
        word = str(field["words"]["name"]) if "words" in field else ""
        if isinstance(here, list) and token != tokens[-1]:
            listed = word
        elif word:
            yield word


def _resolved(schema: Schema, root: Schema, here: Any) -> Schema:
    """What a schema refers to, by what stands there."""
    if "$ref" in schema:
        found: Schema = root["$defs"][schema["$ref"].rsplit("/", 1)[-1]]
        return found
    if "oneOf" in schema:
        kind = here.get("kind") if isinstance(here, dict) else None
        named = schema.get("discriminator", {}).get("mapping", {}).get(kind) if isinstance(kind, str) else None
        return _resolved({"$ref": named}, root, here) if named else {}
    for choice in schema.get("anyOf", ()):
        if choice.get("type") != "null":
            return _resolved(choice, root, here)
    return schema


def _name_of(data: Any, thing: Any, line: Any, token: str) -> str:
    """A member by its own name, or by the name of what it refers to, or else by its number."""
    known = thing if isinstance(thing, dict) else {}
    if known.get("name") and isinstance(known["name"], str):
        return str(known["name"])
    for key in ("station", "ingredient", "item", "carrier", "what", "speed"):
        if isinstance(known.get(key), str):
            return str(_names(data, line).get(known[key], known[key]))
    return f"no. {int(token) + 1}" if token.isdigit() else token


def _names(data: Any, line: Any = None) -> dict[str, str]:
    """The names of all things of a library, by what they are referred to; stations first as a line has them."""
    plant = data.get("plant", {}) if isinstance(data, dict) else {}
    lines = [found for found in _list(plant, "lines") if isinstance(found, dict)]
    lines.sort(key=lambda found: found.get("id") == line)
    inside = [member for found in lines for key in ("stations", "carriers") for member in _list(found, key)]
    things = [*inside, *lines, *_list(plant, "ingredients"), *_list(data, "preparations"), *_list(data, "products")]
    return {
        thing["id"]: thing["name"]
        for thing in things
        if isinstance(thing, dict) and isinstance(thing.get("id"), str) and isinstance(thing.get("name"), str)
    }


def _list(data: Any, key: str) -> list[Any]:
    found = data.get(key) if isinstance(data, dict) else None
    return found if isinstance(found, list) else []


REWORDED = (
    (re.compile(r"String should match pattern .*; found (.+)"), r"\1 cannot be read"),
    (re.compile(r"(?:String|Tuple|List) should have at least (\d+) \S+.*"), r"too short; allowed: at least \1"),
    (re.compile(r"Input tag '(.*?)' found.*"), r"\1 is no kind of station"),
)


def _said(data: Any, text: str) -> str:
    """What is wrong, without a field's own name in it, and with things by name where they are listed."""
    for pattern, words in REWORDED:
        text = pattern.sub(words, text)
    text = re.sub(r"\b[a-z]+(?:_[a-z0-9]+)+\b|^[a-z]+(?=: )", lambda found: _field_name(found.group()), text)
    names = _names(data)
    return re.sub(
        r"((?:allowed: |, |\bis |\bnames |\bof |\bpasses )+)([a-z][a-z0-9-]*[a-z0-9])(?=[,;.]|$| twice)",
        lambda found: found.group(1) + names.get(found.group(2), found.group(2)),
        text,
    )


@cache
def _field_names() -> dict[str, str]:
    """The words of fields wherever they stand; where several share a name, those that come first in the catalogue."""
    found: dict[str, str] = {}
    for owner, fields in _catalogue().items():
        for field, word in fields.items() if owner not in {"kinds", "hazards"} else ():
            found.setdefault(field, word["name"].lower())
    return found


def _field_name(field: str) -> str:
    name = _field_names().get(field)
    return f"“{name}”" if name else field
