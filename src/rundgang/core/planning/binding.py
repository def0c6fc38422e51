"""What keeps each run from starting a moment earlier: as the decoder found it, with names and reasons."""

from collections.abc import Mapping

from rundgang.core.kinds.operation import Reason
from rundgang.core.planning.decode import runs as causes
from rundgang.core.planning.decode.reading import Decoded
from rundgang.core.planning.headway import cleaning, gap, leaving, set_free
from rundgang.core.planning.legs import Passage, passages
from rundgang.core.planning.model import Binding
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

A_MOMENT_MIN = 0.02
"""Two moments this close are the same, min."""


def binding_of(decoded: Decoded, run: int, names: Mapping[int, str]) -> Binding:  # noqa: PLR0911  (one a cause)
    """What binds a run.

    Parameters
    ----------
    names : mapping of int to str
        What the runs of its line are called, by their place among the decoded.
    """
    cause, of = int(decoded.runs.of[run]["cause"]), int(decoded.runs.of[run]["cause_of"])
    match cause:
        case causes.OPENING:
            return Binding(kind="opening")
        case causes.PIN:
            return Binding(kind="pin")
        case causes.FRESHNESS:
            return Binding(kind="freshness")
        case causes.HEADWAY:
            return _headway(decoded, run, of, names) if of >= 0 else _from_before(decoded, run)
        case causes.CLOSING:
            return _closing(decoded, run)
        case causes.UNITS:
            return _units(decoded, run, of, names)
        case causes.CREW:
            return _people(decoded, run, of, names)
        case causes.TOOL:
            return _tool(decoded, run, of, names)
        case causes.MATERIALS:
            item = decoded.shop.materials.stocks[of].item
            return Binding(kind="materials", where=decoded.shop.scenario.ingredient(item).name)
        case causes.STORE:
            made = int(decoded.runs.of[run]["product"])
            product = decoded.shop.products[made]
            station = product.piece_steps[decoded.shop.ways[made].boundaries[of - 1].place].station
            name = decoded.shop.scenario.line_of(product).station(station).name
            return Binding(kind="store", after=_before(decoded, run, names), station=station, where=name)
        case _:
            return Binding(kind="order", after=_before(decoded, run, names))


def _before(decoded: Decoded, run: int, names: Mapping[int, str]) -> str | None:
    """The run of its line that was placed before it."""
    earlier = [other for other in names if other < run]
    return names[max(earlier)] if earlier else None


def _entries(decoded: Decoded, run: int) -> dict[str, tuple[Passage, float]]:
    """By station, a run's passage and when its first piece enters, min."""
    found = {}
    for passage in decoded.shop.passages[int(decoded.runs.of[run]["product"])]:
        found[passage.stop.station] = (
            passage, float(decoded.runs.times[run, passage.stop.leg]["start"]) + passage.stop.offset_min,
        )  # fmt: skip
    return found


def _headway(decoded: Decoded, run: int, before: int, names: Mapping[int, str]) -> Binding:
    """The station at which the run before it leaves the least white."""
    scenario, runs, closest = decoded.shop.scenario, decoded.runs, None
    mine = _entries(decoded, run)
    for station, (ahead, _) in _entries(decoded, before).items():
        if station not in mine:
            continue
        behind, enters = mine[station]
        needed = gap(scenario, station, ahead.product, behind.product)
        leg, beyond = leaving(scenario, ahead.stop, ahead.product, needed)
        spare = enters - float(runs.times[before, leg]["start"] + runs.times[before, leg]["feed"]) - beyond
        if closest is None or spare < closest[0]:
            closest = spare, station, needed
    assert closest is not None  # noqa: S101  (a headway is set by a station that both pass)
    _, station, needed = closest
    return Binding(
        kind="headway",
        after=names.get(before),
        station=station,
        where=scenario.line(decoded.line_of(run)).station(station).name,
        gap_min=needed.minutes,
        reasons=needed.reasons,
    )


