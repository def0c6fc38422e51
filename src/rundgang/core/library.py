"""The library: plant, preparations and products without the day; and what has changed between two versions."""

from collections.abc import Iterator
from itertools import islice
from typing import Any, Literal, NamedTuple

from rundgang.core.model import Model
from rundgang.core.plant import Plant
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario

NAMED_BY = ("id", "ingredient", "item", "carrier", "station")
"""What tells the members of a list apart, the first of these that all have."""

MOST_CHANGES = 200
"""So many changes are named one by one; more are a new library."""


class Difference(NamedTuple):
    """One thing that differs.

    Attributes
    ----------
    path : tuple of str
        Where it is: the names of fields, and the members of lists by what tells them apart.
    """

    path: tuple[str, ...]
    what: Literal["changed", "new", "gone", "reordered"]
    was: Any
    now: Any


class Library(Model):
    """Plant, preparations and products, as one document."""

    plant: Plant
    preparations: tuple[Preparation, ...] = ()
    products: tuple[Product, ...]


def library_of(scenario: Scenario) -> Library:
    """The library that a scenario is made from."""
    return Library(plant=scenario.plant, preparations=scenario.preparations, products=scenario.products)


def with_library(scenario: Scenario, library: Library) -> Scenario:
    """The scenario's day with another library, checked as a whole; ValidationError names what does not fit."""
    fields = {name: getattr(scenario, name) for name in Scenario.model_fields}
    return Scenario(**fields | {name: getattr(library, name) for name in Library.model_fields})


def differences(before: Library, after: Library) -> tuple[Difference, ...]:
    """What differs between two versions, at most `MOST_CHANGES` of it."""
    found = _differences((), before.model_dump(mode="json"), after.model_dump(mode="json"))
    return tuple(islice(found, MOST_CHANGES))


def _differences(where: tuple[str, ...], before: Any, after: Any) -> Iterator[Difference]:
    if before == after:
        return
    if isinstance(before, dict) and isinstance(after, dict):
        for name in (*before, *(name for name in after if name not in before)):
            here = (*where, name)
            if name not in after:
                yield Difference(here, "gone", before[name], None)
            elif name not in before:
                yield Difference(here, "new", None, after[name])
            else:
                yield from _differences(here, before[name], after[name])
        return
    keyed = _keyed(before), _keyed(after)
    if keyed[0] is not None and keyed[1] is not None:
        if list(keyed[0]) != list(keyed[1]) and sorted(keyed[0]) == sorted(keyed[1]):
            yield Difference(where, "reordered", None, None)
        yield from _differences(where, *keyed)
        return
    yield Difference(where, "changed", before, after)


def _keyed(members: Any) -> dict[str, Any] | None:
    """A list's members by what tells them apart; None where nothing does."""
    if not isinstance(members, list) or not all(isinstance(member, dict) for member in members):
        return None
    for key in NAMED_BY:
        names = [member.get(key) for member in members]
        if all(isinstance(name, str) for name in names) and len(set(names)) == len(names):
            return dict(zip(names, members, strict=True))
    return None
