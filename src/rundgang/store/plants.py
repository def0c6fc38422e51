"""Whose plant is in the database: the demo, or one's own; the whole of it taken out, and the demo thrown away."""

from typing import Literal, cast

from sqlalchemy import text
from sqlmodel import Session, col, select

from rundgang.core.errors import RundgangError
from rundgang.core.whole_plant import WholePlant
from rundgang.store.rows import Rows
from rundgang.store.tables import PlantOrigin
from rundgang.store.windows import Windows

Origin = Literal["demo", "own"]


class NotTheDemoError(RundgangError):
    """A plant of one's own is not thrown away."""

    def __init__(self) -> None:
        super().__init__("What is here is no demo, so nothing was deleted. Allowed: throwing the demo away.")


class Plants(Rows):
    """The plant there is."""

    def __init__(self, session: Session, window: int | None = None) -> None:
        super().__init__(session, window)
        self.windows = Windows(session, window)

    def origin(self) -> Origin | None:
        """Where the plant comes from; None where there is none."""
        query = select(PlantOrigin.origin).order_by(col(PlantOrigin.id).desc()).limit(1)
        return cast("Origin | None", self.session.exec(query).first())

    def write(self, origin: Origin, name: str) -> None:
        """Say where the plant comes from, in the open transaction."""
        self.session.add(PlantOrigin(origin=origin, name=name))
        self.session.flush()

    def whole(self) -> WholePlant:
        """The whole plant with the window that is planned, as it can be brought in elsewhere."""
        scenario, calendar = self.windows.scenario(), self.windows.calendars.newest()
        return WholePlant(
            scenario=scenario.model_copy(
                update={"blocks": tuple(block for block in scenario.blocks if not block.weekly), "absences": ()}
            ),
            calendar=calendar.calendar if calendar else None,
            later=self.windows.beyond(scenario),
        )

    def discard_demo(self) -> None:
        """Delete the demo and all that was done with it; NotTheDemoError where it is no demo."""
        if self.origin() != "demo":
            raise NotTheDemoError
        self.session.execute(text("SELECT rundgang_discard_demo()"))
        self.session.commit()
