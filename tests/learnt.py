"""A record as the simulated plant writes it: its counters and states, and people who probe, weigh and look at set-ups.

What is built into the plant is known here, so that what is learnt from the record can be held against it.
"""

from collections.abc import Iterator
from math import exp, log
from random import Random
from statistics import fmean

from rundgang.core.dough.friction import ProbeReading
from rundgang.core.floor.followed import Counted, Stoppage, as_it_went, followed
from rundgang.core.floor.now import roots
from rundgang.core.kinds.conveyor import ConveyorStep
from rundgang.core.learning.lessons import Lesson
from rundgang.core.learning.observed import Find, LineRecord, Observed, all_observed, frictions
from rundgang.core.planning.legs import passings
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.instruments.simulated.chance import LEAST_BETWEEN_MIN, SPREAD_SHARE, Chance
from rundgang.instruments.simulated.line import Passed, Worked
from rundgang.instruments.simulated.plant import SimulatedPlant

PROBED_EVERY_MIN, WEIGHED = 20.0, 5
FLOUR_C, ROOM_C = 22.0, 24.0

FRICTION, COOLING, BAKE_LOSS = 0.08, 0.12, 0.08
"""How far doughs and pieces stray, by one standard deviation of the logarithm."""

DOUGH_C, CORE_C, BAKED_SHARE = 0.4, 0.6, 0.008
"""How far apart single doughs, cores and baked pieces are, by one standard deviation."""


class Week(Chance):
    """A plant that strays as its seed says, and a week of it: what happens by chance is another in each."""

    def __init__(self, seed: int, week: int) -> None:
        super().__init__(seed, strays=True)
        self.week = week

    def of(self, *names: object) -> Random:
        return super().of(self.week, *names)

    def friction_c(self, product: str, mixer: str, said_c: float) -> float:
        """The friction factor of a dough in a mixer, °C, where the library says one."""
        return said_c * self.strayed(FRICTION, "friction", product, mixer)

    def cooling(self, product: str, said_per_min: float) -> float:
        """The rate at which a product cools, 1/min."""
        return said_per_min * self.strayed(COOLING, "cooling", product)

    def bake_loss(self, product: str, said: float) -> float:
        """Share of its mass that a piece loses when it is baked."""
        return said * self.strayed(BAKE_LOSS, "bake loss", product)


def observed_in(planned: tuple[Scenario, PlantPlan], line: str, chance: Week) -> Iterator[Observed]:
    """All that can be observed of a line while a plan of it happens."""
    scenario, whole = planned
    plan = whole.of(line)
    plant = SimulatedPlant(scenario.window.starts_at, chance)
    plant.publish(scenario, [plan], scenario.window.starts_at)
    work = plant.work_of(line)
    end = max(run.last_pack_min for run in plan.runs) + 120
    counts = {station: _counted(passed, end) for station, passed in work.passed.items() if passed.outs}
    stood = tuple(
        Stoppage(station=station, from_min=begin, until_min=ends)
        for station, passed in work.passed.items()
        for begin, ends in zip(passed.standing.begins, passed.standing.ends, strict=True)
        if ends <= end
    )
    went = _as_it_went(scenario, plan, counts, stood, end)
    finds = tuple(_found(scenario, went, work, chance))
    yield from all_observed(LineRecord(scenario, went, counts, stood, (0.0, end), finds))
    for product in {run.product for run in plan.runs}:
        yield from _probed(scenario, scenario.product(product), plan, chance)


def _counted(passed: Passed, end: float) -> Counted:
    """A count as its readings tell it: from the first piece of a minute's feed to the last."""
    at, risen = [0.0], [0.0]
    for out in passed.outs:
        lasts = passed.standing.after(out.from_min, out.lasts_min)
        at += [max(out.from_min, at[-1]), max(lasts, at[-1])]
        risen += [risen[-1], float(out.total)]
    return Counted((*at, max(at[-1], end)), (*risen, risen[-1]))


def _as_it_went(
    scenario: Scenario, plan: LinePlan, counts: dict[str, Counted], stood: tuple[Stoppage, ...], end: float
) -> LinePlan:  # fmt: skip
    made = [scenario.product(run.product) for run in plan.runs]
    fed = {product.piece_steps[0].station: counts[product.piece_steps[0].station] for product in made}
    packed = {product.piece_steps[-1].station: counts[product.piece_steps[-1].station] for product in made}
    found = followed(scenario, plan, fed, packed, roots(scenario, plan.line, stood), end)
    return as_it_went(plan, found)


def _found(scenario: Scenario, plan: LinePlan, work: Worked, chance: Week) -> Iterator[Find]:
    """What people find on their walks: cores, weights, and that a station is set up."""
    for change in work.changes:
        yield Find(change.until_min, change.station, change.run, None, None, (), good=True, at_start=True)
    for run in plan.runs:
        product = scenario.dwelling(run.product, run.dwell_min)
        own = [passing for passing in passings(scenario, run) if passing.product.id == product.id]
        for passing in own:
            minute, since = passing.first_out, passing.first_out - own[0].first_out
            while minute < passing.last_out:
                yield from _found_at(scenario, product, passing.station, (minute, minute - since), chance)
                minute += PROBED_EVERY_MIN


