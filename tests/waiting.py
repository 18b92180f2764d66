"""Waiting for what a running show does."""

from __future__ import annotations

import time
from collections.abc import Callable


def wait_for(what: Callable[[], bool], seconds: float = 40.0) -> bool:
    """Wait until something is so, or the time is over; says whether it is."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if what():
            return True
        time.sleep(0.01)
    return what()
