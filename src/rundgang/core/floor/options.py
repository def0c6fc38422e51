"""What can be done about a stop: each option with the repaired plan of it, and what it comes to.

*Wait*: the mixers are held, what is on the line goes on after the stop, less what has spoiled. *Scrap and make
again*: all that stands is thrown away, and what is missing is made anew. *Finish elsewhere*: what is not mixed
yet is made on another line where that makes the same article. *Slow down*: where one of several machines or people
is out, what is on the line goes on as fast as the others let it.
"""

from collections.abc import Callable, Iterator, Sequence
from functools import partial
from math import ceil
from typing import Literal, NamedTuple

from rundgang.core.floor.effect import Loss, StopEffect, effect_by, operation_at, worth
from rundgang.core.floor.pause import cut_short, paused, shortened
from rundgang.core.floor.stands import Stands, all_as_late, standing
from rundgang.core.floor.stop import A_MOMENT_MIN, Stop
from rundgang.core.model import Id, Model
from rundgang.core.orders import Block
from rundgang.core.planning.checked import checked, fitted
from rundgang.core.planning.lines_in_place import planned_line
from rundgang.core.planning.model import PlantPlan, Run, split_items
from rundgang.core.planning.past import opened
from rundgang.core.planning.reline import articles, relined
from rundgang.core.planning.repair import Moved, Repaired, moves
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario

TRIES = 300
"""Orders tried to better a repaired plan: a line that stands waits for the answer."""

CRUMB = 1e-6
"""Packs a float may be off a whole number."""

OptionKind = Literal["wait", "slow", "scrap", "elsewhere"]


class LorryLate(Model):
    """What a lorry misses of a product with an option, and what it missed before."""

    wave: Id
    product: Id
    short: int
    short_before: int
    late_pack_hours: float


class StopOption(Model):
    """One way to go on, with the plan of it checked.

    Attributes
    ----------
    minutes : float
        The stop that is counted on, heating up included.
    cost, cost_before : float
        Of the plant's plan, points.
    share : float or None
        Of its pace at which the line goes on meanwhile; None where it stands.
    run, made_as : str or None
        The run of which the rest is made on another line, and as which product; None where none is.
    scrap_pieces, scrap_kg, scrap_packs, scrap_money : float
        Thrown away; what its materials cost, None where they have no prices.
    lorries : tuple of LorryLate
        Those that get less, or later, than before.
    broken : tuple of str
        The rules that its plan breaks; none where it passed the check. One that breaks any cannot be taken.
    """

    kind: OptionKind
    minutes: float
    cost: float
    cost_before: float
    scrap_pieces: float
    scrap_kg: float
    scrap_packs: float
    scrap_money: float | None = None
    share: float | None = None
    run: str | None = None
    made_as: Id | None = None
    lorries: tuple[LorryLate, ...]
    broken: tuple[str, ...]
    moved: tuple[Moved, ...]


class Scrap(NamedTuple):
    """What is thrown away, and what its materials cost."""

    pieces: float
    kg: float
    packs: float
    money: float | None


class Outcome(NamedTuple):
    """An option, the scenario that it makes, and the repaired plan."""

    option: StopOption
    scenario: Scenario
    plan: PlantPlan


def cheapest_of(options: Sequence[StopOption]) -> int | None:
    """The place of the cheapest option for the likely duration, for which to wait stands second; None where none is."""
    likely = [place for place, one in enumerate(options) if one.minutes == options[1].minutes and not one.broken]
    return min(likely, key=lambda place: options[place].cost, default=None)


def stopped_at(scenario: Scenario, plan: PlantPlan, stop: Stop) -> Scenario:
    """The scenario when the station stops: what the plan has begun by then is on the line."""
    return opened(scenario, plan.plans, max(stop.known_min, scenario.opening.now_min))


def outcomes_of(scenario: Scenario, plan: PlantPlan, stop: Stop) -> Iterator[Outcome]:
    """What can be done, one after the other: to wait for the low, likely and high duration; then the others.

    Parameters
    ----------
    scenario : Scenario
        With what has begun by its *now*.
    """
    case = _case(scenario, plan, stop)
    for place in range(len(stop.durations)):
        yield _sound(case, partial(_waiting, place=place))
    if _pace_left(case):
        yield _sound(case, _slowed)
    if any(_can_be_cut(one, stop) for one in case.stands):
        yield _sound(case, _scrapping)
    yield from _elsewhere(case)


class _Case(NamedTuple):
    """What a stop does: when it stops, what stands because of it, and what comes later."""

    scenario: Scenario
    plan: PlantPlan
    stop: Stop
    effect: StopEffect
    stands: tuple[Stands, ...]


def _case(scenario: Scenario, plan: PlantPlan, stop: Stop) -> _Case:
    then, line = stopped_at(scenario, plan, stop), planned_line(plan, stop.line)
    stands = standing(then, line, stop)
    return _Case(then, plan, stop, effect_by(then, stop, stands), stands)


