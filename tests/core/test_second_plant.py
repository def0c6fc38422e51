"""The second simulator against the check: what one finds in a plan the other finds, and in the search's plans neither.

A sample of what `script/soak` does with thousands of plants.
"""

import os
from collections.abc import Callable
from random import Random

import pytest

from random_plants import random_plant
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from second_plant import let_through

PLANTS = int(os.environ.get("SOAK_PLANTS", "40"))
FIRST = int(os.environ.get("SOAK_FIRST", "0"))


def moved(run: Run, minutes: float) -> Run:
    """A run with all its times later."""
    names = ("start_min", "discharged_min", "divided_min", "last_piece_min")
    slots = ("start_min", "discharged_min", "used_min")
    fills = ("start_min", "mixed_min", "emptied_min", "ready_min", "used_from_min", "used_until_min")

    def later(thing: object, fields: tuple[str, ...]) -> dict[str, float]:
        return {name: getattr(thing, name) + minutes for name in fields}

    batches = tuple(
        batch.model_copy(
            update={
                **later(batch, names),
                "preparations": tuple(slot.model_copy(update=later(slot, slots)) for slot in batch.preparations),
            }
        )
        for batch in run.batches
    )
    return run.model_copy(
        update={
            **later(run, ("start_min", "first_pack_min", "last_pack_min")),
            "batches": batches,
            "later_legs": tuple(leg.model_copy(update=later(leg, ("start_min",))) for leg in run.later_legs),
            "fillings": tuple(filling.model_copy(update=later(filling, fills)) for filling in run.fillings),
        }
    )


def _shifted(rng: Random, run: Run) -> Run:
    return moved(run, rng.choice([-1, 1]) * rng.uniform(5, 60))


def _short_bake(rng: Random, run: Run) -> Run:
    return run.model_copy(update={"dwell_min": run.dwell_min | {"oven": rng.uniform(1, 4)}})


def _young(rng: Random, run: Run) -> Run:
    place = rng.randrange(len(run.batches))
    batch = run.batches[place]
    spoiled = batch.model_copy(update={"discharged_min": batch.divided_min + 0.5})
    return run.model_copy(update={"batches": (*run.batches[:place], spoiled, *run.batches[place + 1 :])})


def _other_mixer(rng: Random, run: Run) -> Run:
    place = rng.randrange(len(run.batches))
    spoiled = run.batches[place].model_copy(update={"mixer": rng.choice("ABCZ")})
    return run.model_copy(update={"batches": (*run.batches[:place], spoiled, *run.batches[place + 1 :])})


def _light(rng: Random, run: Run) -> Run:
    place = rng.randrange(len(run.batches))
    batch = run.batches[place]
    spoiled = batch.model_copy(update={"dough_g": round(batch.dough_g * 0.9)})
    return run.model_copy(update={"batches": (*run.batches[:place], spoiled, *run.batches[place + 1 :])})


def _promising(rng: Random, run: Run) -> Run:
    return run.model_copy(update={"packs": run.packs + rng.randint(15, 60)})


def _thin_filling(rng: Random, run: Run) -> Run:
    if not run.fillings:
        return _promising(rng, run)
    if run.fillings[0].kept and rng.random() < 0.5:
        more = run.fillings[0].model_copy(update={"kept": False})
        return run.model_copy(update={"fillings": (more, *run.fillings[1:])})
    thin = tuple(
        f.model_copy(update={"grams": max(1, f.grams // 2), "used_g": max(0, f.used_g // 2)}) for f in run.fillings
    )
    return run.model_copy(update={"fillings": thin})


def _no_rest(rng: Random, run: Run) -> Run:
    """Takes the rest of a dough without saying so, or says so without one; another's mixer is in use then."""
    place = rng.randrange(len(run.batches))
    batch = run.batches[place]
    spoiled = batch.model_copy(update={"shared": not batch.shared})
    return run.model_copy(update={"batches": (*run.batches[:place], spoiled, *run.batches[place + 1 :])})


def _more_rest(rng: Random, run: Run) -> Run:
    """Takes more of another run's dough than was mixed, or keeps the dough too long for it."""
    if not run.batches[0].shared:
        return _no_rest(rng, run)
    rest = run.batches[0]
    spoiled = rest.model_copy(update={"dough_g": rest.dough_g * rng.choice([3, 50])})
    return run.model_copy(update={"batches": (spoiled, *run.batches[1:])})


SPOILED: tuple[Callable[[Random, Run], Run], ...] = (
    _shifted, _shifted, _shifted, _short_bake, _young, _other_mixer, _light, _promising, _thin_filling,
    _no_rest, _more_rest,
)  # fmt: skip


def spoiled(plan: LinePlan, rng: Random, begun: int) -> LinePlan:
    """The plan with one thing in it made wrong, or perhaps only different; what has begun only at another time."""
    if not plan.runs:
        return plan
    if begun and rng.random() < 0.2:
        return plan.model_copy(update={"runs": (_shifted(rng, plan.runs[0]), *plan.runs[1:])})
    if begun == len(plan.runs):
        return plan
    free = {run.id for run in plan.runs[begun:]}
    if plan.renewals and plan.renewals[-1].before in free and rng.random() < 0.5:
        return plan.model_copy(update={"renewals": plan.renewals[:-1]})
    place, how = rng.randrange(begun, len(plan.runs)), rng.choice(SPOILED)
    runs = (*plan.runs[:place], how(rng, plan.runs[place]), *plan.runs[place + 1 :])
    return plan.model_copy(update={"runs": runs})


@pytest.mark.parametrize("seed", range(FIRST, FIRST + PLANTS))
def test_both_find_the_same(seed: int) -> None:
    """Half of the plans as the search made them: neither finds anything; half spoiled: both do, or neither.

    A third are made anew when some of their runs have begun.
    """
    plant, rng = random_plant(seed), Random(seed)
    plans = plan_plant(plant, seed=seed, stop=after_evaluations(15, 15)).plans
    if seed % 3 == 0 and plans[0].runs:
        now = rng.uniform(plans[0].runs[0].first_mixed_min, plans[0].runs[-1].last_pack_min)
        plant = opened(plant, plans, now)
        plans = plan_plant(plant, seed=seed, stop=after_evaluations(15, 15)).plans
    if seed % 2:
        plans = (spoiled(plans[0], rng, len(plant.opening.begun_on("line"))), *plans[1:])
    found, second = check_plant(plant, plans), let_through(plant, plans)
    if not seed % 2:
        assert found == ()
        assert not second
    assert bool(found) == bool(second), ([str(fault) for fault in found[:5]], list(second)[:5])
