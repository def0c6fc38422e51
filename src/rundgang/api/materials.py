"""The route of materials: what the plans draw, against what is there and comes in."""

from fastapi import APIRouter

from rundgang.api.deps import Store
from rundgang.core.materials import ItemSupply, supply
from rundgang.jobs.weighed import as_weighed

router = APIRouter(prefix="/api")


@router.get("/materials")
def materials(store: Store) -> tuple[ItemSupply, ...]:
    """What the newest plans of all lines draw, hour by hour, against stock, deliveries and the ice machine."""
    newest = store.libraries.number()
    current = (stored for stored in store.plans.newest_lines() if stored.library == newest)
    return supply(as_weighed(store, store.windows.scenario()), (stored.plan for stored in current))
