"""The demo's clock: it begins when lines are at work, goes on from start to start, and gives way to any other."""

from datetime import date
from pathlib import Path

import pytest

from rundgang.demo_clock import by_demo_clock
from rundgang.settings import Settings

DAY = date(2026, 3, 11)


@pytest.fixture
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    for name in ("DATABASE_URL", "RUNDGANG_CLOCK_SHOWS", "RUNDGANG_CLOCK_AT"):
        monkeypatch.setenv(name, "")
        monkeypatch.delenv(name)
    monkeypatch.setenv("RUNDGANG_HOME", str(tmp_path / "home"))
    return tmp_path


def again(monkeypatch: pytest.MonkeyPatch) -> Settings:
    """The settings as another start finds them."""
    monkeypatch.delenv("RUNDGANG_CLOCK_SHOWS")
    monkeypatch.delenv("RUNDGANG_CLOCK_AT")
    return Settings()


@pytest.mark.usefixtures("home")
def test_it_begins_in_the_first_night_and_goes_on_from_start_to_start(monkeypatch: pytest.MonkeyPatch) -> None:
    first = by_demo_clock(Settings(), DAY, reset=False)
    assert first.clock_shows
    assert (first.clock_shows.date(), f"{first.clock_shows:%H:%M}") == (DAY, "00:40")
    shown = first.clock().now()
    second = by_demo_clock(again(monkeypatch), date(2026, 3, 12), reset=False)
    assert second.clock().now() > shown
    assert second.clock_shows == first.clock_shows
    third = by_demo_clock(again(monkeypatch), date(2026, 3, 12), reset=True)
    assert third.clock_shows
    assert third.clock_shows.date() == date(2026, 3, 12)


@pytest.mark.usefixtures("home")
def test_a_clock_that_is_set_stays(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("RUNDGANG_CLOCK_SHOWS", "2026-01-01T00:00:00Z")
    settings = Settings()
    assert by_demo_clock(settings, DAY, reset=False) is settings
