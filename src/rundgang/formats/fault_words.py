"""What is wrong in a document or a request, in words: where, what was given, and what is allowed."""

from collections.abc import Callable, Mapping
from typing import Any

FROM = {"body", "query", "path", "header"}
"""Of a request: where its parts come from, which says nothing to who asks."""

ALLOWED: Mapping[str, Callable[[Mapping[str, Any]], str]] = {
    "less_than_equal": lambda limits: f"at most {_figure(limits['le'])}",
    "less_than": lambda limits: f"less than {_figure(limits['lt'])}",
    "greater_than_equal": lambda limits: f"at least {_figure(limits['ge'])}",
    "greater_than": lambda limits: f"more than {_figure(limits['gt'])}",
    "int_type": lambda _: "a whole number",
    "int_parsing": lambda _: "a whole number",
    "int_from_float": lambda _: "a whole number",
    "float_type": lambda _: "a number",
    "float_parsing": lambda _: "a number",
    "finite_number": lambda _: "a number",
    "string_type": lambda _: "text",
    "bool_type": lambda _: "true or false",
    "string_too_long": lambda limits: f"at most {limits['max_length']} characters",
    "string_too_short": lambda limits: f"at least {limits['min_length']} characters",
    "literal_error": lambda limits: str(limits["expected"]),
}
"""By the kind of fault, what is allowed instead."""

LONGEST_SHOWN = 60
"""Characters of a wrong value that a message repeats."""


def in_words(fault: Mapping[str, Any]) -> str:
    """One fault, as Pydantic tells it, with its place."""
    where = ".".join(str(part) for part in fault["loc"] if part not in FROM) or "document"
    if fault["type"] == "missing":
        return f"{where}: is missing"
    if fault["type"] == "extra_forbidden":
        return f"{where}: is not known here"
    allowed, found = ALLOWED.get(fault["type"]), fault.get("input")
    if allowed:
        return f"{where}: is {_shown(found)}; allowed: {allowed(fault.get('ctx', {}))}"
    said = str(fault["msg"]).removeprefix("Value error, ")
    return f"{where}: {said}" if isinstance(found, dict | list | tuple) else f"{where}: {said}; found {_shown(found)}"


def _figure(limit: float) -> str:
    return f"{limit:,}" if isinstance(limit, int) else f"{limit:,g}"


def _shown(given: object) -> str:
    return shortened(str(given)) if given != "" else "empty"


def shortened(text: str) -> str:
    """As much of a wrong value as a message repeats."""
    return text if len(text) <= LONGEST_SHOWN else f"{text[:LONGEST_SHOWN]}…"
