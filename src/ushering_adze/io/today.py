"""The time of day of this machine."""

from __future__ import annotations

import time


def seconds_today() -> float:
    """Seconds from midnight, as clocks on the wall have it."""
    now = time.time()
    there = time.localtime(now)
    return there.tm_hour * 3600.0 + there.tm_min * 60.0 + there.tm_sec + now % 1.0
