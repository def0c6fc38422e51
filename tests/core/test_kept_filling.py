"""What is left of a filling in its tank is used by the next run while it is good.

A kettle is never filled with less than its stirrer reaches, so a small run leaves something over (common practice, no
published source).
"""

import pytest

from bakeries import Kettle, creamed, creamery
from rundgang.core.dough.card import batch_cards
from rundgang.core.materials import ItemShares, run_draws
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import FillingBatch, LinePlan, Run
from rundgang.core.planning.past import opened
from rundgang.core.planning.repair import Fit, repair
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations


def made_kg(plan: LinePlan) -> list[float]:
    """Cream made for each run, kg."""
    return [sum(filling.grams for filling in run.made_fillings) / 1000 for run in plan.runs]


def kept_kg(plan: LinePlan) -> list[float]:
    """Cream that each run finds left, kg."""
    return [sum(filling.grams for filling in run.fillings if filling.kept) / 1000 for run in plan.runs]


def test_what_is_left_is_used_first() -> None:
    """8 kg made and 5 used leave 3; 3 and 8 less 5 leave 6; of these the third uses 5, and 1 kg is left in the end."""
    day = creamery()
    plan = creamed(day)
    assert made_kg(plan) == pytest.approx([8, 8, 0])
    assert kept_kg(plan) == pytest.approx([0, 3, 5])
    assert plan.score.filling_left_kg == pytest.approx(1)
    assert len({filling.tank for run in plan.runs for filling in run.fillings}) == 1
    assert check_plant(day, (plan,)) == ()


def test_it_ages_in_its_tank() -> None:
    """A run that comes when it is too old makes its own, and what was left is waste: 3 kg a run."""
    day = creamery(Kettle(age_min=60))
    plan = creamed(day, apart_min=120)
    assert made_kg(plan) == pytest.approx([8, 8, 8])
    assert plan.score.filling_left_kg == pytest.approx(9)
    assert check_plant(day, (plan,)) == ()
    assert kept_kg(creamed(creamery(Kettle(age_min=400)), apart_min=120)) == pytest.approx([0, 3, 5])


def test_the_tank_has_room_for_both() -> None:
    """In a tank for 9 kg the second batch waits in its kettle until 3 kg have become 1."""
    day = creamery(Kettle(tank_kg=9, ripens_min=5))
    plan = creamed(day)
    second = plan.runs[1].made_fillings[0]
    kept = plan.runs[1].fillings[0]
    assert kept.kept
    assert second.emptied_min == pytest.approx(kept.used_from_min + 2_000 / 5 / 100)
    assert check_plant(day, (plan,)) == ()


def test_it_is_made_once_and_drawn_once() -> None:
    """The stores give flour for 16 kg of cream; two cards are written for it, and none for what is only kept."""
    day = creamery()
    plan = creamed(day)
    cards = [card for card in batch_cards(day, plan) if card.preparation == "cream"]
    assert [card.run for card in cards] == ["R1", "R2"]
    rests = [(card.rest.run, card.rest.grams) for card in cards if card.rest]
    assert rests == [("R2", 3_000), ("R3", 5_000)]
    dough_kg = sum(batch.dough_g for run in plan.runs for batch in run.batches) / 1_000
    flour = sum(
        draw.amount for run in plan.runs for draw in run_draws(ItemShares(day), run, None) if draw.item == "flour"
    )
    assert flour == pytest.approx(16 + dough_kg / 1.5)


def _with(plan: LinePlan, place: int, fillings: tuple[FillingBatch, ...]) -> LinePlan:
    runs: list[Run] = list(plan.runs)
    runs[place] = runs[place].model_copy(update={"fillings": fillings})
    return plan.model_copy(update={"runs": tuple(runs)})


@pytest.mark.parametrize(
    ("changed", "says"),
    [
        ({"kettle": "Kettle 9"}, "that no run has left"),
        ({"grams": 7_000, "used_g": 7_000}, "which is not so much"),
        ({"start_min": 1.0}, "that no run has left"),
        ({"kept": False}, "is 3.0 kg; allowed 8 to 20"),
    ],
)
def test_the_check_sees_what_was_not_left(changed: dict[str, object], says: str) -> None:
    """More than was left, of another kettle, of another time, or a batch of its own that is too small."""
    day = creamery()
    plan = creamed(day)
    first, *rest = plan.runs[1].fillings
    spoiled = _with(plan, 1, (first.model_copy(update=changed), *rest))
    assert any(says in str(fault) for fault in check_plant(day, (spoiled,)))


def test_the_check_sees_a_tank_in_use() -> None:
    """The second run's batch cannot come into the tank while the first still draws on it."""
    day = creamery()
    plan = creamed(day)
    kept, own = plan.runs[1].fillings
    early = own.model_copy(update={"emptied_min": plan.runs[0].fillings[-1].used_until_min - 3})
    spoiled = _with(plan, 1, (kept, early))
    assert any("still draws on it" in str(fault) for fault in check_plant(day, (spoiled,)))


def test_what_has_begun_leaves_it_too() -> None:
    """The first run is on the line: the others, laid out anew, use what it will leave."""
    day = creamery()
    plan = plan_plant(day, stop=after_evaluations(50, 50))
    line = plan.of("line")
    later = opened(day, [line], line.runs[0].first_mixed_min + 1)
    assert [run.id for run in later.opening.begun] == ["R1"]
    for run in line.runs:
        assert run.first_mixed_min == min(batch.start_min for batch in run.batches), "not when what it finds was made"
    again = repair(later, plan, Fit(line="line")).plan.of("line")
    assert sum(made_kg(again)) == pytest.approx(16)
    assert check_plant(later, (again,)) == ()
