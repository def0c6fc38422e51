"""Line balance: what every gate can carry, which one is the narrowest, and what stands inside at a pace.

All gates are brought to one measure, *finished pieces an hour*: a gate's own capacity, divided by what it
must take in for one finished piece. Gates are the stations of the product's route, the mixers and troughs
of its preparations, and the carriers that go round. The line's pace is the least of them, and that gate is
the bottleneck (W. J. Hopp and M. L. Spearman, Factory Physics). What stands inside at a pace follows from
Little's law, pieces inside = flow x dwell (J. D. C. Little, Operations Research 9, 1961).
"""

from collections.abc import Iterator
from itertools import product as product_of

from rundgang.core.capacity import DoughBounds, dough_bounds, pieces_inside, pieces_of, transit_min, whole_machines
from rundgang.core.cautions import Caution, cautions_for
from rundgang.core.errors import OutOfRangeError
from rundgang.core.figure import Figure
from rundgang.core.flow import StepFlow, mass_flow
from rundgang.core.gate_figures import figures_of, mass_figures
from rundgang.core.gates import Counted, Gate, gates_of
from rundgang.core.kinds.parts import SetUpCheck
from rundgang.core.model import Model
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

MOST_PACE = 1_000_000


class Stage(Model):
    """One gate of a line, balanced for a product.

    Attributes
    ----------
    station : str
        The station, or the carrier.
    counted : {"pieces", "kg"}
        What is counted at its entry.
    taken_per_piece : float
        What comes in here for one finished piece.
    capacity_in_per_h : float
        Most it can take in at its own entry, an hour.
    capacity_per_h : float
        The same in finished pieces/h.
    utilisation : float
        Pace / capacity.
    dwell_min, time_is : float, str
        Time inside, min, and what it is called.
    inside : float
        Inside at the pace, of what is counted.
    machines, machines_needed : int
        There are, and are needed for the pace; a belt or a room counts as one.
    machines_are : str
        What is counted: mixers, machines, belts, rooms, troughs or people.
    adjustable, settable, has_calculator : bool
        Whether one can ask for one more of them, or for another time inside; whether a calculator knows more.
    belt_m_per_min : float or None
        Belt speed, where there is a belt.
    arithmetic : str
        The capacity's equation with its figures.
    figures : tuple of Figure
        What else there is to know of it at the pace: its mass balance, oven loading and heat, oil, cooling.
    set_up : tuple of SetUpCheck
        What is looked at before a run begins there.
    """

    station: str
    name: str
    kind: str
    counted: Counted
    taken_per_piece: float
    capacity_in_per_h: float
    capacity_per_h: float
    utilisation: float
    dwell_min: float
    time_is: str
    inside: float
    machines: int
    machines_needed: int
    machines_are: str
    adjustable: bool
    settable: bool
    has_calculator: bool
    belt_m_per_min: float | None
    arithmetic: str
    figures: tuple[Figure, ...] = ()
    set_up: tuple[SetUpCheck, ...] = ()
    cautions: tuple[Caution, ...] = ()


class Lift(Model):
    """What one change at a gate would do for the pace, and which gate is the narrowest then."""

    station: str
    change: str
    pace_per_h: float
    then_station: str


class LineBalance(Model):
    """A line balanced for one product.

    Attributes
    ----------
    most_per_h : float
        The most the line can carry, finished pieces/h.
    least_per_h : float
        The slowest pace at which the smallest dough is still divided in time, finished pieces/h.
    pace_per_h : float
        The pace all stages are shown at, finished pieces/h.
    bottleneck : str
        Station that sets `most_per_h`.
    batch_kg : float
        The largest dough.
    batch_because : str
        What keeps it from being larger.
    batch_pieces : int
        Pieces scaled from one batch.
    batch_interval_min : float
        Minutes from one dough to the next at the pace.
    flour_to_pack_min, flour_to_last_pack_min : float
        From charging a dough to the pack of its first and of its last piece, min.
    rework_kg_per_h : float
        Dough that goes back at the pace, kg/h.
    working : tuple of str
        How the figures of the line as a whole were calculated, with today's figures in the equations.
    """

    line: str
    product: str
    most_per_h: float
    least_per_h: float
    pace_per_h: float
    packs_per_h: float
    bottleneck: str
    stages: tuple[Stage, ...]
    batch_kg: float
    batch_because: str
    batch_pieces: int
    batch_interval_min: float
    mixers_needed: int
    flour_to_pack_min: float
    flour_to_last_pack_min: float
    rework_kg_per_h: float
    working: tuple[str, ...]
    lifts: tuple[Lift, ...]


