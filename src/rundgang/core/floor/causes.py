"""Why a station stands, in two taps: what kind of trouble, and what exactly (common practice, no published source)."""

from collections.abc import Mapping

from rundgang.core.errors import UnknownItemError

CAUSES: Mapping[str, tuple[str, ...]] = {
    "it jams": ("pieces across", "tray or tin", "belt off its track", "foreign body"),
    "drive": ("motor", "chain or belt", "gearbox or bearing", "guard or emergency stop"),
    "heat": ("burner", "heater", "steam", "thermostat or high-limit cut-out"),
    "controls": ("sensor", "control or screen", "compressed air", "power"),
    "tool": ("blade", "die, roller or mould", "film, label or bag", "nozzle or curtain"),
    "it waits": ("no dough", "nobody there", "no packing", "the next machine stands"),
    "as planned": ("cleaning", "changeover", "break", "maintenance"),
}
"""By kind."""

HEAT = "heat"
"""Of this kind of trouble the drive goes on, and what comes out is pale."""


def refuse_unknown(kind: str, exactly: str) -> None:
    """UnknownItemError where there is no such cause."""
    if exactly not in CAUSES.get(kind, ()):
        raise UnknownItemError("cause", f"{kind}: {exactly}", tuple(CAUSES))
