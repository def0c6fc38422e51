"""Tools that wear, and materials that bind: worked by hand, and kept by the search."""

from itertools import pairwise

import pytest
from pydantic import ValidationError

from families import made, mixing, rate, strokes
from plants import belt, items_on, make_plan, mixers, on_belt, product, scenario
from rundgang.core.kinds.parts import Changeover, WearingTool
from rundgang.core.kinds.rate import RateStation
from rundgang.core.opening import LastRun, Opening, WornTool
from rundgang.core.orders import Block
from rundgang.core.planning.check.plans import check, check_plant
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.pools import coupled
from rundgang.core.planning.decode.reading import lay_out
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.fit_in import ways_in
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Delivery, Scenario, Stock
from rundgang.core.tools import wear_of

FEW = after_evaluations(20, 20)


def slicer(*tools: WearingTool, machines: int = 1, lanes: int = 1, efficiency: float = 1) -> RateStation:
    return RateStation(
        id="slicer", name="Slicer", machines=machines, lanes=lanes, efficiency=efficiency, tools=tools,
        changeover=Changeover(separation_min=1),
    )  # fmt: skip


def blades(counted: str, life: float, *, minutes: float = 30, fits: str | None = None) -> WearingTool:
    return WearingTool.model_validate(
        {"id": "blades", "name": "Blades", "counted": counted, "life": life, "renew_min": minutes, "fits": fits}
    )


def bakery(tool: WearingTool, used: float, *orders: tuple[str, float, int], blocks: tuple[Block, ...] = ()) -> Scenario:
    """Loaves, 3,000/h, through an oven of 20 min and a slicer: an order of 3,000 is an hour at the slicer."""
    loaf = product("loaf", [on_belt("oven", 20), strokes("slicer", 100)], target=3_000)
    roll = product("roll", [on_belt("oven", 20), strokes("slicer", 100, tool="fine")], target=3_000)
    found = scenario((belt("oven"), slicer(tool)), (loaf, roll), orders, mixing=mixers(3))
    worn = (WornTool(line="line", station="slicer", tool="blades", used=used),)
    fields = {name: getattr(found, name) for name in Scenario.model_fields}
    return Scenario(**fields | {"opening": Opening(worn=worn), "blocks": blocks})


def test_strokes_of_a_lane_by_hand() -> None:
    """12,000 pieces through 2 machines of 3 lanes, 2 a stroke, 0.8 of them good: 12,000 / (6 x 2 x 0.8) = 1,250."""
    station = slicer(machines=2, lanes=3, efficiency=0.8)
    wear = wear_of(blades("strokes", 5_000), strokes("slicer", 50, takes=2), station)
    assert wear is not None
    assert 12_000 * wear.per_piece == pytest.approx(1_250)
    assert wear.per_min == 0
    assert wear_of(blades("strokes", 5_000, fits="fine"), strokes("slicer", 50, tool="coarse"), station) is None


@pytest.mark.parametrize(
    ("counted", "life", "used"),
    [("strokes", 10_000.0, 8_000.0), ("hours", 4.0, 3.5), ("days", 14.0, 13.95)],
)
def test_a_tool_is_renewed_before_the_run_in_which_its_life_would_end(counted: str, life: float, used: float) -> None:
    """Slicer blades of a fortnight's life are near its end: half an hour is taken for new ones, and nothing passes."""
    plant = bakery(blades(counted, life), used, ("loaf", 900, 3_000))
    plan = make_plan(plant, "line", stop=FEW)
    assert [(one.station, one.tool, one.before) for one in plan.renewals] == [("slicer", "Blades", "R1")]
    one = plan.renewals[0]
    assert one.to_min - one.from_min == pytest.approx(30)
    assert one.used <= life
    assert check(plant, plan) == ()
    forgotten = check(plant, plan.model_copy(update={"renewals": ()}))
    assert [fault.station for fault in forgotten] == ["Slicer"]
    assert "Blades" in forgotten[0].text
    late = one.model_copy(update={"from_min": one.from_min + 10, "to_min": one.to_min + 10})
    texts = [fault.text for fault in check(plant, plan.model_copy(update={"renewals": (late,)}))]
    assert "passes while Blades is renewed" in texts


def test_new_blades_are_left_alone() -> None:
    plan = make_plan(bakery(blades("hours", 4), 0, ("loaf", 900, 3_000)), "line", stop=FEW)
    assert plan.renewals == ()


def test_a_closing_that_renews_a_tool_is_enough() -> None:
    closing = Block(
        id="b", line="line", station="slicer", kind="blades", from_min=0, to_min=40, reason="new", renews="blades"
    )
    plant = bakery(blades("hours", 4), 3.5, ("loaf", 900, 3_000), blocks=(closing,))
    plan = make_plan(plant, "line", stop=FEW)
    assert plan.renewals == ()
    assert check(plant, plan) == ()
    assert check(plant.changed(blocks=()), plan), "without it the same plan works with worn blades"