def _from_before(decoded: Decoded, run: int) -> Binding:
    """The station that is set anew after what was made before the window."""
    scenario, product = decoded.shop.scenario, decoded.shop.products[int(decoded.runs.of[run]["product"])]
    free = set_free(scenario, product)
    _, station = max(free, key=lambda at: free[at])
    line = scenario.line_of(product)
    last = next(
        scenario.product(found.product)
        for found in scenario.opening.last_on(line.id)
        if any(passage.stop.station == station for passage in passages(scenario, scenario.product(found.product)))
    )
    needed = gap(scenario, station, _owner(scenario, station, last), _owner(scenario, station, product))
    return Binding(
        kind="headway",
        station=station,
        where=line.station(station).name,
        gap_min=needed.minutes,
        reasons=needed.reasons,
    )


def _owner(scenario: Scenario, station: str, product: Product) -> Product:
    """Who of a product passes a station: itself, or what is cut out of it."""
    return next(passage.product for passage in passages(scenario, product) if passage.stop.station == station)


def _closing(decoded: Decoded, run: int) -> Binding:
    """The closing, or the other line's run at a shared machine, that ends where this one enters or leaves."""
    scenario, line = decoded.shop.scenario, decoded.line_of(run)
    entries = _entries(decoded, run)
    for block in scenario.blocks:
        called = scenario.plant.called_on(line, block.at)
        if called in entries:
            passage, enters = entries[called]
            leaves = [enters]
            if passage.stop.splits:
                carried = scenario.line(line).station(called).transfer_min
                leaves.append(float(decoded.runs.times[run, passage.stop.leg + 1]["start"]) - carried)
            if any(abs(moment - block.to_min) <= A_MOMENT_MIN for moment in leaves):
                minutes = block.to_min - block.from_min
                return Binding(
                    kind="closing",
                    station=called,
                    where=scenario.line(line).station(called).name,
                    gap_min=minutes,
                    reasons=(Reason(what=block.reason, minutes=minutes),),
                )
    for station in entries:
        shared = scenario.plant.shared_as(line, station)
        if shared:
            return Binding(kind="shared", station=station, where=shared.name)
    return Binding(kind="order")


def _tool(decoded: Decoded, run: int, tool: int, names: Mapping[int, str]) -> Binding:
    """The tool that is renewed before it."""
    line, station, of = decoded.shop.tools.tools[tool]
    return Binding(
        kind="tool",
        after=_before(decoded, run, names),
        station=station,
        where=decoded.shop.scenario.line(line).station(station).name,
        gap_min=of.renew_min,
        reasons=(Reason(what=f"{of.name} renewed", minutes=of.renew_min),),
    )


def _people(decoded: Decoded, run: int, crew: int, names: Mapping[int, str]) -> Binding:
    """The shift that begins when its people come, or the runs at which they are until then."""
    shop, known = decoded.shop, decoded.shop.scenario.plant.crews[crew]
    made, times = shop.arrays.products[int(decoded.runs.of[run]["product"])], decoded.runs.times[run]
    uses = shop.arrays.uses[int(made["first_use"]) : int(made["end_use"])]
    comes = [float(times[use["come_leg"]]["start"] + use["come"]) for use in uses if use["crew"] == crew]
    ends = [away.to_min for away in shop.scenario.absences if away.crew == known.id]
    if any(abs(come - end) <= A_MOMENT_MIN for come in comes for end in ends):
        return Binding(kind="shift", where=known.name)
    return Binding(kind="crew", after=_before(decoded, run, names), where=known.name)


def _units(decoded: Decoded, run: int, pool: int, names: Mapping[int, str]) -> Binding:
    """Mixers, troughs, kettles or tanks of which none is free a moment earlier, and the run of the line before it."""
    shop, found = decoded.shop, decoded.shop.pools[pool]
    scenario, product = shop.scenario, shop.products[int(decoded.runs.of[run]["product"])]
    station = scenario.line(found.line).station(found.station)
    before = [other for other in names if other < run]
    after = max(before) if before else None
    reasons: tuple[Reason, ...] = ()
    if after is not None:
        ahead = shop.products[int(decoded.runs.of[after]["product"])]
        reasons = cleaning(scenario, station.changeover, ahead, product)
    called = station.id
    shared = scenario.plant.shared_as(found.line, found.station)
    if shared:
        called = next(ref.station for ref in shared.stations if ref.line == product.line)
    return Binding(
        kind="units", after=None if after is None else names[after], station=called, where=station.name, reasons=reasons
    )
