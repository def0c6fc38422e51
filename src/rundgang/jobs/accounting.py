"""The account of a line as people ask for it: whole hours that are over, with the records beneath each figure.

The hours of a window that is over are held beside the plan that was published last in it, by the library of that time.
An hour is of the window in which it begins. Minutes are told from the start of the window that is planned now.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import UTC, datetime, timedelta
from math import ceil, floor, inf
from typing import NamedTuple

from rundgang.clock import Clock
from rundgang.core.errors import OutOfRangeError, RundgangError
from rundgang.core.floor.account import (
    Account,
    ToldStop,
    account_of,
    effectiveness,
    joined,
    moved,
    together,
)
from rundgang.core.floor.evening import (
    GivenAway,
    OvenSpell,
    RunMade,
    Weighed,
    adherence,
    given_away,
    oven_spells,
    runs_made,
)
from rundgang.core.floor.followed import Counted, Stoppage, as_it_went
from rundgang.core.floor.inspections import entering_g
from rundgang.core.floor.instruments import Signal
from rundgang.core.floor.now import felt_at_end
from rundgang.core.floor.waste import off_by_cause
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR
from rundgang.formats.accounted import LineAccount, PackedLot, Pulled, Scrapped, Stood, Tally
from rundgang.formats.clock import local_time, minute_of, moment_of
from rundgang.jobs.following import Heard, followed_by, heard
from rundgang.jobs.spells import Spell, spells
from rundgang.store.repository import Repository

SHIFT_HOURS = 8
"""So many hours are told where nobody says which."""

MOST_HOURS = 24 * 14

LONGEST_STOP = timedelta(days=2)
"""A stop that was told of earlier is over."""

LEAD_MIN = 12 * 60.0
"""A run that is on a line when a window begins is followed from so long before, min."""


class NothingCountedError(RundgangError):
    """No counter has told how many packs the line made."""

    def __init__(self, line: str) -> None:
        super().__init__(
            f"Nothing has counted the packs of the {line} in these hours. Allowed: hours in which a last station is "
            "heard; the Instruments page says which are mapped."
        )


class Cell(NamedTuple):
    """Hours of a line in one window, in minutes of the window that is planned now."""

    account: Account
    runs: tuple[RunMade, ...]
    stood: tuple[Stood, ...]
    ovens: tuple[OvenSpell, ...]
    given: tuple[GivenAway, ...]


class _Told(NamedTuple):
    """A stop that somebody has told of a line."""

    number: int
    station: str
    began_at: datetime
    ended_at: datetime | None
    cause: str

    def in_minutes(self, scenario: Scenario) -> ToldStop:
        ends = inf if self.ended_at is None else minute_of(scenario, self.ended_at)
        return ToldStop(self.station, minute_of(scenario, self.began_at), ends, self.cause)


class _Seen(NamedTuple):
    """A line in a spell, as its counters saw it."""

    spell: Spell
    plan: LinePlan
    going: LinePlan
    told: Heard
    packs: Counted


class LineSeen:
    """A line over some time, as its counters saw it: what is asked of any of its hours is worked out of that."""

    def __init__(self, store: Repository, clock: Clock, line: str, since: datetime, until: datetime) -> None:
        self.store, self.line, self.present = store, line, store.windows.scenario()
        self.name = self.present.line(line).name
        self._stops = list(_told(store, line, since))
        known = (_seen(spell, line, until) for spell in spells(store, clock, since) if spell.moments[1] < until)
        self._seen = sorted((one for one in known if one), key=lambda one: one.spell.moments[1])
        self._cells = dict[tuple[datetime, datetime], tuple[Cell, ...]]()

    @property
    def version(self) -> int:
        """Of the plan that the last hours are held beside."""
        return self._seen[-1].spell.version.note.number if self._seen else 0

    def cells(self, since: datetime, until: datetime) -> tuple[Cell, ...]:
        """The hours between two moments in which packs were counted, window by window."""
        if (since, until) not in self._cells:
            found = (self._cell(one, since, until) for one in self._seen)
            self._cells[since, until] = tuple(cell for cell in found if cell)
        return self._cells[since, until]

    def _cell(self, seen: _Seen, since: datetime, until: datetime) -> Cell | None:
        spell, told, packs = seen.spell, seen.told, seen.packs
        scenario = spell.scenario
        begin = _next_hour(scenario, max(spell.begin, packs.since_min, minute_of(scenario, since)))
        end = min(_next_hour(scenario, spell.until), _full_hour(scenario, minute_of(scenario, until)))
        if begin >= end:
            return None
        scrapped = sum(one.packs for one in self._scrapped(moment_of(scenario, begin), moment_of(scenario, end)))
        stops = [stop.in_minutes(scenario) for stop in self._stops]
        account = account_of(scenario, seen.plan, packs, told.stood, stops, _hours(begin, end), scrapped)
        runs = runs_made(scenario, seen.plan, seen.going, told.packed, begin, end)
        later = minute_of(self.present, moment_of(scenario, 0.0))
        return Cell(
            account=moved(account, later),
            runs=tuple(_run_moved(run, later) for run in runs),
            stood=tuple(self._stood(seen, begin, end, later)),
            ovens=tuple(
                OvenSpell(station=one.station, from_min=one.from_min + later, until_min=one.until_min + later)
                for one in oven_spells(scenario, seen.going, begin, end)
            ),
            given=tuple(given_away(scenario, runs, _weighed(seen, begin, end))),
        )

    def _scrapped(self, since: datetime, until: datetime) -> tuple[Scrapped, ...]:
        return self.store.evening.scrapped(self.line, since.astimezone(UTC), until.astimezone(UTC))

    def _stood(self, seen: _Seen, begin: float, end: float, later: float) -> Iterator[Stood]:
        """The stoppages that the line's end felt in some hours."""
        for one in seen.told.stood:
            felt = felt_at_end(seen.spell.scenario, seen.plan, one, end)
            lasts = min(end, felt.until_min) - max(begin, felt.from_min) if felt else 0.0
            if lasts <= 0:
                continue
            told = self._stop_of(one, seen.spell.scenario)
            yield Stood(
                station=one.station,
                from_min=one.from_min + later,
                until_min=None if one.until_min is None else one.until_min + later,
                cause=told.cause if told else "",
                stop=told.number if told else None,
                felt_min=lasts,
            )

    def _stop_of(self, stood: Stoppage, scenario: Scenario) -> _Told | None:
        until = inf if stood.until_min is None else stood.until_min
        for stop in self._stops:
            known = stop.in_minutes(scenario)
            if known.station == stood.station and known.from_min <= until and stood.from_min <= known.until_min:
                return stop
        return None


