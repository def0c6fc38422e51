"""Entering a run that is on a line and in no plan: a fact from then on, and a version by which the floor works."""

from datetime import datetime

from pydantic import Field

from rundgang.core.errors import MalformedError, RundgangError
from rundgang.core.floor.entered import OnLine, as_entered
from rundgang.core.model import Id, Model
from rundgang.core.orders import LONGEST_WINDOW_MIN, MAX_PACKS
from rundgang.core.planning.checked import checked, refuse_unsound
from rundgang.core.planning.repair import Moved
from rundgang.core.rolling.roll import Rolled, Settled
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import clock, minute_of
from rundgang.store.plans import Made, StoredVersion
from rundgang.store.repository import Repository


class OnLineRequest(Model):
    """A run that is on a line, with its moments on the plant's clock.

    Attributes
    ----------
    packs : int
        That it gives in all, what has been made of it included.
    first_piece : datetime
        When its first piece was, or will be, divided.
    emptied : tuple of datetime
        When those of its doughs left the bowl that are mixed, the first ones; none: as a plan would have them.
    """

    line: Id
    product: Id
    packs: int = Field(ge=1, le=MAX_PACKS)
    first_piece: datetime = Field(description="on the plant's clock")
    emptied: tuple[datetime, ...] = Field(default=(), max_length=500, description="on the plant's clock")


def enter_run(
    store: Repository, scenario: Scenario, version: StoredVersion, request: OnLineRequest, author: str
) -> tuple[StoredVersion, tuple[Moved, ...]]:  # fmt: skip
    """Store a run that is on a line, and the plan fitted around it, in one transaction.

    What had begun before the window makes that begin earlier: as the next window of the list, which goes on from now.

    Parameters
    ----------
    scenario, version
        At this moment, and what the floor works by.

    Raises
    ------
    MalformedError
        A moment that the plant's clock does not have.
    UnsoundFactError
        The plan does not fit around it.
    """
    store = Repository(store.session)
    made = OnLine(
        line=request.line,
        product=request.product,
        packs=request.packs,
        start_min=_minute(scenario, request.first_piece),
        discharged_min=tuple(_minute(scenario, moment) for moment in request.emptied),
    )
    found = as_entered(scenario, version.plan, made)
    sound = checked(found.scenario, found.plan)
    refuse_unsound(sound)
    if found.earlier_min:
        rolled = Rolled(
            begin_min=-found.earlier_min,
            scenario=found.scenario,
            book=store.books.orders(store.books.row()),
            plans=found.plan.plans,
            settled=Settled(),
        )
        store.windows.go_on(rolled, author)
    note = Made(
        book=store.books.newest().number,
        library=store.libraries.number(),
        opening=store.openings.newest().number,
        author=author,
        note=f"{scenario.product(made.product).name} entered: {made.packs:,} packs that are on the line",
        parent=None if found.earlier_min else version.note.number,
    )
    stored = store.plans.write(found.plan, note, *sound)
    store.plans.write_publication(stored.note.number, author)
    store.session.commit()
    return stored, found.moved


def _minute(scenario: Scenario, moment: datetime) -> float:
    """The minute of a moment that is within a week of the window's start."""
    said = f"its moment is {moment:%Y-%m-%d %H:%M}; allowed: "
    try:
        minute = minute_of(scenario, moment)
    except (RundgangError, OverflowError) as error:
        raise MalformedError("The run", (said + str(error),)) from None
    if abs(minute) > LONGEST_WINDOW_MIN:
        raise MalformedError("The run", (f"{said}within a week of {clock(scenario, 0)}, when the window begins",))
    return minute
