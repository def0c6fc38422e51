"""Inspections: limits around a product's own figures, what is taken, when they are due, and what a failed one holds."""

import os
from collections.abc import Sequence
from datetime import date
from itertools import pairwise

import pytest
from pydantic import ValidationError

from plants import make_plan
from random_plants import random_plant
from rundgang.core.floor.due import Day, Occasion, occasions
from rundgang.core.floor.inspections import (
    AtChangeover,
    AtStart,
    Chosen,
    CountedPieces,
    Daily,
    EachBatch,
    Every,
    Inspection,
    Inspections,
    Limits,
    Measured,
    judged,
    limits_of,
    range_of,
)
from rundgang.core.floor.round import Find, round_on, standing_of
from rundgang.core.floor.usual import usual_inspections
from rundgang.core.kinds.parts import DwellStep
from rundgang.core.planning.legs import passings
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import ostermere
from rundgang.demo.ring_line import ring_line
from rundgang.formats.clock import days_of
from simulated import Told, at_work

RING = ring_line(date(2026, 3, 11))
PLAN = make_plan(RING, "ring-line", stop=after_evaluations(5, 5))
DAYS = days_of(RING)
TRIED = int(os.environ.get("SOAK_PLANTS", "20"))


def inspection(**changes: object) -> Inspection:
    known: dict[str, object] = {
        "id": "one",
        "line": "ring-line",
        "station": "oven",
        "name": "Colour",
        "when": Every(minutes=30),
        "asks": Chosen(good="good", bad=("dark",)),
        "action": "Tell the oven.",
    }
    return Inspection.model_validate(known | changes)


def due(one: Inspection, plan: LinePlan = PLAN) -> tuple[Occasion, ...]:
    return occasions([one], RING, plan, DAYS)


@pytest.mark.parametrize("seed", range(TRIED))
def test_what_is_usual_fits_any_plant(seed: int) -> None:
    plant = random_plant(seed)
    usual = usual_inspections(plant)
    assert usual.all
    assert list(usual.faults(plant)) == []


@pytest.mark.parametrize("seed", range(TRIED))
def test_every_occasion_has_a_key_of_its_own(seed: int) -> None:
    """Though a station mixes doughs and what is put into them, and two products of one run pass it."""
    plant = random_plant(seed)
    whole = plan_plant(plant, seed=seed, stop=after_evaluations(10, 10))
    usual = usual_inspections(plant).all
    at_every_station = [
        inspection(id=f"{kind}-{place}", line=line.id, station=station.id, when=when)
        for line in plant.plant.lines
        for place, station in enumerate(line.stations)
        for kind, when in (("start", AtStart()), ("batch", EachBatch()), ("change", AtChangeover()), ("day", Daily()))
    ]
    for plan in whole.plans:
        keys = [one.key for one in occasions((*usual, *at_every_station), plant, plan, (Day("day", 0),))]
        assert len({*keys}) == len(keys), f"{sorted(key for key in keys if keys.count(key) > 1)[:3]}, seed {seed}"


def test_lines_that_begin_with_the_same_letters_have_checks_of_their_own() -> None:
    """As ids have room for forty letters, and a line's id for just as many."""
    name = "long-morning-line-of-the-second-hall-{}"
    first = RING.line("ring-line")
    lines = tuple(first.model_copy(update={"id": name.format(number)}) for number in (1, 2))
    products = tuple(
        product.model_copy(update={"line": line.id, "id": f"{product.id}-{line.id[-1]}"})
        for line in lines
        for product in RING.products
    )
    plant = RING.model_copy(
        update={"plant": RING.plant.model_copy(update={"lines": lines}), "products": products, "preparations": ()}
    )
    usual = usual_inspections(plant)
    assert {one.line for one in usual.all} == {line.id for line in lines}


def test_what_is_never_baked_is_looked_at_where_it_is_packed() -> None:
    """Seal, label and metal detector: whatever is sold in a pack (common practice, no published source)."""
    cold = tuple(
        product.model_copy(
            update={"route": tuple(step for step in product.route if not (isinstance(step, DwellStep) and step.bakes))}
        )
        for product in RING.products
    )
    plant = RING.model_copy(update={"products": cold})
    names = {one.name for one in usual_inspections(plant).all}
    assert names >= {"Seal", "Label and date", "Metal detector"}
    assert "Colour against the card" not in names


