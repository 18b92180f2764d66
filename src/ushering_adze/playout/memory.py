"""What surfaces showed in the last minutes, small: kept to be looked back at."""

from __future__ import annotations

import threading
import time
from bisect import bisect_right
from collections import deque
from collections.abc import Callable
from typing import NamedTuple

import cv2
import numpy as np

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.proof.live import is_same
from ushering_adze.engine.report import Report

EVERY = 1.0
"""Seconds from one picture to the next."""
KEPT = 900
"""Pictures of each surface that are kept: a quarter of an hour."""
ACROSS, QUALITY = 320, 72
"""Pixels across, and of the JPEG."""


class Moment(NamedTuple):
    """A moment that is remembered: seconds since 1970, and of each surface its picture, coded, and what it showed."""

    at: float
    pictures: dict[str, bytes]
    words: dict[str, str]


class Remembered(NamedTuple):
    """The same, to be looked at."""

    at: float
    pictures: dict[str, Pixels]
    words: dict[str, str]


class Memory:
    """Remembers reports.

    Parameters
    ----------
    clock : callable, optional
        Seconds since 1970.
    kept : int
        Moments that are remembered.
    """

    def __init__(self, clock: Callable[[], float] = time.time, kept: int = KEPT) -> None:
        self._clock = clock
        self._moments: deque[Moment] = deque(maxlen=kept)
        self._last: dict[str, tuple[Pixels, bytes]] = {}
        self._lock = threading.Lock()

    def follow(self, report: Report) -> None:
        """Keep what surfaces show, once a second; what has not changed takes no room twice."""
        now = self._clock()
        with self._lock:
            last = self._moments[-1].at if self._moments else -1e9
        if 0 <= now - last < EVERY:
            return
        pictures: dict[str, bytes] = {}
        for id, pixels in report.program.items():
            kept = self._last.get(id)
            if kept is None or not is_same(kept[0], pixels):
                kept = self._last[id] = pixels, _coded(pixels)
            pictures[id] = kept[1]
        words = {id: " + ".join(s.sources) or s.state for id, s in report.surfaces.items()}
        with self._lock:
            self._moments.append(Moment(now, pictures, words))

    def span(self) -> tuple[float, float] | None:
        """The first and the last moment there is."""
        with self._lock:
            return (self._moments[0].at, self._moments[-1].at) if self._moments else None

    def at(self, moment: float) -> Remembered | None:
        """What was shown at a moment, in seconds since 1970; the first there is, if it was before that."""
        with self._lock:
            if not self._moments:
                return None
            n = bisect_right(self._moments, moment, key=lambda m: m.at) - 1
            found = self._moments[max(0, n)]
        pictures = {}
        for id, data in found.pictures.items():
            plain = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
            if plain is not None:
                pictures[id] = np.asarray(cv2.cvtColor(plain, cv2.COLOR_BGR2BGRA), np.uint8)
        return Remembered(found.at, pictures, found.words)

    @property
    def bytes(self) -> int:
        """Memory that it takes."""
        with self._lock:
            return sum(len(d) for d in {id(p): p for m in self._moments for p in m.pictures.values()}.values())


def _coded(pixels: Pixels) -> bytes:
    wide = pixels.shape[1]
    few = pixels[..., :3]
    if wide > ACROSS:
        size = ACROSS, max(1, round(pixels.shape[0] * ACROSS / wide))
        few = np.asarray(cv2.resize(few, size, interpolation=cv2.INTER_AREA), np.uint8)
    return bytes(cv2.imencode(".jpg", np.ascontiguousarray(few), [cv2.IMWRITE_JPEG_QUALITY, QUALITY])[1])
