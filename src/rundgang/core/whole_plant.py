"""The whole plant: what an empty database begins with, and what is taken out to begin with elsewhere."""

from pydantic import Field, model_validator

from rundgang.core.calendar import Calendar, plant_faults
from rundgang.core.conditions import Conditions
from rundgang.core.library import Library
from rundgang.core.model import Model
from rundgang.core.orders import Order, Window
from rundgang.core.scenario import Scenario

USUAL = Conditions(room_c=22, flour_c=21, tap_c=14)
"""A dough room of which nobody has read anything yet."""


class WholePlant(Model):
    """A plant with the window that is planned.

    Attributes
    ----------
    calendar : Calendar or None
        Gives its lorries from now on; None where they are those of the scenario.
    later : tuple of Order
        For lorries behind the window.
    """

    scenario: Scenario
    calendar: Calendar | None = None
    later: tuple[Order, ...] = Field(default=(), max_length=50_000)

    @model_validator(mode="after")
    def _parts_agree(self) -> "WholePlant":
        products = {product.id for product in self.scenario.products}
        faults = [*plant_faults(self.calendar, self.scenario.plant, products)] if self.calendar else []
        if self.scenario.absences:
            faults.append("scenario.absences: who is away follows from the calendar's shifts; allowed: none here")
        lines = {order.line for order in self.scenario.orders}
        for place, order in enumerate(self.later):
            if order.product not in products:
                faults.append(f"later.{place} ({order.id}).product is {order.product}; allowed: the plant's products")
            if order.line in lines:
                faults.append(f"later.{place} ({order.id}) stands twice; allowed: once for a product and a lorry")
            lines.add(order.line)
        if faults:
            raise ValueError("\n".join(faults))
        return self


def begun_with(library: Library, window: Window) -> WholePlant:
    """A plant of which only the library is known: nothing ordered, nothing in stock, no lorries yet."""
    scenario = Scenario(
        plant=library.plant,
        preparations=library.preparations,
        products=library.products,
        window=window,
        conditions=USUAL,
    )
    return WholePlant(scenario=scenario, calendar=Calendar())
