"""Going over, in its own time, from what a source showed to what stands in for it, and back."""

from __future__ import annotations

import math

import cv2
import numpy as np

from ushering_adze.core.picture.frame import Frame
from ushering_adze.io.media.still import serials


class Crossing:
    """A dissolve from one frame to whatever is shown by now."""

    def __init__(self) -> None:
        self._who: object = None
        self._shown: Frame | None = None
        self._before: Frame | None = None
        self._since = -math.inf
        self._made: tuple[object, Frame] | None = None

    def frame(self, who: object, frame: Frame | None, now: float, seconds: float) -> Frame | None:
        """What to show of a frame, by ``who`` it is of: when that is another, it comes up within ``seconds``.

        The same ``now`` gives the same frame.
        """
        if frame is None or seconds <= 0:
            self._who, self._shown, self._before = who, frame, None
            return frame
        if who != self._who:
            if self._shown is not None:
                self._before, self._since = self._shown, now
            self._who = who
        share = (now - self._since) / seconds
        if self._before is None or not 0 <= share < 1:
            self._before, self._made, self._shown = None, None, frame
            return frame
        key = (frame.serial, self._before.serial, now)
        if self._made is None or self._made[0] != key:
            height, width = frame.pixels.shape[:2]
            before = self._before.pixels
            if before.shape != frame.pixels.shape:
                before = np.asarray(cv2.resize(before, (width, height), interpolation=cv2.INTER_LINEAR), np.uint8)
            mixed = np.asarray(cv2.addWeighted(frame.pixels, share, before, 1 - share, 0), np.uint8)
            opaque = frame.opaque and self._before.opaque
            self._made = key, frame._replace(pixels=mixed, serial=next(serials), opaque=opaque)
        self._shown = self._made[1]
        return self._shown