def _sound(case: _Case, made: Callable[[_Case], Outcome]) -> Outcome:
    """An option in which what is behind the stop comes as much later as it must, or else as late as the stop is long.

    So what is mixed and filled for one run and the next stays apart as it was.
    """
    found = made(case)
    if not found.option.broken:
        return found
    stands = all_as_late(case.scenario, planned_line(case.plan, case.stop.line), case.stop, case.stands)
    rigid = made(case._replace(stands=stands, effect=effect_by(case.scenario, case.stop, stands)))
    return found if rigid.option.broken else rigid


def _closed(scenario: Scenario, stop: Stop, until_min: float, begun: dict[str, Run | None]) -> Scenario:
    """The scenario with the station closed, and begun runs as they are after the stop."""
    taken = {block.id for block in scenario.blocks}
    name = next(f"stop-{number}" for number in range(1, len(taken) + 2) if f"stop-{number}" not in taken)
    block = Block(
        id=name,
        line=stop.line,
        station=stop.station,
        kind="repair",
        from_min=stop.from_min,
        to_min=until_min,
        reason=f"{scenario.line(stop.line).station(stop.station).name} stands",
    )
    runs = [begun.get(run.id, run) if run.line == stop.line else run for run in scenario.opening.begun]
    opening = scenario.opening.model_copy(update={"begun": tuple(run for run in runs if run is not None)})
    return scenario.changed(blocks=(*scenario.blocks, block), opening=opening)


def running_again(scenario: Scenario, line: str, station: str, at_min: float) -> Scenario:
    """The scenario when a station runs again: its repair, which was to last on, ends; the same where none was."""
    blocks = tuple(
        block.model_copy(update={"to_min": max(at_min, block.from_min + A_MOMENT_MIN)})
        if (block.line, block.station, block.kind, block.weekly) == (line, station, "repair", False)
        and block.from_min <= at_min < block.to_min
        else block
        for block in scenario.blocks
    )
    return scenario.changed(blocks=blocks) if blocks != scenario.blocks else scenario


def _waiting(case: _Case, place: int) -> Outcome:
    loss = case.effect.losses[place]
    begun: dict[str, Run | None] = {one.run.id: _paused(one, case.stop, loss) for one in case.stands}
    after = _closed(case.scenario, case.stop, loss.runs_again_min, begun)
    return _made("wait", after, case, loss.minutes, _scrap_of(loss))


def _scrap_of(loss: Loss) -> Scrap:
    return Scrap(loss.pieces, loss.kg, loss.packs, loss.money)


def _pace_left(case: _Case) -> float:
    """The share of its pace at which a line can go on; 0 where it cannot."""
    share = min((_share_left(case.scenario, one) for one in case.stands), default=0.0)
    return 0.0 if case.stop.fails == "heat" else share


def _slowed(case: _Case) -> Outcome:
    """One of several machines, or people, is out: what is on the line goes on at the others' pace until it is back.

    So it comes later by the part of the time that the pace lacks. Nothing on a belt ages by it; doughs do. What has not
    begun waits until all of them work again.
    """
    stop, stands, share = case.stop, case.stands, _pace_left(case)
    loss, lacks = case.effect.losses[1], stop.likely_min * (1 - share)
    lost = [(s, s.lost_after(lacks)) for s in case.effect.stretches if s.what != "pieces"]
    packs = {one.run.id: sum(s.packs * part for s, part in lost if s.run == one.run.id) for one in stands}
    begun: dict[str, Run | None] = {
        one.run.id: paused(one, stop, one.late_min(lacks), ceil(packs[one.run.id] - CRUMB)) for one in stands
    }
    after = _closed(case.scenario, stop, stop.from_min + stop.likely_min, begun)
    scrap = Scrap(
        sum(s.pieces * part for s, part in lost), sum(s.kg * part for s, part in lost), sum(packs.values()), worth(lost)
    )
    return _made("slow", after, case, loss.minutes, scrap, share=share)


def _share_left(scenario: Scenario, one: Stands) -> float:
    """The share of a run's pace that a station can take with one of its machines or people out; 0 where it has one."""
    done = operation_at(scenario, one.run, one.passing)
    if not done.counted.adjustable or done.counted.number < 2 or done.splits:
        return 0.0
    left = done.capacity_per_h * (done.counted.number - 1) / done.counted.number
    return min(1.0, left / one.passing.flow_per_h)


def _can_be_cut(one: Stands, stop: Stop) -> bool:
    """Whether a run can end with what has passed the station; one that has not reached it waits."""
    return one.leg == 0 and one.passing.first_in < stop.from_min


def _paused(one: Stands, stop: Stop, loss: Loss) -> Run:
    lost = ceil(loss.packs_of.get(one.run.id, 0.0) - CRUMB)
    return paused(one, stop, one.late_min(loss.minutes), lost)


