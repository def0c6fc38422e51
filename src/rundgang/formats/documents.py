"""Scenarios and plans as JSON documents, and what is wrong with one that cannot be read."""

import json
from typing import TypeVar

from pydantic import BaseModel, ValidationError

from rundgang.core.calendar import Calendar
from rundgang.core.errors import MalformedError
from rundgang.core.library import Library
from rundgang.core.orders import Window
from rundgang.core.planning.model import PlantPlan
from rundgang.core.scenario import Scenario
from rundgang.core.whole_plant import WholePlant, begun_with
from rundgang.formats.clock import zone_of
from rundgang.formats.fault_words import in_words

Document = TypeVar("Document", bound=BaseModel)


A_LIBRARY = (
    "has no window; allowed: a scenario, or a whole plant as the Plant page saves it (Files and versions, Whole plant)",
)


def read_scenario(text: str | bytes) -> Scenario:
    """A scenario from JSON, also that of a whole plant; or MalformedError naming every fault."""
    names = _names_in(text)
    if "scenario" in names:
        return _whole_plant(text).scenario
    if {"plant", "products"} <= names and "window" not in names:
        raise MalformedError(
            "The file is a library: what a plant is and makes, without a window and orders. It", A_LIBRARY
        )
    scenario = _read(Scenario, "The scenario", text)
    zone_of(scenario)
    return scenario


def read_whole_plant(text: str | bytes, window: Window) -> WholePlant:
    """A plant from JSON: the whole of it, a scenario, or a library alone, which begins with a window.

    Raises
    ------
    MalformedError
        Naming every fault.
    """
    names = _names_in(text)
    if "scenario" in names:
        whole = _whole_plant(text)
    elif "window" in names:
        whole = WholePlant(scenario=read_scenario(text))
    else:
        whole = begun_with(_read(Library, "The plant", text), window)
    zone_of(whole.scenario)
    return whole


def _whole_plant(text: str | bytes) -> WholePlant:
    whole = _read(WholePlant, "The plant", text)
    zone_of(whole.scenario)
    return whole


def _names_in(text: str | bytes) -> set[str]:
    """The names at the top of a JSON document; none where it is no object."""
    try:
        known = json.loads(text)
    except (ValueError, RecursionError):
        known = None
    return set(known) if isinstance(known, dict) else set()


def read_calendar(text: str | bytes) -> Calendar:
    """A calendar from JSON, or MalformedError naming every fault."""
    return _read(Calendar, "The calendar", text)


def read_plan(text: str | bytes) -> PlantPlan:
    """A plan from JSON, or MalformedError naming every fault."""
    return _read(PlantPlan, "The plan", text)


def write(document: BaseModel) -> str:
    """A document as indented JSON with a final newline."""
    return document.model_dump_json(indent=2) + "\n"


def schemas() -> str:
    """The JSON Schemas of a scenario and of a plan, as one document."""
    both = {"scenario": Scenario.model_json_schema(), "plan": PlantPlan.model_json_schema()}
    return json.dumps(both, indent=2) + "\n"


def _read(model: type[Document], what: str, text: str | bytes) -> Document:
    try:
        return model.model_validate_json(text)
    except ValidationError as error:
        raise MalformedError(what, faults_of(error)) from None


def faults_of(error: ValidationError) -> tuple[str, ...]:
    """A validation error as lines that say where, what was found, and what is allowed."""
    lines: list[str] = []
    for fault in error.errors(include_url=False):
        if fault["type"] == "value_error":
            where = ".".join(str(part) for part in fault["loc"])
            said = fault["msg"].removeprefix("Value error, ").splitlines()
            lines.extend(f"{where}: {line}" if where else line for line in said)
        else:
            lines.append(in_words(fault))
    return tuple(lines)
