"""What a change of the library would do to a plan: the same runs in the same order, by what the plant would be then."""

from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise

from rundgang.core.errors import InfeasibleError
from rundgang.core.library import Library, library_of
from rundgang.core.model import Id, Model
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.check.violation import Violation
from rundgang.core.planning.model import LinePlan, PlantPlan, Run
from rundgang.core.planning.repair import SAME_TIME_MIN, relaid
from rundgang.core.scenario import Scenario


class StayChange(Model):
    """A station that a product's runs stay at for another time, min."""

    product: Id
    runs: tuple[str, ...]
    station: Id
    was_min: float
    now_min: float


class RunChange(Model):
    """A run as it is, and as it would be: its start and its last pack, min from the window's start."""

    run: str
    product: Id
    was_start_min: float
    now_start_min: float
    was_last_pack_min: float
    now_last_pack_min: float


class GapChange(Model):
    """White time at the divider between two neighbours, min."""

    first: str
    then: str
    was_min: float
    now_min: float


class LorryChange(Model):
    """Packs of a product that a lorry misses."""

    wave: Id
    product: Id
    was_short: int
    now_short: int


class LineAmended(Model):
    """What changes in the plan of a line.

    Attributes
    ----------
    gone : tuple of str
        Runs whose product would no longer be made there.
    breaks : tuple of Violation
        What the plan as it stands would break.
    """

    line: Id
    stays: tuple[StayChange, ...] = ()
    runs: tuple[RunChange, ...] = ()
    gaps: tuple[GapChange, ...] = ()
    lorries: tuple[LorryChange, ...] = ()
    gone: tuple[str, ...] = ()
    breaks: tuple[Violation, ...] = ()


def amended(before: Scenario, after: Scenario, plan: PlantPlan) -> tuple[LineAmended, ...]:
    """What a scenario with another library changes in a plan, line by line; lines that stay as they are left out.

    Raises
    ------
    InfeasibleError
        A line could not make its runs at all.
    """
    found = (_line_amended(before, after, plan, line) for line in touched(library_of(before), library_of(after), plan))
    return tuple(one for one in found if one != LineAmended(line=one.line))


def touched(before: Library, after: Library, plan: PlantPlan) -> tuple[str, ...]:
    """The lines of a plan that a changed library has to do with: all of them, where what all share has changed."""
    was, now = before.plant, after.plant
    common = (was.ingredients, was.crews, was.shared) != (now.ingredients, now.crews, now.shared)
    return tuple(line.line for line in plan.plans if common or _of(before, line.line) != _of(after, line.line))


def _of(library: Library, line_id: str) -> tuple[object, ...]:
    """The line itself, and what is made on it."""
    return (
        next((line for line in library.plant.lines if line.id == line_id), None),
        tuple(made for made in library.products if made.line == line_id),
        tuple(made for made in library.preparations if made.line == line_id),
    )


def _line_amended(before: Scenario, after: Scenario, plan: PlantPlan, line_id: str) -> LineAmended:
    was = plan.of(line_id)
    made = {product.id for product in after.made_on(line_id)}
    gone = tuple(run.id for run in was.runs if run.product not in made)
    if gone or all(line.id != line_id for line in after.plant.lines):
        return LineAmended(line=line_id, gone=gone)
    try:
        now = relaid(after, plan, line_id)
    except InfeasibleError as error:
        raise InfeasibleError(f"{after.line(line_id).name}: {error}") from None
    pairs = {run.id: other for run, other in _paired(was, now)}
    return LineAmended(
        line=line_id,
        stays=tuple(_stays(before, after, was, pairs)),
        runs=tuple(_run_changes(was, pairs)),
        gaps=tuple(_gap_changes(was, pairs)),
        lorries=tuple(_lorry_changes(was, now)),
        breaks=check(after, was),
    )


def _paired(was: LinePlan, now: LinePlan) -> Iterator[tuple[Run, Run]]:
    """Each run with the one that makes its packs now: the next of its product."""
    left = list(now.runs)
    for run in was.runs:
        other = next((one for one in left if one.product == run.product), None)
        if other is not None:
            left.remove(other)
            yield run, other


def _run_changes(was: LinePlan, pairs: Mapping[str, Run]) -> Iterator[RunChange]:
    for run in was.runs:
        now = pairs.get(run.id)
        if now is None:
            continue
        moved = abs(run.start_min - now.start_min), abs(run.last_pack_min - now.last_pack_min)
        if max(moved) > SAME_TIME_MIN:
            yield RunChange(
                run=run.id,
                product=run.product,
                was_start_min=run.start_min,
                now_start_min=now.start_min,
                was_last_pack_min=run.last_pack_min,
                now_last_pack_min=now.last_pack_min,
            )


def _gap_changes(was: LinePlan, pairs: Mapping[str, Run]) -> Iterator[GapChange]:
    for first, then in pairwise(was.runs):
        if first.id in pairs and then.id in pairs:
            gap, now = _white_min(first, then), _white_min(pairs[first.id], pairs[then.id])
            if abs(gap - now) > SAME_TIME_MIN:
                yield GapChange(first=first.id, then=then.id, was_min=gap, now_min=now)


def _white_min(first: Run, then: Run) -> float:
    return then.start_min - first.start_min - first.feed_min


def _lorry_changes(was: LinePlan, now: LinePlan) -> Iterator[LorryChange]:
    short = {(one.wave, one.product): one.short for one in now.waves}
    for one in was.waves:
        missed = short.get((one.wave, one.product), one.short)
        if missed != one.short:
            yield LorryChange(wave=one.wave, product=one.product, was_short=one.short, now_short=missed)


def _stays(before: Scenario, after: Scenario, was: LinePlan, pairs: Mapping[str, Run]) -> Iterator[StayChange]:
    """Stations where runs of the plan stay for another time: the library's own, or the one that the air asks for."""
    runs: dict[str, list[Run]] = {}
    for run in was.runs:
        if run.id in pairs:
            runs.setdefault(run.product, []).append(run)
    for product, made in runs.items():
        old, new = _dwells(before, made), _dwells(after, [pairs[run.id] for run in made])
        for station in [station for station in old if station in new and old[station] != new[station]]:
            yield StayChange(
                product=product,
                runs=tuple(run.id for run in made),
                station=station,
                was_min=old[station],
                now_min=new[station],
            )


def _dwells(scenario: Scenario, runs: Sequence[Run]) -> dict[str, float]:
    """How long a product's runs stay at each station at most, min."""
    product = scenario.product(runs[0].product)
    line = scenario.line_of(product)
    own = {step.station: line.operation(step).dwell_min for step in product.piece_steps}
    return {station: max(run.dwell_min.get(station, dwell) for run in runs) for station, dwell in own.items()}
