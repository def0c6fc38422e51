"""The bench: calculations that stand alone, each a question with ranges and an answer with its arithmetic.

Every entry takes its figures from nobody but the person asking, so it can be used before a product or a
plant is described. The questions' fields carry what a form needs: title, range, a first value to begin
from, and the quantity that says in which units they are read and typed.
"""

import re
from collections.abc import Callable
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import BeforeValidator, Field
from pydantic.config import JsonDict
from pydantic.fields import FieldInfo

from rundgang.core.cautions import HOT_OIL, Caution
from rundgang.core.dough import dry_ice, flour, heat_balance, lamination, proof, water
from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Model
from rundgang.core.thermal import cooling, dew_point, fryer, oven
from rundgang.core.thermal.properties import DOUGH_KJ_KG_K
from rundgang.core.weights import average_quantity, giveaway_kg, maximum_allowable_variation, smallest_target

HOURS_IN_A_YEAR_OF_SHIFTS = 4_000.0
"""Two shifts on 250 days: what a giveaway of so much an hour is reckoned up to, h."""


class Figure(Model):
    """A figure of an answer.

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


class Answer(Model):
    """What the bench says.

    Attributes
    ----------
    verdict : str
        In words; empty where the figures say it all.
    good : bool
        False where something is wrong or out of reach.
    working : tuple of str
        The equations with the figures in them, in metric units.
    """

    figures: tuple[Figure, ...]
    verdict: str = ""
    good: bool = True
    working: tuple[str, ...]
    cautions: tuple[Caution, ...] = ()


class Entry(NamedTuple):
    """A calculation on the bench."""

    id: str
    name: str
    about: str
    question: type[Model]
    answer: Callable[[Any], Answer]


def _asked(title: str, first: object, least: float, most: float, quantity: str = "", unit: str = "") -> Any:
    extra: JsonDict = {"quantity": quantity, "unit": unit}
    return Field(default=first, title=title, ge=least, le=most, json_schema_extra=extra)


def _temperature(title: str, first: float, least: float = -40, most: float = 400) -> Any:
    return _asked(title, first, least, most, "temperature")


def _numbers(given: object) -> object:
    """Weights as people type or paste them: apart by spaces, lines or semicolons; decimal comma or point."""
    if not isinstance(given, str):
        return given
    return [part.replace(",", ".") for part in re.split(r"[\s;]+", given.strip()) if part]


class CoolingQuestion(Model):
    """How long until it can be bagged, in today's air?"""

    known_start_c: float = _temperature("Known run: core out of the oven", 95, 20, 150)
    known_end_c: float = _temperature("core at the end", 36, 0, 150)
    known_air_c: float = _temperature("air that day", 21, -20, 60)
    known_min: float = _asked("time on the cooler", 46, 0.1, 600, unit="min")
    start_c: float = _temperature("Today: core out of the oven", 95, 20, 150)
    bag_c: float = _temperature("bag at a core of", 36, 0, 100)
    air_c: float = _temperature("air today", 26, -20, 60)


def _cooling(q: CoolingQuestion) -> Answer:
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


class SweatQuestion(Model):
    """Will the bag sweat?"""

    air_c: float = _temperature("Packing room", 24, -20, 60)
    humidity_pct: float = _asked("its relative humidity", 62, 1, 100, unit="%")
    surface_c: float = _temperature("Surface of the product or bag", 20, -30, 100)


def _sweat(q: SweatQuestion) -> Answer:
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


class WeightsQuestion(Model):
    """Does the sample keep the law, and where should the divider aim?"""

    system: Literal["average quantity", "maximum variation"] = Field(default="average quantity", title="Legal system")
    nominal_g: float = _asked("Nominal weight", 420, 5, 10_000, "piece mass")
    pieces_per_h: float = _asked("Pace", 9_000, 1, 1_000_000, unit="pieces/h")
    weights_g: Annotated[tuple[float, ...], BeforeValidator(_numbers)] = Field(
        default=(
            *(421.5, 424.0, 419.0, 426.5, 422.0, 423.5, 420.5, 425.0, 417.5, 422.5),
            *(428.0, 421.0, 423.0, 424.5, 419.5, 422.0, 426.0, 420.0, 423.5, 425.5),
        ),
        title="Weights of the sample, g",
        max_length=2_000,
        json_schema_extra={"quantity": "", "unit": "g"},
    )


