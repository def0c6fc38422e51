"""The demo's clock: it begins when lines are at work, and goes on from start to start."""

from datetime import UTC, datetime, timedelta
from pathlib import Path

from rundgang.clock import Clock
from rundgang.demo.clock import demo_clock
from rundgang.demo.ostermere import demo_plant
from rundgang.settings import Settings

OPENS = datetime(2026, 3, 10, 19, tzinfo=UTC)


def test_it_begins_in_the_first_night_and_goes_on_from_start_to_start(tmp_path: Path) -> None:
    first = demo_clock(tmp_path / "home", OPENS, reset=False)
    assert first.shows == OPENS + timedelta(hours=4, minutes=40)
    shown = first.now()
    assert demo_clock(tmp_path / "home", OPENS + timedelta(days=1), reset=False).now() > shown
    assert demo_clock(tmp_path / "home", OPENS + timedelta(days=1), reset=True).shows == first.shows + timedelta(days=1)


def test_runs_of_the_demo_are_about_to_begin_or_at_work_then() -> None:
    starts_at = demo_plant(OPENS.date() + timedelta(days=1)).scenario.window.starts_at
    assert starts_at == OPENS, "the demo's window opens at eight in the evening, an hour before that in UTC"


def test_other_processes_read_it_from_their_environment() -> None:
    clock = Clock(OPENS, OPENS + timedelta(hours=1), 20)
    told = clock.in_environment()
    assert (
        Settings.model_validate({name.removeprefix("RUNDGANG_").lower(): value for name, value in told.items()}).clock()
        == clock
    )
