"""The independent check of a plan: from first principles, sharing no code with what made it.

It walks the first and the last piece of every run down its route and looks at every station, mixer,
dough and lorry: nothing may overlap, overfill, age out, be late unannounced, or be lost.
"""

from collections.abc import Iterator
from itertools import combinations, pairwise

from rundgang.core.model import Model
from rundgang.core.planning.plan import Batch, Plan, Run
from rundgang.core.plant import AnyStation, BenchStation, ChamberStation, ConveyorStation, RateStation
from rundgang.core.products import BenchStep, ChamberStep, ConveyorStep, PieceStep, Product, RateStep
from rundgang.core.scenario import Scenario

SLACK_MIN = 1e-3
"""Differences below this, 60 ms, come from rounding in a stored plan, min."""

SLACK_SHARE = 1e-6
"""Relative slack on rates and weights."""


class Violation(Model):
    """One broken rule.

    Attributes
    ----------
    run, station : str
        Where; the station may be a mixer, the divider, a lorry, or empty for the run as a whole.
    minutes : float
        By how much, min; 0 where the fault is not one of time.
    """

    run: str
    station: str
    minutes: float
    text: str

    def __str__(self) -> str:
        where = f"{self.run} at {self.station}" if self.station else self.run
        return f"{where}: {self.text}" + (f" ({self.minutes:.1f} min)" if self.minutes else "")


class Passage(Model):
    """When a run's first and last piece enter and leave a station, min."""

    first_in: float
    last_in: float
    first_out: float
    last_out: float


def check(scenario: Scenario, plan: Plan) -> tuple[Violation, ...]:
    """Every rule the plan breaks; empty when it is legal."""
    unknown = tuple(_unknown(scenario, plan))
    if unknown:
        return unknown
    return (
        *(violation for run in plan.runs for violation in _run_faults(scenario, run)),
        *_mixer_faults(scenario, plan),
        *_station_faults(scenario, plan),
        *_filling_faults(scenario, plan),
        *_lorry_faults(scenario, plan),
        *_score_faults(scenario, plan),
    )


def _unknown(scenario: Scenario, plan: Plan) -> Iterator[Violation]:
    lines = {line.id: line for line in scenario.plant.lines}
    products = {product.id: product for product in scenario.products}
    if plan.line not in lines:
        yield _fault("plan", "", f"is for line {plan.line}, which the plant does not have")
        return
    mixers = lines[plan.line].mixers.mixers
    seen: set[str] = set()
    for run in plan.runs:
        if run.id in seen:
            yield _fault(run.id, "", "stands twice")
        seen.add(run.id)
        if run.product not in products or products[run.product].line != plan.line or run.line != plan.line:
            yield _fault(run.id, "", f"makes {run.product} on {run.line}, which this line does not make")
        for batch in run.batches:
            if batch.mixer not in mixers:
                yield _fault(run.id, batch.mixer, f"batch {batch.number} is in a mixer the line does not have")


def _fault(run: str, station: str, text: str, minutes: float = 0) -> Violation:
    return Violation(run=run, station=station, minutes=minutes, text=text)


def _run_faults(scenario: Scenario, run: Run) -> Iterator[Violation]:
    """A run by itself: its doughs, its pieces, its pace and its packs."""
    product = scenario.product(run.product)
    horizon = scenario.horizon.minutes
    if run.last_pack_min > horizon + SLACK_MIN:
        yield _fault(run.id, "", "gives its last pack after the horizon ends", run.last_pack_min - horizon)
    if sum(batch.pieces for batch in run.batches) != run.pieces:
        yield _fault(run.id, "", f"has {run.pieces} pieces, its batches {sum(b.pieces for b in run.batches)}")
    good = float(run.pieces)
    for step in product.piece_steps:
        good *= step.yield_
        if isinstance(step, (RateStep, BenchStep)):
            good *= step.makes / step.takes
    if not good - 1 < run.packs * (1 + SLACK_SHARE) or run.packs > good * (1 + SLACK_SHARE):
        yield _fault(run.id, "", f"promises {run.packs} packs, its pieces give {good:.1f}")
    fed = 60 * run.pieces / run.scaled_per_h
    if abs(fed - run.feed_min) > SLACK_MIN:
        yield _fault(run.id, "", "says another feeding time than its pace gives", abs(fed - run.feed_min))
    yield from _dough_faults(scenario, run, product)
    yield from _pace_faults(scenario, run, product)
    out = list(_walk(scenario, run, product).values())[-1]
    for what, said, walked in (
        ("first", run.first_pack_min, out.first_out),
        ("last", run.last_pack_min, out.last_out),
    ):
        if abs(said - walked) > SLACK_MIN:
            yield _fault(run.id, "", f"says another time for its {what} pack", abs(said - walked))


