"""Random plants of two lines that share mixers, troughs, a packer and people, with blocks, stock and a cold store."""

from itertools import pairwise

from hypothesis import HealthCheck, assume, given, reject, settings
from hypothesis import strategies as st

from families import STORES, made, mixing, rate, strokes
from plants import STARTS, belt, mixers
from rundgang.core.conditions import Conditions
from rundgang.core.errors import InfeasibleError
from rundgang.core.kinds.conveyor import ConveyorStep
from rundgang.core.kinds.every import Step
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.parts import Changeover, CrewUse
from rundgang.core.orders import Absence, Block, FinishedStock, Order, Wave, Window
from rundgang.core.planning.check.plans import check, check_plant
from rundgang.core.planning.model import PlantPlan, Run
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.plant import Crew, Line, Plant, Shared, StationRef
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

WINDOW_MIN = 4_320
WAVES = (800.0, 1_500.0, 2_400.0, float(WINDOW_MIN))
NAMES = ("left-1", "left-2", "right-1", "right-2")


def _line(name: str, people: int, positions: int) -> Line:
    changeover = Changeover(separation_min=2, tool_change_min=9, allergen_clean_min=14, trait_clean_min=6)
    packer = rate("packer").model_copy(
        update={"changeover": changeover, "staffed": CrewUse(crew="packers", people=people)}
    )
    return Line(
        id=name,
        name=name.title(),
        stations=(
            mixers(2, least=20, most=300, clean=8),
            HeldStation(id="troughs", name="Troughs", positions=6, turn_round_min=10),
            rate("divider"),
            HeldStation(id="store", name="Cold store", positions=positions, turn_round_min=5),
            belt("oven", 4_000, setup=4, ramp=2.0),
            packer,
        ),
    )


def _product(draw: st.DrawFn, name: str) -> Product:
    route: list[Step] = [mixing(draw(st.integers(4, 9)), rest=3, age=200)]
    if draw(st.booleans()):
        hold = draw(st.integers(10, 60))
        route.append(HeldStep(station="troughs", least_min=hold, most_min=hold + 60))
    route.append(strokes("divider", draw(st.integers(60, 120))))
    if draw(st.booleans()):
        hold = draw(st.integers(60, 240))
        longest = hold + draw(st.integers(30, 900))
        route.append(HeldStep(station="store", least_min=hold, most_min=longest, pieces_per_position=150))
    heat = draw(st.sampled_from([200.0, 230.0]))
    route.append(ConveyorStep(station="oven", dwell_min=draw(st.integers(8, 25)), temperature_c=heat))
    route.append(strokes("packer", 90, tool=draw(st.sampled_from([None, "a", "b"]))))
    return made(
        name,
        tuple(route),
        line=name.split("-", maxsplit=1)[0],
        target_per_hour=draw(st.integers(1_500, 5_000)),
        fresh_for_h=draw(st.sampled_from([None, 10.0, 24.0])),
        traits=frozenset(draw(st.sets(st.sampled_from(["seeds", "dark"])))),
    )


def _blocks(draw: st.DrawFn) -> tuple[Block, ...]:
    found = []
    for number in range(draw(st.integers(0, 3))):
        begin = draw(st.integers(0, 2_000))
        found.append(
            Block(
                id=f"b{number}",
                line=draw(st.sampled_from(["left", "right"])),
                station=draw(st.sampled_from(["mixers", "divider", "store", "oven", "packer"])),
                kind="cleaning",
                from_min=begin,
                to_min=begin + draw(st.integers(1, 400)),
                reason="wash down",
            )
        )
    return tuple(found)


def _absences(draw: st.DrawFn, most: int) -> tuple[Absence, ...]:
    """Some of the packers away, now and then all of them."""
    found = []
    for _ in range(draw(st.integers(0, 3))):
        begin = draw(st.integers(-200, 2_500))
        away = draw(st.integers(1, most))
        found.append(Absence(crew="packers", from_min=begin, to_min=begin + draw(st.integers(1, 600)), people=away))
    return tuple(found)


