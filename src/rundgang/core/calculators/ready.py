"""Questions filled in with a product's own figures, as far as it has them."""

from rundgang.core.balance import balance
from rundgang.core.gate_figures import BAKED_CORE_C
from rundgang.core.kinds.conveyor import Conveyor
from rundgang.core.kinds.parts import DwellStep
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

Figures = dict[str, float]


def ready(scenario: Scenario, product_id: str) -> dict[str, Figures]:
    """Figures by question and field, in metric units; a question that does not concern the product is left out.

    Raises
    ------
    UnknownItemError
        No such product.
    InfeasibleError
        No dough of it can be divided in time.
    """
    product = scenario.whole(scenario.product(product_id))
    today = scenario.conditions
    found = {
        "water": {
            "dough_c": product.dough_temperature_c,
            "flour_c": today.flour_c,
            "room_c": today.room_c,
            "tap_c": today.tap_c,
            "friction_c": product.mixing.friction_c,
        },
        "weights": {
            "nominal_g": product.finished_g,
            "pieces_per_h": balance(scenario, product_id).packs_per_h,
        },
    }
    for step in product.piece_steps:
        done = scenario.line_of(product).operation(step)
        if isinstance(done, Conveyor):
            found |= _on_belt(scenario, product, done)
    warm = [step for step in product.piece_steps if isinstance(step, DwellStep) and step.humidity_pct is not None]
    if warm and warm[0].temperature_c is not None:
        dough_c, air_c = product.dough_temperature_c, warm[0].temperature_c
        found["proof"] = {
            "minutes": warm[0].dwell_min,
            "usual_c": dough_c,
            "usual_air_c": air_c,
            "dough_c": dough_c,
            "air_c": air_c,
        }
    return found


def _on_belt(scenario: Scenario, product: Product, done: Conveyor) -> dict[str, Figures]:
    """What an oven, a fryer or a cooler is asked."""
    step, station = done.step, done.station
    flow = next(s for s in balance(scenario, product.id).stages if s.station == step.station)
    pace = flow.capacity_in_per_h * flow.utilisation
    if station.oil_kg and step.sides:
        return {
            "fryer": {
                "places": done.places,
                "side_one_s": step.sides.first_s,
                "side_two_s": step.sides.second_s,
                "pieces_per_h": pace,
                "oil_per_piece_g": step.added_g,
                "filling_kg": station.oil_kg,
            }
        }
    if step.cooling:
        known, core = step.cooling, step.cooling.from_c
        return {
            "cooling": {
                "known_start_c": core,
                "known_end_c": known.to_c,
                "known_air_c": known.air_c,
                "known_min": known.minutes,
                "start_c": core,
                "bag_c": known.to_c,
                "air_c": scenario.conditions.room_c,
            }
        }
    if product.piece_steps[product.bake_place] is not step or not station.width_m:
        return {}
    return {
        "oven": {
            "pieces_per_h": pace,
            "scaling_g": product.entering_g[product.bake_place],
            "bake_loss_pct": product.bake_loss * 100,
            "bake_min": step.dwell_min,
            "dough_c": product.dough_temperature_c,
            "core_c": BAKED_CORE_C,
            "oven_c": step.temperature_c or BAKED_CORE_C,
            "band_m2": station.length_m * station.width_m,
        }
    }
