"""Columns: under which headings a customer's file has what an order needs, kept by a name."""

from typing import Literal

from pydantic import Field, model_validator

from rundgang.core.model import Model, Name

Ours = Literal["order", "dispatch", "product", "packs", "priority", "fresh_h", "customer", "reference"]

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
        All that are needed; those that are not may be missing.
    """

    name: Name
    headings: dict[Ours, Name] = Field(min_length=len(NEEDED))

    @model_validator(mode="after")
    def _all_needed(self) -> "OrderColumns":
        missing = [ours for ours in NEEDED if ours not in self.headings]
        if missing:
            raise ValueError(f"has no heading for {', '.join(missing)}; allowed: one for each of {', '.join(NEEDED)}")
        theirs = [heading.casefold() for heading in self.headings.values()]
        if len(set(theirs)) < len(theirs):
            raise ValueError("has one heading twice; allowed: a heading of its own for each column")
        return self
