"""Frames: contiguous uint8 arrays of shape (height, width, 4), BGRA, premultiplied alpha.

Canvases and rasters have the same shape but are opaque by definition: their fourth channel is never read.
"""

from __future__ import annotations

from typing import NamedTuple, Protocol

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect

Sized = tuple[Rect, int, int]
"""A part of a picture, and the width and height at which it is shown."""


class Sizes:
    """The cuts in which a source's pictures are shown, each with its size: asked for by those who paint, made by who
    reads ahead.

    Used from two threads; every step is one of a dictionary's own.
    """

    LASTS = 12
    """Pictures after which a cut that nobody has asked for, or foreseen, again is no longer made."""

    def __init__(self) -> None:
        self._asked: dict[Sized, tuple[int, int]] = {}
        self._foreseen: frozenset[Sized] = frozenset()
        self._turn = self._foreseen_at = 0
        self.news = False
        """Whether there is a cut to make that `wanted` has not told of."""

    def ask(self, cut: Sized) -> None:
        """Wish for pictures of this cut.

        It is made from the second picture on that it is asked for with: the size of a layer that moves is another each
        time.
        """
        first, last = self._asked.get(cut, (self._turn - (cut in self._foreseen), self._turn))
        self._asked[cut] = (first, self._turn)
        if first == last < self._turn:
            self.news = True

    def foresee(self, cuts: frozenset[Sized]) -> None:
        """Say what will be asked for before long, in place of what was said before: it is made of the pictures that are
        there already.
        """
        self._foreseen_at = self._turn
        if cuts != self._foreseen:
            self._foreseen = cuts
            self.news = True

    def next(self) -> frozenset[Sized]:
        """The cuts to make of the next picture."""
        self._turn += 1
        for cut, (_, last) in list(self._asked.items()):
            if self._turn - last > self.LASTS:
                self._asked.pop(cut, None)
        if self._turn - self._foreseen_at > self.LASTS:
            self._foreseen = frozenset()
        return self._steady()

    def wanted(self) -> frozenset[Sized]:
        """The cuts to make of the pictures that are there already."""
        self.news = False
        return self._steady()

    def _steady(self) -> frozenset[Sized]:
        return self._foreseen.union(cut for cut, (first, last) in list(self._asked.items()) if last > first)


class Frame(NamedTuple):
    """A picture of a source.

    ``serial`` changes when, and only when, the pixels do; ``opaque`` says alpha is 255 throughout.  ``origin`` is the
    id of the source it comes from, ``born`` when it was made or came in, in seconds of the monotonic clock; 0 where
    that means nothing, as with a still.
    """

    pixels: Pixels
    serial: int
    opaque: bool = True
    origin: str = ""
    born: float = 0.0


class Requests(Protocol):
    """Where pictures of sources can be asked for in the sizes they are shown at, before they are due."""

    def ask(self, source: str, cut: Sized) -> None:
        """Wish for the pictures to come in this cut, too."""

    def foresee(self, source: str, cuts: frozenset[Sized]) -> None:
        """Say in which cuts it will be shown before long."""

    def made(self, source: str, serial: int, cut: Sized) -> Pixels | None:
        """This cut of the picture of a serial, if it was made ahead."""


class NoRequests:
    """Nobody makes anything ahead."""

    def ask(self, source: str, cut: Sized) -> None:
        """Nobody hears it."""

    def foresee(self, source: str, cuts: frozenset[Sized]) -> None:
        """Nobody hears it."""

    def made(self, source: str, serial: int, cut: Sized) -> Pixels | None:
        """Nothing is."""
        return None
