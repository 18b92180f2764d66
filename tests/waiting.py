"""Waiting for what a running show does."""

from __future__ import annotations

import time
from collections.abc import Callable

PATIENCE = 300.0
"""Seconds after which what is waited for is taken never to come, also on a machine that has much else to do."""


def wait_for(what: Callable[[], bool], seconds: float = PATIENCE, every: float = 0.01) -> bool:
    """Wait until something is so, asked every so many seconds, or the time is over; says whether it is."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if what():
            return True
        time.sleep(every)
    return what()
