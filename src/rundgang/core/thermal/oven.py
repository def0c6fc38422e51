"""The tunnel oven: how full the band is, and the heat the product takes.

Heat duty is what the product itself takes up, the dough warmed and part of its water boiled off; losses
through walls and flue come on top and belong to the oven.
"""

from collections.abc import Sequence
from typing import NamedTuple

from rundgang.core.model import Model
from rundgang.core.thermal.properties import DOUGH_KJ_KG_K

LATENT_KJ_KG = 2_257.0
"""Heat of evaporation of water at 100 °C, kJ/kg (from memory; IAPWS gives 2256.5)."""

STEAM_KJ_KG_K = 2.0
"""Specific heat of steam on its way to the oven's temperature, kJ/kgK (from memory)."""

BOILING_C = 100.0
SECONDS_PER_HOUR = 3_600


class ZoneOf(NamedTuple):
    """A zone: its share of the band, and how much hotter it is than a piece on the way, K."""

    share: float
    hotter_k: float


class OvenDuty(Model):
    """What an oven carries and gives at a pace.

    Attributes
    ----------
    pieces_inside : float
    loading_kg_m2 : float
        Dough on the band, kg/m².
    warming_kw, evaporation_kw, total_kw : float
        Heat into the dough, into its water, and both, kW.
    evaporated_kg_h : float
        Water that leaves through the flue, kg/h.
    """

    pieces_inside: float
    loading_kg_m2: float
    warming_kw: float
    evaporation_kw: float
    total_kw: float
    evaporated_kg_h: float


class ZoneDuty(Model):
    """What one zone of an oven carries and gives.

    Attributes
    ----------
    minutes : float
        A piece is in it, min.
    dough_kg : float
        In it at once, as scaled, kg.
    kw : float
        Its part of the oven's heat into the product, kW.
    """

    minutes: float
    dough_kg: float
    kw: float


def zone_duties(duty: OvenDuty, inside_kg: float, bake_min: float, zones: Sequence[ZoneOf]) -> tuple[ZoneDuty, ...]:
    """What each zone carries and gives.

    Heat passes into a piece as time x the difference between the zone's air and the piece (I. Newton's law of cooling,
    1701, with one coefficient for all zones); the piece is taken at its mean temperature throughout.

    Parameters
    ----------
    duty : OvenDuty
        Of the whole oven.
    inside_kg : float
        Dough in it at once, kg.
    zones : sequence of ZoneOf
    """
    pull = [zone.share * max(zone.hotter_k, 0.0) for zone in zones]
    total = sum(pull) or 1.0
    return tuple(
        ZoneDuty(minutes=zone.share * bake_min, dough_kg=zone.share * inside_kg, kw=duty.total_kw * part / total)
        for zone, part in zip(zones, pull, strict=True)
    )


def oven_duty(
    pieces_per_h: float,
    scaling_kg: float,
    bake_loss: float,
    bake_min: float,
    dough_c: float,
    core_c: float,
    oven_c: float,
    band_m2: float,
) -> OvenDuty:
    """Loading and heat duty of a tunnel oven.

    Parameters
    ----------
    scaling_kg : float
        Dough piece, kg.
    bake_loss : float
        Share of it that evaporates.
    core_c : float
        Mean temperature of the baked piece, °C.
    band_m2 : float
        Heated band, m².
    """
    inside = pieces_per_h * bake_min / 60
    mass_per_h = pieces_per_h * scaling_kg
    evaporated = mass_per_h * bake_loss
    warming = mass_per_h * DOUGH_KJ_KG_K * (core_c - dough_c) / SECONDS_PER_HOUR
    per_kg_steam = LATENT_KJ_KG + STEAM_KJ_KG_K * max(0.0, oven_c - BOILING_C)
    boiling = evaporated * per_kg_steam / SECONDS_PER_HOUR
    return OvenDuty(
        pieces_inside=inside,
        loading_kg_m2=inside * scaling_kg / band_m2,
        warming_kw=warming,
        evaporation_kw=boiling,
        total_kw=warming + boiling,
        evaporated_kg_h=evaporated,
    )