def balance(scenario: Scenario, product_id: str, pace_per_h: float | None = None) -> LineBalance:
    """Balance a line for a product.

    Parameters
    ----------
    scenario : Scenario
        The plant and its products.
    product_id : str
        Whose route is balanced.
    pace_per_h : float, optional
        Pace to show the stages at, finished pieces/h; by default the product's target, as far as the
        line can carry it. A pace above what the line carries is answered too: the stages then say how
        many machines it would need.

    Raises
    ------
    UnknownItemError
        No such product.
    OutOfRangeError
        The pace is not above 0 and at most 1,000,000 pieces/h.
    InfeasibleError
        No dough of even one piece can be mixed, held and divided in time.
    """
    product = scenario.whole(scenario.product(product_id))
    line = scenario.line_of(product)
    if pace_per_h is not None and not 0 < pace_per_h <= MOST_PACE:
        raise OutOfRangeError("The pace", f"{pace_per_h:g} pieces/h", f"above 0, at most {MOST_PACE:,}")
    bounds = dough_bounds(scenario, product)
    batch_pieces = pieces_of(product, bounds.most.kg)
    gates = gates_of(scenario, line, product, batch_pieces)
    narrowest = min(gates, key=lambda gate: gate.finished)
    pace = pace_per_h if pace_per_h is not None else min(narrowest.finished, product.target_per_hour)
    scaled = float(product.taken_per_finished[0])
    flows = {flow.station: flow for flow in mass_flow(product, pace)}
    interval = MINUTES_PER_HOUR * batch_pieces / (pace * scaled)
    first_pack = flour_to_pack_min(scenario, product, pace * scaled)
    return LineBalance(
        line=line.id,
        product=product.id,
        most_per_h=narrowest.finished,
        least_per_h=_least_pace(product, bounds, scaled),
        pace_per_h=pace,
        packs_per_h=pace / product.pieces_per_pack,
        bottleneck=narrowest.station,
        stages=tuple(_stage(scenario, product, gate, pace, flows.get(gate.station)) for gate in gates),
        batch_kg=bounds.most.kg,
        batch_because=bounds.most.because,
        batch_pieces=batch_pieces,
        batch_interval_min=interval,
        mixers_needed=whole_machines(product.mixing.cycle_min, interval),
        flour_to_pack_min=first_pack,
        flour_to_last_pack_min=first_pack + interval,
        rework_kg_per_h=pace * scaled * product.reworked_g / GRAMS_PER_KG,
        working=tuple(_working(scenario, product, bounds, pace, interval)),
        lifts=_lifts(gates),
    )


def _working(scenario: Scenario, product: Product, bounds: DoughBounds, pace: float, interval: float) -> Iterator[str]:
    """The equations of the line's own figures."""
    pieces, scaled = pieces_of(product, bounds.most.kg), float(product.taken_per_finished[0])
    window = product.max_age_min - product.rest_min
    yield f"A dough: {bounds.most.kg:.1f} kg by {bounds.most.because} ÷ {product.scaling_g:.4g} g = {pieces:,} pieces"
    yield f"A dough every: 60 × {pieces:,} ÷ ({pace:,.0f} × {scaled:.4g} an hour) = {interval:.1f} min"
    yield f"Mixers needed: {product.mixing.cycle_min:g} min a cycle ÷ {interval:.1f} min, rounded up"
    least = _least_pace(product, bounds, scaled)
    yield (
        f"Slowest pace: 60 × {bounds.least.kg:.4g} kg by {bounds.least.because} ÷ {product.scaling_g:.4g} g ÷ "
        f"{window:g} min of age at the divider ÷ {scaled:.4g} = {least:,.0f} an hour"
    )
    transit = transit_min(scenario.line_of(product), product, pace * scaled)
    before = preparing_min(scenario, product)
    prepared = f"{before:g} min for what is prepared for it + " if before else ""
    yield (
        f"Flour to first pack: {prepared}{product.mixing.cycle_min:g} min to mix + {product.rest_min:g} min of rest + "
        f"{transit:.1f} min from the divider to the pack; the last of a dough comes {interval:.1f} min later"
    )
    if product.reworked_g:
        yield (
            f"Dough that comes back: {product.reworked_g:.3g} g for a piece × {pace:,.0f} × {scaled:.4g} an hour, "
            "rejects before the bake and cut-outs not sold"
        )


def preparing_min(scenario: Scenario, product: Product) -> float:
    """From weighing the first ingredient of what is prepared for a dough until the dough is charged, min."""
    made = (made for made, _ in scenario.preparations_in(product))
    return max((one.mixing.cycle_min + one.least_hold_min for one in made), default=0.0)


