"""The evening's figures: packs by run add up to what was counted, adherence and giveaway by hand, ovens as the plan."""

from random import Random

import pytest

from rundgang.core.floor.account import account_of, joined, moved
from rundgang.core.floor.evening import RunMade, Weighed, adherence, given_away, oven_spells, runs_made
from rundgang.core.floor.followed import Counted
from rundgang.core.floor.now import planned_packs
from rundgang.core.floor.waste import BESIDE_MIN, off_by_cause, run_there
from rundgang.core.planning.legs import passings_at
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.score import oven_empty_min
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import SOME_DAY, ostermere

WINDOW = (0.0, 4_320.0)


@pytest.fixture(scope="module")
def demo() -> Scenario:
    return ostermere(SOME_DAY)


@pytest.fixture(scope="module")
def plans(demo: Scenario) -> tuple[LinePlan, ...]:
    return plan_plant(demo, stop=after_evaluations(30, 30)).plans


def last_station(demo: Scenario, product: str) -> str:
    return demo.product(product).piece_steps[-1].station


def as_planned(demo: Scenario, plan: LinePlan, share: float = 1.0) -> dict[str, Counted]:
    """What the last stations count where all goes as planned, or each run gives a share of its packs."""
    ends = {minute for run in plan.giving for minute in (run.first_pack_min, run.last_pack_min)}
    minutes = tuple(sorted(ends | {float(minute) for minute in range(int(WINDOW[1]) + 1)}))
    found = dict[str, Counted]()
    for station in {last_station(demo, run.product) for run in plan.giving}:
        own = plan.model_copy(
            update={
                "runs": tuple(run for run in plan.runs if last_station(demo, run.product) == station),
                "cut_runs": tuple(cut for cut in plan.cut_runs if last_station(demo, cut.product) == station),
            }
        )
        found[station] = Counted(minutes, tuple(share * planned_packs(own, minute) for minute in minutes))
    return found


def test_a_line_that_goes_as_planned_keeps_its_plan(demo: Scenario, plans: tuple[LinePlan, ...]) -> None:
    for plan in plans:
        made = runs_made(demo, plan, plan, as_planned(demo, plan), *WINDOW)
        by_run = {
            (run.id if hasattr(run, "id") else run.run, run.product): run.packs for run in plan.giving if run.packs
        }
        assert {(one.run, one.product): one.planned for one in made} == by_run
        for one in made:
            assert abs(one.made - one.planned) <= 1, "a pack at the seam of two runs may be of either"
            assert one.late_min == 0
        assert adherence(made) == pytest.approx(1, abs=0.002)


def test_packs_of_all_runs_add_up_to_what_was_counted(demo: Scenario, plans: tuple[LinePlan, ...]) -> None:
    chance = Random(5)
    for plan in plans:
        for _ in range(40):
            packed = as_planned(demo, plan, chance.uniform(0.3, 1.2))
            begin = chance.uniform(0, 3_000)
            until = begin + chance.uniform(30, 900)
            made = runs_made(demo, plan, plan, packed, begin, until)
            counted = sum(round(one.risen_by(until)) - round(one.risen_by(begin)) for one in packed.values())
            assert sum(one.made for one in made) == counted
            assert all(one.made >= 0 for one in made)


def run_made(product: str, planned: int, made: int) -> RunMade:
    return RunMade(
        run="R1", product=product, planned=planned, made=made, first_pack_min=0, last_pack_min=60, late_min=0
    )


def test_adherence_by_hand() -> None:
    """More of one product makes up for nothing of another (common practice, no published source)."""
    kept = [run_made("rye", 400, 300), run_made("rye", 200, 250), run_made("bun", 400, 700)]
    assert adherence(kept) == pytest.approx((550 + 400) / 1_000)
    assert adherence([run_made("bun", 0, 700)]) is None


def test_ovens_burn_empty_as_the_plan_says_where_all_goes_as_planned(
    demo: Scenario, plans: tuple[LinePlan, ...]
) -> None:
    some = 0.0
    for plan in plans:
        spells = list(oven_spells(demo, plan, -10_000, 10_000))
        assert sum(one.until_min - one.from_min for one in spells) == pytest.approx(oven_empty_min(demo, plan.runs))
        for spell in spells:
            some += spell.until_min - spell.from_min
            inside = [p for run in plan.runs for p in passings_at(demo, run, {spell.station})]
            middle = (spell.from_min + spell.until_min) / 2
            assert not any(one.first_in < middle < one.last_out for one in inside), "nothing is in it"
            half = list(oven_spells(demo, plan, -10_000, middle))
            assert spell.model_copy(update={"until_min": middle}) in half
    assert some > 0


