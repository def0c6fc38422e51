"""The check of the lorries: pack by pack, which lorry it is for and whether it makes it; and of the score."""

from collections.abc import Iterator
from math import inf

import numpy as np
from numpy.typing import NDArray

from rundgang.core.orders import Order
from rundgang.core.planning.check.dough import GRAM_KG
from rundgang.core.planning.check.kinds import made_of_one
from rundgang.core.planning.check.line import walk
from rundgang.core.planning.check.violation import SLACK_MIN, SLACK_SHARE, Violation, fault
from rundgang.core.planning.model import CutRun, LinePlan, Run
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

Ordered = dict[str, dict[str, int]]
Times = NDArray[np.float64]


def ordered_by(scenario: Scenario) -> Ordered:
    """Packs ordered, by product and then by lorry."""
    found: Ordered = {}
    for order in scenario.orders:
        lorries = found.setdefault(order.product, {})
        lorries[order.wave] = lorries.get(order.wave, 0) + order.packs
    return found


def lorry_faults(scenario: Scenario, plan: LinePlan, ordered: Ordered) -> Iterator[Violation]:
    """Pack by pack: which lorry it is for, whether it makes it, and whether the plan said so."""
    announced = {(wave.wave, wave.product): wave for wave in plan.waves}
    waves = sorted(scenario.waves, key=lambda wave: wave.departs_min)
    for product in (scenario.product(name) for name in ordered):
        if product.line != plan.line:
            continue
        lying = [np.full(lot.packs, lot.made_min) for lot in scenario.finished if lot.product == product.id]
        packs = np.sort(
            np.concatenate(
                [np.empty(0), *lying, *(_pack_times(run) for run in plan.giving if run.product == product.id)]
            )
        )
        for wave in waves:
            due = ordered[product.id].get(wave.id, 0)
            if not due:
                continue
            ages = wave.departs_min - packs
            stale = int((ages > _oldest_min(product) + SLACK_MIN).sum())
            own = (order for order in scenario.orders if (order.product, order.wave) == (product.id, wave.id))
            oldest = min(_oldest_min(product), *(_oldest_min(order) for order in own))
            takes = np.flatnonzero(ages <= oldest + SLACK_MIN)[:due]
            stays = np.ones(len(packs), bool)
            stays[:stale] = stays[takes] = False
            loaded, packs = packs[takes], packs[stays]
            late = loaded[loaded > wave.loaded_by_min + SLACK_MIN]
            never = due - len(loaded)
            end = max(0.0, scenario.window.minutes - wave.loaded_by_min)
            hours = (float((late - wave.loaded_by_min).sum()) + never * end) / 60
            said = announced.get((wave.id, product.id))
            short = len(late) + never
            off = abs(said.never - never) + abs(said.short - short) if said else 0
            if said is None or said.packs != due:
                yield fault("plan", wave.name, f"leaves out {due} packs of {product.name}")
            elif abs(said.never - never) > 1:
                yield fault(
                    "plan", wave.name, f"says {said.never} packs of {product.name} are never made; it is {never}"
                )
            elif abs(said.stale - stale) > 1:
                yield fault("plan", wave.name, f"announces {said.stale} packs of {product.name} too old; it is {stale}")
            elif (
                abs(said.short - short) > 1 or abs(said.late_pack_hours - hours) > 0.01 + off * end / 60 + hours * 1e-4
            ):
                yield fault(
                    "plan",
                    wave.name,
                    f"announces {said.short} packs of {product.name} short, {said.late_pack_hours:.1f} pack hours "
                    f"late; it is {short} and {hours:.1f}",
                )


def _pack_times(run: Run | CutRun) -> Times:
    """When each pack of a run is made, min."""
    return run.first_pack_min + (run.last_pack_min - run.first_pack_min) * np.arange(1, run.packs + 1) / run.packs


def _oldest_min(of: Product | Order) -> float:
    """How old a pack may be when its lorry leaves, as its product or a customer says, min."""
    return inf if of.fresh_for_h is None else of.fresh_for_h * 60


def _left_over_faults(scenario: Scenario, plan: LinePlan) -> Iterator[Violation]:
    """What is made of fillings and not put on a piece, kg, pieces followed to where it is put on."""
    left, batches = 0.0, 0
    for run in plan.runs:
        for made in run.fillings:
            left += 0.0 if made.kept else made.grams / 1000
            batches += 1
        for at in walk(scenario, run).values() if run.fillings else ():
            pieces = at.flow_per_h * (at.last_in - at.first_in) / 60 * made_of_one(at.step) / at.step.yield_
            put_on = sum(a.grams for a in at.step.adds if scenario.is_preparation(a.item))
            left -= pieces * put_on / 1000
    begun = any(run.fillings for run in scenario.opening.begun_on(plan.line))
    off = abs(plan.score.filling_left_kg - left)
    if not begun and off > GRAM_KG * (1 + batches) + SLACK_SHARE * abs(left):
        yield fault("plan", "", f"says {plan.score.filling_left_kg:.2f} kg of fillings left over, it is {left:.2f} kg")


def score_faults(scenario: Scenario, plan: LinePlan, ordered: Ordered) -> Iterator[Violation]:
    """The surplus and the packs short that the score counts, from the runs and the lorries."""
    mixed = {product.id for product in scenario.products if product.line == plan.line and product.formula}
    mixed &= {*ordered} | {run.product for run in plan.runs}
    wanted = sum(sum(ordered.get(name, {}).values()) for name in mixed)
    wanted -= sum(wave.never for wave in plan.waves if wave.product in mixed)
    made = sum(run.packs for run in plan.runs)
    made += sum(entry.packs for entry in scenario.finished if entry.product in mixed)
    yield from _left_over_faults(scenario, plan)
    if abs(plan.score.surplus_packs - (made - wanted)) > SLACK_MIN:
        yield fault("plan", "", f"says {plan.score.surplus_packs:g} packs of surplus, it is {made - wanted}")
    counted: dict[tuple[str, str], float] = {}
    for order in scenario.orders:
        key = order.wave, order.product
        counted[key] = counted.get(key, 0.0) + order.packs * order.priority
    unasked = [wave for wave in plan.waves if (wave.wave, wave.product) not in counted]
    for wave in unasked:
        yield fault("plan", wave.wave, f"tells of {wave.packs} packs of {wave.product}, which nobody has ordered")
    asked = [wave for wave in plan.waves if wave not in unasked]
    short = sum(counted[wave.wave, wave.product] / wave.packs * wave.short for wave in asked)
    if abs(plan.score.packs_short - short) > SLACK_MIN * (1 + short):
        yield fault("plan", "", "says another number of packs short than its lorries add up to")
