"""Pictures of sources at the sizes at which canvases show them, each made once, and the memory that they lie in."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np

from ushering_adze.core.picture.frame import Frame, NoRequests, Requests
from ushering_adze.core.picture.resampling import Cut, resample, resample_part
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect


def quick_shrink(pixels: Pixels, cut: Cut) -> Pixels:
    """Like `resample`, but for small pictures on the desk: far shrinking first skips pixels, then averages."""
    if cut.take.w > 4 * cut.put.w and cut.take.h > 4 * cut.put.h:
        taken = pixels[cut.take.cut()]
        half = cv2.resize(taken, (cut.put.w * 2, cut.put.h * 2), interpolation=cv2.INTER_NEAREST)
        return np.asarray(cv2.resize(half, (cut.put.w, cut.put.h), interpolation=cv2.INTER_AREA), np.uint8)
    return resample(pixels, cut)


class _Kept(NamedTuple):
    serial: int
    pixels: Pixels
    flat: Pixels | None
    draw: int


_Slot = tuple[str, Rect, int, int, Rect | None]
"""A source, what is taken of it, the size at which, and which part of that is made if it is not all."""
NONE = NoRequests()
_FORGET = 2
_SPARES = 6


class Resampled:
    """What has been resampled for a canvas, kept while layers show it.

    Parameters
    ----------
    small : bool
        Whether the canvas is a small picture, for which far shrinking may skip pixels.
    """

    def __init__(self, small: bool) -> None:
        self._small = small
        self._kept: dict[_Slot, _Kept] = {}
        self._spare: list[Pixels] = []
        self._draws = 0
        self.requests: Requests = NONE
        """Where frames of sizes that are needed can be asked for."""

    def part(self, source: str, frame: Frame, cut: Cut, part: Rect) -> Pixels:
        """A part of a cut at its size on the canvas."""
        slot = (source, cut.take, cut.put.w, cut.put.h, part.moved(-cut.put.x, -cut.put.y))
        old = self._kept.get(slot)
        if old is None or old.serial != frame.serial:
            old = _Kept(frame.serial, resample_part(frame.pixels, cut, part), None, self._draws)
        self._kept[slot] = old._replace(draw=self._draws)
        return old.pixels

    def whole(self, source: str, frame: Frame, cut: Cut) -> Pixels:
        """The cut at its size on the canvas, made once however many layers and frames show it."""
        slot = (source, cut.take, cut.put.w, cut.put.h, None)
        old = self._kept.get(slot)
        if old is not None and old.serial == frame.serial:
            self._kept[slot] = old._replace(draw=self._draws)
            return old.pixels
        if self._small:
            self._kept[slot] = _Kept(frame.serial, quick_shrink(frame.pixels, cut), None, self._draws)
            return self._kept[slot].pixels
        if (cut.take.w, cut.take.h) == (cut.put.w, cut.put.h):
            self._kept[slot] = _Kept(frame.serial, resample(frame.pixels, cut), None, self._draws)
            return self._kept[slot].pixels
        wish = (cut.take, cut.put.w, cut.put.h)
        self.requests.ask(source, wish)
        sized = self.requests.made(source, frame.serial, wish)
        if sized is not None:
            if old is not None and old.flat is not None:
                self.keep_spare(old.flat)
            self._kept[slot] = _Kept(frame.serial, sized, None, self._draws)
            return sized
        flat = old.flat if old is not None and old.flat is not None else self.buffer(cut.put.area * 4)
        target = flat[: cut.put.area * 4].reshape(cut.put.h, cut.put.w, 4)
        made = resample(frame.pixels, cut, target)
        if not np.may_share_memory(made, flat):
            np.copyto(target, made)
        self._kept[slot] = _Kept(frame.serial, target, flat, self._draws)
        return target

    def buffer(self, size: int) -> Pixels:
        """Memory of at least ``size`` bytes, used before if possible: fresh pages cost more than the
        resampling itself.
        """
        large = [b for b in self._spare if b.size >= size]
        if large:
            best = min(large, key=lambda b: b.size)
            self._spare = [b for b in self._spare if b is not best]
            return best
        return np.empty(size + size // 8, np.uint8)

    def keep_spare(self, memory: Pixels) -> None:
        """Memory that is not needed any more."""
        self._spare = [*self._spare, memory][-_SPARES:]

    def forget(self, in_use: Sequence[Pixels]) -> None:
        """Let go of what no layer has shown for a while, and keep its memory for what comes."""
        self._draws += 1
        for slot, kept in list(self._kept.items()):
            if self._draws - kept.draw > _FORGET and not any(kept.pixels is p for p in in_use):
                del self._kept[slot]
                if kept.flat is not None:
                    self.keep_spare(kept.flat)
