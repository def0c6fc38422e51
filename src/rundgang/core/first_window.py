"""What an empty database begins with: a plant with its first window, its calendar, and orders behind the window."""

from typing import NamedTuple

from rundgang.core.calendar import Calendar
from rundgang.core.orders import Order
from rundgang.core.scenario import Scenario


class FirstWindow(NamedTuple):
    """A plant with the first window that is planned.

    Attributes
    ----------
    calendar : Calendar or None
        Gives its lorries from now on; None where they are those of the scenario.
    later : tuple of Order
        For lorries behind the window.
    """

    scenario: Scenario
    calendar: Calendar | None = None
    later: tuple[Order, ...] = ()
