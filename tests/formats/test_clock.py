"""The plant's clock on ordinary nights and on the two when the clocks change (IANA tz database)."""

from datetime import UTC, date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rundgang.core.errors import RundgangError
from rundgang.core.scenario import Scenario
from rundgang.demo.ring_line import ring_line
from rundgang.formats.clock import clock, local_time, minute_of
from rundgang.formats.documents import read_plan, read_scenario, write
from rundgang.formats.orders_csv import read_orders
from rundgang.formats.orders_written import write_orders

ORDINARY = ring_line(date(2026, 3, 11))
SPRING = ring_line(date(2026, 3, 29))  # 02:00 becomes 03:00 in Vienna
AUTUMN = ring_line(date(2026, 10, 25))  # 03:00 becomes 02:00


@pytest.mark.parametrize(("day", "hours"), [(ORDINARY, 7.5), (SPRING, 6.5), (AUTUMN, 8.5)])
def test_the_night_has_23_24_or_25_hours(day: Scenario, hours: float) -> None:
    """From 20:00 to the 03:30 lorry."""
    assert day.waves[0].departs_min == hours * 60
    assert clock(day, day.waves[0].departs_min) == "03:30"


def test_a_skipped_time_is_refused() -> None:
    with pytest.raises(RundgangError, match="skip this one"):
        minute_of(SPRING, datetime(2026, 3, 29, 2, 30))


def test_a_time_that_happens_twice_needs_its_offset() -> None:
    with pytest.raises(RundgangError, match=r"02:30\+02:00 or 2026-10-25T02:30\+01:00"):
        minute_of(AUTUMN, datetime(2026, 10, 25, 2, 30))
    early, late = (datetime.fromisoformat(f"2026-10-25T02:30+0{offset}:00") for offset in (2, 1))
    assert minute_of(AUTUMN, late) - minute_of(AUTUMN, early) == 60


def test_a_lorry_in_the_doubled_hour_is_written_with_its_offset() -> None:
    wave = AUTUMN.waves[0].model_copy(update={"departs_min": 7.5 * 60})  # the second 02:30
    day = AUTUMN.model_copy(update={"waves": (wave, *AUTUMN.waves[1:])})
    assert "2026-10-25T02:30+01:00" in write_orders(day)
    assert read_orders(write_orders(day).encode(), day).orders == day.orders


@given(minute=st.integers(0, 1_080))
def test_minutes_and_local_times_round_trip(minute: int) -> None:
    for day in (ORDINARY, SPRING, AUTUMN):
        assert minute_of(day, local_time(day, minute)) == minute
        assert local_time(day, minute).astimezone(UTC) >= day.window.starts_at


def test_a_scenario_survives_its_document() -> None:
    for day in (ORDINARY, SPRING, AUTUMN):
        assert read_scenario(write(day)) == day


def test_a_plan_survives_its_document() -> None:
    from rundgang.core.planning.search.plant import plan_plant

    plan = plan_plant(ORDINARY)
    assert read_plan(write(plan)) == plan
