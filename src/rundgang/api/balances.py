"""The route of balances: what a line can carry of a product."""

from fastapi import APIRouter

from rundgang.api.deps import Store
from rundgang.api.views import BalanceRequest
from rundgang.core.balance import LineBalance, balance
from rundgang.core.errors import UnknownItemError
from rundgang.core.whatif import with_setting

router = APIRouter(prefix="/api")


@router.post("/lines/{line}/balance/{product}")
def line_balance(store: Store, line: str, product: str, request: BalanceRequest) -> LineBalance:
    """What a line can carry of a product, as it is or set otherwise."""
    scenario = store.windows.scenario()
    if scenario.product(product).line != scenario.line(line).id:
        made = tuple(p.id for p in scenario.products if p.line == line)
        raise UnknownItemError(f"product on {line}", product, made)
    return balance(with_setting(scenario, product, request.setting), product, request.pace)
