"""Keeping the record: what came in, was mixed, packed and loaded by now is entered, where nobody has told it.

The published plan, as the counters have seen it go, counts as fact. A batch that was weighed keeps what was weighed; of
what was not, the oldest lots are taken. It is kept every so often, and before a window goes on.
"""

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date, datetime, timedelta
from math import inf
from typing import Any, NamedTuple
from uuid import UUID

from rundgang.clock import Clock
from rundgang.core.floor.fifo import Layer, first_in_first_out
from rundgang.core.floor.loading import Loadable, oldest_first
from rundgang.core.floor.lots import BY_PLAN, UseKind, batch_code, material_code, packs_code
from rundgang.core.floor.record import BatchName, Drawn, MadeBatch, MadePacks, Part, made_batches, made_packs
from rundgang.core.floor.round import FailedSpell, failed_spells, packed_before
from rundgang.core.planning.cut_runs import cut_runs
from rundgang.core.planning.lorries import dues_of
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.past import opened
from rundgang.core.scenario import Delivery, Scenario
from rundgang.formats.clock import local_time, minute_of, moment_of
from rundgang.jobs.absence import hold_lots
from rundgang.jobs.following import went
from rundgang.jobs.mixing import BY_SIGNAL, heard_mixers
from rundgang.store.lots import Load, NewLot, NewUse, StoredLot
from rundgang.store.repository import Repository

LOTS_BACK = timedelta(days=60)
"""Packs that are older are loaded nowhere."""

PATIENCE_MIN = 60.0
"""A batch of which somebody has begun to tell is waited for so long beyond its time, min."""

KNOWN_FOR = timedelta(days=4)
"""So far back a batch or packs of a run that is planned may have been made."""

NOTHING_LEFT = 1e-3
"""Of a material lot so little left is nothing, kg or pieces."""

AT_THE_BEGINNING = "at-the-beginning"
"""The supplier's lot of what lay there when the record began."""


class Wants(NamedTuple):
    """So much of a material goes into a lot that has been stored."""

    into: int
    drawn: Drawn


class _Kept(NamedTuple):
    """A line as it went, with what is known of its lots: batches by name, packs by run, dough and product."""

    plan: LinePlan
    batches: dict[BatchName, StoredLot]
    packs: frozenset[tuple[str, str, str]]


def keep(store: Repository, clock: Clock) -> None:
    """Enter all that is over by now, in one transaction; what is entered already stays as it is."""
    if store.windows.is_empty() or store.plans.published() is None:
        return
    store.lots.lock()
    keep_within(store, clock)
    store.session.commit()


def keep_within(store: Repository, clock: Clock) -> None:
    """The same, in the open transaction of who has the record to himself."""
    scenario = store.windows.scenario()
    now_min = clock.minute_of(scenario.window.starts_at)
    if now_min <= 0:
        return
    present, last = opened(scenario, store.plans.floor_plans(), now_min), store.lots.last_number()
    _materials(store, scenario, now_min)
    wants = list[Wants]()
    for plan in store.plans.floor_plans():
        wants += _line(store, present, plan, now_min)
    draw(store, scenario, wants)
    _hold_made_of_held(store, clock, store.lots.numbers_after(last))
    _hold_failed(store, clock, scenario)
    _hold_uncleared(store, clock, scenario)
    _load(store, scenario, now_min)


def _day(scenario: Scenario, minute: float) -> date:
    return local_time(scenario, minute).date()


def _materials(store: Repository, scenario: Scenario, now_min: float) -> None:
    """What lay there when the record began, and what has come since."""
    lots = list(_packs_there(scenario)) if store.lots.is_empty() else []
    known = store.lots.materials_known()
    for stock in scenario.stocks:
        if stock.item not in known and stock.on_hand > 0:
            there = Delivery(at_min=0, amount=stock.on_hand)
            lots.append(_came(scenario, stock.item, there, AT_THE_BEGINNING))
        same = Counter[str]()
        for come in stock.deliveries:
            if come.at_min <= now_min:
                told = "-".join(filter(None, (come.lot, f"{local_time(scenario, come.at_min):%H%M}")))
                same[told] += 1
                lots.append(_came(scenario, stock.item, come, told if same[told] == 1 else f"{told}-{same[told]}"))
    store.lots.add(lots)


