"""The routes of the window that is being planned: what it is, what time it is, and whether all is well."""

import shutil
from pathlib import Path

from fastapi import APIRouter, Request

from rundgang.api.deps import Now, Store
from rundgang.api.views import LineView, PlanState, ProductView, WindowView
from rundgang.core.errors import RundgangError
from rundgang.core.planning.reline import articles
from rundgang.core.scenario import Scenario
from rundgang.core.weather import wet_spells
from rundgang.formats.clock import local_time
from rundgang.store.plans import Basis, StoredPlan

router = APIRouter(prefix="/api")

LEAST_FREE = 64 * 1024 * 1024
"""With less on the disk of the database it is not well, bytes."""


class NoRoomError(RundgangError):
    """The disk of the database is full, or nearly."""

    def __init__(self, free: int) -> None:
        super().__init__(
            f"{free / 1048576:.0f} MB are free on the disk of the database; allowed: at least "
            f"{LEAST_FREE // 1048576} MB. Make room on it."
        )


@router.get("/health")
def health(http: Request, store: Store) -> dict[str, str]:
    """Whether the application and its database answer, and have room to write."""
    store.windows.is_empty()
    folder: Path | None = http.app.state.data
    if folder and (free := shutil.disk_usage(folder).free) < LEAST_FREE:
        raise NoRoomError(free)
    return {"status": "ok"}


@router.get("/window")
def window(store: Store, now: Now) -> WindowView:
    """The window that is being planned."""
    scenario, basis = store.windows.scenario(), store.basis()
    course = scenario.conditions.room_course
    return WindowView(
        number=store.windows.number(),
        newest=store.windows.newest_number(),
        goes_on_min=scenario.opening.now_min,
        plant=scenario.plant.name,
        town=scenario.plant.town,
        time_zone=scenario.plant.time_zone,
        window=scenario.window,
        now_min=now.minute_of(scenario.window.starts_at),
        clock_speed=now.speed,
        clock_simulated=now.is_simulated,
        waves=scenario.waves,
        shifts=store.windows.shifts(scenario),
        conditions=scenario.conditions,
        conditions_now=scenario.conditions.at(now.minute_of(scenario.window.starts_at)),
        warmest_at=local_time(scenario, course.warmest_min).time() if course else None,
        wet=wet_spells(scenario, now.minute_of(scenario.window.starts_at)),
        lines=tuple(LineView(id=line.id, name=line.name) for line in scenario.plant.lines),
        products=tuple(_product_view(scenario, product.id) for product in scenario.products),
        book=store.books.newest(),
        orders=len(scenario.orders),
        packs=sum(order.packs for order in scenario.orders),
        plans=tuple(_plan_state(stored, basis) for stored in store.plans.newest_lines()),
        library=store.libraries.number(),
    )


def _product_view(scenario: Scenario, product_id: str) -> ProductView:
    product = scenario.product(product_id)
    return ProductView(
        id=product.id,
        name=product.name,
        line=product.line,
        family=product.family,
        piece=product.piece,
        pieces=product.pieces,
        pieces_per_pack=product.pieces_per_pack,
        target_per_hour=product.target_per_hour,
        allergens=tuple(sorted(scenario.allergens(product))),
        traits=tuple(sorted(product.traits)),
        same_as=product.same_as,
        elsewhere=tuple(other.id for other in articles(scenario, product)),
    )


def _plan_state(stored: StoredPlan, basis: Basis) -> PlanState:
    return PlanState(
        line=stored.plan.line,
        number=stored.number,
        book=stored.book,
        stale=basis.outdates(stored),
        packs_short=sum(wave.short for wave in stored.plan.waves),
        violations=len(stored.violations),
        first_dough_min=min((run.first_mixed_min for run in stored.plan.runs), default=None),
    )
