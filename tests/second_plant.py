"""The second simulator: a plan let through a plant of events, each piece, dough and kettle by itself (SimPy).

It shares no code with the search, and none with the check: it knows the plant's data, the plan's times, and what a
machine does. Whatever cannot happen is written down. Times in minutes.
"""

from collections import Counter, deque
from collections.abc import Generator, Iterator, Sequence
from math import exp, inf, log
from typing import Any

import simpy

from rundgang.core.dough.proof import BAKERS, activity
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import PieceStep
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.load import LoadStep
from rundgang.core.kinds.parts import WearingTool
from rundgang.core.kinds.rate import RateStation, RateStep
from rundgang.core.kinds.ripening import Ripening
from rundgang.core.planning.model import Batch, FillingBatch, LinePlan, PreparationSlot, Run
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario

MOMENT = 2e-3
"""Two events this close are at once, min."""

Events = Generator[simpy.Event, Any, None]


class Place:
    """Where pieces pass: what is in it, and how it is set."""

    def __init__(self) -> None:
        self.inside = self.turning = 0
        self.last_run: Run | None = None
        self.last_product: Product | None = None
        self.last_step: PieceStep | None = None
        self.last_in = self.emptied = -inf
        self.served = self.shut = -inf


class Unit:
    """A mixer, a trough, a kettle or a tank: one batch at a time, cleaned between two."""

    def __init__(self, env: simpy.Environment) -> None:
        self.resource = simpy.Resource(env, capacity=1)
        self.soil: tuple[frozenset[str], frozenset[str]] | None = None
        self.free = -inf


class Worn:
    """A tool at work: strokes since it was renewed, or since when it has been in, and the runs that are at it."""

    def __init__(self, tool: WearingTool, used: float) -> None:
        self.tool, self.used = tool, used
        self.since = -used * 1_440 if tool.counted == "days" else 0.0
        self.began: dict[str, float] = {}
        self.inside: Counter[str] = Counter()
        self.came: Counter[str] = Counter()

    def now(self, minute: float) -> float:
        """How far it is worn at a moment, as it is counted."""
        if self.tool.counted == "days":
            return (minute - self.since) / 1_440
        at_work = sum(minute - begun for begun in self.began.values()) / 60
        return self.used + (at_work if self.tool.counted == "hours" else 0.0)

    def renew(self, minute: float) -> None:
        """A new one is in."""
        self.used, self.since = 0.0, minute


