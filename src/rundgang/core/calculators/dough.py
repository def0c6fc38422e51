"""Questions of the dough: water by factor rule and heat balance, flour, proof, lamination, dry ice in a room."""

from typing import Annotated

from pydantic import BeforeValidator, Field

from rundgang.core.calculators.parts import Answer, Question, asked, numbers, temperature
from rundgang.core.dough import dry_ice, flour, heat_balance, lamination, proof, water
from rundgang.core.figure import Figure
from rundgang.core.thermal.cooling import temperature_after


class LaminationQuestion(Question):
    """How many layers, how thin, how many fat blocks?"""

    folds: Annotated[tuple[int, ...], BeforeValidator(numbers)] = Field(
        default=(3, 4, 3),
        title="Folds, each by its parts",
        max_length=12,
        json_schema_extra={"quantity": "", "unit": ""},
    )
    sheet_mm: float = asked("Final sheet", 3.2, 0.1, 100, "thickness")
    fat_share_pct: float = asked("Fat in the laminated dough", 22, 1, 60, unit="%")
    dough_kg_per_h: float = asked("Laminated dough an hour", 900, 1, 50_000, "dough mass")
    block_kg: float = asked("A fat block", 10, 0.1, 500, "dough mass")


def lamination_answer(q: LaminationQuestion) -> Answer:
    """Layers, their thickness, and fat blocks an hour."""
    found = lamination.laminate(q.folds, q.sheet_mm, q.fat_share_pct / 100, q.dough_kg_per_h, q.block_kg)
    product = " × ".join(str(fold) for fold in q.folds)
    return Answer(
        figures=(
            Figure(name="Fat layers", value=found.fat_layers, decimals=0),
            Figure(name="Dough layers", value=found.dough_layers, decimals=0),
            Figure(name="Fat layer", value=found.fat_um, quantity="layer thickness", decimals=0),
            Figure(name="Dough layer", value=found.dough_um, quantity="layer thickness", decimals=0),
            Figure(name="Fat blocks an hour", value=found.fat_blocks_per_h, decimals=1),
        ),
        working=(
            f"{product} = {found.fat_layers} fat layers, one more of dough",
            f"{q.sheet_mm:g} mm × {q.fat_share_pct:g} % ÷ {found.fat_layers} = {found.fat_um:.0f} µm",
        ),
    )


class DryIceQuestion(Question):
    """Is the room safe for so much dry ice?"""

    dry_ice_kg_per_h: float = asked("Dry ice used an hour", 18, 0, 5_000, "dough mass")
    room_m3: float = asked("Room", 900, 1, 1_000_000, "room volume")
    air_changes_per_h: float = asked("Fresh air", 3, 0.01, 200, unit="room volumes/h")


def dry_ice_answer(q: DryIceQuestion) -> Answer:
    """CO2 over the shift against the usual limits, with the caution."""
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


class WaterQuestion(Question):
    """How warm must the water be, by factor rule and heat balance?"""

    dough_c: float = temperature("Target dough temperature", 25, 0, 45)
    flour_c: float = temperature("Flour", 22, -20, 60)
    room_c: float = temperature("Room", 24, -20, 60)
    tap_c: float = temperature("Tap", 15, 0.1, 60)
    friction_c: float = asked("Friction factor", 21, -50, 100, "temperature difference")
    flour_kg: float = asked("Flour", 100, 0.1, 5_000, "dough mass")
    water_kg: float = asked("Water", 54, 0.1, 5_000, "dough mass")
    other_kg: float = asked("All the rest", 8, 0, 5_000, "dough mass")
    work_wh_per_kg: float = asked("Mixing work", 6, 0, 40, "mixing work")


def water_answer(q: WaterQuestion) -> Answer:
    """Water and ice by factor rule and heat balance, and what each remedy would give where ice does not reach."""
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
            Figure(name="or dry ice alone, and no ice", value=heat.dry_ice_kg, quantity="dough mass"),
        ),
        good=reached,
        verdict="" if reached else f"Ice alone does not reach it, by {heat.short_k:.1f} K. {remedies}.",
        working=(
            f"3 × {q.dough_c:g} °C − {q.flour_c:g} °C − {q.room_c:g} °C − {q.friction_c:g} K = {rule:.1f} °C",
            f"{q.work_wh_per_kg:g} Wh/kg of mixing × {bowl.dough_kg:g} kg = "
            f"{heat_balance.work_kj(bowl):.0f} kJ, taken up by flour, water and the rest: {heat.water_c:.1f} °C",
        ),
    )


