"""The simulated weather: one for every process, its past settled, its forecasts worse the further they look."""

from datetime import UTC, datetime, timedelta
from itertools import pairwise
from statistics import fmean

from rundgang.instruments.weather import SimulatedWeather, full_hour

NEW_YEAR = datetime(2026, 1, 1, tzinfo=UTC)
A_YEAR_H = 365 * 24
LATER = NEW_YEAR + timedelta(days=500)


def test_the_same_place_has_the_same_weather_and_another_place_another() -> None:
    one, same, other = (SimulatedWeather(place).hours(NEW_YEAR, 48, LATER) for place in ("Ostermere", "Ostermere", "X"))
    assert one == same
    assert one != other


def test_what_is_over_stays_as_it_was() -> None:
    weather = SimulatedWeather("Ostermere")
    noon = NEW_YEAR + timedelta(days=40)
    before = weather.hours(noon - timedelta(hours=24), 25, noon)
    assert before == weather.hours(noon - timedelta(hours=24), 25, noon + timedelta(days=9))


def test_a_year_has_seasons_days_and_nights() -> None:
    """Of a temperate northern town: July warmer than January, afternoons warmer and drier than nights."""
    hours = SimulatedWeather("Ostermere").hours(NEW_YEAR, A_YEAR_H, LATER)
    air = [hour.air_c for hour in hours]
    january, july = fmean(air[: 31 * 24]), fmean(air[181 * 24 : 212 * 24])
    assert july - january > 12
    night = [hour for number, hour in enumerate(hours) if number % 24 == 3]
    noon = [hour for number, hour in enumerate(hours) if number % 24 == 15]
    assert fmean(hour.air_c for hour in noon) - fmean(hour.air_c for hour in night) > 5
    assert fmean(hour.humidity_pct for hour in night) - fmean(hour.humidity_pct for hour in noon) > 15
    assert max(abs(one - next_) for one, next_ in pairwise(air)) < 4, "no hour jumps"


def test_forecasts_are_worse_the_further_they_look() -> None:
    weather = SimulatedWeather("Ostermere")
    truth = weather.hours(NEW_YEAR, A_YEAR_H, LATER)

    def error(lead: timedelta) -> float:
        found = [weather.hours(NEW_YEAR + timedelta(hours=hour), 1, NEW_YEAR + timedelta(hours=hour) - lead)[0]
                 for hour in range(0, A_YEAR_H, 11)]  # fmt: skip
        return fmean(
            abs(one.air_c - truth[hour].air_c) for one, hour in zip(found, range(0, A_YEAR_H, 11), strict=True)
        )

    soon, later = error(timedelta(hours=6)), error(timedelta(hours=60))
    assert 0 < soon < 0.7 < later < 3


def test_the_hour_of_a_moment_is_full() -> None:
    assert full_hour(datetime(2026, 3, 29, 1, 59, 59, tzinfo=UTC)) == datetime(2026, 3, 29, 1, tzinfo=UTC)
