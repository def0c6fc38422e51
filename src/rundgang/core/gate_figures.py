"""What else there is to know of a gate at a pace: an oven's load and heat, a fryer's oil, a cooler's end."""

from collections.abc import Iterator

from rundgang.core.dough.lamination import laminate
from rundgang.core.figure import Figure
from rundgang.core.flow import StepFlow
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, zone_temperatures
from rundgang.core.kinds.every import PieceStep
from rundgang.core.kinds.held import HeldStep
from rundgang.core.kinds.parts import SECONDS_PER_MINUTE, ConvertingStep, DwellStep, Lamination
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.thermal.cooling import rate_from_run, temperature_after
from rundgang.core.thermal.fryer import oil_taken_kg_h, turnover_h
from rundgang.core.thermal.oven import BOILING_C, OvenDuty, ZoneOf, oven_duty, zone_duties
from rundgang.core.tools import wear_of
from rundgang.core.units import GRAMS_PER_KG

BAKED_CORE_C = 96.0
"""Core of a piece as it leaves an oven, where none was measured, °C (common practice, no published source)."""


def figures_of(scenario: Scenario, product: Product, step: PieceStep, flow_per_h: float) -> tuple[Figure, ...]:
    """The figures of a gate, most of them on belts, at so many pieces an hour."""
    return (
        *_of_belt(scenario, product, step, flow_per_h),
        *_carried(scenario, product, step),
        *_tools(scenario, product, step, flow_per_h),
        *_sheet(product, step, flow_per_h),
        *_ripening(product, step),
    )


def _sheet(product: Product, step: PieceStep, flow_per_h: float) -> Iterator[Figure]:
    """What folding makes of a sheet, pass by pass, the fat blocks that it takes, and the bands it is cut into."""
    if not isinstance(step, ConvertingStep):
        return
    if step.laminates:
        yield from _folded(product, step, step.laminates, flow_per_h)
    if step.bands:
        made_per_h = flow_per_h / float(step.conversion)
        yield Figure(name="Parallel bands", value=step.bands.count, unit="side by side", decimals=0)
        yield Figure(
            name="A band is wide", value=step.bands.sheet_mm / step.bands.count, quantity="thickness", decimals=0
        )
        yield Figure(name="Pieces of a band, an hour", value=made_per_h / step.bands.count, unit="", decimals=0)


def _folded(product: Product, step: PieceStep, cycle: Lamination, flow_per_h: float) -> Iterator[Figure]:
    place = product.piece_steps.index(step)
    fat_g = fat_in(product, place, cycle.fat)
    made_g = product.entering_g[place] / float(step.conversion) + step.added_g
    for number, sheet_mm in enumerate(cycle.passes_mm, start=1):
        found = laminate(cycle.folds, sheet_mm, fat_g / made_g, flow_per_h * made_g / GRAMS_PER_KG, cycle.block_kg)
        if number == 1:
            yield Figure(name="Layers of fat", value=found.fat_layers, unit="", decimals=0)
            yield Figure(name="Fat in the laminated dough", value=100 * fat_g / made_g, unit="%")
            yield Figure(name="Fat blocks", value=found.fat_blocks_per_h, unit="an hour")
        yield Figure(name=f"Pass {number}, sheet", value=sheet_mm, quantity="thickness")
        yield Figure(name=f"Pass {number}, a layer of fat", value=found.fat_um, quantity="layer thickness", decimals=0)


def fat_in(product: Product, place: int, fat: str) -> float:
    """Fat in one piece that a step makes, g: what it and the steps before it have added."""
    grams = 0.0
    for step in product.piece_steps[: place + 1]:
        grams = grams * float(step.conversion) + sum(addition.grams for addition in step.adds if addition.item == fat)
    return grams


def _ripening(product: Product, step: PieceStep) -> Iterator[Figure]:
    """What the limits by clock and yeast come to for this dough's temperature, the narrower of the two."""
    if isinstance(step, HeldStep) and step.ripens:
        yield Figure(name="Ready after, by clock and yeast", value=step.least_min, unit="min", decimals=0)
        yield Figure(name="Over-ripe after", value=step.most_min, unit="min", decimals=0)
    elif isinstance(step, DwellStep) and step.bears and step.grace_min is not None:
        yield Figure(name="Over-proofed after", value=step.dwell_min + step.grace_min, unit="min", decimals=0)
        yield Figure(name="for a dough of", value=product.dough_temperature_c, quantity="temperature")


def _tools(scenario: Scenario, product: Product, step: PieceStep, flow_per_h: float) -> Iterator[Figure]:
    """How far each tool is worn when the window starts, and how long it lasts at this flow."""
    station = scenario.line_of(product).station(step.station)
    for tool in station.tools:
        wear, used = wear_of(tool, step, station), scenario.opening.used(product.line, station.id, tool.id)
        if wear is None:
            continue
        yield Figure(
            name=f"{tool.name}, worn when the window starts", value=used, unit=f"of {tool.life:g} {tool.counted}"
        )
        left = max(0.0, tool.life - used)
        lasts = left / (wear.per_piece * flow_per_h) if wear.per_piece else left
        days = tool.counted == "days"
        yield Figure(name=f"{tool.name}, lasts", value=lasts, unit="days" if days else "h at this pace")


