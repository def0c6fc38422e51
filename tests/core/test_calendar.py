"""The calendar: weekly lorries against the recurrence rules of RFC 5545, and the nights when the clocks change."""

from datetime import UTC, date, datetime, time, timedelta
from random import Random
from zoneinfo import ZoneInfo

import pytest
from dateutil.rrule import WEEKLY, rrule
from pydantic import ValidationError

from rundgang.core.calendar import (
    Calendar,
    CancelledLorry,
    CrewShift,
    ExtraLorry,
    Holiday,
    Lorry,
    MovedLorry,
    WeeklyClosing,
    closings_of,
    departures,
    next_end,
    plant_faults,
    waves_of,
    written_out,
)
from rundgang.core.orders import Wave, Window
from rundgang.core.plant import Crew, Plant
from rundgang.core.shifts import absences_of, shifts_of
from rundgang.demo.ostermere import ostermere

VIENNA = ZoneInfo("Europe/Vienna")
MONDAY = date(2026, 3, 9)


def at(day: date, hour: int, minute: int = 0) -> datetime:
    return datetime.combine(day, time(hour, minute), VIENNA)


@pytest.mark.parametrize("seed", range(20))
def test_the_timetable_is_the_recurrence_rule(seed: int) -> None:
    """Random weekdays, times and dates of validity: as `dateutil` has it, an independent reading of RFC 5545."""
    rng = Random(seed)
    days = tuple(sorted(rng.sample(range(7), rng.randint(1, 7))))
    leaves = time(rng.randrange(24), rng.randrange(60))
    first, last = MONDAY, MONDAY + timedelta(days=90)
    begins, ends = (MONDAY + timedelta(days=rng.randint(*span)) for span in ((-20, 40), (41, 120)))
    lorry = Lorry(id="van", name="Van", leaves=leaves, weekdays=days, valid_from=begins, valid_until=ends)
    rule = rrule(
        WEEKLY, dtstart=datetime.combine(begins, leaves), until=datetime.combine(ends, time.max), byweekday=days
    )
    expected = [found for found in rule if first <= found.date() <= last]
    found = departures(Calendar(lorries=(lorry,)), VIENNA, first, last)
    assert [one.leaves.replace(tzinfo=None) for one in found] == expected


def test_a_lorry_leaves_by_the_clock_on_the_wall_when_the_clocks_change() -> None:
    """On 29 March 2026 the hour from 2 to 3 is skipped, on 25 October it comes twice (Directive 2000/84/EC)."""
    calendar = Calendar(lorries=(Lorry(id="van", name="Van", leaves=time(5, 0)),))
    for begins, between in ((date(2026, 3, 28), 23 * 60), (date(2026, 10, 24), 25 * 60)):
        waves = waves_of(calendar, VIENNA, Window(starts_at=at(begins, 0), minutes=2 * 24 * 60))
        assert [wave.departs_min for wave in waves][:2] == [300, 300 + between]


@pytest.mark.parametrize(("leaves", "minutes"), [(time(1, 59), 119), (time(2, 30), 150), (time(3, 0), 120)])
def test_a_time_that_the_clocks_skip_is_as_much_later(leaves: time, minutes: float) -> None:
    """29 March 2026 has no 2:30 in Vienna: what leaves then leaves at 3:30, as RFC 5545 §3.3.5 has it."""
    calendar = Calendar(lorries=(Lorry(id="van", name="Van", leaves=leaves),))
    waves = waves_of(calendar, VIENNA, Window(starts_at=at(date(2026, 3, 29), 0), minutes=12 * 60))
    assert [wave.departs_min for wave in waves] == [minutes]


@pytest.mark.parametrize(("leaves", "minutes"), [(time(1, 59), 119), (time(2, 30), 150), (time(3, 0), 240)])
def test_of_a_time_that_comes_twice_the_first_counts(leaves: time, minutes: float) -> None:
    """25 October 2026 has two of 2:30 in Vienna; RFC 5545 §3.3.5 takes the first."""
    calendar = Calendar(lorries=(Lorry(id="van", name="Van", leaves=leaves),))
    waves = waves_of(calendar, VIENNA, Window(starts_at=at(date(2026, 10, 25), 0), minutes=12 * 60))
    assert [wave.departs_min for wave in waves] == [minutes]


def test_a_window_written_out_gives_its_lorries_back() -> None:
    """Across the night when the clocks change: every lorry leaves at the minute at which it did."""
    window = Window(starts_at=at(date(2026, 3, 28), 16), minutes=36 * 60)
    waves = tuple(Wave(id=f"van-{minute}", name="Van", departs_min=minute) for minute in (0, 545, 2_000))
    assert waves_of(written_out(waves, window, VIENNA), VIENNA, window) == waves


