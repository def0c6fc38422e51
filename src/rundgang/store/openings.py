"""Openings: what a window is planned from: stock, closed stations, ovens, tools, what has begun; and the calendar."""

from datetime import datetime
from typing import Any

from sqlmodel import col, func, select

from rundgang.core.model import Model
from rundgang.core.opening import Gives, HeatedOven, LastRun, Loaded, Opening, WornTool
from rundgang.core.orders import Block, FinishedStock
from rundgang.core.planning.model import Run
from rundgang.core.scenario import Scenario, Stock
from rundgang.store.rows import Rows, key, written
from rundgang.store.tables import OpeningEntry

LISTS = ("finished", "blocks", "heated", "worn", "last", "begun", "gives", "loaded")
"""What of an opening are lists."""

NEWEST = -1
"""Asks for the newest opening; 0 or None for none."""


class StoredOpening(Model):
    """Packs in stock, closings, ovens that are on, worn tools, what was made last, and what had begun before.

    Attributes
    ----------
    now_min : float
        Nothing new is begun before that, from the window's start, min.
    stocks : tuple of Stock or None
        The materials; None: those of the window.
    calendar : int or None
        Number of the calendar that gives the lorries and the weekly closings.
    restores : int or None
        Number of the earlier opening it repeats; 0: there was none.
    """

    number: int
    finished: tuple[FinishedStock, ...] = ()
    blocks: tuple[Block, ...] = ()
    heated: tuple[HeatedOven, ...] = ()
    worn: tuple[WornTool, ...] = ()
    last: tuple[LastRun, ...] = ()
    stocks: tuple[Stock, ...] | None = None
    now_min: float = 0
    begun: tuple[Run, ...] = ()
    calendar: int | None = None
    restores: int | None = None
    gives: tuple[Gives, ...] = ()
    loaded: tuple[Loaded, ...] = ()

    @property
    def opening(self) -> Opening:
        """As the core takes it."""
        names = ("now_min", "begun", "heated", "worn", "last", "gives", "loaded")
        return Opening(**{name: getattr(self, name) for name in names})


class OpeningNote(Model):
    """That something of the opening was entered: when, and who said what."""

    number: int
    created_at: datetime
    origin: str


class Openings(Rows):
    """What has been entered of the window's opening; the newest entry counts."""

    def row(self, number: int | None = NEWEST) -> OpeningEntry | None:
        """An entry's row; None where there is none."""
        if not number:
            return None
        query = select(OpeningEntry).where(OpeningEntry.window_id == self.window().id)
        if number != NEWEST:
            query = query.where(OpeningEntry.id == number)
        return self.session.exec(query.order_by(col(OpeningEntry.id).desc()).limit(1)).first()

    def newest(self) -> StoredOpening:
        """The newest entry; number 0 where nobody has entered any."""
        return as_opening(self.row())

    def notes(self, before: int | None, most: int) -> tuple[OpeningNote, ...]:
        """So much of what has been entered in this window, newest first; where asked, of what was before an entry."""
        query = select(OpeningEntry.id, OpeningEntry.created_at, OpeningEntry.origin)
        query = query.where(OpeningEntry.window_id == self.window().id)
        if before is not None:
            query = query.where(col(OpeningEntry.id) < before)
        query = query.order_by(col(OpeningEntry.id).desc()).limit(most)
        return tuple(
            OpeningNote(number=key(number), created_at=written(moment), origin=origin)
            for number, moment, origin in self.session.exec(query)
        )

    def write(self, scenario: Scenario, origin: str) -> None:
        """Store a scenario's stock, closings and opening, in the open transaction; they count from now on.

        The calendar stays, with the closings that it gives; and what had begun before the window.
        """
        known = self.newest()
        opening = scenario.opening.model_copy(update={"now_min": known.now_min, "begun": known.begun})
        self.write_whole(scenario.changed(opening=opening), origin, known.calendar)

    def write_whole(self, scenario: Scenario, origin: str, calendar: int | None) -> None:
        """Store a scenario's stock, closings and opening, what has begun too, and the number of its calendar.

        Closings of the calendar, which `scenario` has as well, are known by it.
        """
        data = scenario.model_dump(mode="json", include={"finished", "blocks", "stocks", "opening"})
        self.session.add(
            OpeningEntry(
                window_id=key(self.window().id),
                origin=origin,
                finished=data["finished"],
                blocks=[block for block in data["blocks"] if not block["weekly"]],
                heated=data["opening"]["heated"],
                worn=data["opening"]["worn"],
                last=data["opening"]["last"],
                stocks=data["stocks"],
                now_min=data["opening"]["now_min"],
                begun=data["opening"]["begun"],
                gives=data["opening"]["gives"],
                loaded=data["opening"]["loaded"],
                calendar_id=calendar,
            )
        )
        self.session.flush()

    def written_at(self, number: int, moment: datetime) -> tuple[int, int] | None:
        """The opening before one, 0 for none, and the one, if it was written in the transaction of a moment."""
        row = self.row(number)
        if row is None or row.created_at != moment:
            return None
        query = select(func.max(OpeningEntry.id)).where(OpeningEntry.window_id == row.window_id)
        return self.session.exec(query.where(col(OpeningEntry.id) < number)).one() or 0, number

    def write_again(self, number: int, origin: str) -> None:
        """Store the next opening, in the open transaction: a copy of an earlier one, or an empty one for 0."""
        known = _parts(self.row(number))
        self.session.add(OpeningEntry(window_id=key(self.window().id), origin=origin, restores=number, **known))
        self.session.flush()

    def set_calendar(self, number: int, origin: str) -> None:
        """Let another calendar count, in the open transaction; all else stays."""
        known = _parts(self.row()) | {"calendar_id": number}
        self.session.add(OpeningEntry(window_id=key(self.window().id), origin=origin, **known))
        self.session.flush()


def as_opening(entry: OpeningEntry | None) -> StoredOpening:
    """A row's opening; the empty one where there is none."""
    if entry is None:
        return StoredOpening(number=0)
    return StoredOpening(
        number=key(entry.id),
        finished=tuple(FinishedStock.model_validate(one) for one in entry.finished),
        blocks=tuple(Block.model_validate(one) for one in entry.blocks),
        heated=tuple(HeatedOven.model_validate(one) for one in entry.heated),
        worn=tuple(WornTool.model_validate(one) for one in entry.worn),
        last=tuple(LastRun.model_validate(one) for one in entry.last),
        stocks=None if entry.stocks is None else tuple(Stock.model_validate(one) for one in entry.stocks),
        now_min=entry.now_min,
        begun=tuple(Run.model_validate(one) for one in entry.begun),
        calendar=entry.calendar_id,
        restores=entry.restores,
        gives=tuple(Gives.model_validate(one) for one in entry.gives),
        loaded=tuple(Loaded.model_validate(one) for one in entry.loaded),
    )


def _parts(row: OpeningEntry | None) -> dict[str, Any]:
    """What a row says of the opening, as another row takes it; of none, nothing."""
    lists: dict[str, Any] = {name: [] for name in LISTS}
    return {name: getattr(row, name) for name in (*lists, "stocks", "now_min", "calendar_id")} if row else lists
