"""Nothing is left to chance: then the simulation gives the plan, to the minute and the pack."""

import os
from datetime import date

import pytest

from random_plants import random_plant
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.days import days_of
from rundgang.core.simulation.model import Chances, model_of
from rundgang.core.simulation.odds import sure
from rundgang.demo.ostermere import ostermere

PLANTS = int(os.environ.get("SOAK_PLANTS", "30"))


def as_planned(plant: Scenario, plan: LinePlan) -> None:
    """Every first and last pack when the plan has it, and every lorry as short as there."""
    model = model_of(plant, plan, Chances())
    days = days_of(model, seed=1, first_day=0, days=1)
    assert days.good.all()
    giving = {(getattr(one, "run", None) or getattr(one, "id", ""), one.product): one for one in plan.giving}
    for place, (leg, product, packs) in enumerate(model.gives):
        planned = giving[model.runs[model.legs[leg, 0]], product]
        assert packs == planned.packs
        assert days.from_min[0, days.first[place]] == pytest.approx(planned.first_pack_min, abs=1e-6)
        assert days.until_min[0, days.first[place + 1] - 1] == pytest.approx(planned.last_pack_min, abs=1e-6)
    short = {(outcome.wave, outcome.product): outcome.short for outcome in plan.waves}
    assert {(one.due.wave, one.due.product): one.short[0] for one in sure(plant, model, days)} == short


@pytest.mark.parametrize("seed", range(PLANTS))
def test_random_plants(seed: int) -> None:
    plant = random_plant(seed)
    for plan in plan_plant(plant, stop=after_evaluations(40, 40)).plans:
        as_planned(plant, plan)


def test_the_demo() -> None:
    plant = ostermere(date(2026, 3, 11))
    for plan in plan_plant(plant, stop=after_evaluations(1, 1)).plans:
        as_planned(plant, plan)