def _hours(begin: float, end: float) -> list[float]:
    """When each hour begins, and the last ends, min."""
    return [begin + MINUTES_PER_HOUR * number for number in range(round((end - begin) / MINUTES_PER_HOUR) + 1)]


def _run_moved(run: RunMade, later: float) -> RunMade:
    moments = {"first_pack_min": run.first_pack_min + later, "last_pack_min": run.last_pack_min + later}
    return run.model_copy(update=moments)


def _seen(spell: Spell, line: str, until: datetime) -> _Seen | None:
    """A line in a spell, or what of that is over by a moment; None where it was not planned, or counted."""
    plan = next((plan for plan in spell.plans if plan.line == line), None)
    if plan is None or line not in {own.id for own in spell.scenario.plant.lines}:
        return None
    end = min(spell.until, minute_of(spell.scenario, until)) + MINUTES_PER_HOUR
    told = heard(spell.store.readings, spell.scenario, plan, end, end - max(0.0, spell.begin - LEAD_MIN))
    packs = told.packs
    if packs is None:
        return None
    return _Seen(spell, plan, as_it_went(plan, followed_by(told, spell.scenario, plan, end)), told, packs)


def _weighed(seen: _Seen, begin: float, end: float) -> dict[str, Weighed]:
    """What the scale behind the divider has read of each product in some hours."""
    scenario, found = seen.spell.scenario, dict[str, list[tuple[int, float]]]()
    targets = dict[str, float]()
    for run in seen.going.runs:
        product = scenario.product(run.product)
        first, last = max(begin, run.start_min), min(end, run.start_min + run.feed_min)
        station = product.piece_steps[0].station
        target = entering_g(product, station) if product.formula else None
        if first >= last or target is None:
            continue
        signal = Signal(line=seen.plan.line, station=station, quantity="weight")
        moments = (moment_of(scenario, minute).astimezone(UTC) for minute in (first, last))
        count, mean = seen.spell.store.readings.mean(signal, *moments)
        if count:
            found.setdefault(product.id, []).append((count, mean))
            targets[product.id] = target
    return {
        product: Weighed(
            sum(n for n, _ in own), sum(n * mean for n, mean in own) / sum(n for n, _ in own), targets[product]
        )
        for product, own in found.items()
    }


