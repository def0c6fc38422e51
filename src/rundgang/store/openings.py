"""Openings: packs in stock, closed stations, ovens, tools and what was made last, where the window begins."""

from sqlmodel import col, select

from rundgang.core.model import Model
from rundgang.core.opening import HeatedOven, LastRun, WornTool
from rundgang.core.orders import Block, FinishedStock
from rundgang.core.scenario import Scenario
from rundgang.store.rows import Rows, key
from rundgang.store.tables import OpeningEntry

NEWEST = -1
"""Asks for the newest opening; 0 or None for none."""


class StoredOpening(Model):
    """Packs in stock at the window's start, ovens that are on, worn tools, what was made last; and the closings."""

    number: int
    finished: tuple[FinishedStock, ...] = ()
    blocks: tuple[Block, ...] = ()
    heated: tuple[HeatedOven, ...] = ()
    worn: tuple[WornTool, ...] = ()
    last: tuple[LastRun, ...] = ()


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

    def write(self, scenario: Scenario, origin: str) -> None:
        """Store a scenario's stock, closings and opening, in the open transaction; they count from now on."""
        data = scenario.model_dump(mode="json", include={"finished", "blocks", "opening"})
        self.session.add(
            OpeningEntry(
                window_id=key(self.window().id),
                origin=origin,
                finished=data["finished"],
                blocks=data["blocks"],
                heated=data["opening"]["heated"],
                worn=data["opening"]["worn"],
                last=data["opening"]["last"],
            )
        )
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
    )