def test_what_is_usual_covers_what_gets_inspected() -> None:
    """Dough temperature and feel, scaled weight, seam, pieces apart, proof, oven and oil, colour, height, baked weight,
    core, deposit, slice, count, seal, label, metal detector, allergen changeover, set-up (common practice, no published
    source)."""
    names = {one.name for one in usual_inspections(ostermere(date(2026, 3, 11))).all}
    assert names >= {
        *("Dough temperature", "Dough feel", "Scaled weight", "Seam closed", "Pieces apart", "Proof"),
        *("Oven temperature", "Oil temperature", "Zone 1", "Colour against the card", "Height, shape and shine"),
        *("Baked weight", "Core before packing", "Deposit or cover", "Slice not cut through", "Count per pack"),
        *("Seal", "Label and date", "Metal detector", "Allergen changeover released", "Daily set-up", "Set up"),
        *("Flour temperature", "Water temperature", "Humidity"),
    }
    holding = {one.name for one in usual_inspections(RING).all if one.holds}
    assert holding == {"Seal", "Label and date", "Metal detector"}


def test_limits_stand_around_what_the_product_asks_for() -> None:
    """A ring baked to 84 g that loses 12.5 % enters the oven with 96 g; 2 % of it are 1.92 g: by hand."""
    weight = Measured(subject="scaled weight", around="own percent", low=-2, high=2, sample=5)
    found = limits_of(RING, inspection(station="divider", asks=weight), "lantern-plain")
    assert found == pytest.approx((94.08, 97.92))
    dough = Measured(subject="dough temperature", around="own", low=-1, high=1)
    assert limits_of(RING, inspection(station="mixers", asks=dough), "lantern-plain") == (24, 26)
    oven = Measured(subject="oven temperature", around="own", low=-6, high=6)
    assert limits_of(RING, inspection(asks=oven), "harvest-sesame") == (226, 238)
    core = Measured(subject="core temperature", around="own", high=3)
    assert limits_of(RING, inspection(station="cooler", asks=core), "lantern-plain") == (None, 38)
    assert limits_of(RING, inspection(asks=core), "lantern-plain") == (None, None), "the oven cools nothing"
    assert limits_of(RING, inspection(asks=CountedPieces()), "pear-cardamom") == (4, 4)
    assert limits_of(RING, inspection(asks=oven), None) == (None, None)


def test_a_preparation_is_held_against_its_own_temperature() -> None:
    """Where a station mixes both: a sponge's limits are not those of the dough that it is put into."""
    plant = random_plant(0)
    sponge = plant.preparations[0]
    product = next(made for made in plant.products if made.line == sponge.line and made.formula)
    asks = Measured(subject="dough temperature", around="own", low=-1, high=1)
    one = inspection(line=sponge.line, station=product.mixing.station, when=EachBatch(), asks=asks)
    around = (sponge.temperature_c - 1, sponge.temperature_c + 1)
    assert limits_of(plant, one, product.id, sponge.id) == pytest.approx(around)
    own = product.dough_temperature_c
    assert limits_of(plant, one, product.id) == pytest.approx((own - 1, own + 1))


def test_a_limit_of_nothing_is_a_limit() -> None:
    """Frozen goods are at most 0 °C; nothing may be off centre: neither is a limit that is not there."""
    store = Measured(subject="climate", low=-22, high=0)
    assert range_of(store, Limits(-22, 0)).usual == (-25, 60), "88 K is four times the width; the trade's own is nearer"
    centre = Measured(subject="off centre", high=0)
    assert range_of(centre, Limits(None, 0)).usual == (0, 8)
    assert judged(centre, Limits(None, 0), (0.5,), None) == (False, "0.5 mm")
    low = Measured(subject="core temperature", low=0, high=4)
    assert range_of(low, Limits(0, 4)).usual == (0, 20), "12 at least is usual, but here 0 is allowed"


