"""Founding: a plant that comes into an empty database, and a first plan of it."""

from typing import Literal

from rundgang.core.errors import InfeasibleError, RundgangError
from rundgang.core.floor.usual import usual_inspections
from rundgang.core.planning.checked import checked
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import StopCriterion, after_evaluations
from rundgang.core.whole_plant import WholePlant
from rundgang.demo.instruments import simulated_instruments
from rundgang.store.plans import Made
from rundgang.store.plants import Origin
from rundgang.store.repository import Repository

PROVING_S = 2.0
"""So long the first plan's bound may take."""

SOON = after_evaluations(3_000, 3_000)
"""For somebody who waits for the first plan on a page."""

AUTHOR = "Rundgang"


class NotEmptyError(RundgangError):
    """There is a plant already."""

    def __init__(self, name: str, origin: Origin) -> None:
        what = "the demo, which can be deleted first" if origin == "demo" else "a plant of your own"
        super().__init__(
            f"{name} is there already: {what}. Nothing was changed. Allowed: one plant, brought into an empty Rundgang."
        )


def found(
    store: Repository, whole: WholePlant, origin: Literal["demo", "own"], stop: StopCriterion | None = None
) -> None:
    """Store a plant in an empty database, and plan its window.

    Parameters
    ----------
    stop : callable, optional
        When the search for the first plan ends, as `plan_plant` takes it.

    Raises
    ------
    NotEmptyError
    """
    known = store.plants.origin()
    if known and not store.windows.is_empty():
        raise NotEmptyError(store.windows.scenario().plant.name, known)
    store.plants.write(origin, whole.scenario.plant.name)
    store.windows.add(whole, "demo orders" if origin == "demo" else "brought in")
    if origin == "demo":
        store.instruments.write(simulated_instruments(whole.scenario), "demo")
        store.inspections.write(usual_inspections(whole.scenario), "demo")
        store.session.commit()
    first_plan(store, stop)


def first_plan(store: Repository, stop: StopCriterion | None = None) -> None:
    """Plan the window that there is, and publish the plan if it breaks no rule; none where nothing can be made."""
    scenario = store.windows.scenario()
    try:
        plan = plan_plant(scenario, stop=stop, effort=0 if stop else PROVING_S)
    except InfeasibleError:
        return
    made = Made(
        book=store.books.newest().number,
        library=store.libraries.number(),
        opening=store.openings.newest().number,
        author=AUTHOR,
        note="first plan",
    )
    version = store.plans.add(plan, made, *checked(scenario, plan))
    if not version.breaks_rules:
        store.plans.publish(version.note.number, made.author)
