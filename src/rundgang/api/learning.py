"""The routes of learning: what the record teaches about a line; tried on the plan, taken into the library, or left."""

from fastapi import APIRouter
from pydantic import Field

from rundgang.api.deps import Now, Store
from rundgang.api.library import Trial, TrialRequest, try_change
from rundgang.core.learning.facts import TakenLesson
from rundgang.core.model import Id, Model, Name, Text
from rundgang.jobs.learning import (
    MOST_TAKEN,
    LineLessons,
    edits_for,
    leave_lesson,
    line_lessons,
    origin_of_lessons,
)
from rundgang.jobs.libraries import Taken, change_library
from rundgang.store.lessons import LeftLesson

router = APIRouter(prefix="/api/learning")


class LessonsToTry(Model):
    """Lessons to try on the plan."""

    taken: tuple[TakenLesson, ...] = Field(min_length=1, max_length=MOST_TAKEN)


class LessonsToTake(LessonsToTry):
    """Lessons that somebody takes into the library.

    Attributes
    ----------
    based_on : int
        The version of the library that they were held against.
    """

    based_on: int = Field(ge=1, le=2_000_000_000)
    author: Text = Field(min_length=1, max_length=60)


class LessonToLeave(Model):
    """A lesson that somebody leaves, and why."""

    lesson: Text = Field(min_length=1, max_length=200)
    low: float = Field(ge=-1_000, le=1e9)
    high: float = Field(ge=-1_000, le=1e9)
    reason: Name
    author: Text = Field(min_length=1, max_length=60)


@router.get("/{line}")
def lessons(store: Store, now: Now, line: Id) -> LineLessons:
    """What the record of the last days teaches about a line, beside what the library says."""
    return line_lessons(store, now, line)


@router.post("/{line}/try")
def try_lessons(store: Store, now: Now, line: Id, request: LessonsToTry) -> Trial:
    """What lessons would do to the newest plan if they were taken; nothing is saved."""
    edits = edits_for(store.windows.scenario(), line, request.taken)
    return try_change(store, now, TrialRequest(edits=edits))


@router.post("/{line}/take", status_code=201)
def take_lessons(store: Store, line: Id, request: LessonsToTake) -> Taken:
    """Take lessons into a new version of the library."""
    edits = edits_for(store.windows.scenario(), line, request.taken)
    return change_library(store, request.based_on, edits, origin_of_lessons(request.taken, request.author))


@router.post("/{line}/leave", status_code=201)
def leave(store: Store, now: Now, line: Id, request: LessonToLeave) -> LeftLesson:
    """Leave a lesson: it is not offered again until the record says otherwise."""
    left = LeftLesson(at=now.now(), **request.model_dump())
    leave_lesson(store, line, left)
    return left