def _packs_there(scenario: Scenario) -> Iterator[NewLot]:
    """The packs that lay in stock when the record began."""
    for number, lot in enumerate(scenario.finished, start=1):
        at = moment_of(scenario, lot.made_min)
        yield NewLot(
            code=material_code(lot.product, _day(scenario, lot.made_min), f"{AT_THE_BEGINNING}-{number}"),
            kind="packs",
            item=lot.product,
            line=scenario.product(lot.product).line,
            at=at,
            until_at=at,
            amount=lot.packs,
            best_before=_best_before(scenario, lot.product, lot.made_min),
            author=BY_PLAN,
        )


def _best_before(scenario: Scenario, product: str, made_min: float) -> date | None:
    days = scenario.product(product).best_before_days
    return _day(scenario, made_min) + timedelta(days=days) if days else None


def _came(scenario: Scenario, item: str, come: Delivery, told: str) -> NewLot:
    at = moment_of(scenario, come.at_min)
    return NewLot(
        code=material_code(item, _day(scenario, come.at_min), told),
        kind="material",
        item=item,
        at=at,
        until_at=at,
        amount=come.amount,
        best_before=come.best_before,
        supplier=come.lot,
        said={"allergens": sorted(come.allergens)},
        author=BY_PLAN,
    )


def _line(store: Repository, scenario: Scenario, plan: LinePlan, now_min: float) -> Iterator[Wants]:
    """Store a line's batches and packs that are made; what they want of materials."""
    as_seen = went(store, scenario, plan, now_min)
    going = as_seen.model_copy(update={"cut_runs": cut_runs(scenario, as_seen.runs)})
    since = moment_of(scenario, 0) - KNOWN_FOR
    packs = frozenset(
        (lot.run, lot.batch, lot.item) for lot in store.lots.since("packs", since, plan.line) if lot.run and lot.batch
    )
    kept = _Kept(going, batches_of(store, scenario, plan.line), packs)
    yield from _batches(store, scenario, kept, now_min)
    yield from _packs(store, scenario, kept, now_min)


def batches_of(store: Repository, scenario: Scenario, line: str) -> dict[BatchName, StoredLot]:
    """The batches of a line that are in the record, by name."""
    lots = store.lots.since("batch", moment_of(scenario, 0) - KNOWN_FOR, line)
    return {BatchName(lot.run, lot.batch): lot for lot in lots if lot.run and lot.batch}


def _batches(store: Repository, scenario: Scenario, kept: _Kept, now_min: float) -> Iterator[Wants]:
    made = list(made_batches(scenario, kept.plan, now_min))
    done = store.lots.with_event([lot.number for lot in kept.batches.values()], "discharged")
    yield from _by_signal(store, scenario, kept, done, now_min)
    done = store.lots.with_event([lot.number for lot in kept.batches.values()], "discharged")
    due = [
        one
        for one in made
        if one.name not in kept.batches
        or (kept.batches[one.name].number not in done and one.done_min + PATIENCE_MIN <= now_min)
    ]
    if not due:
        return
    new = [batch_lot(scenario, kept.plan.line, one) for one in due if one.name not in kept.batches]
    numbers = store.lots.add(new)
    kept.batches.update({BatchName(lot.run or "", lot.batch or ""): lot for lot in store.lots.of_codes(numbers)})
    yield from completed(store, scenario, kept.batches, due)


