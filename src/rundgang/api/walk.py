"""The route of the walk bar: how things stand at its stops, beyond what the window itself says."""

from fastapi import APIRouter

from rundgang.api.deps import Store
from rundgang.api.materials import materials
from rundgang.core.balance import balance
from rundgang.core.model import Model
from rundgang.core.scenario import Scenario

router = APIRouter(prefix="/api")


class Bottleneck(Model):
    """The narrowest stage of the plant's first product, and how full it is at the product's own pace."""

    stage: str
    utilisation: float


class WalkView(Model):
    """What the walk bar says on every page.

    Attributes
    ----------
    run_out : int
        Materials that run out by the newest plans.
    bottleneck : Bottleneck or None
        None where the plant makes nothing yet.
    """

    run_out: int
    bottleneck: Bottleneck | None


@router.get("/walk")
def walk(store: Store) -> WalkView:
    """How things stand at the stops of the walk."""
    scenario = store.windows.scenario()
    return WalkView(
        run_out=sum(item.runs_out is not None for item in materials(store)),
        bottleneck=next((_bottleneck(scenario, product.id) for product in scenario.products), None),
    )


def _bottleneck(scenario: Scenario, product: str) -> Bottleneck:
    found = balance(scenario, product)
    narrowest = next(stage for stage in found.stages if stage.station == found.bottleneck)
    return Bottleneck(stage=narrowest.name, utilisation=narrowest.utilisation)