class SecondPlant:
    """One line's plan, run event by event; `faults` is what could not happen.

    Lines that share units or materials run in one environment, each beside the first.
    """

    def __init__(self, scenario: Scenario, plan: LinePlan, env: simpy.Environment, first: "SecondPlant | None") -> None:
        self.scenario, self.plan, self.line, self.env = scenario, plan, scenario.line(plan.line), env
        self.faults: Counter[str] = Counter()
        self.places = {station.id: Place() for station in self.line.stations}
        self.units: dict[tuple[str, str], Unit] = first.units if first else {}
        self.packs: dict[str, list[float]] = {}
        self.given: Counter[tuple[str, str]] = Counter()
        self.ended: dict[tuple[str, str], list[float]] = {}
        self.loads: dict[tuple[str, str], list[float]] = {}
        self.riding: Counter[str] = Counter()
        self.waiting: Counter[tuple[str, str]] = Counter()
        self.good: dict[tuple[str, str], float] = {}
        self.fed: Counter[tuple[str, str]] = Counter()
        self.tanks: dict[tuple[str, str], deque[list[float]]] = {}
        self.short_g: dict[tuple[str, str], float] = {}
        self.worn = {
            (station.id, tool.id): Worn(tool, scenario.opening.used(plan.line, station.id, tool.id))
            for station in self.line.stations
            for tool in station.tools
        }
        self.taken: Counter[str] = first.taken if first else Counter()
        self.rests: dict[str, Batch] = {}

    def begin(self) -> None:
        """Let everything of the plan happen at its time."""
        now, begun = self.scenario.opening.now_min, self.scenario.opening.begun_on(self.plan.line)
        for fact in begun:
            if not any(_is_fact(run, fact) for run in self.plan.runs):
                self.fault(fact, "has begun and is not as it was")
        self._rests()
        for run in self.plan.runs:
            if run.first_mixed_min < now - MOMENT and not any(_is_fact(run, fact) for fact in begun):
                self.fault(run, "begins before now")
            for batch in run.batches:
                self.env.process(self._dough(run, batch))
                for slot in () if batch.shared else batch.preparations:
                    self.env.process(self._slot(run, batch, slot))
            for filling in run.fillings:
                self.env.process(self._goes_on(run, filling) if filling.kept else self._kettle(run, filling))
            self._tank_units(run)
        self._renewals()

    def end(self) -> Counter[str]:
        """Count what came of it, and say what could not happen."""
        for run in self.plan.runs:
            self._count(run)
        self._lorries()
        return self.faults

    def fault(self, run: Run | None, what: str) -> None:
        """Write down what cannot be."""
        self.faults[f"{run.id if run else 'plan'} {what}"] += 1

    def _rests(self) -> None:
        """Whoever takes the rest of a dough finds it: one that is mixed there and then, the same, and for it alone."""
        for run in self.plan.runs:
            for number, batch in enumerate(run.batches):
                if not batch.shared:
                    continue
                found = [
                    (other, whole)
                    for other in self.plan.runs
                    for whole in other.batches
                    if not whole.shared
                    and whole.mixer == batch.mixer
                    and abs(whole.start_min - batch.start_min) < MOMENT
                ]
                if number or len(found) != 1 or found[0][1].trough != batch.trough:
                    self.fault(run, "takes the rest of a dough that is not there")
                    continue
                other, whole = found[0]
                if abs(whole.discharged_min - batch.discharged_min) > MOMENT:
                    self.fault(run, "takes the rest of a dough of another moment")
                of, made = self.scenario.product(other.product), self.scenario.product(run.product)
                if (of.formula, of.mixing, of.trough) != (made.formula, made.mixing, made.trough):
                    self.fault(run, "takes the rest of another dough")
                if other.id in self.rests:
                    self.fault(run, "takes the rest of a dough that another has")
                self.rests[other.id] = batch

    def _renewals(self) -> None:
        """Tools are renewed by the plan and in closings."""
        for one in self.plan.renewals:
            known = [
                worn for (station, _), worn in self.worn.items() if (station, worn.tool.name) == (one.station, one.tool)
            ]
            for worn in known:
                if one.to_min - one.from_min < worn.tool.renew_min - MOMENT:
                    self.fault(None, "renews a tool in too short a time")
                self.env.process(self._renews(one.station, worn, one.from_min, one.to_min))
        for block in self.scenario.blocks:
            if block.renews is not None and block.line == self.line.id:
                worn = self.worn[block.station, block.renews]
                self.env.process(self._renews(block.station, worn, block.to_min, block.to_min))

    def _renews(self, station: str, worn: Worn, begin: float, end: float) -> Events:
        """A station stands while its tool is renewed; who is inside, or comes meanwhile, is in the way."""
        yield self._until(begin + MOMENT / 2)
        if end > begin and self.places[station].inside:
            self.fault(None, f"renews a tool of {station} with pieces inside")
        self.places[station].shut = max(self.places[station].shut, end)
        yield self._until(end - MOMENT / 2)
        worn.renew(end)

    def _wears(self, run: Run, step: PieceStep, station: Any) -> None:
        """A piece comes to the tools of a station."""
        for tool in station.tools:
            if tool.fits is not None and getattr(step, "tool", None) != tool.fits:
                continue
            worn = self.worn[station.id, tool.id]
            worn.began.setdefault(run.id, self.env.now)
            worn.inside[run.id] += 1
            worn.came[run.id] += 1
            if tool.counted == "strokes":
                worn.used += 1 / (station.machines * station.lanes * station.efficiency * step.takes)  # type: ignore[union-attr]
            slack = 1.5 if tool.counted == "strokes" else 1e-4
            if worn.now(self.env.now + getattr(step, "dwell_min", 0.0)) > tool.life + slack:
                self.fault(run, f"works with a worn tool at {station.id}")

    def _goes_from(self, run: Run, station: Any, apart: float) -> None:
        """A piece has left the tools of a station; the last one ends the run's work there."""
        for tool in station.tools:
            worn = self.worn[station.id, tool.id]
            worn.inside[run.id] -= 1
            if worn.inside[run.id] == 0 and run.id in worn.began:
                self.env.process(self._ends_work(run, worn, self.env.now, apart))

    def _ends_work(self, run: Run, worn: Worn, left: float, apart: float) -> Events:
        """It was the last one if no other comes for a while."""
        came = worn.came[run.id]
        yield self.env.timeout(4 * apart)
        if worn.inside[run.id] == 0 and worn.came[run.id] == came and run.id in worn.began:
            begun = worn.began.pop(run.id)
            worn.used += (left - begun) / 60 if worn.tool.counted == "hours" and worn.since <= begun + MOMENT else 0.0

    def _draws(self, run: Run, made: Product | Preparation, grams: float) -> None:
        """What binds is weighed for a batch: it must be there."""
        total = sum(line.percent for line in made.formula)
        for stock in self.scenario.stocks:
            share = sum(line.percent for line in made.formula if line.ingredient == stock.item) / total
            if not stock.binds or not share:
                continue
            self.taken[stock.item] += grams * share  # type: ignore[assignment]
            came = sum(come.amount for come in stock.deliveries if come.at_min <= self.env.now + MOMENT)
            if self.taken[stock.item] > (stock.on_hand + came) * 1000 + 2:
                self.fault(run, f"draws {stock.item} that is not there")

    def _until(self, minute: float) -> simpy.Timeout:
        return self.env.timeout(max(0.0, minute - self.env.now))

    def _soil_of(self, made: Product | Preparation) -> tuple[frozenset[str], frozenset[str]]:
        allergens = {item.id: item.allergens for item in self.scenario.plant.ingredients}
        formulas = {each.id: each.formula for each in self.scenario.preparations}
        used = [line.ingredient for line in made.formula]
        if isinstance(made, Product):
            parents = [p for p in self.scenario.products if any(_sells(step, made.id) for step in p.piece_steps)]
            used += [line.ingredient for parent in parents for line in parent.formula]
            used += [addition.item for step in made.piece_steps for addition in step.adds]
        used += [line.ingredient for name in used if name in formulas for line in formulas[name]]
        found = frozenset[str]().union(*(allergens.get(name, frozenset()) for name in used))
        return found, made.traits if isinstance(made, Product) else frozenset()

    def _cleaning(self, station_id: str, left: Any, comes: Any) -> float:
        change = self.line.station(station_id).changeover
        if change.allergen_clean_min and left[0] - comes[0]:
            return change.allergen_clean_min
        return change.trait_clean_min if left[1] - comes[1] else 0.0

    def _holds(self, run: Run, station_id: str, name: str, soil: Any, begin: float, end: float) -> Events:
        """A unit taken from one moment to another: free then, and clean."""
        station = self.line.station(station_id)
        if name not in station.units:  # type: ignore[union-attr]
            self.fault(run, f"has no {name}")
            return
        for block in self.scenario.blocks:
            if (
                self._shares(block.line, block.station, station_id)
                and block.from_min + MOMENT < end
                and begin + MOMENT < block.to_min
            ):
                self.fault(run, f"uses {name} while it is closed")
        unit = self.units.setdefault((self._pool(station_id), name), Unit(self.env))
        yield self._until(begin + MOMENT / 2)
        with unit.resource.request() as taken:
            if unit.resource.count > 0 and not taken.triggered:
                self.fault(run, f"finds {name} in use")
            yield taken
            if unit.soil and self.env.now - unit.free < self._cleaning(station_id, unit.soil, soil) - MOMENT:
                self.fault(run, f"finds {name} unclean")
            yield self._until(end - MOMENT / 2)
        unit.soil, unit.free = soil, end

    def _pool(self, station_id: str) -> str:
        """What a station's units are counted as: several lines may share them."""
        for shared in self.scenario.plant.shared:
            if any((at.line, at.station) == (self.line.id, station_id) for at in shared.stations):
                return shared.id
        return f"{self.line.id} {station_id}"

    def _shares(self, line_id: str, station_id: str, own: str) -> bool:
        """Whether a station of some line is, or is shared as, one of this line's."""
        if line_id == self.line.id:
            return station_id == own
        for shared in self.scenario.plant.shared:
            known = [(at.line, at.station) for at in shared.stations]
            if (line_id, station_id) in known and (self.line.id, own) in known:
                return True
        return False

    def _fill(self, run: Run, station_id: str, grams: float) -> None:
        station = self.line.mixers(station_id)
        if not station.min_fill_kg * 999.9 - 1 <= grams <= station.max_fill_kg * 1000.1 + 1:
            self.fault(run, f"has {grams / 1000:.1f} kg in {station.id}")

    def _dough(self, run: Run, batch: Batch) -> Events:
        """A dough: mixed, rested, held, and divided piece by piece."""
        product, soil = self.scenario.product(run.product), self._soil_of(self.scenario.product(run.product))
        step = product.mixing
        rest = self.rests.get(run.id) if batch is run.batches[-1] and not batch.shared else None
        if not batch.shared:
            self._fill(run, step.station, batch.dough_g + (rest.dough_g if rest else 0))
        if batch.discharged_min - batch.start_min < step.charge_min + step.mix_min + step.discharge_min - MOMENT:
            self.fault(run, "mixes a dough too short")
        needed = batch.pieces * product.scaling_g
        if batch.dough_g < needed * 0.9999 - 1:
            self.fault(run, "has too little dough")
        held = product.trough
        least = step.rest_min + (held.least_min if held else 0)
        most = min(step.max_age_min, step.rest_min + held.most_min if held else inf)
        if batch.divided_min - batch.discharged_min < least - MOMENT:
            self.fault(run, "divides a dough too young")
        if not batch.shared:
            self.env.process(self._holds(run, step.station, batch.mixer, soil, batch.start_min, batch.discharged_min))
        if held and held.ripens:
            self._ripe(run, product, held.ripens, batch)
        if held and not batch.shared:
            into = batch.discharged_min + step.rest_min
            away = max(batch.last_piece_min, batch.divided_min + self.line.holder(held.station).turn_round_min)
            away = max(away, rest.last_piece_min) if rest else away
            self.env.process(self._holds(run, held.station, batch.trough or "?", soil, into, away))
        yield self._until(batch.start_min)
        self._draws(run, product, batch.dough_g)
        apart = (batch.last_piece_min - batch.divided_min) / batch.pieces
        for number in range(batch.pieces):
            yield self._until(batch.divided_min + number * apart)
            if self.env.now + apart - batch.discharged_min > most + MOMENT:
                self.fault(run, "divides a dough too old")
            self.env.process(self._piece(run, product, apart))

    def _ripe(self, run: Run, product: Product, ripens: Ripening, batch: Batch) -> None:
        """What its yeast has done when the first and the last piece of a dough are divided, second by second."""
        into = batch.discharged_min + product.mixing.rest_min
        core, done, minute = product.dough_temperature_c, 0.0, 0.0
        until = batch.last_piece_min - into
        while minute < until:
            each = min(0.25, until - minute)
            middle = ripens.air_c + (core - ripens.air_c) * exp(-ripens.k_per_min * (minute + each / 2))
            if minute <= batch.divided_min - into < minute + each:
                young = done + (batch.divided_min - into - minute) * activity(BAKERS, middle)
                if young < ripens.least_done_min - 0.05:
                    self.fault(run, "divides a dough that has not ripened")
            done += each * activity(BAKERS, middle)
            minute += each
        if ripens.most_done_min is not None and done > ripens.most_done_min + 0.05:
            self.fault(run, "divides an over-ripe dough")

    def _slot(self, run: Run, batch: Batch, slot: PreparationSlot) -> Events:
        """A preparation: mixed, held, and used in its dough."""
        made = self.scenario.preparation(slot.preparation)
        rest = self.rests.get(run.id) if batch is run.batches[-1] and not batch.shared else None
        more = [s.grams for s in rest.preparations if s.preparation == slot.preparation] if rest else []
        self._fill(run, made.mixing.station, slot.grams + sum(more))
        kept = slot.used_min - slot.discharged_min
        most = min(made.mixing.max_age_min, made.mixing.rest_min + (made.held.most_min if made.held else inf))
        if not made.mixing.rest_min + (made.held.least_min if made.held else 0) - MOMENT <= kept <= most + MOMENT:
            self.fault(run, "uses a preparation too young or too old")
        if abs(slot.used_min - batch.start_min) > MOMENT:
            self.fault(run, "uses a preparation at another time than its dough is begun")
        yield self._until(slot.start_min)
        self._draws(run, made, slot.grams + sum(more))
        soil = self._soil_of(made)
        times = slot.start_min, slot.discharged_min
        yield from self._holds(run, made.mixing.station, slot.mixer, soil, *times)
        if made.held:
            into = slot.discharged_min + made.mixing.rest_min
            away = slot.used_min + self.line.holder(made.held.station).turn_round_min
            yield from self._holds(run, made.held.station, slot.position or "?", soil, into, away)

    def _kettle(self, run: Run, filling: FillingBatch) -> Events:
        """A batch of a filling: mixed in its kettle, then in its tank until it is used."""
        made = self.scenario.preparation(filling.preparation)
        self._fill(run, made.mixing.station, filling.grams)
        least = made.mixing.rest_min + (made.held.least_min if made.held else 0)
        most = min(made.mixing.max_age_min, made.mixing.rest_min + (made.held.most_min if made.held else inf))
        soil = self._soil_of(made)
        self.env.process(
            self._holds(run, made.mixing.station, filling.kettle, soil, filling.start_min, filling.emptied_min)
        )
        tank = self.tanks.setdefault((run.id, filling.preparation), deque())
        yield self._until(filling.start_min)
        self._draws(run, made, filling.grams)
        yield self._until(filling.emptied_min)
        level = sum(grams for _, _, grams in tank)
        room = self.line.holder(made.held.station).capacity_kg if made.held else None
        if room and level + filling.grams > room * 1000 * 1.001 + 20:
            self.fault(run, "overfills its tank")
        tank.append([filling.mixed_min + least, filling.mixed_min + most, float(filling.grams)])

    def _goes_on(self, run: Run, kept: FillingBatch) -> Events:
        """A run begins with what another has left in the tank: it must be there, and nobody else may draw on it."""
        yield self._until(kept.used_from_min - MOMENT)
        wanted = float(kept.grams)
        own = self.tanks.setdefault((run.id, kept.preparation), deque())
        for other in self.plan.runs:
            batches = [f for f in other.fillings if f.preparation == kept.preparation and not f.kept]
            if other is run or not batches or (batches[-1].kettle, batches[-1].tank) != (kept.kettle, kept.tank):
                continue
            if abs(batches[-1].start_min - kept.start_min) > MOMENT:
                continue
            for left in self.tanks.get((other.id, kept.preparation), ()):
                taken = min(wanted, left[2])
                left[2], wanted = left[2] - taken, wanted - taken
                own.appendleft([left[0], left[1], taken])
        if wanted > 3 + 0.001 * kept.grams:
            self.fault(run, "finds less of a filling than was left")
        elif own:
            own[0][2] += wanted
        if any(drawn > self.env.now + 2 * MOMENT for drawn in self._drawn_until(run, kept)):
            self.fault(run, "goes on with a tank that is still in use")

    def _drawn_until(self, run: Run, kept: FillingBatch) -> Iterator[float]:
        """Until when other runs that began with the tank before draw on it."""
        for other in self.plan.runs:
            of_tank = [f for f in other.fillings if f.tank == kept.tank and f.preparation == kept.preparation]
            if other is not run and of_tank and of_tank[0].used_from_min < kept.used_from_min:
                yield of_tank[-1].used_until_min

    def _left_until(self, last: FillingBatch, until: float) -> float:
        """Until when what a run leaves in its tank is drawn on by others, and what these leave again."""
        for run in self.plan.runs:
            own = [f for f in run.fillings if f.preparation == last.preparation]
            if own and own[0].kept and (own[0].kettle, own[0].start_min) == (last.kettle, last.start_min):
                until = max(until, own[-1].used_until_min)
                until = until if own[-1].kept else self._left_until(own[-1], until)
        return until

    def _tank_units(self, run: Run) -> None:
        """A run keeps its tank from its first batch until its last is used up and the tank is turned round."""
        for name in {filling.preparation for filling in run.fillings}:
            made, own = self.scenario.preparation(name), [f for f in run.fillings if f.preparation == name]
            if made.held and not own[0].kept:
                turn = self.line.holder(made.held.station).turn_round_min
                times = min(f.mixed_min for f in own), self._left_until(own[-1], own[-1].used_until_min) + turn
                tank = own[0].tank or "?"
                self.env.process(self._holds(run, made.held.station, tank, self._soil_of(made), *times))

    def _piece(self, run: Run, product: Product, apart: float) -> Events:
        """A piece on its way: at each step it goes in, stays, comes out, becomes part of another, or is rejected.

        What is cut out of it goes a way of its own.
        """
        leg, weight = 0, 1.0
        for step in product.piece_steps:
            station, own = self.line.piece_station(step.station), run.dwell_min.get(step.station)
            if own is not None:
                if own < getattr(step, "dwell_min", inf) - MOMENT:
                    self.fault(run, f"stays too short in {step.station}")
                step = step.model_copy(update={"dwell_min": own})  # noqa: PLW2901  (as the run makes it)
            self._goes_in(run, product, step, station, apart / weight)
            came = self.env.now
            if isinstance(step, LoadStep):
                leg += 1
                apart = run.legs[leg].feed_min / run.pieces
                yield from self._rides_in_a_load(run, product, step, station, leg, 2 * apart)
            elif isinstance(step, HeldStep):
                leg += 1
                apart = run.legs[leg].feed_min / run.pieces
                yield self._until(self._taken_out(run, product, step, leg, weight) - station.transfer_min)
                self._is_open(run, step.station, self.env.now, self.env.now)
                if not step.least_min - MOMENT <= self.env.now - came <= step.most_min + 0.02:
                    self.fault(run, "takes a piece out of the store too soon or too late")
            else:
                yield self.env.timeout(getattr(step, "dwell_min", getattr(station, "pass_min", 0.0)))
            self._comes_out(run, step, came, apart / weight)
            self._rides_no_more(product, step)
            key = run.id, step.station
            if isinstance(step, RateStep):
                self.waiting[key] += 1
                if self.waiting[key] < step.takes:
                    return
                self.waiting[key] = 0
                weight /= step.takes
                self._uses(run, step)
            if not self._is_good(key, step):
                return
            self._cuts(run, step, apart / weight, station.transfer_min)
            if station.transfer_min:
                yield self.env.timeout(station.transfer_min)
        self.packs.setdefault(product.id, []).append(self.env.now)
        self.ended.setdefault((run.id, product.id), []).append(self.env.now)
        self.given[run.id, product.id] += 1
        if self.env.now > self.scenario.window.minutes + MOMENT:
            self.fault(run, "ends after the window")

    def _is_good(self, key: tuple[str, str], step: PieceStep) -> bool:
        """Whether the next piece that comes out of a step is good: as many are as it yields."""
        self.good[key] = self.good.get(key, 0.0) + step.yield_
        if self.good[key] < 1 - 1e-9:
            return False
        self.good[key] -= 1
        return True

    def _cuts(self, run: Run, step: PieceStep, apart: float, carried: float) -> None:
        """What is cut out of a piece and sold begins its own way."""
        cut = getattr(step, "cut_out", None)
        if cut and cut.product:
            self.env.process(self._cut_piece(run, self.scenario.product(cut.product), apart, carried))

    def _cut_piece(self, run: Run, centre: Product, apart: float, carried: float) -> Events:
        yield self.env.timeout(carried)
        yield from self._piece(run, centre, apart)

    def _rides_in_a_load(
        self, run: Run, product: Product, step: LoadStep, station: Any, leg: int, slack: float
    ) -> Events:
        """A piece waits until its load is full, is in the chamber with it, and is taken out in its turn.

        As many loads are in at once as there are chambers; the last load of a run need not be full,
        and can then wait for a chamber. Where a piece is
        missing, the next one makes the load full a moment later.
        """
        size = station.racks * station.trays_per_rack * step.pieces_per_tray
        cycle = station.load_min + step.dwell_min + station.unload_min
        key = run.id, step.station
        number = self.fed[key]
        came = self.loads.setdefault(key, [])
        came.append(self.env.now)
        out = self._taken_out(run, product, step, leg, 1.0)
        yield self._until(out - station.transfer_min)
        last = min(int((number // size + 1) * size), len(came)) - 1
        if self.env.now < came[last] + cycle - slack - MOMENT:
            self.fault(run, f"leaves {step.station} before its load is done")
        if number % size == 0 and len(came) >= number + size:
            shut = [came[int((place + 1) * size) - 1] for place in range(int(number // size))]
            busy = [at for at in shut if at + cycle > came[last] + slack + MOMENT]
            if len(busy) >= station.chambers:
                self.fault(run, f"finds no chamber of {step.station} free")

    def _rides(self, run: Run, product: Product, step: PieceStep) -> None:
        """A piece takes its place on a carrier: there must be one."""
        for use in product.carriers:
            if use.first == step.station:
                carrier = next(each for each in self.line.carriers if each.id == use.carrier)
                self.riding[use.carrier] += 1
                if self.riding[use.carrier] > carrier.count * use.pieces * 1.001 + 2:
                    self.fault(run, f"finds no {carrier.name} free")

    def _rides_no_more(self, product: Product, step: PieceStep) -> None:
        for use in product.carriers:
            if use.last == step.station:
                self.env.process(self._returns(use.carrier))

    def _returns(self, name: str) -> Events:
        """A carrier comes back empty."""
        yield self.env.timeout(next(each for each in self.line.carriers if each.id == name).return_min)
        self.riding[name] -= 1

    def _taken_out(self, run: Run, product: Product, step: PieceStep, leg: int, weight: float) -> float:
        """When the next piece of a store is taken out: evenly over the leg behind it."""
        stations = [each.station for each in product.piece_steps]
        ahead = product.piece_steps[: stations.index(step.station)]
        comes = run.pieces * weight
        for before in ahead:
            comes *= before.yield_
        number = self.fed[run.id, step.station]
        self.fed[run.id, step.station] += 1
        here = run.legs[leg]
        return here.start_min + here.feed_min * min(number / comes, 1.0)

    def _is_open(self, run: Run, station_id: str, begin: float, end: float) -> None:
        """Nothing is at work in a station that is closed, and nothing goes into a store then, or comes out of it."""
        for block in self.scenario.blocks:
            meets = block.from_min + MOMENT < end and begin + MOMENT < block.to_min
            if meets and self._shares(block.line, block.station, station_id):
                self.fault(run, f"is in {station_id} while it is closed")

    def _goes_in(self, run: Run, product: Product, step: PieceStep, station: Any, apart: float) -> None:
        place, now = self.places[step.station], self.env.now
        stays = 0.0 if isinstance(step, HeldStep) else getattr(step, "dwell_min", 0.0)
        self._is_open(run, step.station, now, now + stays)
        if place.last_run is None:
            self._meets_before(run, product, step, station)
        if place.last_run is not None and place.last_run is not run:
            self._meets(run, product, step, station, place)
        if place.last_run is None and isinstance(station, ConveyorStation) and station.heating_c_per_min:
            self._heated(run, step, station)
        if isinstance(step, RateStep) and isinstance(station, RateStation):
            each = 1 / (step.strokes_per_min * station.lanes * station.machines * station.efficiency * step.takes)
            place.served = max(place.served, now) + each
            if place.served - now > 3 * each + 0.05:
                self.fault(run, f"is faster than {step.station}")
        if now < place.shut - MOMENT:
            self.fault(run, f"enters {step.station} while a tool is renewed")
        self._wears(run, step, station)
        self._rides(run, product, step)
        place.inside += 1
        room = self._room(step, station)
        if place.inside + place.turning > room * 1.0005 + 2:
            self.fault(run, f"overfills {step.station}")
        place.last_run, place.last_step, place.last_in = run, step, now + apart
        place.last_product = product

    def _room(self, step: PieceStep, station: Any) -> float:
        if isinstance(step, ConveyorStep):
            return float(station.places * step.pieces_per_place)
        if isinstance(step, HeldStep) and isinstance(station, HeldStation):
            return station.positions * (step.pieces_per_position or 1)
        return inf

    def _meets(self, run: Run, product: Product, step: PieceStep, station: Any, place: Place) -> None:
        """The first piece of a run behind another run's last: apart, and the station empty, clean and set anew."""
        before, last = place.last_step, place.last_product
        assert before is not None
        assert last is not None
        apart = station.changeover.separation_min
        left = self._soil_of(last)
        needed = self._cleaning(step.station, left, self._soil_of(product))
        anew = self._set_anew(before, step, station)
        now = self.env.now
        if anew is None and not needed:
            if now - place.last_in < apart - MOMENT:
                self.fault(run, f"enters {step.station} too close")
            return
        if place.inside > 0 or now - place.emptied < max((anew or 0.0) + needed, apart) - MOMENT:
            self.fault(run, f"enters {step.station} before it is ready")

    def _meets_before(self, run: Run, product: Product, step: PieceStep, station: Any) -> None:
        """The first piece at a station behind what was made there last before the window."""
        passed = [
            (last.left_min, made, before)
            for last in self.scenario.opening.last_on(self.line.id)
            for made in (self.scenario.product(last.product),)
            for before in made.piece_steps
            if before.station == step.station
        ]
        if not passed:
            return
        left, made, before = max(passed, key=lambda one: one[0])
        needed = self._cleaning(step.station, self._soil_of(made), self._soil_of(product))
        anew = self._set_anew(before, step, station)
        if anew is None and not needed:
            return
        if self.env.now - left < max((anew or 0.0) + needed, station.changeover.separation_min) - MOMENT:
            self.fault(run, f"enters {step.station} before it is ready for the first run")

    def _set_anew(self, before: PieceStep, step: PieceStep, station: Any) -> float | None:
        """How long the empty station takes to be set; None where nothing is to be set."""
        if isinstance(before, RateStep) and isinstance(step, RateStep):
            minutes = float(station.changeover.tool_change_min)
            return minutes if minutes and step.tool and step.tool != before.tool else None
        if isinstance(before, LoadStep) and isinstance(step, LoadStep):
            same = (before.temperature_c, before.humidity_pct) == (step.temperature_c, step.humidity_pct)
            return 0.0 if same else float(station.setup_min)
        if not isinstance(before, ConveyorStep) or not isinstance(step, ConveyorStep):
            return None
        was, becomes = self._zones(before, station), self._zones(step, station)
        if (before.dwell_min, before.humidity_pct, was) == (step.dwell_min, step.humidity_pct, becomes):
            return None
        return float(max(station.setup_min, self._ramp(station, was, becomes)))

    def _zones(self, step: ConveyorStep, station: ConveyorStation) -> list[float | None]:
        return list(step.zone_c) or [step.temperature_c] * max(1, len(station.zones))

    def _ramp(self, station: ConveyorStation, was: list[float | None], becomes: list[float | None]) -> float:
        """The slowest zone."""
        minutes = [0.0]
        for one, other in zip(was, becomes, strict=True):
            if one is not None and other is not None:
                rate = station.heating_c_per_min if other > one else station.cooling_c_per_min
                minutes.append(abs(other - one) / rate if rate else 0.0)
        return max(minutes)

    def _heated(self, run: Run, step: PieceStep, station: ConveyorStation) -> None:
        """The first run at an oven finds it hot; what has begun has found it so."""
        assert isinstance(step, ConveyorStep)
        if any(_is_fact(run, fact) for fact in self.scenario.opening.begun_on(self.plan.line)):
            return
        wanted = self._zones(step, station)
        on = [o for o in self.scenario.opening.heated if (o.line, o.station) == (self.line.id, station.id)]
        is_at: list[float | None] = [20.0 if (zone or 20) > 20 else zone for zone in wanted]
        if on:
            known = on[0].zone_c if len(on[0].zone_c) == len(wanted) else [on[0].temperature_c] * len(wanted)
            is_at = [*known]
        if self.env.now - self.scenario.opening.now_min < self._ramp(station, is_at, wanted) - MOMENT:
            self.fault(run, f"enters {station.id} while it is cold")

    def _comes_out(self, run: Run, step: PieceStep, came: float, apart: float) -> None:
        place, now = self.places[step.station], self.env.now
        place.inside -= 1
        station = self.line.station(step.station)
        self._goes_from(run, station, apart)
        turn = station.turn_round_min if isinstance(station, HeldStation) else 0.0
        place.emptied = now + apart if place.inside == 0 else inf
        if turn:
            place.turning += 1
            self.env.process(self._turned_round(place, turn))
        if isinstance(step, ConveyorStep) and step.cooling:
            self._cooled(run, step, came)

    def _turned_round(self, place: Place, minutes: float) -> Events:
        yield self.env.timeout(minutes)
        place.turning -= 1

    def _cooled(self, run: Run, step: ConveyorStep, came: float) -> None:
        """Newton's law through the hours that the piece was on the cooler."""
        known, conditions = step.cooling, self.scenario.conditions
        assert known is not None
        k = log((known.from_c - known.air_c) / (known.to_c - known.air_c)) / known.minutes
        core, now = known.from_c, came
        while now < self.env.now:
            hour = int(now // 60)
            until = min(self.env.now, 60.0 * (hour + 1))
            air = conditions.room_c
            if conditions.by_hour:
                read = conditions.by_hour[min(hour, len(conditions.by_hour) - 1)].room_c
                air = conditions.room_c if read is None else read
            if step.temperature_c is not None:
                air = step.temperature_c
            core, now = air + (core - air) * exp(-k * (until - now)), until
        if core > known.to_c + 0.02:
            self.fault(run, f"leaves {step.station} too warm")

    def _uses(self, run: Run, step: RateStep) -> None:
        """What goes on a piece comes from the tank: ripe, not too old, and enough of it."""
        for addition in step.adds:
            if not any(made.id == addition.item for made in self.scenario.preparations):
                continue
            key = run.id, addition.item
            tank, grams = self.tanks.setdefault(key, deque()), addition.grams * step.makes
            while grams > 1e-6 and tank:
                ripe, old, left = tank[0]
                if self.env.now < ripe - 0.1 or self.env.now > old + 0.1:
                    self.fault(run, "uses a filling too young or too old")
                taken = min(grams, left)
                grams, tank[0][2] = grams - taken, left - taken
                if tank[0][2] <= 1e-6:
                    tank.popleft()
            self.short_g[key] = self.short_g.get(key, 0.0) + grams
            if self.short_g[key] > 3 * addition.grams + 3:
                self.fault(run, "finds its tank empty")

    def _count(self, run: Run) -> None:
        """The packs that came of a run, against those it promises."""
        product = self.scenario.product(run.product)
        if sum(batch.pieces for batch in run.batches) != run.pieces:
            self.fault(run, "has other pieces than its doughs")
        self._count_cut(run)
        came, apart = self.ended.get((run.id, product.id), [inf]), run.feed_min / max(1, run.packs) + MOMENT
        apart += max(leg.feed_min for leg in run.legs) / max(1, run.packs)
        if not came[0] - 3 * apart <= run.first_pack_min <= came[0] + MOMENT:
            self.fault(run, "says another time for its first pack")
        if not came[-1] - MOMENT <= run.last_pack_min <= came[-1] + 3 * apart:
            self.fault(run, "says another time for its last pack")
        given = self.given[run.id, product.id]
        if abs(given - run.packs) > 1 + len(product.piece_steps):
            self.fault(run, f"promises {run.packs} packs and gives {given}")

    def _count_cut(self, run: Run) -> None:
        """The packs of what was cut out of a run, against those that the plan says."""
        for (of, name), given in self.given.items():
            if of != run.id or name == run.product:
                continue
            said = [cut for cut in self.plan.cut_runs if (cut.run, cut.product) == (of, name)]
            came = self.ended[of, name]
            if not said or abs(given - said[0].packs) > 3:
                self.fault(run, f"gives {given} packs of {name} and does not say so")
            elif abs(said[0].last_pack_min - came[-1]) > 6 * run.feed_min / max(1, given) + 0.5:
                self.fault(run, f"says another time for its packs of {name}")

    def _lorries(self) -> None:
        """What each lorry gets, pack by pack from the oldest, against what the plan says."""
        said = {(wave.product, wave.wave): wave for wave in self.plan.waves}
        ordered: Counter[tuple[str, str]] = Counter()
        asked: dict[tuple[str, str], float] = {}
        for order in self.scenario.orders:
            ordered[order.product, order.wave] += order.packs
            if order.fresh_for_h is not None:
                known = asked.get((order.product, order.wave), order.fresh_for_h)
                asked[order.product, order.wave] = min(known, order.fresh_for_h)
        for product in (made for made in self.scenario.products if made.line == self.line.id):
            packs = deque(sorted(self.packs.get(product.id, [])))
            own = [run for run in self.plan.runs if run.product == product.id]
            cuts = {cut.run for cut in self.plan.cut_runs if cut.product == product.id}
            own += [run for run in self.plan.runs if run.id in cuts]
            apart = max((run.legs[-1].feed_min / max(1, run.packs) for run in own), default=0.0)
            for wave in sorted(self.scenario.waves, key=lambda wave: wave.departs_min):
                due = ordered[product.id, wave.id]
                if not due:
                    continue
                stale = 0
                if product.fresh_for_h is not None:
                    while packs and packs[0] < wave.departs_min - 60 * product.fresh_for_h - 1e-6:
                        packs.popleft()
                        stale += 1
                youngest = asked.get((product.id, wave.id))
                passed = []
                while youngest is not None and packs and packs[0] < wave.departs_min - 60 * youngest - 1e-6:
                    passed.append(packs.popleft())
                loaded = list(self._load(packs, due))
                packs.extendleft(reversed(passed))
                by = wave.departs_min - wave.loading_min
                late = [made - by for made in loaded if made > by + MOMENT]
                never = due - len(loaded)
                hours = (sum(late) + never * max(0.0, self.scenario.window.minutes - by)) / 60
                there = said.get((product.id, wave.id))
                if there is None:
                    self.fault(None, f"says nothing of {product.id} for {wave.id}")
                    continue
                off = max(abs(there.short - len(late) - never), abs(there.never - never))
                slack = 0.5 + 10 * apart * len(late) / 60 + off * max(0.0, self.scenario.window.minutes - by) / 60
                if abs(there.stale - stale) > 3:
                    self.fault(None, f"throws away other packs of {product.id} before {wave.id}")
                if off > 2 or abs(there.late_pack_hours - hours) > slack:
                    self.fault(None, f"announces another shortage of {product.id} for {wave.id}")

    def _load(self, packs: deque[float], due: int) -> Iterator[float]:
        while packs and due:
            due -= 1
            yield packs.popleft()


def let_through(scenario: Scenario, plans: Sequence[LinePlan]) -> Counter[str]:
    """Let the plans of lines run together, and say what could not happen."""
    begins = [run.first_mixed_min for plan in plans for run in plan.runs]
    env = simpy.Environment(initial_time=min([0.0, *begins]) - 1)
    plants: list[SecondPlant] = []
    for plan in plans:
        plants.append(SecondPlant(scenario, plan, env, plants[0] if plants else None))
        plants[-1].begin()
    env.run()
    faults = Counter[str]()
    for plant in plants:
        faults += plant.end()
    return faults


def _sells(step: PieceStep, product: str) -> bool:
    """Whether a step cuts out what is sold as a product."""
    cut = getattr(step, "cut_out", None)
    return cut is not None and cut.product == product


def _is_fact(run: Run, fact: Run) -> bool:
    """Whether a run is one that has begun: the same doughs at the same times, and on its way as it was."""
    return (run.product, run.batches, run.legs) == (fact.product, fact.batches, fact.legs)
