"""The routes of mock recalls: a bag is named, a stop-watch runs, and what was found is held against the record."""

from uuid import UUID

from fastapi import APIRouter
from pydantic import Field

from rundgang.api.deps import Author, Now, Number, Store
from rundgang.core.floor.mock_recall import RecallAnswer
from rundgang.core.model import Model, Text
from rundgang.jobs import mock_recalls
from rundgang.jobs.mock_recalls import MockRecallView

router = APIRouter(prefix="/api/mock-recalls")


class BeginRequest(Model):
    """To begin one. Its id is given where it is made: sent twice, it is begun once."""

    uuid: UUID
    author: Author = "planner"


class AnswerRequest(Model):
    """What was found."""

    source: Text = Field(min_length=1, max_length=120, description="The code on the label of the ingredient's lot.")
    packs: int = Field(ge=0, le=100_000_000)
    lorries: int = Field(ge=0, le=100_000)


@router.get("")
def recalls(store: Store) -> tuple[MockRecallView, ...]:
    """The last ones, the newest first."""
    return mock_recalls.newest(store)


@router.post("", status_code=201)
def begin(store: Store, now: Now, request: BeginRequest) -> MockRecallView:
    """Name a bag that went out, and start the stop-watch."""
    return mock_recalls.begin(store, now, request.uuid, request.author)


@router.get("/{number}")
def recall(store: Store, number: Number) -> MockRecallView:
    """One of them."""
    return mock_recalls.view_of(store, store.mock_recalls.one(number))


@router.post("/{number}/answer", status_code=201)
def answer(store: Store, number: Number, request: AnswerRequest) -> MockRecallView:
    """Stop the stop-watch, and hear what of it is right."""
    return mock_recalls.answer(store, number, RecallAnswer(**request.model_dump()))
