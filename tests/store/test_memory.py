"""What is kept of rows that never change: made once, the oldest forgotten, each database by itself."""

from sqlalchemy import create_engine

from rundgang.store.memory import MOST_KEPT, Memory, memory_of


def test_a_thing_is_made_once_until_it_is_forgotten() -> None:
    memory, made = Memory(), []

    def make(key: int) -> int:
        made.append(key)
        return key * 10

    for key in (*range(MOST_KEPT), 0, MOST_KEPT):
        assert memory.recall(key, lambda key=key: make(key)) == key * 10  # type: ignore[misc]
    assert made == list(range(MOST_KEPT + 1)), "the second 0 was kept"
    memory.recall(0, lambda: make(0))
    memory.recall(1, lambda: make(1))
    assert made[-1] == 1, "1 was not asked for longest and went"
    assert made.count(0) == 1


def test_what_is_kept_anew_takes_the_place_of_what_was() -> None:
    memory = Memory()
    assert memory.recall("key", lambda: "first") == "first"
    memory.keep("key", "second")
    assert memory.recall("key", lambda: "third") == "second"
    for key in range(MOST_KEPT - 1):
        memory.keep(key, key)
    memory.keep("key", "fourth")
    memory.keep("more", "more")
    assert memory.recall("key", lambda: "fifth") == "fourth", "kept anew, it is not the oldest"
    assert memory.recall(0, lambda: "made again") == "made again", "the oldest went"


def test_each_database_has_its_own_memory() -> None:
    one, other = create_engine("sqlite://"), create_engine("sqlite://")
    memory_of(one).recall("key", lambda: "one")
    assert memory_of(other).recall("key", lambda: "other") == "other"
    assert memory_of(one).recall("key", lambda: "late") == "one"
