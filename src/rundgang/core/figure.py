"""A figure as people read it: its name, its value in metric units, and how it is written."""

from rundgang.core.model import Model


class Figure(Model):
    """A named figure.

    Attributes
    ----------
    quantity : str
        A quantity of the unit table, or "" where `unit` is the same in both systems.
    """

    name: str
    value: float
    quantity: str = ""
    unit: str = ""
    decimals: int = 1
