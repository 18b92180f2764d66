"""Keeping freed memory at hand."""

from __future__ import annotations

import ctypes

_TRIM, _MAP, _ARENAS = -1, -3, -8  # M_TRIM_THRESHOLD, M_MMAP_THRESHOLD, M_ARENA_MAX of mallopt(3)


def keep_freed_memory() -> None:
    """Ask the C library to reuse large blocks rather than give them back.

    Every frame needs blocks of many megabytes; mapping them afresh costs more than filling them.  Does nothing where there is
    no ``mallopt``.
    """
    try:
        mallopt = ctypes.CDLL(None).mallopt
    except (OSError, AttributeError):
        return
    mallopt(_MAP, 32 << 20)
    mallopt(_TRIM, 1 << 30)
    mallopt(_ARENAS, 1)