def _scrapping(case: _Case) -> Outcome:
    scenario, stop, stands, loss = case.scenario, case.stop, case.stands, case.effect.losses[1]
    begun = {
        one.run.id: cut_short(scenario, one, stop.from_min) if _can_be_cut(one, stop) else _paused(one, stop, loss)
        for one in stands
    }
    after = _closed(scenario, stop, loss.runs_again_min, begun)
    cut = {one.run.id for one in stands if _can_be_cut(one, stop)}
    thrown = [s for s in case.effect.stretches if s.what != "filling" and s.run in cut]
    scrap = Scrap(
        sum(s.pieces for s in thrown),
        sum(s.kg for s in thrown),
        sum(s.packs for s in thrown),
        worth((s, 1.0) for s in thrown),
    )
    return _made("scrap", after, case, loss.minutes, scrap)


def _elsewhere(case: _Case) -> Iterator[Outcome]:
    """The doughs not begun yet, made as the same article on another line; what is on this one waits."""
    scenario, stop, stands, loss = case.scenario, case.stop, case.stands, case.effect.losses[1]
    for one in stands:
        begun = sum(batch.pieces for batch in one.run.batches if batch.start_min < stop.known_min)
        if one.leg or begun in {0, one.run.pieces}:
            continue
        kept = shortened(scenario, one.run, begun)
        away = one.run.model_copy(update={"items": split_items(one.run.items, kept.packs)[1]})
        runs: dict[str, Run | None] = {
            each.run.id: _paused(each._replace(run=kept) if each is one else each, stop, loss) for each in stands
        }
        closed = _closed(scenario, stop, loss.runs_again_min, runs)
        for other in articles(scenario, scenario.product(one.run.product)) if away.items else ():
            after = closed.changed(orders=relined(closed, away, other.id))
            yield _made("elsewhere", after, case, loss.minutes, _scrap_of(loss), run=one.run.id, made_as=other.id)


def bettered(after: Scenario, before: PlantPlan, line_id: str, repaired: Repaired) -> Repaired:
    """A repaired plan, or a better one near it: what has been pushed together on a line is put in another order.

    What the other lines do stays, and what they share with this one is theirs.
    """
    found = plan_plant(
        after,
        lines=(line_id,),
        kept=[plan for plan in repaired.plan.plans if plan.line != line_id],
        published=before.plans,
        weights=before.weights,
        stop=after_evaluations(TRIES, TRIES),
        begin_from=repaired.plan.plans,
    )
    if found.cost >= repaired.plan.cost - CRUMB or not checked(after, found).sound:
        return repaired
    moved = tuple(one for line in before.plans for one in moves(line, found.of(line.line)))
    return Repaired(plan=found, moved=moved)


def _without_gone(case: _Case, after: Scenario) -> PlantPlan:
    """The plan that was, less the begun runs of which nothing is left: they are made anew, as if nobody had begun."""
    line = case.stop.line
    left = {run.id for run in after.opening.begun_on(line)}
    gone = {run.id for run in case.scenario.opening.begun_on(line)} - left
    plans = [
        plan.model_copy(update={"runs": tuple(run for run in plan.runs if run.id not in gone)})
        if plan.line == line
        else plan
        for plan in case.plan.plans
    ]
    return case.plan.model_copy(update={"plans": tuple(plans)}) if gone else case.plan


def _made(
    kind: OptionKind,
    after: Scenario,
    case: _Case,
    minutes: float,
    scrap: Scrap,
    **more: object,
) -> Outcome:
    """The plan repaired and checked, and what it comes to."""
    line = case.stop.line
    plan = _without_gone(case, after)
    repaired = bettered(after, plan, line, fitted(after, plan, (line,)))
    missed = {own.line: own.short for own in plan.plans}
    for own in repaired.plan.plans:
        if own.line != line and own.short > missed[own.line]:
            repaired = bettered(after, plan, own.line, repaired)
    before = {(w.wave, w.product): w for line in plan.plans for w in line.waves}
    lorries = []
    for wave in (wave for line in repaired.plan.plans for wave in line.waves):
        was = before.get((wave.wave, wave.product))
        short, late = (was.short, was.late_pack_hours) if was else (0, 0.0)
        if wave.short > short or wave.late_pack_hours > late + CRUMB:
            lorries.append(
                LorryLate(
                    wave=wave.wave,
                    product=wave.product,
                    short=wave.short,
                    short_before=short,
                    late_pack_hours=wave.late_pack_hours,
                )
            )
    option = StopOption.model_validate(
        {
            "kind": kind,
            "minutes": minutes,
            "cost": repaired.plan.cost,
            "cost_before": case.plan.cost,
            **{f"scrap_{name}": thrown for name, thrown in scrap._asdict().items()},
            "lorries": tuple(lorries),
            "broken": tuple(str(one) for one in checked(after, repaired.plan).every),
            "moved": repaired.moved,
            **more,
        }
    )
    return Outcome(option, after, repaired.plan)
