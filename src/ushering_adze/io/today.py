"""The time of day of this machine."""

from __future__ import annotations

import os
import time
from pathlib import Path


def seconds_in_day(moment: float) -> float:
    """Seconds from midnight of a moment of the calendar's clock, as clocks on the wall have it."""
    there = time.localtime(moment)
    return there.tm_hour * 3600.0 + there.tm_min * 60.0 + there.tm_sec + moment % 1.0


def zone_here() -> str:
    """The time zone of this machine, by its name in the tz database; UTC if it tells none."""
    named = os.environ.get("TZ", "").removeprefix(":")
    if named and "/" in named and not named.startswith("/"):
        return named
    try:
        place = str(Path("/etc/localtime").resolve())
        if "zoneinfo/" in place:
            return place.rpartition("zoneinfo/")[2]
        return Path("/etc/timezone").read_text(encoding="utf-8").strip() or "UTC"
    except OSError:
        return "UTC"


def seconds_today() -> float:
    """The same of now."""
    return seconds_in_day(time.time())