def _weights(q: WeightsQuestion) -> Answer:
    judge = average_quantity if q.system == "average quantity" else maximum_allowable_variation
    verdict = judge(q.nominal_g, q.weights_g)
    target = smallest_target(q.nominal_g, verdict.spread_g)
    given = giveaway_kg(verdict.mean_g, q.nominal_g, q.pieces_per_h)
    broken = [rule.rule for rule in verdict.rules if not rule.kept]
    return Answer(
        figures=(
            Figure(name="Mean", value=verdict.mean_g, quantity="piece mass"),
            Figure(name="Standard deviation", value=verdict.spread_g, quantity="piece mass"),
            Figure(name="Aim at, for this spread (average quantity)", value=target, quantity="piece mass"),
            Figure(name="Given away an hour", value=given, quantity="dough mass"),
            Figure(
                name="in a year of two shifts", value=given * HOURS_IN_A_YEAR_OF_SHIFTS / 1_000, unit="t", decimals=1
            ),
        ),
        good=verdict.kept,
        verdict=f"Not kept: {', '.join(broken)}." if broken else f"All {len(verdict.rules)} rules are kept.",
        working=tuple(f"{rule.rule}: {rule.arithmetic}" for rule in verdict.rules),
    )


class LaminationQuestion(Model):
    """How many layers, how thin, how many fat blocks?"""

    folds: Annotated[tuple[int, ...], BeforeValidator(_numbers)] = Field(
        default=(3, 4, 3),
        title="Folds, each by its parts",
        max_length=12,
        json_schema_extra={"quantity": "", "unit": ""},
    )
    sheet_mm: float = _asked("Final sheet", 3.2, 0.1, 100, "thickness")
    fat_share_pct: float = _asked("Fat in the laminated dough", 22, 1, 60, unit="%")
    dough_kg_per_h: float = _asked("Laminated dough an hour", 900, 1, 50_000, "dough mass")
    block_kg: float = _asked("A fat block", 10, 0.1, 500, "dough mass")


def _lamination(q: LaminationQuestion) -> Answer:
    found = lamination.laminate(q.folds, q.sheet_mm, q.fat_share_pct / 100, q.dough_kg_per_h, q.block_kg)
    product = " × ".join(str(fold) for fold in q.folds)
    return Answer(
        figures=(
            Figure(name="Fat layers", value=found.fat_layers, decimals=0),
            Figure(name="Dough layers", value=found.dough_layers, decimals=0),
            Figure(name="Fat layer", value=found.fat_um, unit="µm", decimals=0),
            Figure(name="Dough layer", value=found.dough_um, unit="µm", decimals=0),
            Figure(name="Fat blocks an hour", value=found.fat_blocks_per_h, decimals=1),
        ),
        working=(
            f"{product} = {found.fat_layers} fat layers, one more of dough",
            f"{q.sheet_mm:g} mm × {q.fat_share_pct:g} % ÷ {found.fat_layers} = {found.fat_um:.0f} µm",
        ),
    )


class DryIceQuestion(Model):
    """Is the room safe for so much dry ice?"""

    dry_ice_kg_per_h: float = _asked("Dry ice used an hour", 18, 0, 5_000, "dough mass")
    room_m3: float = _asked("Room", 900, 1, 1_000_000, "room volume")
    air_changes_per_h: float = _asked("Fresh air", 3, 0.01, 200, unit="room volumes/h")