def test_a_run_is_no_longer_than_a_tool_lasts() -> None:
    """9,000 loaves are three hours; blades of 80 minutes let 4,000 pass, so there are three runs with renewals between.

    The first piece meets the slicer 60 min into the run of an hour, and the run's pieces pass it as fast as they came.
    """
    plant = bakery(blades("hours", 80 / 60), 0, ("loaf", 900, 9_000))
    plan = make_plan(plant, "line", stop=FEW)
    assert sum(run.packs for run in plan.runs) >= 9_000
    assert all(run.packs <= 4_000 for run in plan.runs)
    assert len(plan.renewals) == len(plan.runs) - 1 == 2
    assert all(then.start_min - first.start_min - first.feed_min >= 30 - 1e-6 for first, then in pairwise(plan.runs))
    assert {run.binding.kind for run in plan.runs[1:]} == {"tool"}
    assert check(plant, plan) == ()


def test_a_tool_wears_only_where_it_is_mounted() -> None:
    plant = bakery(blades("hours", 4, fits="fine"), 3.5, ("loaf", 900, 3_000))
    assert make_plan(plant, "line", stop=FEW).renewals == ()
    fine = bakery(blades("hours", 4, fits="fine"), 3.5, ("loaf", 900, 3_000), ("roll", 900, 3_000))
    plan = make_plan(fine, "line", stop=FEW)
    runs = {run.id: run.product for run in plan.runs}
    assert [runs[one.before] for one in plan.renewals] == ["roll"]


def test_what_does_not_wear_a_tool_is_still_in_the_way_of_its_renewal() -> None:
    """Loaves pass the slicer without the fine blades; these are renewed for the rolls when the loaves have left it."""
    plant = bakery(blades("hours", 4, minutes=60, fits="fine"), 3.5, ("loaf", 170, 3_000), ("roll", 900, 3_000))
    plan = make_plan(plant, "line", stop=FEW)
    loaves, rolls = sorted(plan.runs, key=lambda run: run.product)
    assert loaves.start_min < rolls.start_min
    assert [one.before for one in plan.renewals] == [rolls.id]
    assert plan.renewals[0].from_min >= loaves.last_pack_min - 1e-6
    assert check(plant, plan) == ()


@pytest.mark.parametrize(
    ("tools", "worn", "renews", "said"),
    [
        ((blades("strokes", 10), blades("hours", 10)), "blades", None, "each id once"),
        ((blades("strokes", 10),), "knife", None, "allowed: tools of a station"),
        ((blades("strokes", 10),), "blades", "knife", "allowed: a tool of its station"),
    ],
)
def test_tools_that_do_not_fit_are_refused(
    tools: tuple[WearingTool, ...], worn: str, renews: str | None, said: str
) -> None:
    closing = Block(
        id="b", line="line", station="slicer", kind="blades", from_min=0, to_min=9, reason="new", renews=renews
    )
    opening = Opening(worn=(WornTool(line="line", station="slicer", tool=worn, used=1),))
    found = scenario((belt("oven"), slicer()), (product("loaf", [strokes("slicer", 100)]),))
    plant = found.plant.model_dump()
    plant["lines"][0]["stations"][-1]["tools"] = tools
    fields = {name: getattr(found, name) for name in Scenario.model_fields}
    with pytest.raises(ValidationError, match=said):
        Scenario(**fields | {"plant": plant, "opening": opening, "blocks": (closing,)})


def test_strokes_are_counted_where_there_are_some() -> None:
    oven = belt("oven").model_copy(update={"tools": (blades("strokes", 10),)})
    with pytest.raises(ValidationError, match="hours or days"):
        scenario((oven, slicer()), (product("loaf", [strokes("slicer", 100)]),))


def stocked(plant: Scenario, on_hand: float, *deliveries: tuple[float, float], binds: bool = True) -> Scenario:
    """Flour in the silo, kg, and what comes when."""
    coming = tuple(Delivery(at_min=at, amount=kg) for at, kg in deliveries)
    return plant.changed(stocks=(Stock(item="flour", on_hand=on_hand, deliveries=coming, binds=binds),))