def _found_at(
    scenario: Scenario, product: Product, station: str, when: tuple[float, float], chance: Week
) -> Iterator[Find]:  # fmt: skip
    """The same at a station at a moment, of pieces that were scaled at another."""
    minute, scaled = when
    own = product.listed_id
    cooler = next((step for step in product.piece_steps if isinstance(step, ConveyorStep) and step.cooling), None)
    baker = product.piece_steps[product.bake_place].station
    off = chance.off_g(product.line, product.scaling_g, scaled)
    weighed = [
        (product.scaling_g + off) * (1 + SPREAD_SHARE * chance.noise(minute, "weighed", number))
        for number in range(WEIGHED)
    ]
    listed = scenario.product(own)
    if station == product.piece_steps[0].station:
        yield Find(minute, station, None, own, "scaled weight", tuple(weighed), good=True)
    if station == baker:
        entering = listed.entering_g[listed.bake_place] + fmean(weighed) - listed.scaling_g
        baked = tuple(baked_g(chance, listed, entering, minute + number / 10) for number in range(WEIGHED))
        yield Find(minute, station, None, own, "baked weight", baked, good=True)
        if cooler:
            core = baked_core_c(chance, listed, cooler, minute)
            yield Find(minute, station, None, own, "core temperature", (core,), good=True)
    if cooler and station == cooler.station:
        air = scenario.during(minute).conditions.room_c
        core = cooled_core_c(chance, listed, _listed_step(listed, cooler), air, minute)
        yield Find(minute, station, None, own, "core temperature", (core,), good=True)


def _listed_step(product: Product, step: ConveyorStep) -> ConveyorStep:
    return next(own for own in product.piece_steps if isinstance(own, ConveyorStep) and own.station == step.station)


def _probed(scenario: Scenario, product: Product, plan: LinePlan, chance: Week) -> Iterator[Observed]:
    """Every dough probed, with water as the factor rule asks for it."""
    others = (FLOUR_C, ROOM_C)
    water = 3 * product.dough_temperature_c - sum(others) - product.mixing.friction_c
    doughs = [
        (batch.mixer, batch.discharged_min) for run in plan.runs if run.product == product.id for batch in run.batches
    ]
    for mixer in {mixer for mixer, _ in doughs}:
        yield from frictions(
            product.id,
            mixer,
            [
                (scenario.window.starts_at, _probe(chance, product, mixer, others, water, minute))
                for own, minute in doughs
                if own == mixer
            ],
        )


def _probe(
    chance: Week, product: Product, mixer: str, others: tuple[float, ...], water: float, minute: float
) -> ProbeReading:  # fmt: skip
    dough = dough_c(chance, product, mixer, others, water, minute)
    return ProbeReading(dough_c=dough, others_c=others, water_c=water)


def dough_c(
    chance: Week, product: Product, mixer: str, others_c: tuple[float, ...], water_c: float, minute: float
) -> float:  # fmt: skip
    """A dough when it is mixed: the mean of all that goes in, and of what friction adds, °C."""
    friction = chance.friction_c(product.id, mixer, product.mixing.friction_c)
    mixed = (sum(others_c) + water_c + friction) / (len(others_c) + 1)
    return mixed + DOUGH_C * chance.noise(minute, "dough", product.id, mixer)


def baked_core_c(chance: Week, product: Product, step: ConveyorStep, minute: float) -> float:
    """The core of a piece that leaves the oven or fryer before a cooler, °C."""
    assert step.cooling
    return step.cooling.from_c + CORE_C * chance.noise(minute, "baked core", product.id)


def cooled_core_c(chance: Week, product: Product, step: ConveyorStep, air_c: float, minute: float) -> float:
    """The core of a piece that leaves the cooler, °C."""
    known = step.cooling
    assert known
    said = log((known.from_c - known.air_c) / (known.to_c - known.air_c)) / known.minutes
    left = exp(-chance.cooling(product.id, said) * step.dwell_min)
    return air_c + (known.from_c - air_c) * left + CORE_C * chance.noise(minute, "cooled core", product.id)


def baked_g(chance: Week, product: Product, entering_g: float, minute: float) -> float:
    """A baked piece that was so heavy when it came to the oven, g."""
    baked = entering_g * (1 - chance.bake_loss(product.id, product.bake_loss))
    return baked * (1 + BAKED_SHARE * chance.noise(minute, "baked", product.id))


def built_in(scenario: Scenario, line: str, chance: Week, lesson: Lesson) -> float:
    """What is built into the plant of what a lesson is of."""
    if lesson.product is None:
        return _of_station(line, str(lesson.station), chance, lesson)
    product, said, station = scenario.product(lesson.product), lesson.said or 0.0, str(lesson.station)
    first = product.piece_steps[0]
    of_first = chance.good_share(first.station, product.id, float(first.yield_)) / float(first.yield_)
    return {
        "friction": chance.friction_c(product.id, str(lesson.mixer), said),
        "cooling": chance.cooling(product.id, said),
        "yield": chance.good_share(station, product.id, said),
        "bake loss": chance.bake_loss(product.id, said),
        "pace": said * chance.pace_of(product.id) * of_first,
    }[lesson.kind]


def _of_station(line: str, station: str, chance: Week, lesson: Lesson) -> float:
    return {
        "stops": LEAST_BETWEEN_MIN + chance.between_min(line, station),
        "stands": chance.stands_min(line, station),
        "tool change": chance.change_of(station, lesson.said or 0.0),
        "belt set": chance.change_of(station, lesson.said or 0.0),
    }[lesson.kind]
