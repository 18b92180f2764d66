"""Frames of one output, for who shows them: the newest always wins, none are queued."""

from __future__ import annotations

import contextlib
import os
import threading
from collections.abc import Callable
from typing import NamedTuple

from ushering_adze.core.plane.pixels import Pixels


class Sent(NamedTuple):
    """A picture that an output sends, and its number, counted from 0."""

    pixels: Pixels
    number: int


class Frames:
    """What one output sends.

    ``handle`` is a file that can be read from whenever there is a picture that `newest` has not given yet: an event
    loop waits for it as for any other.

    Parameters
    ----------
    output : str
    hand : callable, optional
        Is handed each picture as it comes, in place of all that.
    """

    def __init__(self, output: str, hand: Callable[[Pixels], object] | None = None) -> None:
        self.output = output
        self._hand = hand
        self.handle = os.eventfd(0, os.EFD_NONBLOCK | os.EFD_CLOEXEC)
        self._lock = threading.Lock()
        self._newest: Sent | None = None
        self._count = 0
        self._told = self._closed = False
        self.fault: str | None = None
        """Why nobody sees the pictures, in a sentence; said by who shows them, read by who makes them."""

    def put(self, pixels: Pixels, number: int | None = None) -> None:
        """A new picture, from whatever thread; returns at once.  ``number`` is another than how many came before."""
        with self._lock:
            if self._closed:
                return
            if self._hand is not None:
                self._hand(pixels)
                return
            self._newest, self._count = Sent(pixels, self._count if number is None else number), self._count + 1
            if not self._told:
                self._told = True
                os.eventfd_write(self.handle, 1)

    def newest(self) -> Sent | None:
        """The newest picture, which must not be written to; None before the first."""
        with self._lock:
            if self._told and not self._closed:
                self._told = False
                with contextlib.suppress(BlockingIOError):
                    os.eventfd_read(self.handle)
            return self._newest

    def close(self) -> None:
        """No more pictures come."""
        with self._lock:
            if not self._closed:
                self._closed = True
                os.close(self.handle)