def _dry_ice(q: DryIceQuestion) -> Answer:
    found = dry_ice.room_check(q.dry_ice_kg_per_h, q.room_m3, q.air_changes_per_h)
    return Answer(
        figures=(
            Figure(name="Average over 8 h", value=found.eight_hours_ppm, unit="ppm, limit 5,000", decimals=0),
            Figure(name="Last 15 min", value=found.quarter_hour_ppm, unit="ppm, limit 30,000", decimals=0),
            Figure(name="Fresh air needed", value=found.air_changes_needed, unit="room volumes/h"),
        ),
        good=found.keeps_limits,
        verdict=(
            "Both limits are kept, if the room is well mixed."
            if found.keeps_limits
            else "A limit is broken: more fresh air or less dry ice."
        ),
        working=(
            f"G ÷ (n V) = {q.dry_ice_kg_per_h:g} kg/h × {dry_ice.CO2_M3_PER_KG} m³/kg ÷ "
            f"({q.air_changes_per_h:g} × {q.room_m3:g} m³) above {dry_ice.OUTDOOR_PPM:.0f} ppm outdoors",
        ),
        cautions=(found.caution,),
    )


class WaterQuestion(Model):
    """How warm must the water be, by both schools?"""

    dough_c: float = _temperature("Dough wanted", 25, 0, 45)
    flour_c: float = _temperature("Flour", 22, -20, 60)
    room_c: float = _temperature("Room", 24, -20, 60)
    tap_c: float = _temperature("Tap", 15, 0.1, 60)
    friction_c: float = _asked("Friction factor", 21, -50, 100, "temperature difference")
    flour_kg: float = _asked("Flour", 100, 0.1, 5_000, "dough mass")
    water_kg: float = _asked("Water", 54, 0.1, 5_000, "dough mass")
    other_kg: float = _asked("All the rest", 8, 0, 5_000, "dough mass")
    work_wh_per_kg: float = _asked("Mixing work", 6, 0, 40, "mixing work")


def _water(q: WaterQuestion) -> Answer:
    rule = water.water_temperature(q.dough_c, (q.flour_c, q.room_c), q.friction_c)
    bowl = heat_balance.Bowl(
        flour_kg=q.flour_kg,
        water_kg=q.water_kg,
        other_kg=q.other_kg,
        flour_c=q.flour_c,
        other_c=q.room_c,
        tap_c=q.tap_c,
        work_wh_per_kg=q.work_wh_per_kg,
    )
    heat = heat_balance.water_by_heat(bowl, q.dough_c)
    ice_by_rule = max(0.0, q.water_kg * water.ice_share(q.tap_c, rule))
    reached = heat.short_k == 0 and ice_by_rule <= q.water_kg
    remedies = "; ".join(f"{r.measure} gives {r.cools_k:.1f} K" for r in heat_balance.remedies(bowl, q.dough_c))
    return Answer(
        figures=(
            Figure(name="Water, rule of three temperatures", value=rule, quantity="temperature"),
            Figure(name="of it ice", value=min(ice_by_rule, q.water_kg), quantity="dough mass"),
            Figure(name="Water, heat balance", value=heat.water_c, quantity="temperature"),
            Figure(name="of it ice", value=heat.ice_kg, quantity="dough mass"),
        ),
        good=reached,
        verdict="" if reached else f"Ice alone does not reach it, by {heat.short_k:.1f} K. {remedies}.",
        working=(
            f"3 × {q.dough_c:g} − {q.flour_c:g} − {q.room_c:g} − {q.friction_c:g} = {rule:.1f} °C",
            f"{q.work_wh_per_kg:g} Wh/kg of mixing × {bowl.dough_kg:g} kg = "
            f"{heat_balance.work_kj(bowl):.0f} kJ, taken up by flour, water and the rest: {heat.water_c:.1f} °C",
        ),
    )


class ProofQuestion(Model):
    """How long must it proof at another temperature?"""

    minutes: float = _asked("Proof time", 60, 0.1, 1_440, unit="min")
    reference_c: float = _temperature("at a dough temperature of", 35, -5, 60)
    dough_c: float = _temperature("Today's dough", 31, -5, 60)
    least_c: float = _temperature("Yeast rests below", 2, -20, 20)
    best_c: float = _temperature("works best at", 37, 20, 50)
    most_c: float = _temperature("dies above", 46, 38, 70)