@st.composite
def plants(draw: st.DrawFn) -> Scenario:
    """Two lines of one plant, four products, up to ten orders."""
    both = [StationRef(line="left", station="mixers"), StationRef(line="right", station="mixers")]
    shared = [Shared(id="mixers", name="The mixers", stations=tuple(both))]
    for station in ("troughs", "packer", "store"):
        if draw(st.booleans()):
            refs = tuple(ref.model_copy(update={"station": station}) for ref in both)
            shared.append(Shared(id=station, name=f"The {station}", stations=refs))
    people, positions = draw(st.integers(1, 4)), draw(st.sampled_from([20, 40, 400]))
    orders = draw(
        st.lists(st.tuples(st.sampled_from(NAMES), st.integers(0, 3), st.integers(50, 2_500)), min_size=1, max_size=10)
    )
    stock = draw(st.lists(st.tuples(st.integers(0, 900), st.integers(-900, 0)), min_size=2, max_size=2))
    return Scenario(
        plant=Plant(
            name="Test plant",
            town="Nowhere",
            time_zone="UTC",
            ingredients=STORES,
            lines=(_line("left", people, positions), _line("right", people, positions)),
            crews=(Crew(id="packers", name="Packers", people=draw(st.integers(people, 2 * people))),),
            shared=tuple(shared),
        ),
        products=tuple(_product(draw, name) for name in NAMES),
        window=Window(starts_at=STARTS, minutes=WINDOW_MIN),
        waves=tuple(Wave(id=f"w{n}", name=f"Lorry {n}", departs_min=at) for n, at in enumerate(WAVES)),
        orders=tuple(
            Order(id=f"o{n}", product=product, wave=f"w{wave}", packs=packs, fresh_for_h=(None, None, 5.0)[n % 3])
            for n, (product, wave, packs) in enumerate(orders)
        ),
        conditions=Conditions(room_c=22, flour_c=20, tap_c=15),
        finished=tuple(
            FinishedStock(product=name, packs=packs, made_min=made_min)
            for name, (packs, made_min) in zip(NAMES[::3], stock, strict=True)
        ),
        blocks=_blocks(draw),
        absences=_absences(draw, people),
    )


def planned(plant: Scenario, seed: int = 0, tries: int = 60) -> PlantPlan:
    """A plan; a plant of which none can be made is passed over, where the error names what is allowed."""
    try:
        return plan_plant(plant, seed=seed, stop=after_evaluations(tries, tries))
    except InfeasibleError as error:
        names = [product.name for product in plant.products] + [line.name for line in plant.plant.lines]
        assert any(name in str(error) for name in names)
        assert "Allowed: " in str(error)
        reject()


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(plant=plants(), seed=st.integers(0, 5))
def test_every_plan_of_lines_that_share_passes_the_check(plant: Scenario, seed: int) -> None:
    plan = planned(plant, seed)
    assert check_plant(plant, plan.plans) == ()
    assert plan.bound <= plan.cost + 1e-6
    for line in plan.plans:
        assert sum(wave.packs for wave in line.waves) == sum(
            order.packs for order in plant.orders if plant.product(order.product).line == line.line
        )


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(plant=plants())
def test_what_binds_a_run_is_true(plant: Scenario) -> None:
    """A run made a moment earlier, all else as it is, breaks a rule; where only the order binds, it need not."""
    plan = planned(plant, tries=1)
    for line in plan.plans:
        for place, run in enumerate(line.runs):
            if run.binding.kind in {"opening", "freshness", "order", "pin"}:
                continue
            earlier = line.model_copy(
                update={"runs": (*line.runs[:place], _earlier(run, 0.5), *line.runs[place + 1 :])}
            )
            others = [other for other in plan.plans if other.line != line.line]
            assert check_plant(plant, [earlier, *others]) != (), run.binding


def _earlier(run: Run, minutes: float) -> Run:
    """A run with its doughs and packs so much earlier."""
    times = ("start_min", "discharged_min", "divided_min", "last_piece_min")
    batches = tuple(
        batch.model_copy(update={name: getattr(batch, name) - minutes for name in times}) for batch in run.batches
    )
    legs = tuple(leg.model_copy(update={"start_min": leg.start_min - minutes}) for leg in run.later_legs)
    moved = {name: getattr(run, name) - minutes for name in ("start_min", "first_pack_min", "last_pack_min")}
    return run.model_copy(update={"batches": batches, "later_legs": legs, **moved})