def _told(store: Repository, line: str, since: datetime) -> Iterator[_Told]:
    for stop in store.stops.of_line(line, since - LONGEST_STOP):
        said = next((event.said for event in reversed(stop.events) if event.kind == "cause"), None)
        cause = f"{said['cause']}: {said['exactly']}" if said else ""
        yield _Told(stop.number, stop.station, stop.began_at, stop.ended_at, cause)


def line_account(
    store: Repository, clock: Clock, line: str, since: datetime | None, until: datetime | None
) -> LineAccount:  # fmt: skip
    """The account of a line.

    Parameters
    ----------
    since, until : datetime, optional
        On the plant's clock, rounded to whole hours; none: the last eight hours that are over.

    Raises
    ------
    UnknownItemError
        No such line.
    NothingPublishedError
    OutOfRangeError
        No whole hour that is over lies between the two, or too many do.
    NothingCountedError
    """
    store.plans.live()
    scenario = store.windows.scenario()
    begin, end = asked_span(store, clock, since, until)
    seen = LineSeen(store, clock, line, begin, end)
    cells = seen.cells(begin, end)
    if not cells:
        raise NothingCountedError(seen.name)
    account = joined([cell.account for cell in cells])
    first, last = moment_of(scenario, account.from_min), moment_of(scenario, account.until_min)
    moments = first.astimezone(UTC), last.astimezone(UTC)
    scrapped, pulled = store.evening.scrapped(line, *moments), store.evening.pulled(line, *moments)
    return LineAccount(
        line=line,
        name=seen.name,
        version=seen.version,
        since=first,
        until=last,
        currency=scenario.plant.currency,
        account=account,
        tally=tally_of(cells, scrapped, pulled),
        stations={station.id: station.name for station in scenario.line(line).stations},
        products={product.id: product.name for product in scenario.made_on(line)},
        runs=_runs_together(cells),
        stood=tuple(one for cell in cells for one in cell.stood),
        ovens=tuple(one for cell in cells for one in cell.ovens),
        given=_given_together(cells),
        scrapped=scrapped,
        pulled=pulled,
        off=off_by_cause(((one.cause, one.packs) for one in scrapped), ((one.cause, one.pieces) for one in pulled)),
        lots=tuple(_lots(store, scenario, line, moments)),
        notes=store.evening.notes(line, moments[0], _told_until(clock, scenario, moments[1], until)),
    )


def _told_until(clock: Clock, scenario: Scenario, last: datetime, until: datetime | None) -> datetime:
    """Up to when what was handed over is shown: to now where the hours end now, as the last of them goes on."""
    asked = clock.now() if until is None else moment_of(scenario, minute_of(scenario, until)).astimezone(UTC)
    return max(last, min(asked, clock.now()) + timedelta(minutes=1))


def tally_of(cells: Sequence[Cell], scrapped: Iterable[Scrapped], pulled: Iterable[Pulled]) -> Tally:
    """What some cells come to, and what was scrapped and pulled in them."""
    given = [one for cell in cells for one in cell.given]
    prices = [one.money for one in given]
    return Tally(
        figures=together([cell.account.figures for cell in cells]),
        adherence=adherence(run for cell in cells for run in cell.runs),
        scrapped=sum(one.packs for one in scrapped),
        pulled=sum(one.pieces for one in pulled),
        oven_empty_min=sum(one.until_min - one.from_min for cell in cells for one in cell.ovens),
        given_kg=sum(one.kg for one in given) if given else None,
        given_money=sum(price or 0.0 for price in prices) if given and None not in prices else None,
    )