def _dough_faults(scenario: Scenario, run: Run, product: Product) -> Iterator[Violation]:
    step = product.mixing
    station = scenario.line(product.line).mixers
    mixing = sum(phase.minutes for phase in step.phases) + step.charge_min + step.discharge_min
    wanted_at = run.start_min
    for batch in run.batches:
        here = f"batch {batch.number}"
        kg = batch.dough_g / 1000
        baked_kg = batch.pieces * product.baked_g / 1000
        if kg * (1 - product.bake_loss) * (1 + SLACK_SHARE) < baked_kg:
            yield _fault(run.id, batch.mixer, f"{here} has {kg:.2f} kg of dough, too little for its pieces")
        least, most = station.min_fill_kg, station.max_fill_kg
        if not least * (1 - SLACK_SHARE) <= kg <= most * (1 + SLACK_SHARE) + 0.001:
            yield _fault(run.id, batch.mixer, f"{here} is {kg:.1f} kg; allowed {least:g} to {most:g}")
        if batch.start_min < -SLACK_MIN:
            yield _fault(run.id, batch.mixer, f"{here} starts before the horizon", -batch.start_min)
        for text, excess in (
            ("is not mixed for its time", abs(batch.start_min + mixing - batch.discharged_min)),
            ("does not follow the batch before it at the divider", abs(batch.divided_min - wanted_at)),
            ("is divided before it has rested", batch.discharged_min + step.rest_min - batch.divided_min),
            ("is too old at its last piece", batch.last_piece_min - batch.discharged_min - step.max_age_min),
            (
                "is not divided at the run's pace",
                abs(batch.last_piece_min - batch.divided_min - 60 * batch.pieces / run.scaled_per_h),
            ),
        ):
            if excess > SLACK_MIN:
                yield _fault(run.id, batch.mixer, f"{here} {text}", excess)
        wanted_at = batch.last_piece_min


def _pace_faults(scenario: Scenario, run: Run, product: Product) -> Iterator[Violation]:
    """The flow into each machine against its strokes, and into each bench against its people."""
    line = scenario.line(product.line)
    flow = run.scaled_per_h
    for step in product.piece_steps:
        station = line.station(step.station)
        if isinstance(step, RateStep) and isinstance(station, RateStation):
            strokes = 60 * step.strokes_per_min * station.lanes * station.machines * station.efficiency
            if flow / step.takes > strokes * (1 + SLACK_SHARE):
                yield _fault(run.id, station.name, f"gets {flow:.0f} pieces/h, can take {strokes * step.takes:.0f}")
            flow *= step.makes / step.takes
        elif isinstance(step, BenchStep) and isinstance(station, BenchStation):
            hands = 60 * station.people * step.pieces_per_person_min
            if flow > hands * (1 + SLACK_SHARE):
                yield _fault(run.id, station.name, f"gets {flow:.0f} pieces/h, its people take {hands:.0f}")
            flow *= step.makes / step.takes
        flow *= step.yield_


def _walk(scenario: Scenario, run: Run, product: Product) -> dict[str, Passage]:
    """The first and the last piece of a run, followed down the line."""
    line = scenario.line(product.line)
    first, last = run.start_min, run.start_min + run.feed_min
    passages = {}
    for step in product.piece_steps:
        station = line.station(step.station)
        inside = step.dwell_min if isinstance(step, (ConveyorStep, ChamberStep)) else getattr(station, "pass_min", 0.0)
        passages[step.station] = Passage(first_in=first, last_in=last, first_out=first + inside, last_out=last + inside)
        first, last = first + inside + station.transfer_min, last + inside + station.transfer_min
    return passages


