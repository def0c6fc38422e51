"""The usual cautions, shown where the work can hurt someone.

Every one ends by deferring to local codes and to licensed or trained people: Rundgang advises, it
controls no machine.
"""

from rundgang.core.model import Model

DEFERENCE = "Local codes and licensed or trained people decide."


class Caution(Model):
    """A caution: what it is about, and what is usually done."""

    about: str
    text: str


MIXER = Caution(
    about="Rotating mixer",
    text=f"Guards on; stop, isolate and lock out before reaching into the bowl. {DEFERENCE}",
)
FLOUR_DUST = Caution(
    about="Flour dust",
    text=f"Keep extraction on, never blow down: dust harms lungs and can explode. {DEFERENCE}",
)


HOT_OIL = Caution(
    about="Hot oil",
    text=(
        "Fire and splash: never water; a separate high-limit cut-out beside the thermostat; oil quality limits are "
        f"local law's. {DEFERENCE}"
    ),
)


def allergen_caution(allergens: tuple[str, ...]) -> Caution:
    """The caution for a dough that brings allergens."""
    return Caution(
        about="Allergen: " + ", ".join(allergens),
        text=(f"Validated cleaning before the next dough without it; check the label at the changeover. {DEFERENCE}"),
    )
