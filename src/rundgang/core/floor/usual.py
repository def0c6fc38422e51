"""The trade's usual inspections, suggested for a plant's stations by what is done there.

Common practice, no published source; every figure is a beginning that a plant sets for itself.
"""

from collections.abc import Iterator, Sequence
from typing import NamedTuple
from zlib import crc32

from rundgang.core.floor.inspections import (
    Asks,
    AtChangeover,
    AtStart,
    Chosen,
    CountedPieces,
    Daily,
    EachBatch,
    Every,
    Inspection,
    Inspections,
    Measured,
    When,
)
from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import PieceStep, Station
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.parts import DwellStep, bakes
from rundgang.core.kinds.rate import RateStep
from rundgang.core.plant import Line
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

MOST_SCALED_G = 2_000.0
"""What is heavier is a sheet or a block, not a piece, g."""

MOST_OF_LINE = 20
"""An inspection's id begins with so many letters of its line's."""

HOLD = "Stop the packer, hold what has passed since the last good check, and call whoever releases."


class _Usual(NamedTuple):
    """An inspection without its place."""

    mark: str
    name: str
    when: When
    asks: Asks
    action: str
    hint: str = ""
    holds: bool = False
    leaving: bool = True


class _Place(NamedTuple):
    """A station, the products of its line, and what those do there that pass it."""

    line: Line
    station: Station
    made: tuple[Product, ...]
    steps: tuple[tuple[Product, PieceStep], ...]

    @property
    def is_first(self) -> bool:
        """Whether pieces begin here."""
        return any(product.piece_steps[0] is step and product.formula for product, step in self.steps)

    @property
    def is_baked(self) -> bool:
        """Whether what comes is baked or fried, or never is."""
        return any(
            product.piece_steps.index(step) > product.bake_place or not any(map(bakes, product.piece_steps))
            for product, step in self.steps
        )

    @property
    def packs(self) -> bool:
        """Whether pieces are put into packs here."""
        return self.is_baked and any(step is _packing_step(product) for product, step in self.steps)


def _packing_step(product: Product) -> PieceStep:
    """Where several become a pack; the last step where none does."""
    steps = product.piece_steps
    gathers = (step for step in steps if isinstance(step, RateStep) and step.takes > step.makes and not step.adds)
    return next(gathers, steps[-1])


def usual_inspections(scenario: Scenario) -> Inspections:
    """What is usually inspected on all lines of a plant, in walking order."""
    found = (one for line in scenario.plant.lines for one in usual_on(scenario, line))
    return Inspections(all=tuple(found))


def usual_on(scenario: Scenario, line: Line) -> Iterator[Inspection]:
    """What is usually inspected on a line, in walking order."""
    made = tuple(product for product in scenario.products if product.line == line.id)
    for number, station in enumerate(line.stations, start=1):
        steps = tuple((product, step) for product in made for step in product.piece_steps if step.station == station.id)
        for usual in _usual_at(scenario, _Place(line, station, made, steps)):
            yield Inspection(
                id=f"{_short(line.id)}-{number}-{usual.mark}",
                line=line.id,
                station=station.id,
                name=usual.name,
                hint=usual.hint,
                when=usual.when,
                asks=usual.asks,
                action=usual.action,
                leaving=usual.leaving,
                holds=usual.holds,
            )


def _short(line: str) -> str:
    """A line's id in twenty letters at the most, another for each line."""
    return line if len(line) <= MOST_OF_LINE else f"{line[: MOST_OF_LINE - 9]}-{crc32(line.encode()):08x}"


def _usual_at(scenario: Scenario, place: _Place) -> Iterator[_Usual]:
    if isinstance(place.station, BatchStation):
        yield from _mixed(scenario, place)
        return
    if isinstance(place.station, HeldStation):
        yield from _held(scenario, place)
    if any(step.set_up for _, step in place.steps):
        yield _Usual("set-up", "Set up", AtStart(), Chosen(good="as it should be", bad=("not yet",)), "Set it first.")
    if place.is_first:
        yield from _divided(scenario, place)
    if any(step.next_within_s is not None for _, step in place.steps):
        yield _Usual(
            "seam",
            "Seam closed",
            Every(minutes=30),
            Chosen(good="closed", bad=("opens", "dry ends")),
            "Close the gap to the former; check that the dough is not dry or floury.",
            "five pieces, pulled gently",
        )
    if any(isinstance(step, DwellStep) for _, step in place.steps):
        yield from _stayed(place)
    if any(step.adds for _, step in place.steps) and place.is_baked:
        yield from _added()
    if "blades" in place.station.hazards and place.is_baked:
        yield _Usual(
            "cut",
            "Slice not cut through",
            Every(minutes=30),
            Chosen(good="good", bad=("cut through", "too shallow", "ragged")),
            "Stop the slicer; a trained person sets or changes the blade.",
        )
    if place.packs:
        yield from _packed(place)


