"""Probes of doughs, taken in the dough room or on the walk, and the friction that they teach."""

from rundgang.core.dough.bowl_water import temperatures
from rundgang.core.dough.card import Friction, Learnt, batch_card
from rundgang.core.dough.friction import learn
from rundgang.core.dough.mixed import find_dough
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario
from rundgang.store.plans import StoredPlan
from rundgang.store.repository import Repository


def note_probe(
    store: Repository, scenario: Scenario, stored: StoredPlan, run: str, batch: int, dough_c: float
) -> None:  # fmt: skip
    """Store a probe of a dough of a plan, in the open transaction; UnknownItemError where there is no such dough.

    Parameters
    ----------
    scenario : Scenario
        That the plan was made for.
    """
    found = find_dough(stored.plan, run, batch)
    card = batch_card(scenario, found, learnt(store, scenario, stored.plan), store.probes.log(stored.number))
    then = scenario.during(card.start_min)
    others = tuple(count.celsius for count in temperatures(then, then.product(card.product)))
    store.probes.add(stored.number, card, dough_c, others, then.conditions)


def learnt(store: Repository, scenario: Scenario, plan: LinePlan) -> Learnt:
    """Friction by product and mixer, where there are probes."""
    found: dict[tuple[str, str], Friction] = {}
    for product, mixer in {(run.product, batch.mixer) for run in plan.runs for batch in run.batches}:
        probes = store.probes.of(product, mixer)
        if probes:
            own = scenario.product(product).mixing.friction_in(mixer)
            taught = learn(own, tuple(entry.reading for entry in probes))
            found[product, mixer] = Friction(
                friction_c=taught.friction_c, spread_c=taught.spread_c, readings=len(probes)
            )
    return found