def _mixer_faults(scenario: Scenario, plan: Plan) -> Iterator[Violation]:
    station = scenario.line(plan.line).mixers
    slots: dict[str, list[tuple[Batch, Run]]] = {name: [] for name in station.mixers}
    for run in plan.runs:
        for batch in run.batches:
            slots[batch.mixer].append((batch, run))
    for mixer, used in slots.items():
        used.sort(key=lambda slot: slot[0].start_min)
        for (before, run), (after, then) in pairwise(used):
            needed = _soil_min(scenario, station, scenario.product(run.product), scenario.product(then.product))
            missing = before.discharged_min + needed - after.start_min
            if missing > SLACK_MIN:
                why = "has not been cleaned" if needed else "is still in use"
                yield _fault(then.id, mixer, f"batch {after.number}: the mixer {why} after {run.id}", missing)


def _soil_min(scenario: Scenario, station: AnyStation, dirty: Product, next_: Product) -> float:
    """Cleaning that one product makes necessary before another at a station, min."""

    def allergens(product: Product) -> set[str]:
        used = {line.ingredient for line in product.formula}
        return {a for item in scenario.plant.ingredients if item.id in used for a in item.allergens}

    if allergens(dirty) - allergens(next_) and station.changeover.allergen_clean_min:
        return station.changeover.allergen_clean_min
    return station.changeover.trait_clean_min if dirty.traits - next_.traits else 0.0


def _station_faults(scenario: Scenario, plan: Plan) -> Iterator[Violation]:
    """Every two runs at every station they share."""
    line = scenario.line(plan.line)
    walks = {run.id: _walk(scenario, run, scenario.product(run.product)) for run in plan.runs}
    for one, other in combinations(plan.runs, 2):
        for station_id in walks[one.id].keys() & walks[other.id].keys():
            r, s = sorted((one, other), key=lambda run: walks[run.id][station_id].first_in)
            station = line.station(station_id)
            ahead, behind = walks[r.id][station_id], walks[s.id][station_id]
            empty_for = _empty_for(scenario, station, scenario.product(r.product), scenario.product(s.product))
            free_at = ahead.last_in + station.changeover.separation_min
            if empty_for is not None:
                separated = max(empty_for, station.changeover.separation_min)
                free_at = ahead.last_out + separated
            missing = free_at - behind.first_in
            if missing > SLACK_MIN:
                why = "before it is empty and ready" if empty_for is not None else "while it still takes pieces"
                yield _fault(s.id, station.name, f"enters {why} after {r.id}", missing)


def _empty_for(scenario: Scenario, station: AnyStation, r: Product, s: Product) -> float | None:
    """How long a station must stand empty between two products, min; None where it need not."""

    def at_station(product: Product) -> PieceStep:
        return next(step for step in product.piece_steps if step.station == station.id)

    before, after = at_station(r), at_station(s)
    soil = _soil_min(scenario, station, r, s)
    if isinstance(before, RateStep) and isinstance(after, RateStep):
        mount = station.changeover.tool_change_min if after.tool and after.tool != before.tool else 0.0
        return mount + soil if mount + soil else None
    if isinstance(before, BenchStep):
        return soil or None
    if isinstance(station, ChamberStation):
        assert isinstance(before, ChamberStep) and isinstance(after, ChamberStep)  # noqa: S101, PT018
        other_air = (before.temperature_c, before.humidity_pct) != (after.temperature_c, after.humidity_pct)
        return station.setup_min + soil if other_air else soil or None
    assert isinstance(before, ConveyorStep) and isinstance(after, ConveyorStep)  # noqa: S101, PT018
    assert isinstance(station, ConveyorStation)  # noqa: S101
    same_belt = before.dwell_min == after.dwell_min
    same_air = (before.temperature_c, before.humidity_pct) == (after.temperature_c, after.humidity_pct)
    if same_belt and same_air:
        return soil or None
    ramp = 0.0
    if before.temperature_c is not None and after.temperature_c is not None:
        rise = after.temperature_c - before.temperature_c
        up, down = station.heating_c_per_min, station.cooling_c_per_min
        ramp = rise / up if rise > 0 and up else -rise / down if rise < 0 and down else 0.0
    return max(ramp, station.setup_min) + soil


