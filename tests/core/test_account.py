"""The account of a line: every missing pack has exactly one cause, and the figures are those of the standard."""

from random import Random

import pytest

from rundgang.core.floor.account import ToldStop, account_of, effectiveness
from rundgang.core.floor.followed import Counted, Stoppage
from rundgang.core.floor.now import planned_packs
from rundgang.core.planning.legs import passings
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import SOME_DAY, ostermere


@pytest.fixture(scope="module")
def demo() -> Scenario:
    return ostermere(SOME_DAY)


@pytest.fixture(scope="module")
def plans(demo: Scenario) -> tuple[LinePlan, ...]:
    return plan_plant(demo, stop=after_evaluations(30, 30)).plans


def test_a_shift_by_hand() -> None:
    """A shift of 480 min with 60 min of breaks, 47 min down, 60 pieces a minute, 19,271 made, 423 rejected.

    A widely published worked example of overall equipment effectiveness: 88.81 %, 86.11 %, 97.80 %, 74.79 % (from
    memory); ISO 22400-2 defines the same ratios.
    """
    found = effectiveness(busy_min=420, production_min=373, planned=420 * 60, produced=19_271, good=19_271 - 423)
    assert found.availability == pytest.approx(0.8881, abs=5e-5)
    assert found.effectiveness == pytest.approx(0.8611, abs=5e-5)
    assert found.quality == pytest.approx(0.9780, abs=6e-5)
    assert found.oee == pytest.approx(0.7479, abs=5e-5)
    assert found.oee == pytest.approx((19_271 - 423) / (420 * 60)), "what was good of what could have been made"


def test_nothing_planned_is_no_figure() -> None:
    found = effectiveness(0, 0, 0, 0, 0)
    assert (found.availability, found.effectiveness, found.quality, found.oee) == (None, None, None, None)


def counted(plan: LinePlan, seed: int, until: int) -> tuple[Counted, list[Stoppage]]:
    """Packs as a line that stands now and then, and is slow or fast otherwise, would count them."""
    chance = Random(seed)
    line = [run for run in plan.giving if run.packs]
    stations = ["oven", "divider", "bagger"]
    stops, at = list[Stoppage](), 0.0
    while at < until:
        at += chance.expovariate(1 / 120)
        lasts = chance.uniform(1, 40)
        stops.append(Stoppage(station=chance.choice(stations), from_min=at, until_min=at + lasts))
        at += lasts
    pace = chance.uniform(0.7, 1.15)
    total, risen = 0.0, list[float]()
    for minute in range(until + 1):
        stands = any(stop.from_min <= minute < (stop.until_min or 0) for stop in stops)
        due = planned_packs(plan, minute + 1) - planned_packs(plan, minute)
        total += 0.0 if stands else due * pace
        risen.append(float(int(total)))
    assert line
    return Counted(tuple(float(minute) for minute in range(until + 1)), tuple(risen)), stops


def test_losses_add_up_exactly_in_a_thousand_shifts(demo: Scenario, plans: tuple[LinePlan, ...]) -> None:
    chance = Random(11)
    shifts = 0
    for seed in range(200):
        plan = plans[seed % len(plans)]
        packs, stops = counted(plan, seed, 2_400)
        own = [stop for stop in stops if stop.station in {one.id for one in demo.line(plan.line).stations}]
        for _ in range(5):
            begin = chance.uniform(0, 1_900)
            hours = [begin + 60 * number for number in range(9)]
            found = account_of(demo, plan, packs, own, (), hours)
            lost = sum(loss.packs for hour in found.hours for loss in hour.losses)
            assert lost == found.planned - found.made == sum(loss.packs for loss in found.pareto)
            for hour in found.hours:
                assert sum(loss.packs for loss in hour.losses) == hour.planned - hour.made
                assert all(loss.packs != 0 for loss in hour.losses)
                assert len({loss.packs > 0 for loss in hour.losses}) <= 1, "an hour lacks, or makes up"
            whole = round(planned_packs(plan, hours[-1])) - round(planned_packs(plan, hours[0]))
            assert found.planned == whole
            figures = found.figures
            assert 0 <= figures.production_min <= figures.busy_min + 1e-9
            if figures.oee is not None and figures.planned:
                assert figures.oee == pytest.approx(figures.good / figures.planned), "the three ratios cancel"
            shifts += 1
    assert shifts == 1_000


def test_a_stop_counts_where_its_packs_are_missing_with_what_was_told(
    demo: Scenario, plans: tuple[LinePlan, ...]
) -> None:
    plan = next(plan for plan in plans if plan.line == "ring-line")
    run = plan.runs[0]
    last = demo.product(run.product).piece_steps[-1].station
    at = (run.first_pack_min + run.last_pack_min) / 2
    minutes = [float(minute) for minute in range(1_200)]
    made, total = list[float](), 0.0
    for minute in minutes:
        made.append(float(int(total)))
        due = planned_packs(plan, minute + 1) - planned_packs(plan, minute)
        total += 0.0 if at <= minute < at + 20 else due
    stop = Stoppage(station=last, from_min=at, until_min=at + 20)
    told = [ToldStop(last, at + 1, at + 19, "tool: film, label or bag")]
    found = account_of(demo, plan, Counted(tuple(minutes), tuple(made)), [stop], told, [at - 60, at, at + 60])
    (loss,) = (loss for loss in found.pareto if loss.kind == "stood")
    assert (loss.station, loss.cause) == (last, "tool: film, label or bag")
    assert loss.packs == pytest.approx(planned_packs(plan, at + 20) - planned_packs(plan, at), abs=2)
    assert loss.minutes == pytest.approx(20)
    assert found.figures.busy_min - found.figures.production_min == pytest.approx(20, abs=0.1)


def test_what_stands_idle_costs_nothing(demo: Scenario, plans: tuple[LinePlan, ...]) -> None:
    """A station that no run passes for an hour may stand: the line was as available as ever, and slower if it was."""
    plan = next(plan for plan in plans if plan.line == "doughnut-line")
    times = [one for run in plan.runs for one in passings(demo, run) if one.station == "depositor"]
    first = min(one.first_in for one in times)
    idle = Stoppage(station="depositor", from_min=first - 90, until_min=first - 60)
    at_work = Stoppage(station="depositor", from_min=first + 5, until_min=first + 35)
    flow = Counted((0.0, 4_000.0), (0.0, 100.0))
    begin = max(0.0, first - 120)
    hours = [begin + 60 * number for number in range(9)]
    calm, stood, felt = (account_of(demo, plan, flow, stops, (), hours) for stops in ([], [idle], [at_work]))
    assert stood == calm
    assert felt.figures.production_min < calm.figures.production_min
