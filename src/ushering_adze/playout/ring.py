"""Pictures that go from one process to another in memory that both see: the newest always wins, none are queued.

A ring has three places.  Who shows pictures says which one it took; from then on those before it may be written over.
So a picture never changes while it is shown, however long that takes.
"""

from __future__ import annotations

import contextlib
import math
import mmap
import os
import threading
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.pixels import Pixels

PLACES = 3


class Placed(NamedTuple):
    """Where a picture is: in which memory (a file of a process), how large it is, in which place, and its number."""

    process: int
    file: int
    shape: tuple[int, ...]
    place: int
    number: int
    serial: int = 0


class _Memory(NamedTuple):
    """The places of a ring, and the file they are in."""

    file: int
    places: NDArray[np.uint8]

    def fits(self, pixels: Pixels) -> bool:
        return self.places.shape[1:] == pixels.shape


class RingIn:
    """Where pictures are put.  They are copied in a thread of its own, beside the frames.

    Parameters
    ----------
    placed : callable
        Is told of every picture that is there to be seen.
    """

    def __init__(self, placed: Callable[[Placed], object]) -> None:
        self._placed = placed
        self._news = threading.Condition()
        self._newest: tuple[Pixels, int] | None = None
        self._closed = False
        self._memory: _Memory | None = None
        self._former: list[int] = []
        """Files that pictures may still be opened from."""
        self._numbers = [0] * PLACES
        self._count = self._took = self._first = 0
        self._thread = threading.Thread(target=self._run, name="ring", daemon=True)
        self._thread.start()

    def put(self, pixels: Pixels, serial: int = 0) -> None:
        """A new picture, from whatever thread; returns at once."""
        with self._news:
            self._newest = pixels, serial
            self._news.notify()

    def took(self, number: int) -> None:
        """The picture of this number is shown, and none before it any more."""
        with self._news:
            self._took = max(self._took, number)
            self._news.notify()

    def close(self) -> None:
        """No more pictures; who still shows one keeps it."""
        with self._news:
            self._closed = True
            self._news.notify()
        self._thread.join()
        for file in (*self._former, *([] if self._memory is None else [self._memory.file])):
            os.close(file)

    def _place(self) -> int | None:
        """A place for the newest picture that nobody looks at; None if there is none, or no picture."""
        if self._newest is None:
            return None
        if self._memory is None or not self._memory.fits(self._newest[0]):
            return 0  # in a new memory
        return next((n for n, number in enumerate(self._numbers) if number == 0 or number < self._took), None)

    def _run(self) -> None:
        while True:
            with self._news:
                self._news.wait_for(lambda: self._closed or self._place() is not None)
                place, newest, self._newest = self._place(), self._newest, None
            if self._closed or place is None or newest is None:
                return
            self._copy(place, *newest)
            del newest  # whoever made it may use it again

    def _copy(self, place: int, pixels: Pixels, serial: int) -> None:
        memory = self._memory
        if memory is None or not memory.fits(pixels):
            memory = self._begun(pixels.shape)
        elif self._former and self._took > self._first:
            os.close(self._former.pop())  # pictures of the present one are seen
        np.copyto(memory.places[place], pixels)
        with self._news:
            self._count += 1
            number = self._numbers[place] = self._count
        self._placed(Placed(os.getpid(), memory.file, pixels.shape, place, number, serial))

    def _begun(self, shape: tuple[int, ...]) -> _Memory:
        if self._memory is not None:
            self._former.append(self._memory.file)
        self._numbers, self._first = [0] * PLACES, self._count
        file = os.memfd_create("pictures", os.MFD_CLOEXEC)
        os.ftruncate(file, PLACES * math.prod(shape))
        self._memory = _Memory(file, np.frombuffer(mmap.mmap(file, 0), np.uint8).reshape(PLACES, *shape))
        return self._memory


class RingOut:
    """Where pictures are seen."""

    def __init__(self) -> None:
        self._key: object = None
        self._places: NDArray[np.uint8] | None = None

    def seen(self, placed: Placed) -> Pixels | None:
        """The picture that is there; it stays as it is until `RingIn.took` is told of a later one.  None if the ring is
        gone.

        It is asked of every picture that was placed, in their order.
        """
        key = placed.process, placed.file, placed.shape
        if key != self._key:
            self._key, self._places = key, None
            with (
                contextlib.suppress(OSError, ValueError),
                Path(f"/proc/{placed.process}/fd/{placed.file}").open("rb") as f,
            ):
                memory = mmap.mmap(f.fileno(), 0, prot=mmap.PROT_READ)
                self._places = np.frombuffer(memory, np.uint8).reshape(PLACES, *placed.shape)
        return None if self._places is None else self._places[placed.place]