def _mixed(scenario: Scenario, place: _Place) -> Iterator[_Usual]:
    here = place.station.id
    doughs = [product for product in scenario.products if product.formula and product.mixing.station == here]
    own = Measured(subject="dough temperature", around="own", low=-1, high=1)
    if not any(product.line == place.line.id for product in doughs):
        yield _Usual(
            "temperature",
            "Temperature when mixed",
            EachBatch(),
            Measured(subject="dough temperature", around="own", low=-3, high=3),
            "Let it stand, or cool it, before it is used; tell the dough room.",
        )
        return
    yield _Usual(
        "dough", "Dough temperature", EachBatch(), own, "Correct the next batch's water; use this one sooner or later."
    )
    yield _Usual(
        "feel",
        "Dough feel",
        EachBatch(),
        Chosen(good="as it should be", bad=("slack", "tight", "sticky")),
        "Tell the dough room; hold the next batch's last water back, or add it.",
    )
    yield _Usual(
        "flour",
        "Flour temperature",
        Daily(),
        Measured(subject="flour temperature"),
        "Enter it in the dough room.",
    )
    yield _Usual(
        "water",
        "Water temperature",
        Daily(),
        Measured(subject="water temperature"),
        "Enter it in the dough room.",
    )


def _held(scenario: Scenario, place: _Place) -> Iterator[_Usual]:
    """What is to be done to what stands in troughs: the crust broken, to let the gas out."""
    held = [step for product in place.made for step in product.route if isinstance(step, HeldStep)]
    held += [made.held for made in scenario.preparations if made.held and made.line == place.line.id]
    tasks = {task: None for step in held if step.station == place.station.id for task in step.tasks}
    for number, task in enumerate(tasks, start=1):
        yield _Usual(
            f"task-{number}",
            task.what,
            EachBatch(after_min=task.at_min),
            Chosen(good="done", bad=("not done",)),
            "Do it now, and tell the dough room by how much it was late.",
        )


def _divided(scenario: Scenario, place: _Place) -> Iterator[_Usual]:
    if any(step is product.piece_steps[0] and product.scaling_g <= MOST_SCALED_G for product, step in place.steps):
        yield _Usual(
            "weight",
            "Scaled weight",
            Every(minutes=30),
            Measured(subject="scaled weight", around="own percent", low=-2, high=2, sample=5),
            "Move the divider by half of what is off, and weigh again after two minutes.",
            "five pieces across the lanes",
        )
    made = [product for product, _ in place.steps]
    if any(scenario.allergens(one) - scenario.allergens(other) for one in made for other in made):
        yield _Usual(
            "allergen",
            "Allergen changeover released",
            AtChangeover(allergens_only=True),
            Chosen(good="released", bad=("not released",)),
            "Do not start: clean again, and have it looked at by whoever releases.",
            "cleaned, looked at, and the label changed",
            leaving=False,
        )


def _stayed(place: _Place) -> Iterator[_Usual]:
    steps = [step for _, step in place.steps if isinstance(step, DwellStep)]
    if any(step.bakes for step in steps):
        yield from _baked(place, steps)
        return
    if not place.is_baked and any(step.temperature_c is not None for step in steps):
        yield _Usual(
            "climate",
            "Temperature",
            Every(minutes=60),
            Measured(subject="climate", around="own", low=-1.5, high=1.5),
            "Set it right; tell the line lead when pieces are slow or fast.",
        )
        if any(step.humidity_pct is not None for step in steps):
            yield _Usual(
                "humidity",
                "Humidity",
                Every(minutes=60),
                Measured(subject="humidity", around="own", low=-4, high=4),
                "Set it right: too dry and they skin, too wet and they stick.",
            )
        yield _Usual(
            "apart",
            "Pieces apart",
            Every(minutes=60),
            Chosen(good="apart", bad=("some touch", "many touch")),
            "Set the spacing before the next change of tray.",
            leaving=False,
        )
        yield _Usual(
            "proof",
            "Proof",
            Every(minutes=30),
            Chosen(good="right", bad=("under", "over")),
            "Under: slow the belt or warm it. Over: tell the oven, and the dough room.",
            "height, and how they wobble",
        )
    elif place.is_baked and any(isinstance(step, ConveyorStep) and step.cooling for step in steps):
        yield _Usual(
            "core",
            "Core before packing",
            Every(minutes=30),
            Measured(subject="core temperature", around="own", high=3),
            "Do not close packs: slow the line, or cool longer.",
            "one piece from the middle of the belt",
        )


