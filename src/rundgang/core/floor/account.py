"""The account of a line: what was planned and made, hour by hour, and each missing pack with exactly one cause.

The losses of an hour add up to what it lacks, and those of all hours to planned less made: an hour that makes up for
another has a loss below nothing. From the same figures come availability, effectiveness and quality, and their product,
by the definitions of ISO 22400-2 (from memory):

    availability  = production time / planned busy time
    effectiveness = planned time for one x produced / production time
    quality ratio = good / produced
    OEE           = availability x effectiveness x quality ratio
"""

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Literal, NamedTuple

from rundgang.core.floor.followed import Counted, Stoppage
from rundgang.core.floor.now import Felt, felt_at_end, planned_packs
from rundgang.core.model import Model
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario

LossKind = Literal["stood", "slower", "made up"]
"""A station stood; the line went slower or later than planned; it made more than planned in this hour."""


class Loss(Model):
    """Packs that are missing, or below nothing made up, for one cause.

    Attributes
    ----------
    cause : str
        What somebody has told of the stop; empty where nobody has.
    """

    kind: LossKind
    station: str | None = None
    cause: str = ""
    minutes: float = 0
    packs: int


class AccountHour(Model):
    """An hour of the account; its losses add up to planned less made."""

    from_min: float
    until_min: float
    planned: int
    made: int
    losses: tuple[Loss, ...]


class Effectiveness(Model):
    """Availability, effectiveness, quality ratio and their product, each of 1; None where nothing was planned, or made.

    Attributes
    ----------
    busy_min, production_min : float
        When packs were planned; and of that, when nothing stood.
    produced, good : int
        Packs that were made; and of those, not scrapped.
    """

    busy_min: float
    production_min: float
    planned: int
    produced: int
    good: int
    availability: float | None
    effectiveness: float | None
    quality: float | None
    oee: float | None


class Account(Model):
    """A line from a moment to another, min.

    Attributes
    ----------
    pareto : tuple of Loss
        The losses of all hours by cause, the largest first; what was made up last.
    """

    from_min: float
    until_min: float
    planned: int
    made: int
    hours: tuple[AccountHour, ...]
    pareto: tuple[Loss, ...]
    figures: Effectiveness


class ToldStop(NamedTuple):
    """A stop of which somebody has told the cause, min."""

    station: str
    from_min: float
    until_min: float
    cause: str


def account_of(
    scenario: Scenario,
    plan: LinePlan,
    packs: Counted,
    stoppages: Sequence[Stoppage],
    told: Sequence[ToldStop],
    hours: Sequence[float],
    scrapped: int = 0,
) -> Account:
    """The account of a line.

    Parameters
    ----------
    packs : Counted
        At the line's end, from the first hour on.
    stoppages : sequence of Stoppage
        When stations stood, each for itself.
    hours : sequence of float
        When each begins, min; the last only ends, and is over.
    scrapped : int
        Packs of these hours that were scrapped.
    """
    begin, end = hours[0], hours[-1]
    known = [(felt_at_end(scenario, plan, stoppage, end), _told(stoppage, told)) for stoppage in stoppages]
    felt, causes = [one for one, _ in known if one], [cause for one, cause in known if one]
    listed = tuple(_hour(plan, packs, felt, causes, from_min, until_min) for from_min, until_min in pairwise(hours))
    planned, made = sum(hour.planned for hour in listed), sum(hour.made for hour in listed)
    return Account(
        from_min=begin,
        until_min=end,
        planned=planned,
        made=made,
        hours=listed,
        pareto=_pareto(listed),
        figures=effectiveness(*_times(plan, felt, begin, end), planned, made, made - scrapped),
    )


def moved(account: Account, minutes: float) -> Account:
    """An account told in minutes of another window, which began so much earlier."""
    hours = (
        hour.model_copy(update={"from_min": hour.from_min + minutes, "until_min": hour.until_min + minutes})
        for hour in account.hours
    )
    update = {"from_min": account.from_min + minutes, "until_min": account.until_min + minutes, "hours": tuple(hours)}
    return account.model_copy(update=update)


def joined(accounts: Sequence[Account]) -> Account:
    """Accounts of several stretches, or of several lines, as one: what is lost and made adds up."""
    hours = tuple(sorted((hour for one in accounts for hour in one.hours), key=lambda hour: hour.from_min))
    figures = [one.figures for one in accounts]
    return Account(
        from_min=min(one.from_min for one in accounts),
        until_min=max(one.until_min for one in accounts),
        planned=sum(one.planned for one in accounts),
        made=sum(one.made for one in accounts),
        hours=hours,
        pareto=_pareto(hours),
        figures=together(figures),
    )