def _carried(scenario: Scenario, product: Product, step: PieceStep) -> Iterator[Figure]:
    """How soon a piece must be in the next station, and how soon it is."""
    if step.next_within_s is not None:
        carried_min = scenario.line_of(product).station(step.station).transfer_min
        yield Figure(name="Must be in the next station within", value=step.next_within_s, unit="s", decimals=0)
        yield Figure(name="Carried there in", value=carried_min * SECONDS_PER_MINUTE, unit="s", decimals=0)


def _of_belt(scenario: Scenario, product: Product, step: PieceStep, flow_per_h: float) -> tuple[Figure, ...]:
    if not isinstance(step, ConveyorStep):
        return ()
    station = scenario.line_of(product).operation(step).station
    if station.oil_kg:
        return tuple(_fryer(step, station.oil_kg, flow_per_h))
    zones = tuple(zone_c for zone_c in zone_temperatures(step, station) if zone_c is not None)
    if step.bakes and zones and max(zones) > BOILING_C:
        return tuple(_oven(product, step, station, zones, flow_per_h))
    return tuple(_cooler(scenario, step))


def mass_figures(flow: StepFlow) -> tuple[Figure, ...]:
    """The mass balance of a step, kg an hour; what is nothing is left out."""
    masses = (
        ("Comes in, an hour", flow.in_kg),
        ("is added", flow.added_kg),
        ("is cut out", flow.cut_out_kg),
        ("is baked or fried away", flow.evaporated_kg),
        ("is rejected", flow.rejected_kg),
        ("goes on", flow.out_kg),
    )
    return tuple(Figure(name=name, value=kg, quantity="dough mass") for name, kg in masses if kg)


def baking_duty(product: Product, step: ConveyorStep, station: ConveyorStation, flow_per_h: float) -> OvenDuty:
    """What a product's oven or fryer carries and gives at so many pieces an hour; unset, it is taken at boiling."""
    known = zip(_zone_shares(station), zone_temperatures(step, station), strict=True)
    return oven_duty(
        pieces_per_h=flow_per_h,
        scaling_kg=product.entering_g[product.bake_place] / GRAMS_PER_KG,
        bake_loss=product.bake_loss,
        bake_min=step.dwell_min,
        dough_c=product.dough_temperature_c,
        core_c=BAKED_CORE_C,
        oven_c=sum(share * (BOILING_C if zone_c is None else zone_c) for share, zone_c in known),
        band_m2=station.length_m * (station.width_m or 1),
    )


def _zone_shares(station: ConveyorStation) -> list[float]:
    """Each zone's share of the band; all of it where there are none."""
    return [zone.length_m / station.length_m for zone in station.zones] or [1.0]


def _oven(
    product: Product, step: ConveyorStep, station: ConveyorStation, zones: tuple[float, ...], flow_per_h: float
) -> Iterator[Figure]:
    """Heat duty and loading of the band, where its width is known; and those of its zones."""
    duty = baking_duty(product, step, station, flow_per_h)
    if station.width_m:
        yield Figure(name="Dough on the band", value=duty.loading_kg_m2, quantity="band loading", decimals=2)
    yield Figure(name="Heat into the product", value=duty.total_kw, quantity="heat flow", decimals=0)
    if not station.zones:
        return
    mean_c, shares = (product.dough_temperature_c + BAKED_CORE_C) / 2, _zone_shares(station)
    inside_kg = duty.pieces_inside * product.entering_g[product.bake_place] / GRAMS_PER_KG
    of = [ZoneOf(share, zone_c - mean_c) for share, zone_c in zip(shares, zones, strict=True)]
    for zone, zone_c, found in zip(station.zones, zones, zone_duties(duty, inside_kg, step.dwell_min, of), strict=True):
        yield Figure(name=f"{zone.name}, set to", value=zone_c, quantity="temperature")
        yield Figure(name=f"{zone.name}, in it for", value=found.minutes, unit="min", decimals=1)
        yield Figure(name=f"{zone.name}, dough in it", value=found.dough_kg, quantity="dough mass")
        yield Figure(name=f"{zone.name}, heat it gives", value=found.kw, quantity="heat flow", decimals=0)


def _fryer(step: ConveyorStep, oil_kg: float, flow_per_h: float) -> Iterator[Figure]:
    """The turn, the oil taken up, and how fast it turns over."""
    turned_s = step.sides.first_s if step.sides else step.dwell_min * SECONDS_PER_MINUTE / 2
    taken = oil_taken_kg_h(flow_per_h, step.added_g)
    yield Figure(name="Turned after", value=turned_s, unit="s", decimals=0)
    yield Figure(name="Oil made up an hour", value=taken, quantity="dough mass")
    turnover = turnover_h(oil_kg, taken)
    if turnover is not None:
        yield Figure(name="The whole oil turns over in", value=turnover, unit="h")


def _cooler(scenario: Scenario, step: ConveyorStep) -> Iterator[Figure]:
    """Core at the end of the cooler in the room's air, by the known run."""
    known = step.cooling
    if known is None:
        return
    rate = rate_from_run(known.from_c, known.to_c, known.air_c, known.minutes)
    air_c = scenario.conditions.room_c if step.temperature_c is None else step.temperature_c
    end = temperature_after(step.dwell_min, known.from_c, air_c, rate)
    yield Figure(name="Core wanted at its end", value=known.to_c, quantity="temperature")
    yield Figure(name="Core at its end in this room", value=end, quantity="temperature")