def test_giveaway_by_hand(demo: Scenario) -> None:
    """1,000 packs of pieces each 2.5 g too heavy: what is scaled for them, times 2.5 g."""
    product = next(made for made in demo.products if made.formula)
    made = [run_made(product.id, 1_000, 600), run_made(product.id, 0, 400)]
    (found,) = given_away(demo, made, {product.id: Weighed(500, 102.5, 100)})
    assert found.pieces == round(1_000 * product.scaled_per_pack)
    assert found.kg == pytest.approx(found.pieces * 2.5 / 1_000)


def test_two_runs_that_come_together_share_by_their_pace_as_counted_piece_by_piece(
    demo: Scenario, plans: tuple[LinePlan, ...]
) -> None:
    """Against a count in small steps: in each, whoever gives packs then, by packs a minute; else whoever is nearest."""
    chance = Random(8)
    plan = next(plan for plan in plans if plan.line == "ring-line")
    runs = [run for run in plan.runs if run.packs][:4]
    for _ in range(25):
        begin = 100.0
        spans = [(begin + chance.uniform(0, 200), chance.uniform(20, 150)) for _ in runs]
        moved = tuple(
            run.model_copy(update={"first_pack_min": first, "last_pack_min": first + lasts})
            for run, (first, lasts) in zip(runs, spans, strict=True)
        )
        going = plan.model_copy(update={"runs": moved, "cut_runs": ()})
        flow = Counted((begin, begin + 400), (0.0, 8_000.0))
        station = last_station(demo, runs[0].product)
        assert {last_station(demo, run.product) for run in runs} == {station}
        found = {one.run: one.made for one in runs_made(demo, going, going, {station: flow}, begin, begin + 400)}
        steps, by_hand = 8_000, dict.fromkeys((run.id for run in moved), 0.0)
        for step in range(steps):
            minute = begin + 400 * (step + 0.5) / steps
            away = {run.id: max(0.0, run.first_pack_min - minute, minute - run.last_pack_min) for run in moved}
            there = [run for run in moved if away[run.id] == min(away.values())]
            pace = {run.id: run.packs / (run.last_pack_min - run.first_pack_min) for run in there}
            for run in there:
                by_hand[run.id] += pace[run.id] / sum(pace.values())
        assert sum(found.values()) == 8_000
        for name, packs in by_hand.items():
            assert found.get(name, 0) == pytest.approx(packs, abs=4), "a step at each seam, and rounding"


def test_what_was_taken_off_is_told_by_cause_the_most_first() -> None:
    found = off_by_cause([("damaged", 3), ("seal or pack", 9)], [("shape", 40), ("damaged", 5), ("shape", 2)])
    assert [(one.cause, one.packs, one.pieces) for one in found] == [
        ("seal or pack", 9, 0), ("damaged", 3, 5), ("shape", 0, 42),
    ]  # fmt: skip
    assert off_by_cause([], []) == ()


def test_stretches_of_an_account_join_to_the_whole(demo: Scenario, plans: tuple[LinePlan, ...]) -> None:
    plan = plans[0]
    flow = Counted((0.0, WINDOW[1]), (0.0, 9_000.0))
    hours = [600 + 60.0 * number for number in range(9)]
    whole = account_of(demo, plan, flow, (), (), hours, 12)
    first, then = account_of(demo, plan, flow, (), (), hours[:4], 12), account_of(demo, plan, flow, (), (), hours[3:])
    assert joined([then, first]) == whole
    later = moved(whole, -1_440)
    assert (later.from_min, later.hours[0].from_min) == (600 - 1_440, 600 - 1_440)
    assert later.figures == whole.figures


def test_pulled_pieces_are_of_the_run_that_is_there(demo: Scenario, plans: tuple[LinePlan, ...]) -> None:
    plan = next(plan for plan in plans if len(plan.runs) > 2)
    for run in plan.runs:
        (there,) = passings_at(demo, run, {demo.product(run.product).piece_steps[0].station})
        found = run_there(demo, plan, there.station, (there.first_in + there.last_in) / 2)
        assert found
        assert found.product == run.product
    last = max(p.last_out for run in plan.runs for p in passings_at(demo, run, {there.station}))
    assert run_there(demo, plan, there.station, last + BESIDE_MIN / 2) is not None
    assert run_there(demo, plan, there.station, last + BESIDE_MIN * 2) is None