def _baked(place: _Place, steps: Sequence[DwellStep]) -> Iterator[_Usual]:
    fries = isinstance(place.station, ConveyorStation) and place.station.oil_kg is not None
    zones = max((len(step.zone_c) for step in steps if isinstance(step, ConveyorStep)), default=0)
    for zone in range(1, zones + 1) if zones else (0,):
        yield _Usual(
            f"heat-{zone}" if zone else "heat",
            "Oil temperature" if fries else f"Zone {zone}" if zone else "Oven temperature",
            Every(minutes=60),
            Measured(
                subject="oil temperature" if fries else "oven temperature",
                around="own",
                low=-3 if fries else -6,
                high=3 if fries else 6,
                zone=zone,
            ),
            "Tell the line lead; only trained people set burners and thermostats.",
            "the panel against a second thermometer",
        )
    yield _Usual(
        "colour",
        "Colour against the card",
        Every(minutes=30),
        Chosen(good="as the card", bad=("paler", "darker")),
        "Paler: longer or hotter. Darker: shorter or cooler; pull what is too dark.",
        "two pieces, from the left and the right edge",
    )
    yield _Usual(
        "shape",
        "Height, shape and shine",
        Every(minutes=60),
        Chosen(good="good", bad=("flat", "misshapen", "dull")),
        "Look upstream: proof first, then make-up.",
    )
    if not fries:
        yield _Usual(
            "core",
            "Core as it leaves the oven",
            Every(minutes=60),
            Measured(subject="core temperature", low=92, high=100),
            "Below: bake longer, and pull what is raw.",
            "one piece",
        )
    yield _Usual(
        "baked-weight",
        "Baked weight",
        Every(minutes=60),
        Measured(subject="baked weight", around="own percent", low=-3, high=3, sample=5),
        "Compare with the scaled weight: move the divider, not the oven.",
        "five pieces",
    )


def _added() -> Iterator[_Usual]:
    yield _Usual(
        "daily",
        "Daily set-up",
        Daily(),
        Chosen(good="set up", bad=("not right",)),
        "Set it up before the first piece; do not start on a guess.",
        leaving=False,
    )
    yield _Usual(
        "centred",
        "Deposit or cover",
        Every(minutes=30),
        Chosen(good="centred, covered", bad=("off centre", "bare spots", "no snap")),
        "Set the nozzles or the curtain; take out what is bare.",
        "within 2 mm; a coating covers all round and snaps",
    )


def _packed(place: _Place) -> Iterator[_Usual]:
    if any(isinstance(step, RateStep) and step.takes > step.makes for _, step in place.steps):
        if any(product.nominal_g is not None for product, _ in place.steps):
            yield _Usual(
                "pack-weight",
                "Pack weight",
                Every(minutes=60),
                Measured(subject="pack weight", around="own percent", low=-4.5, sample=5),
                "Below: move the divider up, and weigh what was packed since; local law decides what may be sold.",
                "five packs, one after another",
            )
        yield _Usual(
            "count",
            "Count per pack",
            Every(minutes=60),
            CountedPieces(),
            "Count ten more; set the counter.",
            "three packs, one after another",
        )
    yield _Usual(
        "seal",
        "Seal",
        Every(minutes=60),
        Chosen(good="tight", bad=("leaks", "open")),
        f"{HOLD} Set the jaws.",
        "pressed under water, or by hand",
        holds=True,
    )
    yield _Usual(
        "label",
        "Label and date",
        AtStart(),
        Chosen(good="right", bad=("wrong product", "wrong date", "unreadable")),
        f"{HOLD} Change the roll.",
        "product, allergens, date, against the plan",
        holds=True,
    )
    yield _Usual(
        "metal",
        "Metal detector",
        Every(minutes=60),
        Chosen(good="all three thrown out", bad=("one passed", "does not stop")),
        f"{HOLD} Do not run on.",
        "iron, other metal, stainless: each test piece in a pack",
        holds=True,
    )