def _proof(q: ProofQuestion) -> Answer:
    yeast = proof.Yeast(least_c=q.least_c, best_c=q.best_c, most_c=q.most_c)
    minutes = proof.corrected_minutes(yeast, q.minutes, q.reference_c, q.dough_c)
    shares = [100 * proof.activity(yeast, celsius) for celsius in (q.reference_c, q.dough_c)]
    return Answer(
        figures=(
            Figure(name="Proof today", value=minutes, unit="min", decimals=0),
            Figure(name="Activity then", value=shares[0], unit="% of the best", decimals=0),
            Figure(name="Activity today", value=shares[1], unit="% of the best", decimals=0),
        ),
        working=(f"{q.minutes:g} min × {shares[0]:.1f} % ÷ {shares[1]:.1f} % = {minutes:.0f} min",),
    )


class FlourQuestion(Model):
    """What do drier or damper flour and a humid room change?"""

    flour_kg: float = _asked("Flour", 100, 0.1, 5_000, "dough mass")
    water_kg: float = _asked("Water", 55, 0.1, 5_000, "dough mass")
    moisture_pct: float = _asked("Flour moisture measured", 12.8, 5, 20, unit="%")
    humidity_pct: float = _asked("Room humidity", 70, 0, 100, unit="%")
    reference_pct: float = _asked("the plant's reference", 55, 0, 100, unit="%")
    percent_per_ten: float = _asked("less water for 10 points more", 1, 0, 10, unit="%")


def _flour(q: FlourQuestion) -> Answer:
    measured = flour.same_dry_matter(q.flour_kg, q.water_kg, q.moisture_pct)
    thumb = flour.room_rule(q.water_kg, q.humidity_pct, q.reference_pct, q.percent_per_ten)
    return Answer(
        figures=(
            Figure(name="Flour, by measured moisture", value=measured.flour_kg, quantity="dough mass"),
            Figure(name="Water, by measured moisture", value=measured.water_kg, quantity="dough mass"),
            Figure(name="Water, by the room rule", value=thumb, quantity="dough mass"),
        ),
        working=(
            f"{q.flour_kg:g} × (100 − 14) ÷ (100 − {q.moisture_pct:g}) = {measured.flour_kg:.2f} kg; the water moves "
            f"by the difference to {measured.water_kg:.2f} kg",
            f"{q.water_kg:g} × (1 − {q.percent_per_ten:g} % × ({q.humidity_pct:g} − {q.reference_pct:g}) ÷ 10) "
            f"= {thumb:.2f} kg",
        ),
    )


class OvenQuestion(Model):
    """How full is the band, and what heat does the product take?"""

    pieces_per_h: float = _asked("Pace", 9_000, 1, 1_000_000, unit="pieces/h")
    scaling_g: float = _asked("Dough piece", 96, 1, 20_000, "piece mass")
    bake_loss_pct: float = _asked("Bake loss", 12, 0, 60, unit="%")
    bake_min: float = _asked("Bake time", 14, 0.1, 600, unit="min")
    dough_c: float = _temperature("into the oven at", 32, -20, 60)
    core_c: float = _temperature("out at", 96, 40, 130)
    oven_c: float = _temperature("Oven", 235, 60, 400)
    band_m2: float = _asked("Heated band", 60, 0.1, 2_000, unit="m²")


