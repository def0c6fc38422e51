"""The routes of weighing up: a batch card as a guide, what was weighed and tapped, and what the scale shows."""

from datetime import timedelta
from typing import Annotated

from fastapi import APIRouter, Query

from rundgang.api.deps import Now, Number, Planned, Store
from rundgang.api.instruments import SourceState, states
from rundgang.core.errors import UnknownItemError
from rundgang.core.floor.instruments import Quantity, Signal
from rundgang.core.model import Id, Model
from rundgang.jobs import weighing
from rundgang.jobs.weighing import BatchRef, Guide, TapEntry, WeighedEntry

router = APIRouter(prefix="/api/weighing")

FRESH = timedelta(minutes=1)
"""A scale or a probe of which nobody knows whether it is heard, and that has said nothing for longer, says nothing."""

Run = Annotated[str, Query(min_length=1, max_length=40)]
Key = Annotated[str, Query(min_length=1, max_length=80, description="The card's key, for instance 3 or 3-sponge.")]


class Shown(Model):
    """What an instrument of a mixer shows now, if that is a real one; None where it shows nothing, or is not heard."""

    path: str
    value: float | None
    simulated: bool


@router.get("")
def guide(store: Store, now: Now, line: Id, run: Run, key: Key) -> Guide:
    """A batch of the plan that the floor works by, as it is weighed up."""
    return weighing.guide(store, now, BatchRef(line=line, run=run, key=key))


@router.post("/weighed", status_code=201)
def weighed(store: Planned, now: Now, entry: WeighedEntry) -> Guide:
    """Take what was weighed of an ingredient; the guide as it is then. Sent twice, it is there once."""
    weighing.weigh(store, now, entry)
    return weighing.guide(store, now, entry)


@router.post("/taps", status_code=201)
def taps(store: Planned, now: Now, entry: TapEntry) -> Guide:
    """Take one tap: charged, a speed begins, a late addition is in, or the batch is out."""
    weighing.tap(store, now, entry)
    return weighing.guide(store, now, entry)


@router.get("/probe")
def probe(store: Store, now: Now, plan: Number, run: Run) -> Shown:
    """What the probe shows where the doughs of a plan's run are mixed."""
    stored = store.plans.line(plan)
    scenario = store.windows.scenario(stored.book, stored.library, stored.opening)
    made = next((one for one in stored.plan.runs if one.id == run), None)
    if made is None:
        raise UnknownItemError("run", run, tuple(one.id for one in stored.plan.runs))
    product = scenario.whole(scenario.product(made.product))
    return instrument(store, now, stored.plan.line, product.mixing.station, "temperature")


@router.get("/instrument")
def instrument(store: Store, now: Now, line: Id, station: Id, quantity: Quantity) -> Shown:
    """What the scale or the probe of a mixer shows now."""
    signal = Signal(line=line, station=station, quantity=quantity)
    found, source = store.readings.newest_of(signal, now.now()), _source(store, signal)
    # An instrument that is heard reads still what it read last, as it tells what changes.
    answers = source is not None and not source.says and signal.path not in source.missing
    shows = found is not None and (found.at >= now.now() - FRESH or answers)
    return Shown(
        path=signal.path,
        value=found.value if found and shows else None,
        simulated=source is not None and source.is_simulated,
    )


def _source(store: Store, signal: Signal) -> SourceState | None:
    """How the source of a signal is doing; None where none tells it."""
    instruments = store.instruments.newest().instruments
    heard = zip(instruments.sources, states(instruments, store.instruments.beats()), strict=True)
    return next((state for source, state in heard if any(one.signal == signal for one in source.nodes)), None)
