"""The routes of the window that is being planned: what it is, what time it is, and whether all is well."""

from fastapi import APIRouter

from rundgang.api.deps import Now, Store
from rundgang.api.views import LineView, PlanState, ProductView, WindowView
from rundgang.core.planning.reline import articles
from rundgang.core.scenario import Scenario
from rundgang.core.weather import wet_spells
from rundgang.formats.clock import local_time
from rundgang.store.plans import Basis, StoredPlan

router = APIRouter(prefix="/api")


@router.get("/health")
def health(store: Store) -> dict[str, str]:
    """Whether the application and its database answer."""
    store.windows.is_empty()
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