def test_a_dough_that_was_probed_in_the_dough_room_is_not_asked_for_again() -> None:
    """And judged by the same limits; another dough is."""
    asks = Measured(subject="dough temperature", around="own", low=-1, high=1)
    one = inspection(station="mixers", name="Dough temperature", when=EachBatch(), asks=asks)
    first, second = due(one)[:2]
    own = limits_of(RING, one, first.product)
    assert own.high is not None
    assert (first.run, first.batch) != (second.run, second.batch)
    dough = (first.run or "", first.batch or 0)
    seen = round_on(RING, PLAN, Inspections(all=(one,)), (), {dough: own.high + 0.5}, DAYS, first.due_min)
    asked = {each.key: each.find for stop in seen.stops for check in stop.checks for each in check.due}
    found = asked[first.key]
    assert found is not None
    assert (found.good, found.author) == (False, "dough room")
    assert asked[second.key] is None


def test_a_figure_is_taken_asked_about_or_refused() -> None:
    core, limits = Measured(subject="core temperature", low=92, high=100), Limits(92, 100)
    usual, possible = range_of(core, limits)
    assert usual == (60, 102), "four times the limits' width below them; above, a core does not get beyond boiling"
    assert possible == (-25, 112)
    assert judged(core, limits, (95.4,), None) == (True, "95.4 °C")
    assert judged(core, limits, (91.9,), None) == (False, "91.9 °C")
    for values, word, said in (
        ((150.0,), None, "150 °C cannot be; allowed: -25 to 112 °C"),
        ((), None, "0 figures are given; allowed: 1"),
        ((95.0,), "hot", "allowed: 1"),
    ):
        with pytest.raises(ValueError, match=said):
            judged(core, limits, values, word)
    weight = Measured(subject="scaled weight", low=94, high=98, sample=3)
    assert judged(weight, Limits(94, 98), (93.0, 96.0, 99.6), None) == (True, "96.2 g"), "the mean counts"
    seam = Chosen(good="closed", bad=("opens", "dry"))
    assert judged(seam, Limits(None, None), (), "closed") == (True, "closed")
    assert judged(seam, Limits(None, None), (), "dry") == (False, "dry")
    with pytest.raises(ValueError, match="shut is no answer; allowed: closed, opens, dry"):
        judged(seam, Limits(None, None), (), "shut")
    assert judged(CountedPieces(), Limits(5, 5), (4.0,), None) == (False, "4 pieces")


def test_what_does_not_fit_is_said() -> None:
    with pytest.raises(ValidationError, match="the lower one first"):
        Measured(subject="size", low=5, high=3)
    with pytest.raises(ValidationError, match="each word once"):
        Chosen(good="good", bad=("bad", "good"))
    with pytest.raises(ValidationError, match="each id once"):
        Inspections(all=(inspection(), inspection()))
    wrong = (
        inspection(id="a", station="moon"),
        inspection(id="b", product="moon-roll"),
        inspection(id="c", asks=Measured(subject="humidity", around="own", low=-4, high=4)),
    )
    said = list(Inspections(all=wrong).faults(RING))
    assert [fault.split("allowed: ")[1] for fault in said] == [
        "one that the page lists",
        "one of that line, or all of them",
        "fixed limits",
    ]


def spans(plan: LinePlan, station: str, scenario: Scenario = RING) -> list[tuple[str, float, float]]:
    """Each run's first and last piece out of a station."""
    passed = ((run.id, one) for run in plan.runs for one in passings(scenario, run) if one.station == station)
    return sorted(((run, one.first_out, one.last_out) for run, one in passed), key=lambda span: span[1])


def test_every_so_many_minutes_while_pieces_pass() -> None:
    found = due(inspection())
    for run, first, last in spans(PLAN, "oven"):
        moments = [one.due_min for one in found if one.run == run]
        assert moments[0] == first
        assert all(then - before == pytest.approx(30) for before, then in pairwise(moments))
        assert last - 30 <= moments[-1] <= last, "none after the last piece, and none missing before it"
    one = found[0]
    assert (one.opens_min, one.late_min, one.until_min) == pytest.approx(
        (one.due_min - 15, one.due_min + 6, one.due_min + 30)
    )