def _by_signal(
    store: Repository, scenario: Scenario, kept: _Kept, done: frozenset[int], now_min: float
) -> Iterator[Wants]:  # fmt: skip
    """Tell of batches that somebody weighs up what their mixers say: that all is in, and that they are out."""
    begun = {name: lot for name, lot in kept.batches.items() if lot.author != BY_PLAN and lot.number not in done}
    if not begun:
        return
    planned = {one.name: one for one in made_batches(scenario, kept.plan, inf)}
    until = moment_of(scenario, now_min)
    charged = store.lots.with_event([lot.number for lot in begun.values()], "charged")
    for name, mixed in heard_mixers(store, scenario, kept.plan.line, begun, planned, until):
        lot = begun[name]
        if lot.number not in charged:
            store.lots.note({lot.number: {}}, "charged", moment_of(scenario, mixed.from_min), BY_SIGNAL)
        if mixed.done_min is not None:
            out = planned[name]._replace(done_min=mixed.done_min)
            yield from completed(store, scenario, kept.batches, [out], BY_SIGNAL)


def batch_lot(scenario: Scenario, line: str, made: MadeBatch) -> NewLot:
    """The lot of a batch."""
    return NewLot(
        code=batch_code(_day(scenario, made.start_min), line, made.name.run, made.name.key),
        kind="batch",
        item=made.item,
        line=line,
        run=made.name.run,
        batch=made.name.key,
        at=moment_of(scenario, made.start_min),
        until_at=moment_of(scenario, made.done_min),
        amount=made.kg,
        said={"mixer": made.mixer},
        author=BY_PLAN,
    )


def completed(
    store: Repository, scenario: Scenario, batches: Mapping[BatchName, StoredLot], made: Sequence[MadeBatch],
    author: str = BY_PLAN, uuid: UUID | None = None,
) -> Iterator[Wants]:  # fmt: skip
    """Close batches: what was not weighed for them is as their cards say; what they want of materials."""
    lots = {batches[one.name].number: one for one in made}
    weighed: dict[int, set[str]] = {number: set() for number in lots}
    for use in store.lots.uses_into(list(lots)):
        weighed[use.into].add(use.item)
    uses = list[NewUse]()
    for number, one in lots.items():
        at = moment_of(scenario, one.done_min)
        for part in one.mixed_in:
            lot = batches.get(part.batch)
            if lot is None or lot.item not in weighed[number]:
                uses.append(_part(number, lot, part, "mixed in", at))
        if one.rework and one.rework.batch in batches:
            uses.append(_part(number, batches[one.rework.batch], one.rework, "rework", at))
        yield from (Wants(number, drawn) for drawn in one.drawn if drawn.item not in weighed[number])
        store.lots.note({number: {}}, "discharged", at, author, uuid)
    store.lots.use(uses)


def _part(into: int, lot: StoredLot | None, part: Part, kind: UseKind, at: datetime) -> NewUse:
    return NewUse(
        lot=lot.number if lot else None,
        into=into,
        item=lot.item if lot else part.batch.key,
        amount=part.kg,
        kind=kind if part.kg > 0 else "beside",
        at=at,
        author=BY_PLAN,
    )


def _packs(store: Repository, scenario: Scenario, kept: _Kept, now_min: float) -> Iterator[Wants]:
    made = [
        one
        for one in made_packs(scenario, kept.plan, now_min)
        if (one.run, str(one.batch), one.product) not in kept.packs
    ]
    if not made:
        return
    lots = {_packs_lot(scenario, kept.plan.line, one).code: one for one in made}
    numbers = store.lots.add([_packs_lot(scenario, kept.plan.line, one) for one in made])
    uses = list[NewUse]()
    for code, one in lots.items():
        at = moment_of(scenario, one.to_min)
        uses += [_part(numbers[code], kept.batches.get(part.batch), part, "divided", at) for part in one.doughs]
        uses += [_part(numbers[code], kept.batches.get(part.batch), part, "put on", at) for part in one.put_on]
        yield from (Wants(numbers[code], drawn) for drawn in one.drawn)
    store.lots.use(uses)


def _packs_lot(scenario: Scenario, line: str, made: MadePacks) -> NewLot:
    return NewLot(
        code=packs_code(
            _day(scenario, made.from_min), line, made.run, made.batch, made.product if made.is_cut else None
        ),
        kind="packs",
        item=made.product,
        line=line,
        run=made.run,
        batch=str(made.batch),
        at=moment_of(scenario, made.from_min),
        until_at=moment_of(scenario, made.to_min),
        amount=made.packs,
        best_before=_best_before(scenario, made.product, made.from_min),
        author=BY_PLAN,
    )


