"""What every batch takes in the dough room: of doughs, of what is prepared for them, and of fillings and toppings."""

from collections.abc import Sequence
from math import inf
from typing import NamedTuple

from rundgang.core.compiled import Records
from rundgang.core.kinds.held import HeldStation
from rundgang.core.planning.decode.arrays import FOR_A_TIME, FOR_THE_RUN, STREAM, UNTIL_USED
from rundgang.core.planning.decode.tables import ends_of, table
from rundgang.core.planning.legs import passages
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG


class Need(NamedTuple):
    """A unit of a station for a stretch of time.

    Attributes
    ----------
    before_min : float
        From the stretch's beginning to when the batch is begun to be used, min.
    length_min : float
        Of the stretch, min; of a tank, what follows the run's last use: its turn-round.
    how : int
        `FOR_A_TIME`; `UNTIL_USED`, a trough by the divider: at least until the batch is used up; or `FOR_THE_RUN`, a
        tank: from its first batch until the run has used its last.
    preparation : str or None
        What is in it; None where it is the product's own dough.
    """

    station: str
    before_min: float
    length_min: float
    how: int = FOR_A_TIME
    preparation: str | None = None


class Stream(NamedTuple):
    """Batches that follow each other for a run: its doughs, or one of its fillings.

    Attributes
    ----------
    leg, offset_min : int, float
        Where they are used: behind the start of that leg, min.
    needs : tuple of Need
        Of every batch; the first is the mixer or kettle.
    preparation : Preparation or None
        None for the doughs.
    kg_per_scaled, least_kg, most_kg, keeps_kg : float
        Of a filling: used for a piece scaled; in a batch at least and at most; what its tank holds; inf without one.
    age_span_min : float
        Of a filling: from when it may be used until it must be, min.
    """

    leg: int
    offset_min: float
    needs: tuple[Need, ...]
    preparation: Preparation | None = None
    kg_per_scaled: float = 0.0
    least_kg: float = 0.0
    most_kg: float = inf
    keeps_kg: float = inf
    age_span_min: float = inf

    @property
    def lead_min(self) -> float:
        """From the first thing begun for it to the start of its leg, min."""
        return max(need.before_min for need in self.needs) - self.offset_min


def streams_of(scenario: Scenario, product: Product) -> tuple[Stream, ...]:
    """The doughs of a product, then every filling that its steps, and those of what is cut out of it, put on pieces."""
    return (Stream(0, 0.0, _dough_needs(scenario, product)), *_fillings(scenario, product))


def stream_table(streams: Sequence[Sequence[Stream]], fillings: Sequence[str]) -> Records:
    """The streams of all products, one after the other, as the decoder takes them; fillings by their place."""
    flat = [stream for of_product in streams for stream in of_product]
    needs = ends_of([len(stream.needs) for stream in flat])
    return table(
        STREAM,
        leg=[stream.leg for stream in flat],
        first_need=needs[:-1],
        end_need=needs[1:],
        filling=[fillings.index(stream.preparation.id) if stream.preparation else -1 for stream in flat],
        offset=[stream.offset_min for stream in flat],
        ratio=[stream.kg_per_scaled for stream in flat],
        least=[stream.least_kg for stream in flat],
        most=[stream.most_kg for stream in flat],
        age_span=[stream.age_span_min for stream in flat],
        keeps=[stream.keeps_kg for stream in flat],
    )


def _dough_needs(scenario: Scenario, product: Product) -> tuple[Need, ...]:
    """What every dough takes; its mixer first, then its trough, then what is prepared for it."""
    line, mixing = scenario.line_of(product), product.mixing
    mixed = product.rest_min + mixing.cycle_min
    needs = [Need(mixing.station, mixed, mixing.cycle_min)]
    if product.trough:
        hold = product.trough.least_min
        turn = line.holder(product.trough.station).turn_round_min
        needs.append(Need(product.trough.station, hold, hold + turn, UNTIL_USED))
    for made, _ in scenario.preparations_in(product):
        cycle = made.mixing.cycle_min
        needs.append(Need(made.mixing.station, mixed + made.least_hold_min + cycle, cycle, FOR_A_TIME, made.id))
        if made.held:
            hold, turn = made.held.least_min, line.holder(made.held.station).turn_round_min
            needs.append(Need(made.held.station, mixed + hold, hold + turn, FOR_A_TIME, made.id))
    return tuple(needs)


def _fillings(scenario: Scenario, product: Product) -> tuple[Stream, ...]:
    """A stream for every preparation that a step adds."""
    found = []
    for stop, owner in passages(scenario, product):
        step = next(step for step in owner.piece_steps if step.station == stop.station)
        whole = scenario.whole(owner)
        entering = float(whole.taken_per_finished[whole.piece_steps.index(step)] / whole.taken_per_finished[0])
        for addition in step.adds:
            if scenario.is_preparation(addition.item):
                kg = entering / float(step.conversion) * addition.grams / GRAMS_PER_KG
                found.append(_filling(scenario, scenario.preparation(addition.item), stop.leg, stop.offset_min, kg))
    return tuple(found)


def _filling(scenario: Scenario, made: Preparation, leg: int, offset_min: float, kg: float) -> Stream:
    """The batches of a filling; without a tank the hopper of its station takes each as soon as it is mixed."""
    line = scenario.line(made.line)
    kettle, cycle, ripens = line.mixers(made.mixing.station), made.mixing.cycle_min, made.least_hold_min
    keeps, needs = inf, [Need(kettle.id, ripens + cycle, cycle, FOR_A_TIME, made.id)]
    if made.held:
        tank: HeldStation = line.holder(made.held.station)
        keeps = tank.capacity_kg or inf
        needs.append(Need(tank.id, ripens, tank.turn_round_min, FOR_THE_RUN, made.id))
    return Stream(
        leg=leg,
        offset_min=offset_min,
        needs=tuple(needs),
        preparation=made,
        kg_per_scaled=kg,
        least_kg=kettle.min_fill_kg,
        most_kg=min(kettle.max_fill_kg, keeps),
        keeps_kg=keeps,
        age_span_min=made.most_hold_min - ripens,
    )
