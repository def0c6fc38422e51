"""Readings in the database: once each, told in stretches, thinned to what each minute was."""

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from random import Random
from statistics import fmean

import psycopg
import pytest
from sqlmodel import Session

from rundgang.core.floor.instruments import Reading, Signal
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.readings import CHANNEL, Readings
from rundgang.store.repository import Repository

OVEN = Signal(line="ring-line", station="oven", quantity="temperature")
PACKS = Signal(line="ring-line", station="bagger", quantity="count")
NIGHT = datetime(2026, 3, 10, 23, 30, tzinfo=UTC)


@pytest.fixture
def readings(urls: Urls) -> Iterator[Readings]:
    engine = connect(urls.app)
    with Session(engine) as session:
        yield Repository(session).readings
    engine.dispose()


def plain(url: str) -> str:
    return url.replace("+psycopg", "")


def over(signal: Signal, values: list[float], every_s: float = 7) -> list[Reading]:
    return [Reading(signal, NIGHT + timedelta(seconds=every_s * place), value) for place, value in enumerate(values)]


def test_a_reading_sent_twice_is_there_once(readings: Readings) -> None:
    told = over(OVEN, [230.0, 231.0, 232.0])
    assert readings.append(told) == 3
    assert readings.append([*told, *over(PACKS, [1.0])]) == 1
    assert [found.value for found in readings.each((OVEN,), NIGHT, NIGHT + timedelta(hours=1))] == [230, 231, 232]
    assert readings.newest(NIGHT + timedelta(hours=1))[OVEN].value == 232
    assert readings.newest(NIGHT + timedelta(seconds=8))[OVEN].value == 231


def test_stretches_have_the_mean_and_the_extremes_of_what_was_read_in_them(readings: Readings) -> None:
    """Over midnight, against the readings themselves."""
    numbers = Random(4)
    told = over(OVEN, [230 + numbers.gauss(0, 2) for _ in range(700)])
    readings.append(told)
    until = NIGHT + timedelta(minutes=80)
    points = readings.series(OVEN, NIGHT, until, 16)
    assert len(points) == 16
    for point in points:
        own = [one.value for one in told if point.at <= one.at < point.at + timedelta(minutes=5)]
        assert point.mean == pytest.approx(fmean(own))
        assert (point.least, point.most, point.last) == (min(own), max(own), own[-1])


def test_a_count_rises_evenly_also_where_it_began_anew_and_where_nobody_listened(readings: Readings) -> None:
    """Read at 0, 10, 20 … min; anew at 30. From minute 5 on, told in minutes from the first reading."""
    readings.append(over(PACKS, [500, 510, 530, 4, 30, 30, 61], every_s=600))
    found = readings.counted(PACKS, NIGHT, NIGHT + timedelta(minutes=5), NIGHT + timedelta(minutes=60))
    assert found
    assert (found.since_min, found.total) == (5, 5 + 20 + 4 + 26 + 0 + 31)
    assert [found.risen_by(minute) for minute in (10, 15, 30, 40, 50, 55)] == [5, 15, 29, 55, 55, 70.5]
    assert readings.counted(OVEN, NIGHT, NIGHT, NIGHT + timedelta(hours=1)) is None


def test_a_station_stood_while_its_state_was_nothing(readings: Readings) -> None:
    states = Signal(line="ring-line", station="oven", quantity="state")
    readings.append(over(states, [1, 0, 1, 1, 0, 0, 1, 0], every_s=60))
    told = readings.stoppages((states,), NIGHT, NIGHT + timedelta(seconds=90), NIGHT + timedelta(minutes=30))
    assert [(one.from_min, one.until_min) for one in told] == [(1.5, 2), (4, 6), (7, None)]


def test_older_days_are_thinned_to_their_minutes(readings: Readings) -> None:
    numbers = Random(7)
    told = over(OVEN, [230 + numbers.gauss(0, 2) for _ in range(500)])
    readings.append(told)
    after_midnight = [one for one in told if one.at.day == 11]
    assert readings.thin((NIGHT + timedelta(days=1)).date()) == 1
    assert list(readings.each((OVEN,), NIGHT, NIGHT + timedelta(days=1))) == after_midnight
    minutes = readings.series(OVEN, NIGHT, NIGHT + timedelta(minutes=30), 30)
    assert len(minutes) == 30
    for point in minutes:
        own = [one.value for one in told if point.at <= one.at < point.at + timedelta(minutes=1)]
        assert point.mean == pytest.approx(fmean(own))
        assert (point.least, point.most) == (min(own), max(own))
    assert readings.thin((NIGHT + timedelta(days=1)).date()) == 0, "once is enough"


