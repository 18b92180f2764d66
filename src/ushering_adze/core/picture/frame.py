"""Frames: contiguous uint8 arrays of shape (height, width, 4), BGRA, premultiplied alpha.

Canvases and rasters have the same shape but are opaque by definition: their fourth channel is never read.
"""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import NamedTuple

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect

Sized = tuple[Rect, int, int]
"""A part of a picture, and the width and height at which it is shown."""


class Sizes:
    """The cuts in which a source's pictures are shown, each with its size: asked for by those who paint, made by who reads ahead.

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

        It is made from the second picture on that it is asked for with: the size of a layer that moves is another each time.
        """
        first, last = self._asked.get(cut, (self._turn - (cut in self._foreseen), self._turn))
        self._asked[cut] = (first, self._turn)
        if first == last < self._turn:
            self.news = True

    def foresee(self, cuts: frozenset[Sized]) -> None:
        """Say what will be asked for before long, in place of what was said before: it is made of the pictures that are there already."""
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
    """A picture of a source.  ``serial`` changes when, and only when, the pixels do; ``opaque`` says alpha is 255 throughout.

    ``sizes`` is where cuts of the pictures to come can be asked for, ``sized`` what of this one was made ahead.
    """

    pixels: Pixels
    serial: int
    opaque: bool = True
    sizes: Sizes | None = None
    sized: Mapping[Sized, Pixels] = MappingProxyType({})
