"""Questions of heat: cooling, dew point, oven and fryer."""

from typing import Annotated

from pydantic import BeforeValidator, Field

from rundgang.core.calculators.parts import Answer, Question, asked, numbers, temperature
from rundgang.core.cautions import HOT_OIL
from rundgang.core.errors import OutOfRangeError
from rundgang.core.figure import Figure
from rundgang.core.thermal import cooling, dew_point, fryer, oven
from rundgang.core.thermal.properties import DOUGH_KJ_KG_K


class CoolingQuestion(Question):
    """How long until it can be bagged, in today's air?"""

    known_start_c: float = temperature("Known run: core out of the oven", 95, 20, 150)
    known_end_c: float = temperature("core at the end", 36, 0, 150)
    known_air_c: float = temperature("air that day", 21, -20, 60)
    known_min: float = asked("time on the cooler", 46, 0.1, 600, unit="min")
    start_c: float = temperature("Today: core out of the oven", 95, 20, 150)
    bag_c: float = temperature("bag at a core of", 36, 0, 100)
    air_c: float = temperature("air today", 26, -20, 60)


def cooling_answer(q: CoolingQuestion) -> Answer:
    """Cooling time from a known run's rate."""
    k = cooling.rate_from_run(q.known_start_c, q.known_end_c, q.known_air_c, q.known_min)
    minutes = cooling.time_to(q.bag_c, q.start_c, q.air_c, k)
    return Answer(
        figures=(
            Figure(name="Cooling time", value=minutes, unit="min"),
            Figure(name="Rate k", value=k, unit="1/min", decimals=5),
            Figure(name="Cooler carries, against the known day", value=100 * q.known_min / max(minutes, 0.1), unit="%"),
        ),
        working=(
            f"k = ln(({q.known_start_c:g} − {q.known_air_c:g}) ÷ ({q.known_end_c:g} − {q.known_air_c:g})) "
            f"÷ {q.known_min:g} = {k:.5f} /min",
            f"t = ln(({q.start_c:g} − {q.air_c:g}) ÷ ({q.bag_c:g} − {q.air_c:g})) ÷ {k:.5f} = {minutes:.1f} min",
        ),
    )


class FitQuestion(Question):
    """How fast does a product cool, by several core readings?"""

    start_c: float = temperature("Core onto the cooler", 95, 20, 150)
    air_c: float = temperature("Air", 21, -20, 60)
    minutes: Annotated[tuple[float, ...], BeforeValidator(numbers)] = Field(
        default=(10.0, 20.0, 30.0, 45.0),
        title="Read after, min",
        max_length=500,
        json_schema_extra={"quantity": "", "unit": "min"},
    )
    cores_c: Annotated[tuple[float, ...], BeforeValidator(numbers)] = Field(
        default=(76.0, 62.0, 51.0, 40.0),
        title="Core then",
        max_length=500,
        json_schema_extra={"quantity": "temperature", "unit": ""},
    )
    bag_c: float = temperature("bag at a core of", 36, 0, 100)


def fit_answer(q: FitQuestion) -> Answer:
    """The rate that fits the readings best, and the time to the bagging temperature."""
    if len(q.minutes) != len(q.cores_c):
        raise OutOfRangeError("The number of cores", len(q.cores_c), f"one for each of the {len(q.minutes)} times")
    readings = tuple(
        cooling.CoreReading(minutes=minutes, core_c=core, air_c=q.air_c)
        for minutes, core in zip(q.minutes, q.cores_c, strict=True)
    )
    found = cooling.fit_rate(q.start_c, readings)
    minutes = cooling.time_to(q.bag_c, q.start_c, q.air_c, found.k_per_min)
    return Answer(
        figures=(
            Figure(name="Rate k", value=found.k_per_min, unit="1/min", decimals=4),
            Figure(name="give or take", value=found.standard_error, unit="1/min", decimals=4),
            Figure(name="Cooling time", value=minutes, unit="min"),
        ),
        working=(
            "ln((core − air) ÷ (start − air)) against time, a line through the origin by least squares: slope −k",
            f"ln(({q.start_c:g} − {q.air_c:g}) ÷ ({q.bag_c:g} − {q.air_c:g})) ÷ {found.k_per_min:.4f} "
            f"= {minutes:.1f} min",
        ),
    )


class SweatQuestion(Question):
    """Will the bag sweat?"""

    air_c: float = temperature("Packing room", 24, -20, 60)
    humidity_pct: float = asked("its relative humidity", 62, 1, 100, unit="%")
    surface_c: float = temperature("Surface of the product or bag", 20, -30, 100)


