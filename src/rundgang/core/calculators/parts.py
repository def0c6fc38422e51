"""What questions and answers are made of."""

import re
from collections.abc import Callable
from typing import Any, NamedTuple

from pydantic import Field
from pydantic.config import JsonDict

from rundgang.core.cautions import Caution
from rundgang.core.figure import Figure
from rundgang.core.model import Model


class Question(Model):
    """What a calculator is asked, as a form has it."""

    as_typed = True


class Answer(Model):
    """What a calculator says.

    Attributes
    ----------
    verdict : str
        In words; empty where the figures say it all.
    good : bool
        False where something is wrong or out of reach.
    working : tuple of str
        The equations with the figures in them, in metric units.
    """

    figures: tuple[Figure, ...]
    verdict: str = ""
    good: bool = True
    working: tuple[str, ...]
    cautions: tuple[Caution, ...] = ()


class Entry(NamedTuple):
    """A calculator."""

    id: str
    name: str
    about: str
    question: type[Question]
    answer: Callable[[Any], Answer]


def asked(title: str, first: object, least: float, most: float, quantity: str = "", unit: str = "") -> Any:
    """A field of a question: title, first value, range, and the quantity or unit it is typed in."""
    extra: JsonDict = {"quantity": quantity, "unit": unit}
    return Field(default=first, title=title, ge=least, le=most, json_schema_extra=extra)


def temperature(title: str, first: float, least: float = -40, most: float = 400) -> Any:
    """A field that asks for a temperature, °C."""
    return asked(title, first, least, most, "temperature")


def numbers(given: object) -> object:
    """Weights as people type or paste them: apart by spaces, lines or semicolons; decimal comma or point."""
    if not isinstance(given, str):
        return given
    return [part.replace(",", ".") for part in re.split(r"[\s;]+", given.strip()) if part]
