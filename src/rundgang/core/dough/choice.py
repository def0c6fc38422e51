"""Which water the card says: the factor rule's, or the heat balance's where the rule does not hold.

The rule assumes a usual dough. Where its water differs from the heat balance's by more than `APART_K`, or the
water is less than `DRY_SHARE` of the flour, the heat balance is what the card says. Without a measured mixing work
there is none, and a dry dough keeps the rule's answer as doubtful.
"""

from typing import Literal, NamedTuple

from rundgang.core.dough.water import Water

APART_K = 3.0
"""So far apart rule and balance may be, K (common practice, no published source)."""

DRY_SHARE = 0.3
"""Under this share of water by flour the factor rule does not hold (common practice, no published source)."""

SaidBy = Literal["factor rule", "heat balance", "factor rule, doubtful"]


class Said(NamedTuple):
    """The water that a card says, by what, and why where that is not the rule."""

    water: Water | None
    by: SaidBy
    why: str


def said(rule: Water | None, balance: Water | None, balance_c: float | None, water_share: float) -> Said:
    """Choose between rule and balance.

    Parameters
    ----------
    rule, balance : Water or None
        By the factor rule, and by the heat balance; None where the formula has no water, or no balance is known.
    balance_c : float or None
        Temperature of the water by the heat balance, °C.
    water_share : float
        Water over flour.
    """
    if rule is None:
        return Said(None, "factor rule", "")
    dry = water_share < DRY_SHARE
    if balance is None or balance_c is None:
        if not dry:
            return Said(rule, "factor rule", "")
        why = f"the water is {water_share:.0%} of the flour, and the mixing work was never measured: probe the dough"
        return Said(rule, "factor rule, doubtful", why)
    apart = abs(rule.wanted_c - balance_c)
    if dry:
        return Said(balance, "heat balance", f"the water is only {water_share:.0%} of the flour; the rule is for more")
    if apart > APART_K:
        return Said(balance, "heat balance", f"rule and balance lie {apart:.0f} K apart; the balance counts the heat")
    return Said(rule, "factor rule", "")
