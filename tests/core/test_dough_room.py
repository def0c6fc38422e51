"""The dough room in a plan: sponges, troughs and cut-outs, and that the check sees every broken rule."""

from collections.abc import Callable

import pytest

from families import Family, bulk_bread, cracker, no_time_bread, plant_of, yeast_rings
from plants import items_on, laid_out, make_plan, mixers, product, scenario
from rundgang.core.kinds.rate import RateStation, RateStep
from rundgang.core.orders import Order, Wave
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.model import Batch, LinePlan, Run
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario


def planned(family: Family, packs: int = 6_000) -> tuple[Scenario, LinePlan]:
    plant = plant_of(family, packs)
    plan = make_plan(plant, "line", stop=after_evaluations(1, 1))
    assert check(plant, plan) == ()
    return plant, plan


def texts(plant: Scenario, plan: LinePlan) -> str:
    return "; ".join(str(violation) for violation in check(plant, plan))


def with_batch(plan: LinePlan, change: Callable[[Batch], Batch], number: int = 2) -> LinePlan:
    """The plan with one batch of its first run changed."""
    run = plan.runs[0]
    batches = tuple(change(batch) if batch.number == number else batch for batch in run.batches)
    changed = Run.model_construct(**{name: getattr(run, name) for name in Run.model_fields} | {"batches": batches})
    return plan.model_copy(update={"runs": (changed, *plan.runs[1:])})


def test_every_dough_has_its_sponge_in_time() -> None:
    plant, plan = planned(bulk_bread())
    sponge = plant.preparation("sponge")
    for batch in plan.runs[0].batches:
        (slot,) = batch.preparations
        assert slot.used_min == pytest.approx(batch.start_min)
        assert 180 <= slot.used_min - slot.discharged_min <= 240
        assert slot.discharged_min - slot.start_min == pytest.approx(sponge.mixing.cycle_min)
        assert slot.grams == pytest.approx(batch.dough_g * 81 / 166, abs=1)


SPONGE_FAULTS = [
    ({"start_min": -5.0}, "starts before the window"),
    ({"used_min": 400.0}, "is not used when the dough is charged"),
    ({"grams": 90_000}, "is 90.00 kg, needed"),
    ({"position": "bucket 3"}, "none of its 60"),
    ({"position": None}, "stands in no trough"),
    ({"mixer": "hands"}, "a mixer the line does not have"),
    ({"discharged_min": 1e4}, "is used too early"),
]


@pytest.mark.parametrize(("update", "words"), SPONGE_FAULTS)
def test_the_check_sees_a_wrong_sponge(update: dict[str, object], words: str) -> None:
    plant, plan = planned(bulk_bread())
    wrong = with_batch(
        plan, lambda b: b.model_copy(update={"preparations": (b.preparations[0].model_copy(update=update),)})
    )
    assert words in texts(plant, wrong)


def test_the_check_sees_a_missing_sponge_and_one_in_use_twice() -> None:
    plant, plan = planned(bulk_bread())
    assert "each of its preparations once" in texts(
        plant, with_batch(plan, lambda batch: batch.model_copy(update={"preparations": ()}))
    )
    first = plan.runs[0].batches[0].preparations[0]
    same = with_batch(
        plan,
        lambda batch: batch.model_copy(
            update={
                "preparations": (
                    batch.preparations[0].model_copy(update={"position": first.position, "mixer": first.mixer}),
                )
            }
        ),
    )
    found = texts(plant, same)
    assert "is still in use after R1" in found
    assert "is still in use" in found


def test_a_trough_is_held_between_its_limits_and_by_one_dough_at_a_time() -> None:
    plant, plan = planned(cracker(), packs=2_500)
    assert len({batch.trough for batch in plan.runs[0].batches}) > 1
    for batch in plan.runs[0].batches:
        assert batch.divided_min - batch.discharged_min >= 960
        assert batch.last_piece_min - batch.discharged_min <= 1_140
    first = plan.runs[0].batches[0]
    assert "is still in use after R1" in texts(
        plant, with_batch(plan, lambda batch: batch.model_copy(update={"trough": first.trough}))
    )
    assert "stands in no trough" in texts(
        plant, with_batch(plan, lambda batch: batch.model_copy(update={"trough": None}))
    )
    hasty = with_batch(
        plan,
        lambda batch: batch.model_copy(
            update={"start_min": batch.start_min + 60, "discharged_min": batch.discharged_min + 60}
        ),
    )
    assert "divided before it has rested" in texts(plant, hasty)


def test_one_trough_alone_makes_one_dough_a_run() -> None:
    """Of several doughs in a row each needs its hours, so the line cannot be fed without a break."""
    family = cracker()
    one = tuple(
        station.model_copy(update={"positions": 1}) if station.id == "warm-room" else station
        for station in family.stations
    )
    plant = plant_of(family._replace(stations=one), packs=900)
    plan = make_plan(plant, "line", stop=after_evaluations(50, 50))
    assert check(plant, plan) == ()
    assert len(plan.runs) > 1
    assert [len(run.batches) for run in plan.runs] == [1] * len(plan.runs)