def draw(store: Repository, scenario: Scenario, wants: Iterable[Wants]) -> None:
    """Take what is wanted from the oldest lots that nobody holds."""
    by_item: dict[str, list[Wants]] = {}
    for want in sorted(wants, key=lambda want: want.drawn.at_min):
        by_item.setdefault(want.drawn.item, []).append(want)
    for item, own in by_item.items():
        there = store.lots.open_materials(item)
        held = store.lots.holds([lot.number for lot, _ in there])
        layers = [Layer(lot.number, left) for lot, left in there if lot.number not in held and left > 0]
        blends = scenario.ingredient(item).blends_kg
        shares = first_in_first_out(layers, [want.drawn.amount for want in own], blends)
        uses = [
            NewUse(
                lot=share.lot,
                into=want.into,
                item=item,
                amount=share.amount,
                kind=want.drawn.kind if share.amount > 0 else "beside",
                at=moment_of(scenario, want.drawn.at_min),
                author=BY_PLAN,
            )
            for want, of in zip(own, shares, strict=True)
            for share in of
        ]
        store.lots.use(uses)
        left = {layer.lot: layer.amount for layer in layers}
        for use in uses:
            if use.lot is not None:
                left[use.lot] -= use.amount
        empty: dict[int, dict[str, Any]] = {lot: {} for lot, amount in left.items() if amount < NOTHING_LEFT}
        store.lots.note(empty, "empty", moment_of(scenario, own[-1].drawn.at_min), BY_PLAN)


def _hold_made_of_held(store: Repository, clock: Clock, new: Sequence[int]) -> None:
    """Hold what has just been made of something that is held: a dough goes on though it is, and so do its packs."""
    sources: dict[int, list[int]] = {}
    for use in store.lots.uses_into(new):
        if use.lot is not None:
            sources.setdefault(use.into, []).append(use.lot)
    holds = store.lots.holds(sorted({lot for own in sources.values() for lot in own}))
    reasons = {lot: events[-1].said["reason"] for lot, events in holds.items()}
    said = dict[int, dict[str, Any]]()
    for number in new:
        held = next((lot for lot in sources.get(number, ()) if lot in reasons), None)
        if held is not None:
            reasons[number] = reasons[held]
            said[number] = {"reason": reasons[held], "from": held}
    if said:
        origin = f"{len(said)} lots are made of what is held: {next(iter(said.values()))['reason']}"
        hold_lots(store, clock, said, clock.now(), BY_PLAN, origin)


def _hold_failed(store: Repository, clock: Clock, scenario: Scenario) -> None:
    """Hold the packs that passed while nothing says that they were good, for each check that holds what passed."""
    begin, until = moment_of(scenario, 0) - KNOWN_FOR, clock.now()
    now_min = clock.minute_of(scenario.window.starts_at)
    for line in scenario.plant.lines:
        checks = {one.id: one.name for one in store.inspections.newest().inspections.on(line.id) if one.holds}
        found = [one for one in store.inspections.found(line.id, begin, until) if one.good is not None]
        for check, name in checks.items():
            own = [one for one in found if one.inspection == check]
            finds = [(minute_of(scenario, one.at), bool(one.good)) for one in own]
            for spell in failed_spells(finds, now_min):
                first = own[spell.place]
                said = {"reason": f"{name}: {first.says}", "find": str(first.uuid)}
                passed = _passed(store, scenario, line.id, spell, said["find"])
                if passed:
                    origin = f"{first.author} found {name}: {first.says}"
                    each = dict.fromkeys(passed, said)
                    hold_lots(store, clock, each, moment_of(scenario, spell.until_min), first.author, origin)


