"""Which threads give way when the cores are short."""

from __future__ import annotations

import contextlib
import os
import threading

GIVES_WAY = 15


def give_way(by: int = GIVES_WAY) -> None:
    """Let the calling thread yield to those that make frames: decoding and writing run ahead and can wait, a frame
    cannot.

    On Linux a thread has a niceness of its own (``setpriority(2)``, notes on threads); elsewhere this may do nothing.
    """
    with contextlib.suppress(OSError, AttributeError):
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), by)
