"""The routes of what happened: a run that no plan has is on a line; a begun one went slower, or was ended early."""

from datetime import datetime

from fastapi import APIRouter
from pydantic import Field

from rundgang.api.changing import Changed, store_as_fact
from rundgang.api.deps import Author, Now, Number, Replanned
from rundgang.api.stops import minute_asked, worked_by
from rundgang.core.floor.actual import Happened, Slowed, as_happened
from rundgang.core.model import Model
from rundgang.core.planning.checked import checked, refuse_unsound
from rundgang.jobs.entering import OnLineRequest, enter_run

router = APIRouter(prefix="/api/versions")


class HappenedRequest(Model):
    """What happened to a run, since when on the plant's clock, and who says so."""

    happened: Happened
    since: datetime | None = Field(default=None, description="on the plant's clock; none: now")
    author: Author = "planner"


@router.post("/{number}/happened", status_code=201)
def happened(store: Replanned, now: Now, number: Number, request: HappenedRequest) -> Changed:
    """Enter what has happened: it is fact from now on, the plan is fitted around it, and the floor works by that."""
    store.openings.locked_window()
    scenario, version = worked_by(store, now, number)
    at_min = minute_asked(scenario, request.since, "What happened")
    after, found = as_happened(scenario, version.plan, request.happened, at_min)
    sound = checked(after, found.plan)
    refuse_unsound(sound)
    what = request.happened
    said = (
        f"went on at {what.share * 100:.0f} % of its pace"
        if isinstance(what, Slowed)
        else f"ended after {what.packs} packs"
    )
    stored = store_as_fact(store, found.plan, sound, number, request.author, f"{what.run} {said}")
    return Changed(version=stored.note.number, cost=found.plan.cost, cost_before=version.plan.cost, moved=found.moved)


class EnteredRequest(Model):
    """A run that is on a line, and who says so."""

    run: OnLineRequest
    author: Author = "planner"


@router.post("/{number}/on-line", status_code=201)
def on_line(store: Replanned, now: Now, number: Number, request: EnteredRequest) -> Changed:
    """Enter a run that is on a line: it is fact from now on, the plan is fitted around it, and the floor works by that.

    One that began before the window makes that begin earlier.
    """
    store.openings.locked_window()
    scenario, version = worked_by(store, now, number)
    stored, moved = enter_run(store, scenario, version, request.run, request.author)
    return Changed(version=stored.note.number, cost=stored.plan.cost, cost_before=version.plan.cost, moved=moved)