@settings(
    max_examples=15,
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large, HealthCheck.filter_too_much],
)
@given(plant=plants())
def test_the_check_sees_two_lines_use_one_mixer(plant: Scenario) -> None:
    """Each line planned by itself: where both mix at once, the check of the plant says so, but not that of a line."""
    try:
        alone = [plan_plant(plant, lines=(line,), stop=after_evaluations(1, 1)).of(line) for line in ("left", "right")]
    except InfeasibleError:
        reject()
    assert [check(plant, plan) for plan in alone] == [(), ()]
    used = [
        (slot.mixer, slot.start_min, slot.discharged_min)
        for plan in alone
        for run in plan.runs
        for batch in run.mixed
        for slot in batch.slots
    ]
    used.sort()
    assume(any(one[0] == then[0] and then[1] < one[2] - 0.01 for one, then in pairwise(used)))
    assert any("still in use" in violation.text for violation in check_plant(plant, alone))


def test_a_run_waits_for_the_shift_that_packs_it() -> None:
    """All packers come at minute 900: what is packed before breaks a rule, and the plan packs nothing before."""
    left = _line("left", 2, 40)
    route = (mixing(6, rest=3, age=200), strokes("divider", 100), strokes("packer", 90))
    roll = made("left-1", route, line="left", target_per_hour=3_000)
    asked = Scenario(
        plant=Plant(
            name="Test plant", town="Nowhere", time_zone="UTC", ingredients=STORES, lines=(left,),
            crews=(Crew(id="packers", name="Packers", people=4),),
        ),
        products=(roll,),
        window=Window(starts_at=STARTS, minutes=WINDOW_MIN),
        waves=(Wave(id="w", name="Lorry", departs_min=1_500),),
        orders=(Order(id="o", product="left-1", wave="w", packs=400),),
        conditions=Conditions(room_c=22, flour_c=20, tap_c=15),
    )  # fmt: skip
    early = planned(asked)
    assert early.plans[0].runs[0].first_pack_min < 800
    late = asked.changed(absences=(Absence(crew="packers", from_min=-100, to_min=900, people=4),))
    assert any("there are 0" in violation.text for violation in check_plant(late, early.plans))
    waits = planned(late)
    (run,) = waits.plans[0].runs
    assert run.first_pack_min >= 900
    assert (run.binding.kind, run.binding.where) == ("shift", "Packers")
    assert check_plant(late, waits.plans) == ()
    few = asked.changed(absences=(Absence(crew="packers", from_min=-100, to_min=900, people=2),))
    assert planned(few).plans[0].runs[0].first_pack_min < 800, "two are enough for it"
    assert waits.score.crew_peak == 2, "those who are away are not at work"


def test_a_run_that_waits_for_people_at_another_line_is_not_told_of_a_shift() -> None:
    """Both lines need all four packers: the second waits for the first, no shift begins then."""
    lines = tuple(_line(name, 4, 40) for name in ("left", "right"))
    route = (mixing(6, rest=3, age=200), strokes("divider", 100), strokes("packer", 90))
    rolls = tuple(made(f"{name}-1", route, line=name, target_per_hour=3_000) for name in ("left", "right"))
    asked = Scenario(
        plant=Plant(
            name="Test plant", town="Nowhere", time_zone="UTC", ingredients=STORES, lines=lines,
            crews=(Crew(id="packers", name="Packers", people=4),),
        ),
        products=rolls,
        window=Window(starts_at=STARTS, minutes=WINDOW_MIN),
        waves=(Wave(id="w", name="Lorry", departs_min=1_500),),
        orders=tuple(Order(id=f"o-{roll.id}", product=roll.id, wave="w", packs=400) for roll in rolls),
        conditions=Conditions(room_c=22, flour_c=20, tap_c=15),
    )  # fmt: skip
    plan = planned(asked)
    assert check_plant(asked, plan.plans) == ()
    bindings = [run.binding for made_plan in plan.plans for run in made_plan.runs]
    assert sorted(binding.kind for binding in bindings) == ["crew", "opening"]
    assert all(binding.where == "Packers" for binding in bindings if binding.kind == "crew")