def _hold_uncleared(store: Repository, clock: Clock, scenario: Scenario) -> None:
    """Hold the packs of runs that were packed before their go-ahead, since the plant asks for one."""
    newest = store.inspections.newest()
    if newest.created_at is None:
        return
    since = max(moment_of(scenario, 0) - KNOWN_FOR, clock.shown_at(newest.created_at))
    for line in scenario.plant.lines:
        asked = [one for one in newest.inspections.on(line.id) if one.clears]
        if not asked:
            continue
        lots = [lot for lot in store.lots.since("packs", since, line.id) if lot.run]
        known = {(event.lot, event.said.get("clears")) for event in store.lots.events_of([lot.number for lot in lots])}
        found = [one for one in store.inspections.found(line.id, since - KNOWN_FOR, clock.now()) if one.good]
        for check in asked:
            good = dict[str | None, list[float]]()
            for one in found:
                if one.inspection == check.id:
                    good.setdefault(one.run, []).append(minute_of(scenario, one.at))
            said = {"reason": f"{check.name}: packed before it was good", "clears": check.id}
            held = [
                lot.number
                for lot in lots
                if check.product in {None, lot.item}
                and (lot.number, check.id) not in known
                and packed_before(minute_of(scenario, lot.at), good.get(lot.run, []))
            ]
            if held:
                hold_lots(store, clock, dict.fromkeys(held, said), clock.now(), BY_PLAN, str(said["reason"]))


def _passed(store: Repository, scenario: Scenario, line: str, spell: FailedSpell, find: str) -> list[int]:
    """The lots of packs that came off a line in a spell, and are not held for its find yet."""
    begin, end = moment_of(scenario, spell.from_min), moment_of(scenario, spell.until_min)
    lots = store.lots.since("packs", begin - KNOWN_FOR, line)
    passed = [lot.number for lot in lots if lot.until_at >= begin and lot.at <= end]
    known = {one.lot for one in store.lots.events_of(passed) if one.said.get("find") == find}
    return [lot for lot in passed if lot not in known]


def _load(store: Repository, scenario: Scenario, now_min: float) -> None:
    """Send each lorry that has left, and of which nobody has told, with the oldest packs that may go."""
    left = [wave for wave in scenario.waves if wave.departs_min <= now_min]
    gone = store.lots.gone([wave.id for wave in left])
    told = {load.lorry for load in store.lots.loads([wave.id for wave in left])}
    dues = [due for line in scenario.plant.lines for due in dues_of(scenario, line.id)]
    going = sorted((wave for wave in left if wave.id not in gone), key=lambda wave: wave.departs_min)
    there = {one.lot: one for one in loadable(store, scenario)} if going else {}
    loads = list[Load]()
    for wave in going:
        for due in (due for due in dues if due.wave == wave.id and wave.id not in told):
            may = (one for one in there.values() if one.product == due.product and one.made_min <= due.loaded_by_min)
            at = moment_of(scenario, due.loaded_by_min)
            for lot, packs in oldest_first(scenario, wave, may, due.packs):
                there[lot] = there[lot]._replace(packs=there[lot].packs - packs)
                loads.append(Load(lot=lot, lorry=wave.id, product=due.product, packs=packs, at=at, author=BY_PLAN))
        store.lots.leave(wave.id, moment_of(scenario, wave.departs_min), {}, BY_PLAN, None)
    store.lots.load(loads)


def loadable(store: Repository, scenario: Scenario, product: str | None = None) -> list[Loadable]:
    """The packs that are there, of a product or of all, the oldest first, and how their lots stand."""
    there = store.lots.packs_there(moment_of(scenario, 0) - LOTS_BACK, product)
    numbers = [lot.number for lot, _ in there]
    held, cleared = store.lots.holds(numbers), store.lots.with_event(numbers, "cleared")
    return [
        Loadable(
            lot=lot.number,
            product=lot.item,
            packs=packs,
            made_min=minute_of(scenario, lot.at),
            held=held[lot.number][-1].said["reason"] if lot.number in held else None,
            cleared=lot.number in cleared,
        )
        for lot, packs in there
    ]
