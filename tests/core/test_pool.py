"""Pools of mixers and troughs against a plain list of everything that is taken."""

from hypothesis import given
from hypothesis import strategies as st

from rundgang.core.planning.pool import Pattern, Pool, Stretch

CLEANING = {("nut", "plain"): 15.0, ("plain", "nut"): 3.0}
asks = st.lists(
    st.tuples(st.floats(0, 300), st.floats(1, 40), st.sampled_from(["nut", "plain"])), min_size=1, max_size=25
)


def clashes(taken: list[Stretch], asked: Stretch) -> bool:
    """Whether a stretch overlaps another of the unit, or the cleaning between the two."""
    for other in taken:
        first, then = sorted((other, asked))
        if first.end + CLEANING.get((first.product, then.product), 0) > then.begin + 1e-6:
            return True
    return False


@given(asks=asks, units=st.integers(1, 3))
def test_a_unit_is_never_taken_twice_and_never_needlessly_late(
    asks: list[tuple[float, float, str]], units: int
) -> None:
    pool = Pool(units, CLEANING)
    taken: list[list[Stretch]] = [[] for _ in range(units)]
    for begin, length, product in asks:
        free, unit = pool.earliest(begin, length, product)
        stretch = Stretch(free, free + length, product)
        assert free >= begin
        assert not clashes(taken[unit], stretch)
        if free > begin:
            there = Stretch(begin, begin + length, product)
            assert all(clashes(used, there) for used in taken), "it waits only where every unit is in use"
        pool.take(unit, stretch)
        taken[unit].append(stretch)


@given(asks=asks)
def test_what_is_given_back_is_free_again(asks: list[tuple[float, float, str]]) -> None:
    pool = Pool(1, CLEANING)
    for begin, length, product in asks:
        first = pool.earliest(begin, length, product)
        stretch = Stretch(first[0], first[0] + length, product)
        pool.take(first[1], stretch)
        pool.give_back(first[1], stretch)
        assert pool.earliest(begin, length, product) == first


def test_a_noted_run_takes_its_units_in_turn() -> None:
    pool = Pool(2, CLEANING)
    pool.note(10, Pattern(((0.0, 20.0), (10.0, 20.0), (20.0, 20.0)), 0.0, 40.0), "nut")
    assert pool.ready("nut") == 50
    assert pool.ready("plain") == 65, "cleaned away first"
    assert pool.settle() == (0, 1, 0)
    assert pool.earliest(10, 5, "nut") == (10, 1), "before what the second unit takes from minute 20 on"
    assert pool.earliest(25, 5, "nut") == (40, 1)
