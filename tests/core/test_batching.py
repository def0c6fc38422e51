"""Packs to pieces to batches: exact sums, limits kept, and the choices for the odd last batch."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plants import on_belt, product
from rundgang.core.batching import batch_limits, dough_grams, options, packs_from_pieces, pieces_for_packs, split
from rundgang.core.capacity import Bound, DoughBounds
from rundgang.core.doughs import POLICIES, BatchLimits
from rundgang.core.errors import InfeasibleError
from rundgang.core.kinds.rate import RateStep
from rundgang.core.products import OddBatch

RING = product(
    "ring",
    [on_belt("proofer", 60, good=0.99), RateStep(station="bagger", strokes_per_min=50, takes=6, yield_=0.998)],
    pack=6,
    grams=105,
)


def test_pieces_for_packs_follow_the_yields() -> None:
    """100 bags of six through yields of 0.998 and 0.99: 600 / 0.998 / 0.99 = 607.28, so 608 rings."""
    assert pieces_for_packs(RING, 100) == 608
    assert packs_from_pieces(RING, 608) == 100
    assert packs_from_pieces(RING, 607) == 99


def test_dough_for_3_200_rings_of_105_g() -> None:
    """A 340 kg dough is about 3,200 rings scaled at 105 g (common practice, no published source)."""
    assert dough_grams(RING, 3_200) == pytest.approx(340_000, rel=0.015)


@given(
    packs=st.integers(1, 50_000),
    most=st.integers(50, 5_000),
    least=st.integers(1, 5_000),
    policy=st.sampled_from(POLICIES),
)
def test_nothing_is_lost_and_every_batch_fits(packs: int, most: int, least: int, policy: OddBatch) -> None:
    limits = BatchLimits(least_pieces=min(least, most), most_pieces=most)
    cut = split(RING, packs, limits, policy)
    assert all(limits.least_pieces <= pieces <= limits.most_pieces for pieces in cut.pieces)
    assert cut.packs == packs_from_pieces(RING, sum(cut.pieces)) == packs + cut.surplus_packs
    assert cut.surplus_packs >= 0
    assert len(cut.pieces) == -(-pieces_for_packs(RING, packs) // most), "no batch more than needed"


@given(packs=st.integers(1, 20_000))
def test_equal_batches_are_equal_and_exact(packs: int) -> None:
    cut = split(RING, packs, BatchLimits(least_pieces=1, most_pieces=900), "equal")
    assert max(cut.pieces) - min(cut.pieces) <= 1
    assert sum(cut.pieces) == pieces_for_packs(RING, packs)


def test_three_choices_for_an_odd_demand() -> None:
    """2,500 pieces with a mixer for 1,000: 834 + 833 + 833, or 1,000 + 1,000 + 500, or three full."""
    roll = product("roll", [on_belt("oven", 10)])
    limits = BatchLimits(least_pieces=200, most_pieces=1_000)
    found = {option.policy: option for option in options(roll, 2_500, limits)}
    assert found["equal"].pieces == (834, 833, 833)
    assert found["short-last"].pieces == (1_000, 1_000, 500)
    assert found["round-up"].pieces == (1_000, 1_000, 1_000)
    assert [found[policy].surplus_packs for policy in POLICIES] == [0, 0, 500]
    assert found["short-last"].least_fill == 0.5


def test_a_short_dough_is_raised_to_what_the_mixer_takes() -> None:
    roll = product("roll", [on_belt("oven", 10)])
    limits = BatchLimits(least_pieces=200, most_pieces=1_000)
    cut = split(roll, 1_050, limits, "short-last")
    assert (cut.pieces, cut.surplus_packs) == ((1_000, 200), 150)


def test_says_so_when_every_dough_would_be_too_old() -> None:
    bounds = DoughBounds(Bound(100, "the fill of Mixers"), Bound(60, "its age at the divider"))
    with pytest.raises(InfeasibleError, match=r"at least 100 kg by the fill of Mixers, .* at most 60 kg by its age"):
        batch_limits(RING, bounds)
