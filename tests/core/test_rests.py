"""What runs that stay leave for those laid out anew: the last dough, and what is over of fillings."""

import pytest

from bakeries import Kettle, creamed, creamery, roll_bakery, rolled
from plants import items_on, laid_out
from rundgang.core.planning.decode.arrays import Fixed
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario


def _fixed(day: Scenario, plan: LinePlan, runs: int) -> tuple[Shop, Fixed]:
    shop = Shop(day, ["line"], plan.runs)
    return shop, fixed_arrays(shop, plan.runs[:runs])


def test_the_last_dough_of_a_fixed_run() -> None:
    """400 pieces of 1,000, divided last, without a trough; of a run that has the rest of it only its own dough."""
    day = roll_bakery()
    plan = rolled(day)
    _, fixed = _fixed(day, plan, 2)
    loaves, rolls = fixed.runs
    last = plan.runs[0].batches[-1]
    assert (loaves["last"], loaves["trough"]) == (400, -1)
    assert loaves["last_at"] == pytest.approx(last.divided_min)
    assert loaves["begun"] == pytest.approx(last.start_min)
    assert rolls["last"] == 1_000


def test_a_run_of_anothers_dough_alone_leaves_none() -> None:
    """It has no dough that could be made larger."""
    day = roll_bakery()
    plan = rolled(day)
    rest = plan.runs[1].model_copy(update={"batches": plan.runs[1].batches[:1], "pieces": 600})
    shop = Shop(day, ["line"], plan.runs)
    assert fixed_arrays(shop, (plan.runs[0], rest)).runs[1]["last"] == 0


def test_a_trough_is_taken_once_for_a_dough_and_its_rest() -> None:
    """From when the dough comes into it until the last piece of the rest is divided; the mixer once."""
    day = roll_bakery(trough=True)
    plan = rolled(day)
    shop, fixed = _fixed(day, plan, 2)
    rest = plan.runs[1].batches[0]
    unit = shop.unit("line", "troughs", rest.trough or "")
    stretches = [use for use in fixed.taken if use["unit"] == unit]
    into = rest.discharged_min + 5
    held = [use for use in stretches if use["begin"] == pytest.approx(into)]
    assert len(held) == 1
    assert held[0]["end"] == pytest.approx(max(rest.last_piece_min, plan.runs[0].batches[-1].divided_min + 2))
    mixer = shop.unit("line", "mixers", rest.mixer)
    mixed = [use for use in fixed.taken if use["unit"] == mixer]
    assert len([use for use in mixed if use["begin"] == pytest.approx(rest.start_min)]) == 1


@pytest.mark.parametrize(("runs", "left_kg", "by"), [(1, 3.0, 0), (2, 6.0, 1), (3, 1.0, 1)])
def test_what_fixed_runs_leave_of_a_filling(runs: int, left_kg: float, by: int) -> None:
    """8 made and 5 used leave 3 kg; with the next run's 8 kg 6; and when the third has had its 5, 1 of the second's."""
    day = creamery()
    plan = creamed(day)
    _, fixed = _fixed(day, plan, runs)
    (kept,) = fixed.kept
    assert kept["kg"] == pytest.approx(left_kg)
    assert kept["by"] == by
    assert kept["free"] == pytest.approx(plan.runs[runs - 1].fillings[-1].used_until_min)
    assert kept["old"] == pytest.approx(plan.runs[by].made_fillings[-1].mixed_min + 300)
    tank = [use for use in fixed.taken if use["unit"] == kept["tank"]]
    assert len(tank) == 1, "the tank is taken from the first run's cream to the last's"
    assert kept["begin"] == tank[0]["begin"]
    assert tank[0]["end"] == pytest.approx(kept["free"] + 5)


def test_what_fixed_runs_use_of_others() -> None:
    """The second has 3 kg of the first's cream, the third 5 of the second's."""
    day = creamery()
    _, fixed = _fixed(day, creamed(day), 3)
    assert fixed.used[:, 1].tolist() == pytest.approx([0, 3, 5])


def test_without_a_tank_nothing_is_kept() -> None:
    """A hopper takes a batch whole; what is over when the run ends is thrown away."""
    day = creamery()
    made = day.preparations[0].model_copy(update={"held": None})
    bare = day.model_copy(update={"preparations": (made,)})
    plan = laid_out(bare, items_on(bare))
    assert not any(filling.kept for run in plan.runs for filling in run.fillings)
    _, fixed = _fixed(bare, plan, 2)
    assert fixed.kept[0]["by"] == -1


def test_another_filling_cleans_the_tank_between() -> None:
    """The tank turns round for 5 min behind the last run that draws on it, not behind each."""
    day = creamery(Kettle(turn_min=5))
    plan = creamed(day)
    first, second, _ = plan.runs
    between = second.fillings[0].used_from_min - first.fillings[-1].used_until_min
    assert between < 5, "the next run draws on it at once"
