"""Clocks and timers: what their digits say, and in which colour."""

from __future__ import annotations

import math
from typing import Literal

from ushering_adze.core.picture.cards import clock_digits

Tone = Literal["plain", "green", "amber", "red"]
DAY = 86400


def seconds_of_day(text: str) -> int:
    """A time of day in seconds.

    Examples
    --------
    >>> seconds_of_day("20:00"), seconds_of_day("7:05:30")
    (72000, 25530)
    """
    parts = [int(p) for p in text.split(":")]
    return sum(p * k for p, k in zip(parts, (3600, 60, 1), strict=False))


def clock_words(
    shows: str, day: float, passed: float, until: str, seconds: int, amber: float, red: float
) -> tuple[str, Tone]:
    """What a clock says.

    Parameters
    ----------
    shows : {"time", "until", "up", "speaker"}
    day : float
        The time of day, in seconds.
    passed : float
        Seconds since it was started.
    until : str
        A time of day; one that is past is tomorrow's.
    seconds : int
        Of a speaker.
    amber, red : float
        Seconds left from which a speaker's time is amber, and red.

    Returns
    -------
    words : str
    tone : {"plain", "green", "amber", "red"}

    Examples
    --------
    >>> clock_words("until", 71990.5, 0, "20:00", 1, 60, 15)
    ('0:10', 'plain')
    >>> clock_words("speaker", 0, 612.4, "20:00", 600, 60, 15), clock_words("speaker", 0, 545, "20:00", 600, 60, 15)
    (('−0:12', 'red'), ('0:55', 'amber'))
    """
    if shows == "time":
        whole = int(day)
        return f"{whole // 3600 % 24}:{whole // 60 % 60:02d}:{whole % 60:02d}", "plain"
    if shows == "until":
        return clock_digits(math.ceil((seconds_of_day(until) - day) % DAY)), "plain"
    if shows == "up":
        return clock_digits(int(passed)), "plain"
    left = math.ceil(seconds - passed)
    tone: Tone = "red" if left <= red else "amber" if left <= amber else "green"
    return clock_digits(left) if left >= 0 else f"−{clock_digits(-left)}", tone