def _oven(q: OvenQuestion) -> Answer:
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
            Figure(name="Heat into the product", value=duty.total_kw, unit="kW", decimals=0),
            Figure(name="of it to evaporate", value=duty.evaporation_kw, unit="kW", decimals=0),
            Figure(name="Water up the flue", value=duty.evaporated_kg_h, unit="kg/h", decimals=0),
            Figure(name="Pieces inside", value=duty.pieces_inside, decimals=0),
            Figure(name="Dough on the band", value=duty.loading_kg_m2, unit="kg/m²", decimals=2),
        ),
        working=(
            f"{q.pieces_per_h:,.0f} × {q.scaling_g:g} g × {DOUGH_KJ_KG_K} kJ/kgK × "
            f"({q.core_c:g} − {q.dough_c:g}) K ÷ 3,600 = {duty.warming_kw:.0f} kW",
            f"{duty.evaporated_kg_h:.0f} kg/h × ({oven.LATENT_KJ_KG:,.0f} kJ/kg + steam to {q.oven_c:g} °C) ÷ 3,600 "
            f"= {duty.evaporation_kw:.0f} kW",
        ),
    )


class FryerQuestion(Model):
    """What does the fryer carry, and how much oil goes with the product?"""

    places: int = _asked("Places", 380, 1, 100_000)
    side_one_s: float = _asked("First side", 62, 1, 1_200, unit="s")
    side_two_s: float = _asked("Second side", 58, 1, 1_200, unit="s")
    pieces_per_h: float = _asked("Pace", 9_600, 1, 1_000_000, unit="pieces/h")
    oil_per_piece_g: float = _asked("Oil taken up by a piece", 5.5, 0, 500, "piece mass")
    filling_kg: float = _asked("Oil in the fryer", 820, 1, 50_000, "dough mass")


def _fryer(q: FryerQuestion) -> Answer:
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


BENCH: tuple[Entry, ...] = (
    Entry("water", "Water temperature", "both schools side by side", WaterQuestion, _water),
    Entry("flour", "Flour moisture", "drier flour, humid room", FlourQuestion, _flour),
    Entry("proof", "Proof", "time against temperature", ProofQuestion, _proof),
    Entry("lamination", "Lamination", "layers and fat blocks", LaminationQuestion, _lamination),
    Entry("weights", "Weights", "the law, the target, the giveaway", WeightsQuestion, _weights),
    Entry("cooling", "Cooling", "until it can be bagged", CoolingQuestion, _cooling),
    Entry("sweat", "Dew point", "will the bag sweat", SweatQuestion, _sweat),
    Entry("oven", "Oven", "loading and heat", OvenQuestion, _oven),
    Entry("fryer", "Fryer", "places and oil", FryerQuestion, _fryer),
    Entry("dry-ice", "Dry ice room", "CO2 against the limits", DryIceQuestion, _dry_ice),
)


def entry(entry_id: str) -> Entry:
    """The entry of that id, or UnknownItemError."""
    for found in BENCH:
        if found.id == entry_id:
            return found
    raise UnknownItemError("calculation", entry_id, tuple(found.id for found in BENCH))


class AskedFor(Model):
    """A field of a question, as a form needs it.

    Attributes
    ----------
    first : str
        Value to begin from, as typed.
    choices : tuple of str
        Where one of a few is asked; empty otherwise.
    many : bool
        Where several numbers are asked.
    """

    name: str
    title: str
    quantity: str
    unit: str
    first: str
    least: float | None
    most: float | None
    choices: tuple[str, ...]
    many: bool


def asked_for(question: type[Model]) -> tuple[AskedFor, ...]:
    """The fields of a question, in order."""
    return tuple(_asked_for(name, field) for name, field in question.model_fields.items())


def _asked_for(name: str, field: FieldInfo) -> AskedFor:
    extra = field.json_schema_extra if isinstance(field.json_schema_extra, dict) else {}
    bounds = {type(bound).__name__: getattr(bound, type(bound).__name__.lower(), None) for bound in field.metadata}
    many = isinstance(field.default, tuple)
    return AskedFor(
        name=name,
        title=field.title or name,
        quantity=str(extra.get("quantity", "")),
        unit=str(extra.get("unit", "")),
        first=" ".join(f"{value:g}" for value in field.default) if many else str(field.default),
        least=None if many else bounds.get("Ge"),
        most=None if many else bounds.get("Le"),
        choices=getattr(field.annotation, "__args__", ()) if isinstance(field.default, str) else (),
        many=many,
    )