def sweat_answer(q: SweatQuestion) -> Answer:
    """Dew point, and whether the surface is below it."""
    found = dew_point.sweating(q.surface_c, q.air_c, q.humidity_pct)
    return Answer(
        figures=(
            Figure(name="Dew point", value=found.dew_point_c, quantity="temperature"),
            Figure(name="Surface above it", value=found.margin_k, quantity="temperature difference"),
        ),
        good=not found.sweats,
        verdict="The surface is below the dew point: it sweats." if found.sweats else "The surface stays dry.",
        working=(
            f"dew point of {q.air_c:g} °C and {q.humidity_pct:g} % by the Magnus form: {found.dew_point_c:.1f} °C",
        ),
    )


class OvenQuestion(Question):
    """How full is the band, and what heat does the product take?"""

    pieces_per_h: float = asked("Pace", 9_000, 1, 1_000_000, unit="pieces/h")
    scaling_g: float = asked("Dough piece", 96, 1, 20_000, "piece mass")
    bake_loss_pct: float = asked("Bake loss", 12, 0, 60, unit="%")
    bake_min: float = asked("Bake time", 14, 0.1, 600, unit="min")
    dough_c: float = temperature("into the oven at", 32, -20, 60)
    core_c: float = temperature("out at", 96, 40, 130)
    oven_c: float = temperature("Oven", 235, 60, 400)
    band_m2: float = asked("Heated band", 60, 0.1, 2_000, quantity="area")


def oven_answer(q: OvenQuestion) -> Answer:
    """Loading and heat duty."""
    duty = oven.oven_duty(
        pieces_per_h=q.pieces_per_h,
        scaling_kg=q.scaling_g / 1_000,
        bake_loss=q.bake_loss_pct / 100,
        bake_min=q.bake_min,
        dough_c=q.dough_c,
        core_c=q.core_c,
        oven_c=q.oven_c,
        band_m2=q.band_m2,
    )
    return Answer(
        figures=(
            Figure(name="Heat into the product", value=duty.total_kw, quantity="heat flow", decimals=0),
            Figure(name="of it to evaporate", value=duty.evaporation_kw, quantity="heat flow", decimals=0),
            Figure(name="Water up the flue", value=duty.evaporated_kg_h, quantity="mass flow", decimals=0),
            Figure(name="Pieces inside", value=duty.pieces_inside, decimals=0),
            Figure(name="Dough on the band", value=duty.loading_kg_m2, quantity="band loading", decimals=2),
        ),
        working=(
            f"{q.pieces_per_h:,.0f} × {q.scaling_g:g} g × {DOUGH_KJ_KG_K} kJ/kgK × "
            f"({q.core_c:g} °C − {q.dough_c:g} °C) an hour = {duty.warming_kw:.0f} kW",
            f"{duty.evaporated_kg_h:.0f} kg/h × ({oven.LATENT_KJ_KG:,.0f} kJ/kg + steam to {q.oven_c:g} °C) "
            f"= {duty.evaporation_kw:.0f} kW",
        ),
    )


class FryerQuestion(Question):
    """What does the fryer carry, and how much oil goes with the product?"""

    places: int = asked("Places", 380, 1, 100_000)
    side_one_s: float = asked("First side", 62, 1, 1_200, unit="s")
    side_two_s: float = asked("Second side", 58, 1, 1_200, unit="s")
    pieces_per_h: float = asked("Pace", 9_600, 1, 1_000_000, unit="pieces/h")
    oil_per_piece_g: float = asked("Oil taken up by a piece", 5.5, 0, 500, "piece mass")
    filling_kg: float = asked("Oil in the fryer", 820, 1, 50_000, "dough mass")


def fryer_answer(q: FryerQuestion) -> Answer:
    """Capacity, turn, oil to make up, with the caution."""
    found = fryer.frying(q.places, q.side_one_s, q.side_two_s, q.pieces_per_h, q.oil_per_piece_g, q.filling_kg)
    figures = [
        Figure(name="Fryer carries", value=found.capacity_per_h, unit="pieces/h", decimals=0),
        Figure(name="Turn after", value=found.turn_after_s, unit="s", decimals=0),
        Figure(name="Oil to make up an hour", value=found.oil_taken_kg_h, quantity="dough mass"),
    ]
    if found.turnover_h is not None:
        figures.append(Figure(name="All the oil is new after", value=found.turnover_h, unit="h"))
    return Answer(
        figures=tuple(figures),
        working=(
            f"{q.places} places × 3,600 ÷ ({q.side_one_s:g} + {q.side_two_s:g}) s = {found.capacity_per_h:,.0f} /h",
            f"{q.pieces_per_h:,.0f} /h × {q.oil_per_piece_g:g} g = {found.oil_taken_kg_h:.1f} kg/h",
        ),
        cautions=(HOT_OIL,),
    )
