"""Dry ice in a room: the CO2 it gives off against the room's volume and air changes.

In a well-mixed room, with G the gas given off, V the volume and n the air changes,

    c(t) = c0 + G / (n V) (1 - e^(-n t))

Limits are the common occupational ones (5,000 ppm over 8 h, 30,000 ppm over 15 min; ACGIH and NIOSH, from
memory). The check advises; local limits and trained people decide.
"""

from math import exp

from rundgang.core.cautions import DRY_ICE, Caution
from rundgang.core.errors import OutOfRangeError
from rundgang.core.model import Model

CO2_M3_PER_KG = 0.546
"""Volume of CO2 gas at 20 °C and 1013 hPa, m³/kg: 24.06 l/mol over 44.01 g/mol."""

OUTDOOR_PPM = 420.0
EIGHT_HOURS_PPM = 5_000.0
FIFTEEN_MINUTES_PPM = 30_000.0
SHIFT_H = 8.0
QUARTER_H = 0.25


class RoomCheck(Model):
    """CO2 in a room where dry ice is used, ppm.

    Attributes
    ----------
    peak_ppm : float
        At the end of the shift, well mixed.
    eight_hours_ppm, quarter_hour_ppm : float
        Averages to hold against the limits: over the shift, and over its last 15 min.
    air_changes_needed : float
        Per hour, to keep both limits.
    """

    peak_ppm: float
    eight_hours_ppm: float
    quarter_hour_ppm: float
    keeps_limits: bool
    air_changes_needed: float
    caution: Caution


def room_check(dry_ice_kg_per_h: float, room_m3: float, air_changes_per_h: float) -> RoomCheck:
    """CO2 in a room over a shift of steady use.

    Raises
    ------
    OutOfRangeError
        A negative figure, or a room without volume or without any air change.
    """
    for what, value, unit in (
        ("The room", room_m3, "m³"),
        ("The air change", air_changes_per_h, "an hour"),
    ):
        if value <= 0:
            raise OutOfRangeError(what, f"{value:g} {unit}", f"above 0 {unit}")
    if dry_ice_kg_per_h < 0:
        raise OutOfRangeError("The dry ice", f"{dry_ice_kg_per_h:g} kg/h", "0 kg/h or more")
    rise = dry_ice_kg_per_h * CO2_M3_PER_KG / room_m3 * 1e6
    shift = _mean_ppm(rise, air_changes_per_h, 0, SHIFT_H)
    quarter = _mean_ppm(rise, air_changes_per_h, SHIFT_H - QUARTER_H, SHIFT_H)
    return RoomCheck(
        peak_ppm=_ppm(rise, air_changes_per_h, SHIFT_H),
        eight_hours_ppm=shift,
        quarter_hour_ppm=quarter,
        keeps_limits=shift <= EIGHT_HOURS_PPM and quarter <= FIFTEEN_MINUTES_PPM,
        air_changes_needed=_air_changes_needed(rise),
        caution=DRY_ICE,
    )


def _ppm(rise_ppm_per_h: float, changes: float, hours: float) -> float:
    return OUTDOOR_PPM + rise_ppm_per_h / changes * (1 - exp(-changes * hours))


def _mean_ppm(rise_ppm_per_h: float, changes: float, start_h: float, end_h: float) -> float:
    """Mean over a stretch of the shift: the integral of the concentration over its length."""
    decayed = (exp(-changes * start_h) - exp(-changes * end_h)) / changes
    return OUTDOOR_PPM + rise_ppm_per_h / changes * (1 - decayed / (end_h - start_h))


def _air_changes_needed(rise_ppm_per_h: float) -> float:
    """Least air change that keeps both limits, found by halving; the means fall as air changes rise."""
    low, high = 1e-3, 1e-3 + rise_ppm_per_h / (EIGHT_HOURS_PPM - OUTDOOR_PPM)
    for _ in range(60):
        middle = (low + high) / 2
        keeps = (
            _mean_ppm(rise_ppm_per_h, middle, 0, SHIFT_H) <= EIGHT_HOURS_PPM
            and _mean_ppm(rise_ppm_per_h, middle, SHIFT_H - QUARTER_H, SHIFT_H) <= FIFTEEN_MINUTES_PPM
        )
        low, high = (low, middle) if keeps else (middle, high)
    return high