def product_tallies(
    cells: Sequence[Cell], scrapped: Iterable[Scrapped], pulled: Iterable[Pulled]
) -> Mapping[str, Tally]:  # fmt: skip
    """What some cells come to by product: packs, what was scrapped, pulled and given away of it."""
    runs, packs, pieces = _runs_together(cells), dict[str, int](), dict[str, int]()
    for one in scrapped:
        packs[one.product] = packs.get(one.product, 0) + one.packs
    for off in pulled:
        if off.product:
            pieces[off.product] = pieces.get(off.product, 0) + off.pieces
    given = {one.product: one for one in _given_together(cells)}
    found = dict[str, Tally]()
    for product in dict.fromkeys(run.product for run in runs):
        own = [run for run in runs if run.product == product]
        planned, made = sum(run.planned for run in own), sum(run.made for run in own)
        away = given.get(product)
        found[product] = Tally(
            figures=effectiveness(0.0, 0.0, planned, made, made - packs.get(product, 0)),
            adherence=adherence(own),
            scrapped=packs.get(product, 0),
            pulled=pieces.get(product, 0),
            oven_empty_min=0.0,
            given_kg=away.kg if away else None,
            given_money=away.money if away else None,
        )
    return found


def _runs_together(cells: Iterable[Cell]) -> tuple[RunMade, ...]:
    """The runs of all cells, each once: what it gave in each adds up."""
    found: dict[tuple[str, str], RunMade] = {}
    for run in (run for cell in cells for run in cell.runs):
        known = found.get((run.run, run.product))
        more = {"planned": known.planned + run.planned, "made": known.made + run.made} if known else {}
        found[run.run, run.product] = run.model_copy(update=more)
    return tuple(sorted(found.values(), key=lambda run: run.first_pack_min))


def _given_together(cells: Iterable[Cell]) -> tuple[GivenAway, ...]:
    found: dict[str, GivenAway] = {}
    for one in (one for cell in cells for one in cell.given):
        known = found.get(one.product)
        found[one.product] = one if known is None else _given_both(known, one)
    return tuple(found.values())


def _given_both(one: GivenAway, other: GivenAway) -> GivenAway:
    weighed = one.weighed + other.weighed
    return GivenAway(
        product=one.product,
        weighed=weighed,
        mean_g=(one.weighed * one.mean_g + other.weighed * other.mean_g) / weighed,
        target_g=other.target_g,
        pieces=one.pieces + other.pieces,
        kg=one.kg + other.kg,
        money=None if one.money is None or other.money is None else one.money + other.money,
    )


def _lots(
    store: Repository, scenario: Scenario, line: str, moments: tuple[datetime, datetime]
) -> Iterator[PackedLot]:  # fmt: skip
    """The lots of packs that a line gave in some hours."""
    begin, until = moments
    for lot in store.lots.since("packs", begin - timedelta(minutes=LEAD_MIN), line):
        if lot.run and lot.at < until and lot.until_at >= begin:
            yield PackedLot(
                lot=lot.number,
                code=lot.code,
                run=lot.run,
                product=lot.item,
                packs=round(lot.amount),
                until_min=minute_of(scenario, lot.until_at),
            )


def asked_span(
    store: Repository, clock: Clock, since: datetime | None, until: datetime | None
) -> tuple[datetime, datetime]:  # fmt: skip
    """The whole hours that are over between two moments on the plant's clock; none: the last eight.

    Raises
    ------
    OutOfRangeError
        There are none, or too many.
    """
    scenario = store.windows.scenario()
    full = _full_hour(scenario, clock.minute_of(scenario.window.starts_at))
    end = full if until is None else min(full, _full_hour(scenario, minute_of(scenario, until)))
    begin = end - SHIFT_HOURS * MINUTES_PER_HOUR if since is None else _full_hour(scenario, minute_of(scenario, since))
    count = (end - begin) / MINUTES_PER_HOUR
    if not 1 <= count <= MOST_HOURS:
        raise OutOfRangeError("The account", f"of {count:.0f} whole hours that are over", f"1 to {MOST_HOURS}")
    return moment_of(scenario, begin), moment_of(scenario, end)


def _full_hour(scenario: Scenario, minute: float) -> float:
    """The last whole hour of the plant's clock at a minute."""
    whole = floor(minute)
    return float(whole - local_time(scenario, whole).minute)


def _next_hour(scenario: Scenario, minute: float) -> float:
    """The next whole hour of the plant's clock from a minute on."""
    full = _full_hour(scenario, ceil(minute))
    return full if full >= minute else full + MINUTES_PER_HOUR
