"""The time of day of this machine."""

from __future__ import annotations

import time


def seconds_in_day(moment: float) -> float:
    """Seconds from midnight of a moment of the calendar's clock, as clocks on the wall have it."""
    there = time.localtime(moment)
    return there.tm_hour * 3600.0 + there.tm_min * 60.0 + there.tm_sec + moment % 1.0


def seconds_today() -> float:
    """The same of now."""
    return seconds_in_day(time.time())
