"""Keeping freed memory at hand, and what stays out of the collector's way."""

from __future__ import annotations

import ctypes
import gc
import threading
from contextlib import suppress

_TRIM, _MAP, _ARENAS = -1, -3, -8  # M_TRIM_THRESHOLD, M_MMAP_THRESHOLD, M_ARENA_MAX of mallopt(3)


def keep_freed_memory() -> None:
    """Ask the C library to reuse large blocks rather than give them back.

    Every frame needs blocks of many megabytes; mapping them afresh costs more than filling them.  Does nothing where
    there is no ``mallopt``.
    """
    try:
        mallopt = ctypes.CDLL(None).mallopt
    except (OSError, AttributeError):
        return
    mallopt(_MAP, 32 << 20)
    mallopt(_TRIM, 1 << 30)
    mallopt(_ARENAS, 1)


def give_back() -> None:
    """Give freed memory back to the system, all but what is in use; does nothing where there is no ``malloc_trim``."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


def give_back_later(seconds: float = 2.0) -> None:
    """The same in a moment, when what a closed show held has been let go of."""
    timer = threading.Timer(seconds, give_back)
    timer.daemon = True
    timer.start()


def set_aside() -> None:
    """Take everything there is by now out of what the garbage collector looks through.

    Modules, classes and the window stay as long as the program runs.  Looking through them takes longer than a frame,
    and stops every thread.  Called when a program has started up.
    """
    gc.freeze()