def test_whoever_listens_is_told_the_newest_of_each(readings: Readings, urls: Urls) -> None:
    with psycopg.connect(plain(urls.app), autocommit=True) as listener:
        listener.execute(f"LISTEN {CHANNEL}")
        readings.append([*over(OVEN, [230.0, 231.5]), *over(PACKS, [7.0])])
        note = next(listener.notifies(timeout=5))
    assert note.payload.splitlines() == [
        "ring-line/oven/temperature 2026-03-10T23:30:07.000000Z 231.5",
        "ring-line/bagger/count 2026-03-10T23:30:00.000000Z 7",
    ]


@pytest.mark.parametrize("change", ["UPDATE reading SET value = 0", "DELETE FROM reading", "TRUNCATE reading"])
def test_nobody_changes_what_was_read(readings: Readings, urls: Urls, change: str) -> None:
    readings.append(over(OVEN, [230.0]))
    with psycopg.connect(plain(urls.app)) as connection, pytest.raises(psycopg.errors.InsufficientPrivilege):
        connection.execute(change)


def test_what_was_counted_and_stood_is_known_of_thinned_days_too(readings: Readings) -> None:
    """To the piece, and to the minute."""
    packs = [float(number) for number in range(0, 400)]
    states = Signal(line="ring-line", station="oven", quantity="state")
    readings.append(over(PACKS, packs, every_s=6))
    readings.append([Reading(states, NIGHT + timedelta(minutes=at), on) for at, on in ((0, 1), (10, 0), (22, 1))])
    readings.append(
        [Reading(OVEN, NIGHT + timedelta(seconds=s), value) for s, value in ((0, 0.0), (9, 4.0), (18, 6.0))]
    )
    until = NIGHT + timedelta(minutes=50)

    def known() -> tuple[float, list[tuple[float, float | None]], float]:
        counted = readings.counted(PACKS, NIGHT, NIGHT, until)
        stood = [(one.from_min, one.until_min) for one in readings.stoppages([states], NIGHT, NIGHT, until)]
        assert counted
        return counted.between(5, 25), stood, readings.mean(OVEN, NIGHT, until)[1]

    (packs_before, stood_before, mean), _ = known(), readings.thin((NIGHT + timedelta(days=2)).date())
    assert mean == pytest.approx(5), "of what is more than nothing"
    packs_after, stood_after, _ = known()
    assert packs_before == pytest.approx(200, abs=1)
    assert packs_after == pytest.approx(packs_before, abs=10), "a minute's count at most"
    assert [one[0] for one in stood_after] == pytest.approx([one[0] for one in stood_before], abs=1)
    assert [one[1] for one in stood_after] == pytest.approx([one[1] for one in stood_before], abs=1)


def test_the_mean_of_thinned_minutes_counts_as_many_readings_as_there_were(readings: Readings) -> None:
    """A minute with one heavy piece and one with nine light ones: 1 x 110 g and 9 x 100 g are 101 g in the mean."""
    told = [Reading(OVEN, NIGHT, 110.0)]
    told += [Reading(OVEN, NIGHT + timedelta(minutes=1, seconds=5 * number), 100.0) for number in range(9)]
    told += [Reading(OVEN, NIGHT + timedelta(minutes=2), 0.0)]
    readings.append(told)
    until = NIGHT + timedelta(minutes=5)
    count, mean = readings.mean(OVEN, NIGHT, until)
    assert (count, round(mean, 6)) == (10, 101)
    readings.thin((NIGHT + timedelta(days=2)).date())
    count, mean = readings.mean(OVEN, NIGHT, until)
    assert (count, round(mean, 6)) == (10, 101)
    assert readings.mean(OVEN, until, until + timedelta(hours=1)) == (0, 0.0)