def test_at_the_start_each_batch_and_once_a_day() -> None:
    starts = due(inspection(when=AtStart()))
    assert [(one.run, one.due_min) for one in starts] == [(run, first) for run, first, _ in spans(PLAN, "oven")]
    doughs = due(inspection(station="mixers", when=EachBatch()))
    batches = [(run.id, batch.number, batch.discharged_min) for run in PLAN.runs for batch in run.batches]
    assert sorted((one.run or "", one.batch or 0, one.due_min) for one in doughs) == sorted(batches)
    daily = due(inspection(when=Daily()))
    worked = [day for day in DAYS if any(first < day.begins_min + 1_440 and last > day.begins_min
                                         for _, first, last in spans(PLAN, "oven"))]  # fmt: skip
    assert [one.key for one in daily] == [f"one/{day.name}" for day in worked]
    only = due(inspection(when=AtStart(), product="lantern-plain"))
    assert {one.product for one in only} == {"lantern-plain"}
    assert len(only) < len(starts)


def test_what_is_done_to_a_trough_is_due_so_long_after_it_was_put_in() -> None:
    """The crust of a ferment is broken at its minute (common practice, no published source)."""
    day = ostermere(date(2026, 3, 11))
    whole = plan_plant(day, seed=1, stop=after_evaluations(200, 200))
    tasks = [one for one in usual_inspections(day).all if isinstance(one.when, EachBatch) and one.when.after_min]
    assert tasks
    for one in tasks:
        plan = whole.of(one.line)
        found = occasions([one], day, plan, days_of(day))
        assert isinstance(one.when, EachBatch)
        put_in = {
            slot.discharged_min
            for run in plan.runs
            for batch in run.batches
            if not batch.shared
            for slot in batch.slots
        }
        assert found
        assert {round(due.due_min - one.when.after_min, 6) for due in found} <= {round(at, 6) for at in put_in}


def test_a_batch_is_looked_at_where_it_has_come_to() -> None:
    """Batch by batch at the divider: when its first piece leaves it, half a minute after it came in."""
    found = due(inspection(station="divider", when=EachBatch()))
    by_batch = {(one.run, one.batch): one.due_min for one in found}
    for run in PLAN.runs:
        for batch in run.batches:
            assert by_batch[run.id, batch.number] == pytest.approx(batch.divided_min + 0.5, abs=0.01)


def test_a_changeover_is_released_where_an_allergen_leaves() -> None:
    """By hand: the runs in their order at the divider, and what each leaves that the next does not have."""
    found = due(inspection(station="divider", when=AtChangeover(allergens_only=True)))
    order = [run for run, _, _ in spans(PLAN, "divider")]
    made = {run.id: RING.product(run.product) for run in PLAN.runs}
    wanted = [
        (before, then) for before, then in pairwise(order) if RING.allergens(made[before]) - RING.allergens(made[then])
    ]
    assert wanted, "the plan has such a changeover"
    assert [one.key for one in found] == [f"one/{then}/after-{before}" for before, then in wanted]
    firsts = {run: first for run, first, _ in spans(PLAN, "divider")}
    assert all(one.late_min == firsts[one.run or ""] for one in found), "late when the next product comes"
    changes = due(inspection(station="divider", when=AtChangeover()))
    assert len(changes) == sum(made[one].id != made[other].id for one, other in pairwise(order))


def test_an_occasion_keeps_its_key_when_the_plan_moves() -> None:
    later = tuple(run.model_copy(update={"start_min": run.start_min + 25}) for run in PLAN.runs)
    before, after = due(inspection()), due(inspection(), PLAN.model_copy(update={"runs": later}))
    assert [one.key for one in after] == [one.key for one in before]
    assert [one.due_min - 25 for one in after] == pytest.approx([one.due_min for one in before])


