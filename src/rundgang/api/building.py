"""The routes of building a plant: patterns of families, a draft tried as it is typed, and the plant it becomes."""

from collections.abc import Iterator
from contextlib import contextmanager

from fastapi import APIRouter
from pydantic import ValidationError

from rundgang.api.deps import Now, Store
from rundgang.api.plant import PlantState, coming_window, state
from rundgang.core.balance import LineBalance, balance
from rundgang.core.building import Draft, Pattern, built, patterns
from rundgang.core.errors import MalformedError
from rundgang.core.model import Model
from rundgang.core.whole_plant import WholePlant
from rundgang.demo.usual import usual_library
from rundgang.formats.clock import zone_of
from rundgang.formats.documents import faults_of
from rundgang.jobs.founding import SOON, found

router = APIRouter(prefix="/api/build")


class DraftTried(Model):
    """What the line of a draft can carry, product by product."""

    balances: tuple[LineBalance, ...]


@router.get("/patterns")
def families() -> tuple[Pattern, ...]:
    """The families there is a pattern for, each with its walk and its usual figures."""
    return patterns(usual_library())


@contextmanager
def _refused() -> Iterator[None]:
    """Say what of a draft does not hold together."""
    try:
        yield
    except ValidationError as error:
        raise MalformedError("What is filled in is not valid. It", faults_of(error)) from None


def _built(draft: Draft, now: Now) -> WholePlant:
    with _refused():
        whole = built(usual_library(), draft, coming_window(now))
    zone_of(whole.scenario)
    return whole


@router.post("/try")
def try_draft(now: Now, draft: Draft) -> DraftTried:
    """What a draft can carry: capacity, bottleneck, flour to pack. Nothing is stored."""
    scenario = _built(draft, now).scenario
    return DraftTried(balances=tuple(balance(scenario, product.id) for product in scenario.products))


@router.post("", status_code=201)
def build(store: Store, now: Now, draft: Draft) -> PlantState:
    """Make the plant of a draft; it is one's own from then on."""
    found(store, _built(draft, now), "own", SOON)
    return state(store)
