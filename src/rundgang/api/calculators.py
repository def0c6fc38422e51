"""The calculators' routes: what can be asked, and the answers; and the table of units."""

from typing import Any

from fastapi import APIRouter
from pydantic import ValidationError

from rundgang.api.deps import Store
from rundgang.core.calculators.catalogue import CALCULATORS, AskedFor, asked_for, entry
from rundgang.core.calculators.parts import Answer
from rundgang.core.calculators.ready import ready
from rundgang.core.errors import MalformedError
from rundgang.core.model import Model
from rundgang.core.units import TABLE, Unit
from rundgang.formats.documents import faults_of

router = APIRouter(prefix="/api")


class EntryView(Model):
    """A calculation that can be asked for."""

    id: str
    name: str
    about: str
    question: str
    fields: tuple[AskedFor, ...]


@router.get("/units")
def units() -> tuple[Unit, ...]:
    """How every quantity is written in both systems."""
    return TABLE


@router.get("/calculators")
def calculators() -> tuple[EntryView, ...]:
    """Every calculator, with the fields of its question."""
    return tuple(
        EntryView(
            id=found.id,
            name=found.name,
            about=found.about,
            question=(found.question.__doc__ or "").strip(),
            fields=asked_for(found.question),
        )
        for found in CALCULATORS
    )


@router.get("/products/{product}/calculators")
def ready_for(store: Store, product: str) -> dict[str, dict[str, float]]:
    """A product's own figures for the calculators' questions, by question and field, in metric units."""
    return ready(store.windows.scenario(), product)


@router.post("/calculators/{entry_id}")
def ask(entry_id: str, question: dict[str, Any]) -> Answer:
    """The answer of one calculation, in metric units."""
    found = entry(entry_id)
    try:
        asked = found.question.model_validate(question)
    except ValidationError as error:
        raise MalformedError("The question", faults_of(error)) from None
    return found.answer(asked)