class ProofQuestion(Question):
    """How long must a colder or warmer dough proof?"""

    minutes: float = asked("Proof time", 60, 0.1, 1_440, unit="min")
    usual_c: float = temperature("for a dough that comes in at", 27, -5, 60)
    usual_air_c: float = temperature("into air of", 35, -5, 60)
    dough_c: float = temperature("Today's dough comes in at", 24, -5, 60)
    air_c: float = temperature("into air of today", 35, -5, 60)
    k_per_min: float = asked("Rate at which a piece warms, 0 if not known", 0.06, 0, 2, unit="1/min")
    most_pct: float = asked("A piece bears of its proof", 130, 101, 400, unit="%")
    least_c: float = temperature("Yeast rests below", 2, -20, 20)
    best_c: float = temperature("works best at", 37, 20, 50)
    most_c: float = temperature("dies above", 46, 38, 70)


def proof_answer(q: ProofQuestion) -> Answer:
    """Minutes in which today's dough does what the usual one does in its own."""
    if not q.k_per_min:
        return Answer(
            figures=(Figure(name="Proof today", value=q.minutes, unit="min", decimals=0),),
            working=(
                "How fast a piece warms is not known: the set time is taken as it is. "
                "Two readings of its core in the proofer give the rate, as they do for cooling.",
            ),
        )
    yeast = proof.Yeast(least_c=q.least_c, best_c=q.best_c, most_c=q.most_c)
    usual = proof.Piece(dough_c=q.usual_c, air_c=q.usual_air_c, k_per_min=q.k_per_min)
    today = proof.Piece(dough_c=q.dough_c, air_c=q.air_c, k_per_min=q.k_per_min)
    done = proof.proof_done(yeast, usual, q.minutes)
    minutes = proof.minutes_for(yeast, today, done)
    limit = proof.over_proofed_after(yeast, q.minutes, usual, today, q.most_pct / 100)
    leaves = temperature_after(minutes, q.dough_c, q.air_c, q.k_per_min)
    return Answer(
        figures=(
            Figure(name="Proof today", value=minutes, unit="min", decimals=0),
            Figure(name="Over-proofed after", value=limit, unit="min", decimals=0),
            Figure(name="It is then at", value=leaves, quantity="temperature"),
            Figure(
                name="Done after the set time",
                value=100 * proof.proof_done(yeast, today, q.minutes) / done,
                unit="% of the proof",
                decimals=0,
            ),
        ),
        working=(
            f"In {q.minutes:g} min the usual piece does what {done:.0f} min at {q.best_c:g} °C would do; "
            f"today's needs {minutes:.0f} min for that.",
            f"After t minutes a piece is at {q.air_c:g} °C + ({q.dough_c:g} °C − {q.air_c:g} °C) "
            f"× e^(−{q.k_per_min:g} × t).",
        ),
    )


class FlourQuestion(Question):
    """What do drier or damper flour and a humid room change?"""

    flour_kg: float = asked("Flour", 100, 0.1, 5_000, "dough mass")
    water_kg: float = asked("Water", 55, 0.1, 5_000, "dough mass")
    moisture_pct: float = asked("Flour moisture measured", 12.8, 5, 20, unit="%")
    humidity_pct: float = asked("Room humidity", 70, 0, 100, unit="%")
    reference_pct: float = asked("the plant's reference", 55, 0, 100, unit="%")
    percent_per_ten: float = asked("less water for 10 points more", 1, 0, 10, unit="%")


def flour_answer(q: FlourQuestion) -> Answer:
    """Flour and water by measured moisture, and water by the room rule."""
    measured = flour.same_dry_matter(q.flour_kg, q.water_kg, q.moisture_pct)
    thumb = flour.room_rule(q.water_kg, q.humidity_pct, q.reference_pct, q.percent_per_ten)
    return Answer(
        figures=(
            Figure(name="Flour, by measured moisture", value=measured.flour_kg, quantity="dough mass"),
            Figure(name="Water, by measured moisture", value=measured.water_kg, quantity="dough mass"),
            Figure(name="Water, by the room rule", value=thumb, quantity="dough mass"),
        ),
        working=(
            f"{q.flour_kg:g} kg × (100 − 14) ÷ (100 − {q.moisture_pct:g}) = {measured.flour_kg:.2f} kg; the water "
            f"moves by the difference to {measured.water_kg:.2f} kg",
            f"{q.water_kg:g} kg × (1 − {q.percent_per_ten:g} % × ({q.humidity_pct:g} − {q.reference_pct:g}) ÷ 10) "
            f"= {thumb:.2f} kg",
        ),
    )