@pytest.mark.parametrize("seed", range(TRIED))
def test_what_is_due_of_what_leaves_is_there_to_be_looked_at(seed: int) -> None:
    """Against the simulated plant, which shares no code with the plan's legs: pieces come out when a check is due."""
    plant = random_plant(seed)
    whole = plan_plant(plant, seed=seed, stop=after_evaluations(10, 10))
    simulated = at_work((plant, whole), Told())
    usual = usual_inspections(plant)
    for plan in whole.plans:
        often = [one for one in usual.all if isinstance(one.when, Every) and one.leaving]
        mixed = {station.id for station in plant.line(plan.line).stations if station.kind in {"batch", "held"}}
        for occasion in occasions(often, plant, plan, (Day("day", 0),)):
            station = occasion.inspection.station
            if station in mixed:
                continue
            before, after = (simulated.count(plan.line, station, occasion.due_min + by) for by in (-2.0, 3.0))
            assert after > before, f"{occasion.key}, seed {seed}"


def finds(one: Inspection, *found: tuple[float, bool]) -> list[Find]:
    return [
        Find(occasion=f"{one.id}/{at}", inspection=one.id, at_min=at, good=good, says="x", author="Jonte")
        for at, good in found
    ]


def held_of(one: Inspection, found: Sequence[Find], now_min: float) -> list[tuple[float, float, float]]:
    seen = round_on(RING, PLAN, Inspections(all=(one,)), found, {}, DAYS, now_min)
    return [(each.from_min, each.until_min, sum(part.packs for part in each.stretches)) for each in seen.held]


def test_a_failed_check_holds_what_has_passed_since_the_last_good_one() -> None:
    """At a steady pace a twentieth of a run's time passes a twentieth of its packs; until it is good again."""
    metal = inspection(station="bagger", name="Metal detector", holds=True)
    run = max(PLAN.runs, key=lambda one: one.packs)
    first, last = next((begin, end) for name, begin, end in spans(PLAN, "bagger") if name == run.id)
    part = (last - first) / 20
    failed = finds(metal, (first + 4 * part, True), (first + 9 * part, False), (first + 10 * part, False))
    (found,) = held_of(metal, failed, first + 11 * part)
    assert found == pytest.approx((first + 4 * part, first + 11 * part, 7 * run.packs / 20))
    (found,) = held_of(metal, [*failed, *finds(metal, (first + 12 * part, True))], first + 15 * part)
    assert found == pytest.approx((first + 4 * part, first + 12 * part, 8 * run.packs / 20))
    assert held_of(metal.model_copy(update={"holds": False}), failed, first + 11 * part) == []


def test_a_round_has_its_stops_in_walking_order_and_says_what_is_late() -> None:
    one = inspection(station="oven")
    first = due(one)[0]
    now = first.late_min + 1
    seen = round_on(RING, PLAN, Inspections(all=(one,)), (), {}, DAYS, now)
    assert [stop.station for stop in seen.stops] == [station.id for station in RING.line("ring-line").stations]
    assert standing_of(seen, now) == (0, 1)
    assert standing_of(seen, first.due_min) == (1, 0)
    oven = next(stop for stop in seen.stops if stop.station == "oven")
    assert oven.run == first.run
    assert [caution.about for caution in oven.cautions] == ["Hot oven, tins and steam", "Dark bakes"]
    answered = Find(occasion=first.key, inspection="one", at_min=now, good=True, says="good", word="good", author="J")
    after = round_on(RING, PLAN, Inspections(all=(one,)), [answered], {}, DAYS, now)
    assert standing_of(after, now) == (0, 0)
    assert next(stop for stop in after.stops if stop.station == "oven").checks[0].last == (answered,)


def test_days_begin_at_the_plants_own_midnight_when_the_clocks_change() -> None:
    """On 29 March 2026 the day has 23 hours in central Europe (EU directive 2000/84/EC, from memory)."""
    days = days_of(ostermere(date(2026, 3, 28)))
    begins = {day.name: day.begins_min for day in days}
    assert begins["2026-03-30"] - begins["2026-03-29"] == 23 * 60
    assert begins["2026-03-29"] - begins["2026-03-28"] == 24 * 60