def flour_to_pack_min(scenario: Scenario, product: Product, scaled_per_h: float) -> float:
    """From the first ingredient weighed to the first pack, min: pre-ferment, mixing, rests, holds and dwells."""
    mixed = preparing_min(scenario, product) + product.mixing.cycle_min + product.rest_min
    return mixed + transit_min(scenario.line_of(product), product, scaled_per_h)


def _least_pace(product: Product, bounds: DoughBounds, scaled_per_finished: float) -> float:
    """Pace at which the smallest dough just passes the divider within its age, finished pieces/h."""
    window_h = (product.max_age_min - product.rest_min) / MINUTES_PER_HOUR
    return bounds.least.kg * GRAMS_PER_KG / product.scaling_g / window_h / scaled_per_finished


def _stage(scenario: Scenario, product: Product, gate: Gate, pace: float, masses: StepFlow | None) -> Stage:
    flow = pace * gate.taken
    stay = gate.dwell_min + MINUTES_PER_HOUR * gate.waits_for / flow
    figures = figures_of(scenario, product, gate.step, flow) if gate.step else ()
    return Stage(
        station=gate.station,
        name=gate.name,
        kind=gate.kind,
        counted=gate.counted,
        taken_per_piece=gate.taken,
        capacity_in_per_h=gate.capacity,
        capacity_per_h=gate.finished,
        utilisation=flow / gate.capacity,
        dwell_min=stay,
        time_is=gate.time_is,
        inside=pieces_inside(flow, stay),
        machines=gate.machines,
        machines_needed=whole_machines(flow, gate.capacity / gate.machines),
        machines_are=gate.machines_are,
        adjustable=gate.adjustable,
        settable=gate.settable and stay > 0,
        has_calculator=gate.has_calculator,
        belt_m_per_min=gate.belt_m / gate.dwell_min if gate.belt_m else None,
        arithmetic=f"{gate.arithmetic} = {gate.capacity:,.0f} {gate.counted} an hour at its entry",
        figures=(*figures, *(mass_figures(masses) if masses else ())),
        set_up=gate.step.set_up if gate.step else (),
        cautions=cautions_for(gate.hazards),
    )


TENTH = 0.1
"""A belt is rarely doubled, and a cycle never halved; the question asked is what a tenth would give."""

NARROWEST_ASKED = 3


TIED = 1e-6
"""Gates whose capacities differ by no more than this share are equally narrow."""


def _lifts(gates: tuple[Gate, ...]) -> tuple[Lift, ...]:
    """What would lift the pace, and to what, best first.

    Where one gate is the narrowest, single changes at the three narrowest; where several tie, no change of one of
    them lifts anything: the sets of changes that do, one at each.
    """
    least = min(gate.finished for gate in gates)
    tied = [gate for gate in gates if gate.finished <= least * (1 + TIED)]
    if len(tied) > 1:
        return _lifts_together(gates, tied)
    lifts = []
    for gate in sorted(gates, key=lambda gate: gate.finished)[:NARROWEST_ASKED]:
        for change, factor in _changes(gate):
            paces = [(g.finished * (factor if g is gate else 1), g.station) for g in gates]
            pace, then = min(paces, key=lambda pair: pair[0])
            lifts.append(Lift(station=gate.station, change=change, pace_per_h=pace, then_station=then))
    return tuple(sorted(lifts, key=lambda lift: -lift.pace_per_h))


def _lifts_together(gates: tuple[Gate, ...], tied: list[Gate]) -> tuple[Lift, ...]:
    """Every set of one change at each of the equally narrow gates."""
    lifts = []
    for chosen in product_of(*(tuple(_changes(gate)) for gate in tied)):
        factors = {id(gate): factor for gate, (_, factor) in zip(tied, chosen, strict=True)}
        pace, then = min((g.finished * factors.get(id(g), 1.0), g.station) for g in gates)
        change = ", and ".join(words for words, _ in chosen)
        lifts.append(Lift(station=tied[0].station, change=change, pace_per_h=pace, then_station=then))
    return tuple(sorted(lifts, key=lambda lift: -lift.pace_per_h)[:NARROWEST_ASKED])


def _changes(gate: Gate) -> Iterator[tuple[str, float]]:
    """Changes that one could make at a gate, and what each multiplies its capacity by."""
    if not gate.adjustable:
        yield f"{gate.name} a tenth larger", 1 + TENTH
        return
    if gate.kind == "carriers":
        yield f"a tenth more of {gate.name}", 1 + TENTH
        return
    more = (gate.machines + 1) / gate.machines
    yield f"{gate.machines + 1} {gate.machines_are} at {gate.name} instead of {gate.machines}", more
    if gate.kind == "batch":
        yield f"a cycle one tenth shorter at {gate.name}", 1 / (1 - TENTH)
