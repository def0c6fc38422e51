"""Columns: under which headings a customer's file has what an order needs, kept by a name."""

import re
from typing import Literal

from pydantic import Field, model_validator

from rundgang.core.model import Model, Name

Ours = Literal["order", "dispatch", "product", "packs", "priority", "fresh_h", "customer", "reference"]

PLACE = re.compile(r"[1-9]\d{0,2}")
"""Of a column, counted from 1."""

NEEDED: tuple[Ours, ...] = ("order", "dispatch", "product", "packs")
PRIORITY: Ours = "priority"
"""How much a pack of the order counts, 1 where it is empty."""
FRESH: Ours = "fresh_h"
"""How old packs may be when the lorry leaves, where the customer asks for fresher ones than the product, h."""
OPTIONAL: tuple[Ours, ...] = (PRIORITY, FRESH, "customer", "reference")


class OrderColumns(Model):
    """Our columns, each with the heading under which a file has it.

    Attributes
    ----------
    headings : dict of str to str
        All that are needed; those that are not may be missing. Of a file without a header the column, counted from 1.
    has_header : bool
        Whether the file's first row says what its columns are.
    """

    name: Name
    headings: dict[Ours, Name] = Field(min_length=len(NEEDED))
    has_header: bool = True

    @model_validator(mode="after")
    def _all_needed(self) -> "OrderColumns":
        missing = [ours for ours in NEEDED if ours not in self.headings]
        if missing:
            raise ValueError(f"has no heading for {', '.join(missing)}; allowed: one for each of {', '.join(NEEDED)}")
        theirs = [heading.casefold() for heading in self.headings.values()]
        if len(set(theirs)) < len(theirs):
            raise ValueError("has one heading twice; allowed: a heading of its own for each column")
        if not self.has_header and not all(PLACE.fullmatch(heading) for heading in theirs):
            raise ValueError("has no header, but headings; allowed: the number of each column, counted from 1")
        return self
