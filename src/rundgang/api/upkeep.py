"""The routes of upkeep: tools as they are worn, what is to be cleaned, and the diary with its releases."""

from fastapi import APIRouter
from pydantic import Field

from rundgang.api.deps import Now, Number, Store
from rundgang.core.model import Id, Model, Text
from rundgang.jobs.upkeep import UpkeepTold, Upkept, release, tell, upkeep_of

router = APIRouter(prefix="/api/upkeep")


class ReleaseRequest(Model):
    """Who releases an entry."""

    author: Text = Field(min_length=1, max_length=60)


@router.get("/{line}")
def upkeep(store: Store, now: Now, line: Id) -> Upkept:
    """A line's tools as they are worn, what is to be cleaned, and what was done in the last days."""
    return upkeep_of(store, now, line)


@router.post("/{line}/entries", status_code=201)
def add(store: Store, now: Now, line: Id, request: UpkeepTold) -> Upkept:
    """Tell what was cleaned, or which tool was renewed."""
    tell(store, now, line, request)
    return upkeep_of(store, now, line)


@router.post("/{line}/entries/{number}/release", status_code=201)
def release_entry(store: Store, now: Now, line: Id, number: Number, request: ReleaseRequest) -> Upkept:
    """Release an entry, by somebody else than whoever did it."""
    release(store, now, line, number, request.author)
    return upkeep_of(store, now, line)
