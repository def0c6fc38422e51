"""Where Ostermere is, when its shift opens, and when its lorries leave."""

from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

TOWN = "Ostermere"
TIME_ZONE = "Europe/Vienna"
OPENS = time(20, 0)

LORRIES = (
    ("harbour", "Harbour lorry", time(3, 30)),
    ("hill", "Hill towns", time(5, 45)),
    ("market", "Market hall", time(8, 15)),
    ("depot", "Depot south", time(12, 0)),
)


def opening(day: date) -> datetime:
    """When the shift opens for a day's lorries: the evening before."""
    return datetime.combine(day - timedelta(days=1), OPENS, ZoneInfo(TIME_ZONE))


def departs_min(opens: datetime, day: date, leaves: time) -> float:
    """Minutes from the opening until a lorry leaves, right also in the night when the clocks change."""
    leaving = datetime.combine(day, leaves, ZoneInfo(TIME_ZONE))
    return (leaving.timestamp() - opens.timestamp()) / 60