def _filling_faults(scenario: Scenario, plan: Plan) -> Iterator[Violation]:
    """How full every belt and room gets with all runs together, at each moment when something changes."""
    line = scenario.line(plan.line)
    for station in line.stations:
        if not isinstance(station, (ConveyorStation, ChamberStation)):
            continue
        room = station.places if isinstance(station, ConveyorStation) else station.racks * station.trays_per_rack
        filling = [found for run in plan.runs if (found := _filling(scenario, run, station.id))]
        moments = {moment for passage, _ in filling for moment in passage.model_dump().values()}
        for moment in sorted(moments):
            taken = sum(
                rate
                * (
                    _since(moment, passage.first_in, passage.last_in)
                    - _since(moment, passage.first_out, passage.last_out)
                )
                for passage, rate in filling
            )
            if taken > room * (1 + SLACK_SHARE) + 1:
                runs = ", ".join(
                    run.id for run in plan.runs if station.id in _walk(scenario, run, scenario.product(run.product))
                )
                yield _fault(runs, station.name, f"holds {taken:.0f} at minute {moment:.0f}, has {room} places")
                break


def _since(moment: float, begin: float, end: float) -> float:
    """Minutes of a stretch that have passed at a moment."""
    return min(max(moment - begin, 0.0), end - begin)


def _filling(scenario: Scenario, run: Run, station_id: str) -> tuple[Passage, float] | None:
    """A run's passage of a belt or room, and the places or trays it fills a minute; None where it skips it."""
    product = scenario.product(run.product)
    flow = run.scaled_per_h / 60
    for step in product.piece_steps:
        if step.station == station_id:
            if isinstance(step, ConveyorStep):
                flow /= step.pieces_per_place
            elif isinstance(step, ChamberStep):
                flow /= step.pieces_per_tray
            return _walk(scenario, run, product)[station_id], flow
        flow *= step.yield_ * (step.makes / step.takes if isinstance(step, (RateStep, BenchStep)) else 1.0)
    return None


def _lorry_faults(scenario: Scenario, plan: Plan) -> Iterator[Violation]:
    """Pack by pack: which lorry it is for, whether it makes it, and whether the plan said so."""
    announced = {(wave.wave, wave.product): wave for wave in plan.waves}
    for product in (p for p in scenario.products if p.line == plan.line):
        packs = sorted(
            run.first_pack_min + run.feed_min * number / run.packs
            for run in plan.runs
            if run.product == product.id
            for number in range(1, run.packs + 1)
        )
        for wave in sorted(scenario.waves, key=lambda wave: wave.departs_min):
            due = sum(o.packs for o in scenario.orders if (o.wave, o.product) == (wave.id, product.id))
            if not due:
                continue
            loaded, packs = packs[:due], packs[due:]
            late = [made for made in loaded if made > wave.departs_min + SLACK_MIN]
            hours = sum(made - wave.departs_min for made in late) / 60
            said = announced.get((wave.id, product.id))
            if len(loaded) < due:
                yield _fault("plan", wave.name, f"never makes {due - len(loaded)} packs of {product.name}")
            short = len(late) + due - len(loaded)
            if said is None or said.packs != due:
                yield _fault("plan", wave.name, f"leaves out {due} packs of {product.name}")
            elif abs(said.short - short) > 1 or abs(said.late_pack_hours - hours) > 0.01 + hours * 1e-4:
                yield _fault(
                    "plan",
                    wave.name,
                    f"announces {said.short} packs of {product.name} short, {said.late_pack_hours:.1f} pack hours "
                    f"late; it is {short} and {hours:.1f}",
                )


def _score_faults(scenario: Scenario, plan: Plan) -> Iterator[Violation]:
    ordered = sum(order.packs for order in scenario.orders if scenario.product(order.product).line == plan.line)
    made = sum(run.packs for run in plan.runs)
    if plan.score.surplus_packs != made - ordered:
        yield _fault("plan", "", f"says {plan.score.surplus_packs} packs of surplus, it is {made - ordered}")
    if plan.score.packs_short != sum(wave.short for wave in plan.waves):
        yield _fault("plan", "", "says another number of packs short than its waves add up to")