def together(figures: Sequence[Effectiveness]) -> Effectiveness:
    """The figures of several stretches or lines as one: their times and packs add up."""
    return effectiveness(
        sum(one.busy_min for one in figures),
        sum(one.production_min for one in figures),
        sum(one.planned for one in figures),
        sum(one.produced for one in figures),
        sum(one.good for one in figures),
    )


def effectiveness(busy_min: float, production_min: float, planned: int, produced: int, good: int) -> Effectiveness:
    """Availability, effectiveness and quality by ISO 22400-2, from memory."""
    availability = production_min / busy_min if busy_min else None
    a_pack = busy_min / planned if planned else None
    effective = a_pack * produced / production_min if a_pack is not None and production_min else None
    quality = good / produced if produced else None
    parts = (availability, effective, quality)
    known = [part for part in parts if part is not None]
    return Effectiveness(
        busy_min=busy_min,
        production_min=production_min,
        planned=planned,
        produced=produced,
        good=good,
        availability=availability,
        effectiveness=effective,
        quality=quality,
        oee=known[0] * known[1] * known[2] if len(known) == len(parts) else None,
    )


def _told(stoppage: Stoppage, told: Sequence[ToldStop]) -> str:
    """What somebody has said of a stoppage: the cause of a stop of that station at the same time."""
    ends = float("inf") if stoppage.until_min is None else stoppage.until_min
    own = (one for one in told if one.station == stoppage.station)
    return next((one.cause for one in own if one.from_min <= ends and stoppage.from_min <= one.until_min), "")


def _hour(
    plan: LinePlan, packs: Counted, felt: Sequence[Felt], causes: Sequence[str], begin: float, until: float
) -> AccountHour:  # fmt: skip
    planned = round(planned_packs(plan, until)) - round(planned_packs(plan, begin))
    made = round(packs.risen_by(until)) - round(packs.risen_by(begin))
    losses = tuple(_losses(plan, felt, causes, begin, until, planned - made))
    return AccountHour(from_min=begin, until_min=until, planned=planned, made=made, losses=losses)


def _losses(
    plan: LinePlan, felt: Sequence[Felt], causes: Sequence[str], begin: float, until: float, lost: int
) -> Iterator[Loss]:  # fmt: skip
    """What an hour lacks, by what stood as long as that explains it, and the rest as slower; or what it made up."""
    if lost < 0:
        yield Loss(kind="made up", packs=lost)
        return
    left = lost
    for stood, cause in zip(felt, causes, strict=True):
        from_min, to_min = max(begin, stood.from_min), min(until, stood.until_min)
        if to_min <= from_min:
            continue
        packs = min(left, round(planned_packs(plan, to_min) - planned_packs(plan, from_min)))
        if packs > 0:
            left -= packs
            yield Loss(kind="stood", station=stood.station, cause=cause, minutes=to_min - from_min, packs=packs)
    if left:
        yield Loss(kind="slower", packs=left)


def _pareto(hours: Sequence[AccountHour]) -> tuple[Loss, ...]:
    found: dict[tuple[LossKind, str | None, str], Loss] = {}
    for loss in (loss for hour in hours for loss in hour.losses):
        key = loss.kind, loss.station, loss.cause
        known = found.get(key, loss.model_copy(update={"packs": 0, "minutes": 0.0}))
        more = {"packs": known.packs + loss.packs, "minutes": known.minutes + loss.minutes}
        found[key] = known.model_copy(update=more)
    return tuple(sorted(found.values(), key=lambda loss: -loss.packs))


def _times(plan: LinePlan, felt: Sequence[Felt], begin: float, end: float) -> tuple[float, float]:
    """When packs were planned to come, min, and of that when nothing stood."""
    busy = _united((run.first_pack_min, run.last_pack_min) for run in plan.giving)
    busy = [(max(begin, first), min(end, last)) for first, last in busy if last > begin and first < end]
    stood = _united((one.from_min, one.until_min) for one in felt)
    total = sum(last - first for first, last in busy)
    down = sum(max(0.0, min(last, to) - max(first, at)) for first, last in busy for at, to in stood)
    return total, total - down


def _united(spans: Iterator[tuple[float, float]]) -> list[tuple[float, float]]:
    """Stretches of time, those that overlap as one."""
    found = list[tuple[float, float]]()
    for first, last in sorted(spans):
        if found and first <= found[-1][1]:
            found[-1] = found[-1][0], max(found[-1][1], last)
        elif last > first:
            found.append((first, last))
    return found
