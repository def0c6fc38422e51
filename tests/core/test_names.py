"""Runs keep their names from plan to plan: printed cards stay right, and a batch that is mixed is the same batch."""

from datetime import date
from itertools import islice

import pytest

from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import LinePlan, PlantPlan, Run
from rundgang.core.planning.names import HIGHEST, Names, all_named_as, common_packs, named_as, names_beyond
from rundgang.core.planning.past import opened
from rundgang.core.planning.repair import Fit, Merge, Move, Place, Split, repair
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import ostermere
from rundgang.demo.ring_line import ring_line

DAY, LINE = ring_line(date(2026, 3, 11)), "ring-line"


@pytest.fixture(scope="module")
def plan() -> PlantPlan:
    return plan_plant(DAY, stop=after_evaluations(60, 60))


def made(run: Run) -> object:
    return run.product, run.items


def assert_sound(day: Scenario, before: LinePlan, after: LinePlan) -> None:
    """No name twice, each of a run that makes something for the same lorry; new ones beyond all others."""
    names, known = [run.id for run in after.runs], {run.id: run for run in before.runs}
    assert len(set(names)) == len(names)
    for run in after.runs:
        if run.id in known:
            assert common_packs(known[run.id], run) > 0
        else:
            assert int(run.id[1:]) > max(int(name[1:]) for name in known)
    same = {made(run) for run in before.runs} & {made(run) for run in after.runs}
    for what in same:
        (was,) = (run.id for run in before.runs if made(run) == what)
        (now,) = (run.id for run in after.runs if made(run) == what)
        assert was == now, "who makes the same is called the same"
    assert {cut.run for cut in after.cut_runs} <= set(names)
    assert check_plant(day, (after,)) == ()


def test_a_run_that_is_dragged_behind_another_keeps_its_name(plan: PlantPlan) -> None:
    before = plan.of(LINE)
    first, second = before.runs[:2]
    after = repair(DAY, plan, Move(line=LINE, run=first.id, start_min=second.start_min + 1)).plan.of(LINE)
    assert_sound(DAY, before, after)
    assert [run.id for run in after.runs[:2]] == [second.id, first.id]


def test_of_a_run_that_is_split_one_part_keeps_its_name_and_joined_again_it_has_it(plan: PlantPlan) -> None:
    before = plan.of(LINE)
    run = max(before.runs, key=lambda one: len(one.batches))
    apart = repair(DAY, plan, Split(line=LINE, run=run.id, packs=run.packs // 3)).plan
    assert_sound(DAY, before, apart.of(LINE))
    parts = [one for one in apart.of(LINE).runs if one.product == run.product and common_packs(run, one)]
    assert run.id in {one.id for one in parts}
    joined = repair(DAY, apart, Merge(line=LINE, run=parts[0].id)).plan
    assert_sound(DAY, apart.of(LINE), joined.of(LINE))


@pytest.mark.parametrize("seed", range(6))
def test_a_search_on_from_a_plan_calls_what_stays_as_before(plan: PlantPlan, seed: int) -> None:
    found = plan_plant(DAY, begin_from=plan.plans, seed=seed, stop=after_evaluations(300, 300))
    assert_sound(DAY, plan.of(LINE), found.of(LINE))
    published = plan_plant(DAY, published=plan.plans, seed=seed, stop=after_evaluations(300, 300))
    assert_sound(DAY, plan.of(LINE), published.of(LINE))


def test_what_has_begun_keeps_its_name_whatever_is_put_before_it(plan: PlantPlan) -> None:
    """The first run in the plan is not R1, because it was dragged before R1: begun, it is still what it was."""
    before = plan.of(LINE)
    last = before.runs[-1]
    dragged = repair(DAY, plan, Place(line=LINE, run=last.id, before=before.runs[0].id)).plan
    first = dragged.of(LINE).runs[0]
    assert first.id == last.id != "R1"
    then = opened(DAY, dragged.plans, first.start_min + 1)
    assert [run.id for run in then.opening.begun_on(LINE)] == [first.id]
    after = repair(then, dragged, Fit(line=LINE)).plan.of(LINE)
    assert after.runs[0] == first
    searched = plan_plant(then, published=dragged.plans, stop=after_evaluations(100, 100)).of(LINE)
    assert (searched.runs[0].id, searched.runs[0].batches) == (first.id, first.batches)


def test_lines_that_are_kept_are_not_named_anew() -> None:
    """One line is searched for around a plan that is not the published one: the others are the very same."""
    day = ostermere(date(2026, 3, 11))
    published = plan_plant(day, stop=after_evaluations(20, 20))
    other = published.of("pastry-line")
    first = other.runs[0]
    start = repair(day, published, Place(line="pastry-line", run=first.id, before=None)).plan
    numbered = {("pastry-line", run.id): f"R{place}" for place, run in enumerate(start.of("pastry-line").runs, start=1)}
    swapped = Names(numbered).of_plan(start.of("pastry-line"))
    kept = tuple(swapped if line.line == "pastry-line" else line for line in start.plans)
    assert [run.id for run in swapped.runs] != [run.id for run in start.of("pastry-line").runs]
    found = plan_plant(day, lines=["ring-line"], kept=kept, published=published.plans, stop=after_evaluations(20, 20))
    assert all(line == found.of(line.line) for line in kept if line.line != "ring-line")


def test_new_names_go_on_beyond_the_last_and_begin_again_after_the_highest(plan: PlantPlan) -> None:
    first, second, *_ = plan.of(LINE).runs
    called = [first.model_copy(update={"id": f"R{HIGHEST - 1}"}), second.model_copy(update={"id": "R2"})]
    assert list(islice(names_beyond(called), 4)) == [f"R{HIGHEST}", "R1", "R3", "R4"]


def test_a_plan_with_nothing_in_common_has_names_of_its_own(plan: PlantPlan) -> None:
    before = plan.of(LINE)
    gone = tuple(run.model_copy(update={"items": ()}) for run in before.runs)
    after = named_as(before, before.model_copy(update={"runs": gone}))
    count = len(before.runs)
    assert [run.id for run in after.runs] == [f"R{count + number}" for number in range(1, count + 1)]
    assert all_named_as(plan, (), DAY.opening) == plan