def test_a_window_ends_at_the_same_time_on_the_wall_a_day_later() -> None:
    later = next_end(VIENNA, at(date(2026, 3, 28), 16))
    assert later == at(date(2026, 3, 29), 16)
    assert later.astimezone(UTC) - at(date(2026, 3, 28), 16).astimezone(UTC) == timedelta(hours=23)


def test_exceptions_keep_the_name_that_orders_are_for() -> None:
    """Moved to another day, cancelled, on a holiday, and an extra one."""
    tuesday = MONDAY + timedelta(days=1)
    calendar = Calendar(
        lorries=(Lorry(id="van", name="Van", leaves=time(6, 0), loading_min=20),),
        moved=(MovedLorry(lorry="van", on=MONDAY, leaves=datetime.combine(tuesday, time(4, 30))),),
        cancelled=(CancelledLorry(lorry="van", on=tuesday),),
        extra=(ExtraLorry(id="once", name="Once", leaves=datetime.combine(tuesday, time(23, 0))),),
        holidays=(Holiday(on=MONDAY + timedelta(days=2), name="Fair"),),
    )
    window = Window(starts_at=at(tuesday, 0), minutes=3 * 24 * 60)
    assert [(wave.id, wave.departs_min, wave.loaded_by_min) for wave in waves_of(calendar, VIENNA, window)] == [
        ("van-260309", 270, 250),
        ("once", 23 * 60, 23 * 60),
        ("van-260312", 2 * 1_440 + 360, 2 * 1_440 + 340),
        ("van-260313", 3 * 1_440 + 360, 3 * 1_440 + 340),
    ][:3]
    said = {one.id: one.change for one in departures(calendar, VIENNA, MONDAY, MONDAY + timedelta(days=3))}
    assert said["van-260310"] == "cancelled"
    assert said["van-260311"] == "holiday"
    assert said["van-260309"] == "moved"


def test_a_weekly_closing_that_has_begun_before_the_window_goes_on_in_it() -> None:
    closing = WeeklyClosing(
        id="wash", line="line", station="oven", kind="cleaning", weekdays=(6,), begins=time(23, 0), minutes=120,
        reason="washed",
    )  # fmt: skip
    blocks = closings_of(Calendar(closings=(closing,)), VIENNA, Window(starts_at=at(MONDAY, 0), minutes=7 * 24 * 60))
    assert [(block.id, block.from_min, block.to_min, block.weekly) for block in blocks] == [
        ("wash-260308", 0, 60, True),
        ("wash-260315", 6 * 1_440 + 23 * 60, 6 * 1_440 + 25 * 60, True),
    ]


@pytest.mark.parametrize(
    ("parts", "said"),
    [
        ({"lorries": [{"id": "a", "name": "A", "leaves": "06:00"}] * 2}, "stands twice"),
        ({"moved": [{"lorry": "b", "on": "2026-03-09", "leaves": "2026-03-09T07:00:00"}]}, "no lorry of the timetable"),
        ({"moved": [{"lorry": "b", "on": "2026-03-09", "leaves": "2026-03-09T07:00:00+01:00"}]}, "has an offset"),
        ({"lorries": [{"id": "a", "name": "A", "leaves": "06:00", "weekdays": [1]}],
          "cancelled": [{"lorry": "a", "on": "2026-03-09"}]}, "on Monday 09 March 2026; allowed: Tuesday"),
        ({"lorries": [{"id": "a", "name": "A", "leaves": "06:00", "valid_from": "2026-03-09",
                       "valid_until": "2026-03-08"}]}, "allowed: from 2026-03-09 on"),
    ],
)  # fmt: skip
def test_what_does_not_hold_together_is_named(parts: dict[str, object], said: str) -> None:
    with pytest.raises(ValidationError, match=said):
        Calendar.model_validate(parts)


TWELVE: Plant = ostermere(date(2026, 3, 11)).plant.model_copy(
    update={"crews": (Crew(id="packers", name="Packers", people=12),)}
)


def shift(begins: time, hours: float, people: int, **parts: object) -> CrewShift:
    made = {"id": f"at-{begins:%H%M}-{people}", "crew": "packers", "begins": begins}
    return CrewShift.model_validate(made | {"minutes": hours * 60, "people": people} | parts)


def away(*shifts: CrewShift, starts: datetime, minutes: int = 1_440, **parts: object) -> list[tuple[float, float, int]]:
    """Who is away within the window, stretch by stretch."""
    calendar = Calendar.model_validate({"shifts": shifts} | parts)
    window = Window(starts_at=starts, minutes=minutes)
    found = absences_of(calendar, TWELVE, VIENNA, window)
    assert all(one.crew == "packers" for one in found)
    return [(max(one.from_min, 0), min(one.to_min, minutes), one.people) for one in found
            if one.to_min > 0 and one.from_min < minutes]  # fmt: skip


