"""What routes depend on: the store of the request, the clock, and the kinds of values that they take."""

from collections.abc import Iterator
from typing import Annotated

from fastapi import Body, Depends, Header, Query, Request
from pydantic import Field
from sqlmodel import Session

from rundgang.clock import Clock
from rundgang.core.errors import RundgangError
from rundgang.core.model import Text
from rundgang.core.planning.past import opened
from rundgang.core.scenario import Scenario
from rundgang.store.plans import StoredPlan, VersionNote
from rundgang.store.repository import Repository
from rundgang.store.rows import OF_REQUEST


class NotCsvError(RundgangError):
    """A body of another kind than CSV or a workbook."""

    def __init__(self, found: str) -> None:
        super().__init__(f"The upload is {found or 'of no stated type'}; allowed: text/csv, or a workbook.")


class ChangedSinceError(RundgangError):
    """Someone else has changed something meanwhile."""

    def __init__(self, what: str, seen: int, current: int) -> None:
        super().__init__(
            f"This is a change of {what} {seen}, but the newest is {current}. Nothing was changed; load it anew."
        )


class PlanChangedError(RundgangError):
    """Another version of the plan has come since the page saw the newest."""

    def __init__(self, newest: VersionNote) -> None:
        super().__init__(
            f"Version {newest.number} has come since: {newest.note}, by {newest.author}. Nothing was changed. "
            "Allowed: the same once more, now that it is known; or in that version."
        )


WindowQuery = Annotated[
    int | None, Query(ge=1, le=2_000_000_000, description="An earlier window to read; the newest alone can be changed.")
]


WindowHeader = Annotated[
    int | None, Header(ge=1, le=2_000_000_000, alias="Rundgang-Window", description="The same, as pages say it.")
]


def repository(
    request: Request, window: WindowQuery = None, seen: WindowHeader = None
) -> Iterator[Repository]:  # fmt: skip
    """The store, through a session of this request, of the newest window or of the one that is asked for."""
    with Session(request.app.state.engine, info={OF_REQUEST: True}) as session:
        yield Repository(session, window or seen)


def clock(request: Request) -> Clock:
    """The deployment's clock."""
    found: Clock = request.app.state.clock
    return found


def planned(store: Annotated[Repository, Depends(repository)]) -> Repository:
    """The store for a change; WindowOverError where the window that it is for has gone on."""
    store.windows.refuse_over()
    return store


VersionHeader = Annotated[
    int | None,
    Header(ge=1, le=2_000_000_000, alias="Rundgang-Version", description="The newest version that the page has seen."),
]


def replanned(store: Annotated[Repository, Depends(planned)], seen: VersionHeader = None) -> Repository:
    """The store for a change of the plan; PlanChangedError where a version has come that was not seen."""
    if seen is not None:
        store.openings.locked_window()
        if (store.plans.newest_number() or 0) > seen:
            raise PlanChangedError(store.plans.version().note)
    return store


Store = Annotated[Repository, Depends(repository)]
Planned = Annotated[Repository, Depends(planned)]
Replanned = Annotated[Repository, Depends(replanned)]
Now = Annotated[Clock, Depends(clock)]
Number = Annotated[int, Field(ge=1, le=2_000_000_000)]
Author = Annotated[Text, Field(min_length=1, max_length=60)]
LineQuery = Annotated[str | None, Query(max_length=40)]
FileName = Annotated[
    str, Query(max_length=120, pattern=r"^[^\x00-\x1f]*$", description="Name of the file, for the history.")
]
Before = Annotated[int | None, Query(ge=1, le=2_000_000_000, description="Only those with lower numbers.")]
Most = Annotated[int, Query(ge=1, le=500, description="So many at most, the newest of them.")]
PAGE = 100
"""So many of a list are answered at once, unless one asks for more."""
Csv = Annotated[bytes, Body(media_type="text/csv")]
ContentType = Annotated[str, Header()]

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def made_for(store: Repository, made: StoredPlan | VersionNote) -> Scenario:
    """The scenario that a plan was made for."""
    return store.windows.scenario(made.book, made.library, made.opening)


def at_present(store: Repository, now: Clock, scenario: Scenario) -> Scenario:
    """A scenario at this moment: what the published plan has begun by now goes on as it says."""
    minute = now.minute_of(scenario.window.starts_at)
    return opened(scenario, store.plans.floor_plans(), minute) if minute > 0 else scenario
