"""The dough room's routes: conditions, batch cards, probes, and the friction learnt from them."""

from typing import Annotated

from fastapi import APIRouter, Query

from rundgang.api.deps import Number, Planned, Store, made_for
from rundgang.api.views import CardsView, Reading, WithdrawalRequest
from rundgang.core.dough.card import BatchCard, batch_card, batch_cards
from rundgang.core.dough.friction import LearntFriction, learn
from rundgang.core.dough.mixed import find_dough
from rundgang.core.model import Model
from rundgang.core.plausible import refuse_implausible
from rundgang.jobs.probing import learnt, note_probe
from rundgang.store.probes import LoggedProbe

router = APIRouter(prefix="/api")


class ProbeRequest(Reading):
    """What the probe reads."""

    dough_c: float


class FrictionView(Model):
    """The friction factor of a product in a mixer, and the probes it was learnt from, oldest first."""

    product: str
    mixer: str
    own_c: float
    learnt: LearntFriction
    probes: tuple[LoggedProbe, ...]


@router.get("/plans/{number}/cards")
def cards(store: Store, number: Number) -> CardsView:
    """The batch cards of a plan, in the order of the clock."""
    stored = store.plans.line(number)
    scenario = made_for(store, stored)
    known = learnt(store, scenario, stored.plan)
    return CardsView(
        plan=stored.number,
        version=store.plans.version_with(stored.number),
        line=stored.plan.line,
        stale=store.basis().outdates(stored),
        cards=batch_cards(scenario, stored.plan, known, store.probes.log(number)),
    )


@router.post("/plans/{number}/cards/{run}/{batch}/probe", status_code=201)
def probe(store: Planned, number: Number, run: str, batch: Number, request: ProbeRequest) -> BatchCard:
    """Take the probe of a dough; the answer is its card, and the next cards follow the factor learnt."""
    refuse_implausible([{"dough_c": request.dough_c}], request.units, confirmed=request.confirmed)
    stored = store.plans.line(number)
    scenario = made_for(store, stored)
    found = find_dough(stored.plan, run, batch)
    note_probe(store, scenario, stored, run, batch, request.dough_c)
    store.session.commit()
    return batch_card(scenario, found, learnt(store, scenario, stored.plan), store.probes.log(number))


@router.post("/plans/{number}/cards/{run}/{batch}/probe/withdraw", status_code=201)
def withdraw(store: Planned, number: Number, run: str, batch: Number, request: WithdrawalRequest) -> BatchCard:
    """Withdraw the probe of a dough: it stays in the log, with the reason, and nothing learns from it any more."""
    stored = store.plans.line(number)
    scenario = made_for(store, stored)
    found = find_dough(stored.plan, run, batch)
    store.probes.withdraw(number, run, batch, request.reason, request.author)
    return batch_card(scenario, found, learnt(store, scenario, stored.plan), store.probes.log(number))


@router.get("/friction")
def friction(
    store: Store, product: Annotated[str, Query(max_length=40)], mixer: Annotated[str, Query(max_length=80)]
) -> FrictionView:
    """What the probes have taught about a product in a mixer."""
    made = store.windows.scenario().product(product)
    probes = store.probes.of(product, mixer)
    own = made.mixing.friction_in(mixer)
    return FrictionView(
        product=product,
        mixer=mixer,
        own_c=own,
        learnt=learn(own, tuple(entry.reading for entry in probes)),
        probes=probes,
    )