def test_a_crew_without_shifts_is_always_there() -> None:
    assert away(starts=at(MONDAY, 0)) == []


def test_who_is_in_no_shift_is_away() -> None:
    """Eight from 22 to 6, twelve from 6 to 14: four are away at night, all of them in the afternoon."""
    found = away(shift(time(22), 8, 8), shift(time(6), 8, 12), starts=at(MONDAY, 0))
    assert found == [(0, 360, 4), (840, 1_320, 12), (1_320, 1_440, 4)]


def test_shifts_add_up_but_to_no_more_than_there_are() -> None:
    found = away(shift(time(6), 8, 8), shift(time(10), 8, 8), starts=at(MONDAY, 6), minutes=720)
    assert found == [(0, 240, 4), (480, 720, 4)]


def test_a_shift_by_weekday_and_none_on_a_holiday() -> None:
    """Monday to Friday; the Tuesday is a holiday: nobody from Monday 14:00 until Wednesday 06:00."""
    weekdays = shift(time(6), 8, 12, weekdays=tuple(range(5)))
    found = away(
        weekdays, starts=at(MONDAY, 0), minutes=3 * 1_440, holidays=[Holiday(on=date(2026, 3, 10), name="Fair")]
    )
    assert found == [(0, 360, 12), (840, 2 * 1_440 + 360, 12), (2 * 1_440 + 840, 3 * 1_440, 12)]


def test_the_night_that_the_clocks_go_on_is_an_hour_shorter() -> None:
    """29 March 2026 has 23 hours in Vienna: from the shift's end at 22:00 to its begin at 6:00 are seven."""
    found = away(shift(time(6), 16, 12), starts=at(date(2026, 3, 28), 6), minutes=2_880)
    assert found[0] == (16 * 60, 23 * 60, 12)


@pytest.mark.parametrize("seed", range(10))
def test_who_is_away_is_counted_minute_by_minute(seed: int) -> None:
    """Random shifts of a week, against a count of every minute."""
    rng = Random(seed)
    shifts = [
        shift(time(rng.randrange(24), rng.choice([0, 30])), rng.randint(1, 30) / 2, rng.randint(1, 12), id=f"s{number}",
              weekdays=tuple(rng.sample(range(7), rng.randint(1, 7))))
        for number in range(rng.randint(1, 5))
    ]  # fmt: skip
    starts = at(MONDAY, 0) + timedelta(hours=rng.randrange(48))
    found = away(*shifts, starts=starts, minutes=4_320)
    for minute in range(0, 4_320, 7):
        moment = (starts.astimezone(UTC) + timedelta(minutes=minute)).astimezone(VIENNA)
        there = 0
        for one in shifts:
            for day in (moment.date() - timedelta(days=back) for back in range(2)):
                begins = datetime.combine(day, one.begins, VIENNA)
                if day.weekday() in one.weekdays and begins <= moment < begins + timedelta(minutes=one.minutes):
                    there += one.people
        missing = sum(people for begin, end, people in found if begin <= minute < end)
        assert missing == 12 - min(12, there), (minute, moment)


def test_the_shifts_of_a_window_are_those_that_it_sees_something_of() -> None:
    """Monday from 06:00 on: the night shift that ends then is over, the next one begins within 24 h."""
    window = Window(starts_at=at(MONDAY, 6), minutes=1_440)
    calendar = Calendar(shifts=(shift(time(22), 8, 8), shift(time(6), 8, 12, id="early")))
    found = shifts_of(calendar, TWELVE, VIENNA, window)
    assert [(one.from_min, one.to_min, one.crews) for one in found] == [
        (0, 480, ("Packers",)),
        (960, 1_440, ("Packers",)),
    ]


def test_what_no_plant_has_is_no_shift() -> None:
    calendar = Calendar(shifts=(shift(time(6), 8, 13), shift(time(7), 8, 1, crew="bakers")))
    assert [*plant_faults(calendar, TWELVE, ())] == [
        "shift at 06:00: 13 of Packers; allowed: at most 12",
        "shift at 07:00: is of bakers; allowed: Packers",
    ]


def test_what_a_spreadsheet_would_run_is_no_standing_order() -> None:
    weekly = {"lorry": "depot", "product": "loaf", "packs": 5}
    names = ({"number": "=1+1"}, {"number": "so", "customer": "@inn"}, {"number": "so-2", "customer": "Inn"})
    calendar = Calendar.model_validate(
        {
            "lorries": [{"id": "depot", "name": "Depot", "leaves": "12:00"}],
            "standing": [weekly | name for name in names],
        }
    )
    assert [fault.split(": ")[1] for fault in plant_faults(calendar, TWELVE, ("loaf",))] == [
        "“=1+1” is taken for a formula; allowed",
        "“@inn” is taken for a formula; allowed",
    ]
