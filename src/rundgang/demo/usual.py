"""Usual figures to begin from, made up: the demo's lines and products, and a rack oven, which none of its lines has."""

from functools import cache

from rundgang.core.building import Starter, usual_stations
from rundgang.core.kinds.load import LoadStation, LoadStep
from rundgang.core.library import Library, library_of
from rundgang.demo.ostermere import SOME_DAY, ostermere

RACK_OVEN = Starter(
    station=LoadStation(
        id="rack-oven",
        name="Rack oven",
        chambers=4,
        racks=2,
        trays_per_rack=18,
        load_min=1.5,
        unload_min=1.5,
        setup_min=10,
    ),
    step=LoadStep(station="rack-oven", dwell_min=18, temperature_c=225, pieces_per_tray=24),
)


@cache
def usual_library() -> Library:
    """Where usual figures are suggested from."""
    return library_of(ostermere(SOME_DAY))


@cache
def usual_starters() -> dict[str, Starter]:
    """By kind, a station and its step to begin a new one from."""
    return {RACK_OVEN.station.kind: RACK_OVEN, **usual_stations(usual_library())}
