"""Edits of the library: single things of it as they shall be, in its plain data."""

from typing import Any, assert_never

from pydantic import Field

from rundgang.core.library import Library
from rundgang.core.model import Model
from rundgang.core.plant import Ingredient, Line
from rundgang.core.products import Preparation, Product
from rundgang.formats.library_words import LONGEST_ID, Kind

MOST_NAMED = 3
"""So many things are named in the history; of more, how many."""


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


def edited(library: Library, edits: tuple[Edit, ...]) -> dict[str, Any]:
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


def origin_of(library: Library, edits: tuple[Edit, ...]) -> str:
    """Edits in the words of the history: Lantern Plain and Ring line changed."""
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