def test_cut_outs_follow_their_rings_and_the_check_counts_them() -> None:
    """Ordered as many tubs as rings' packs, there are six tenths: a tub takes ten centres, a pack six rings."""
    plant, plan = planned(yeast_rings(), packs=1_000)
    (cut,) = plan.cut_runs
    outcome = next(wave for wave in plan.waves if wave.product == "centre")
    assert outcome.short == 1_000 - cut.packs
    assert cut.packs == pytest.approx(600, abs=2)
    assert plan.score.surplus_packs == 0, "what is cut out is no surplus and no shortage of its own"
    for update, words in (
        ({"packs": cut.packs + 5}, "packs of Centre are cut out of it"),
        ({"first_pack_min": cut.first_pack_min + 3}, "says other times for the packs of Centre"),
    ):
        wrong = plan.model_copy(update={"cut_runs": (cut.model_copy(update=update),)})
        assert words in texts(plant, wrong)
    assert "does not say" in texts(plant, plan.model_copy(update={"cut_runs": ()}))
    assert "no such run" in texts(plant, plan.model_copy(update={"cut_runs": (cut.model_copy(update={"run": "R9"}),)}))


def test_the_check_sees_too_few_tins() -> None:
    plant, plan = planned(bulk_bread())
    line = plant.plant.lines[0]
    few = line.model_copy(update={"carriers": (line.carriers[0].model_copy(update={"count": 50}),)})
    tight = plant.model_copy(update={"plant": plant.plant.model_copy(update={"lines": (few,)})})
    assert "there are 50" in texts(tight, plan)


def test_packs_are_not_made_too_long_before_their_lorry() -> None:
    """Fresh for 10 h: the run waits, and says that freshness is why; a plan that does not is found out."""
    family = yeast_rings()
    fresh = (family.products[0].model_copy(update={"fresh_for_h": 10.0}), family.products[1])
    plant, plan = planned(family._replace(products=fresh), packs=500)
    run = plan.runs[0]
    assert run.binding.kind == "freshness"
    assert run.first_pack_min >= plant.waves[0].departs_min - 600
    assert plan.score.packs_stale == 0
    early, hasty = planned(family, packs=500)
    assert hasty.runs[0].binding.kind == "opening"
    assert "says 0 packs of Ring are never made" in texts(early.model_copy(update={"products": fresh}), hasty)


def test_a_surplus_too_old_for_the_next_lorry_is_thrown_away_and_made_anew() -> None:
    """Full doughs leave packs over on the first day; a day later they are too old, so none is counted on."""
    family = no_time_bread()
    loaf = family.products[0].model_copy(update={"fresh_for_h": 8.0, "odd_batch": "round-up"})
    plant = plant_of(family._replace(products=(loaf,)), packs=300)
    waves = (Wave(id="first", name="First", departs_min=900), Wave(id="lorry", name="Last", departs_min=2_400))
    orders = tuple(Order(id=wave.id, product="loaf", wave=wave.id, packs=300) for wave in waves)
    plant = plant.model_copy(update={"waves": waves, "orders": orders})
    plan = make_plan(plant, "line", stop=after_evaluations(1, 1))
    assert check(plant, plan) == ()
    first, last = plan.runs
    assert first.packs > 300
    assert last.packs_wanted == 300, "what is left of the first day is no stock for the next"
    assert [wave.stale for wave in plan.waves] == [0, first.packs - 300]
    assert plan.score.packs_stale == first.packs - 300
    assert [wave.short for wave in plan.waves] == [0, 0]


def test_a_dough_goes_where_the_one_before_it_was_mixed_and_another_kind_beside_it() -> None:
    """Two mixers, a dough every 30 min. Plain ones, 10 min each, stay in one; what rests for 200 min, is mixed while
    those are fed, and must be kept apart from them by 25 min of cleaning, has the other and waits for nothing."""
    steps = (RateStep(station="divider", strokes_per_min=1_000),)
    plain = product("plain", steps)
    rested = product("rested", steps, rest=200, age=300, nuts=True)
    day = scenario(
        (RateStation(id="divider", name="Divider"),),
        (plain, rested),
        (("plain", 2_000, 60_000), ("rested", 2_000, 20_000)),
        mixing=mixers(2, clean=25),
    )
    first, then = laid_out(
        day, [item for name in ("plain", "rested") for item in items_on(day) if item.product == name]
    ).runs
    assert {batch.mixer for batch in first.batches} == {"A"}
    assert {batch.mixer for batch in then.batches} == {"B"}
    assert then.batches[0].start_min < first.batches[-1].start_min
    assert then.start_min == pytest.approx(first.start_min + first.feed_min)


def test_doughs_that_follow_each_other_sooner_than_one_mixer_can_take_two() -> None:
    day = scenario(
        (RateStation(id="divider", name="Divider"),),
        (product("slow", (RateStep(station="divider", strokes_per_min=1_000),), cycle=50),),
        (("slow", 2_000, 60_000),),
        mixing=mixers(2),
    )
    (run,) = laid_out(day, items_on(day)).runs
    assert {batch.mixer for batch in run.batches} == {"A", "B"}
    for one, other in zip(run.batches, run.batches[2:], strict=False):
        assert other.start_min >= one.start_min + 50 or other.mixer != one.mixer