def test_a_run_waits_for_the_flour_it_needs() -> None:
    """3,000 loaves of 100 g at 150 % dough on flour take 200 kg of flour; 150 are there, 100 come at minute 300."""
    plant = stocked(bakery(blades("hours", 100), 0, ("loaf", 900, 3_000)), 150, (300, 100))
    plan = make_plan(plant, "line", stop=FEW)
    assert [run.packs for run in plan.runs] == [3_000]
    last = plan.runs[0].batches[-1]
    assert plan.runs[0].binding.kind == "materials"
    assert plan.runs[0].binding.where == "Flour"
    begins = [batch.start_min for batch in plan.runs[0].batches]
    drawn = [sum(batch.dough_g for batch in plan.runs[0].batches[: n + 1]) / 1_500 for n in range(len(begins))]
    assert all(kg <= (150 if at < 300 else 250) + 1e-6 for at, kg in zip(begins, drawn, strict=True))
    assert last.start_min >= 300 - 1e-6
    assert check_plant(plant, (plan,)) == ()
    short = stocked(plant, 150, (600, 100))
    assert "draws Flour that is not there" in check_plant(short, (plan,))[0].text


def test_what_the_flour_is_not_enough_for_is_left_out_and_said() -> None:
    plant = stocked(bakery(blades("hours", 100), 0, ("loaf", 900, 3_000), ("roll", 900, 1_000)), 100)
    plan = make_plan(plant, "line", stop=FEW)
    assert [(left.product, left.packs) for left in plan.left_out] == [("loaf", 3_000)]
    assert plan.left_out[0].because == "not enough Flour, and none that comes in time"
    assert [run.product for run in plan.runs] == ["roll"]
    assert check_plant(plant, (plan,)) == ()
    free = stocked(plant, 100, binds=False)
    assert make_plan(free, "line", stop=FEW).left_out == (), "where it does not bind it is only said"


def test_want_of_a_material_is_no_reason_for_what_follows() -> None:
    """The loaves want flour; the roll behind them, so slow that its doughs grow too old, wants none."""
    plant = stocked(bakery(blades("hours", 100), 0, ("loaf", 900, 3_000), ("roll", 900, 100)), 100)
    shop = Shop(plant, ["line"])
    loaf, roll = sorted(items_on(plant), key=lambda item: item.product)
    slow = roll.model_copy(update={"pace_share": 0.01})
    decoded = lay_out(shop, fixed_arrays(shop, ()), (loaf, slow))
    assert [(item.product, material) for item, material in decoded.left_out] == [("loaf", "flour"), ("roll", None)]


def test_enough_of_it_would_fit_in_what_is_left_out() -> None:
    plant = stocked(bakery(blades("hours", 100), 0, ("loaf", 900, 3_000)), 100)
    plan = plan_plant(plant, stop=FEW)
    ways = ways_in(plant, plan, "line", "w0", "loaf")
    assert ("enough Flour in store", 0) in {(way.what, way.short) for way in ways}


def test_lines_that_draw_on_what_binds_are_planned_together() -> None:
    whole = scenario((belt("oven"), slicer()), (product("loaf", [strokes("slicer", 100)]),))
    line = whole.plant.lines[0]
    other = line.model_copy(update={"id": "other", "name": "Other"})
    fields = {name: getattr(whole, name) for name in Scenario.model_fields}
    plant = whole.plant.model_copy(update={"lines": (line, other)})
    made_there = made("bun", (mixing(10), strokes("slicer", 100)), line="other", formula=whole.products[0].formula)
    both = Scenario(**fields | {"plant": plant, "products": (*whole.products, made_there)})
    assert coupled(both) == (("line",), ("other",))
    assert coupled(stocked(both, 100)) == (("line", "other"),)


def test_what_was_made_last_counts_as_the_first_change() -> None:
    """An oven at 250 °C for what left at minute 0; 200 are wanted, at 2 °C a minute: not before minute 25.

    The same product needs no change, and what left earlier than the ramp takes is in nobody's way.
    """
    hot = product("hot", [on_belt("oven", 20, heat=250), strokes("packer", 100)], target=3_000)
    mild = product("mild", [on_belt("oven", 20, heat=200), strokes("packer", 100)], target=3_000)
    stations = (belt("oven", setup=3, ramp=2), rate("packer"))

    def enters(ordered: str, left: float) -> float:
        found = scenario(stations, (hot, mild), ((ordered, 900, 500),), hot={"oven": 200 if ordered == "mild" else 250})
        plant = found.opened(
            found.opening.model_copy(update={"last": (LastRun(line="line", product="hot", left_min=left),)})
        )
        plan = make_plan(plant, "line", stop=FEW)
        assert check(plant, plan) == ()
        none_before = plant.opened(found.opening)
        sooner = make_plan(none_before, "line", stop=FEW)
        if plan.runs[0].start_min > sooner.runs[0].start_min + 1e-6:
            assert "after Hot of before the window" in check(plant, sooner)[0].text
            assert plan.runs[0].binding.kind == "headway"
            assert plan.runs[0].binding.where == "Oven"
        return plan.runs[0].start_min

    first_dough = enters("hot", 0)
    assert enters("mild", 0) == pytest.approx(25)
    assert enters("mild", -5) == pytest.approx(20)
    assert enters("mild", -60) == pytest.approx(first_dough)
