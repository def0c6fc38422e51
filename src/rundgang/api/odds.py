"""The route of a line plan's odds."""

from fastapi import APIRouter

from rundgang.api.deps import Number, Store, made_for
from rundgang.core.simulation.line_odds import LineOdds, odds_of

router = APIRouter(prefix="/api/odds")


@router.get("/{number}")
def odds(store: Store, number: Number) -> LineOdds:
    """How sure a line's plan is, by its number: a thousand days of it, run through by what is known of its stops."""
    stored = store.plans.line(number)
    return odds_of(made_for(store, stored), stored.plan)
