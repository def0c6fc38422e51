"""The route of quality: control charts by product and check, what to do at the divider, giveaway, and the law."""

from fastapi import APIRouter

from rundgang.api.deps import Now, Store
from rundgang.core.model import Id
from rundgang.jobs.quality import LineQuality, line_quality

router = APIRouter(prefix="/api/quality")


@router.get("")
def quality(store: Store, now: Now, line: Id) -> LineQuality:
    """A line's charts, station by station in walking order."""
    return line_quality(store, now, line)
