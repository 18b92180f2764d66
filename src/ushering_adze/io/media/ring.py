"""Sound of the last moments, by its place on a timeline of its own."""

from __future__ import annotations

import threading

import numpy as np

from ushering_adze.core.sound.levels import RATE, Sound, silence

KEPT = 4.0
"""Seconds that are kept."""


class SoundRing:
    """Keeps the last seconds of sound; written by one thread, read by another.

    Parameters
    ----------
    channels : int
    seconds : float
    """

    def __init__(self, channels: int = 2, seconds: float = KEPT) -> None:
        self.channels = channels
        self._kept = silence(round(seconds * RATE), channels)
        self._lock = threading.Lock()
        self.end = 0
        """The sample after the last that was written."""
        self.begin = 0
        """The first sample that was ever written behind what is kept now."""

    @property
    def none(self) -> Sound:
        """No samples at all."""
        return silence(0, self.channels)

    def put(self, start: int, sound: Sound) -> None:
        """Write from a place on; what lies between it and what came before is silent.

        Parameters
        ----------
        start : int
        sound : ndarray, (samples, channels)
        """
        size = len(self._kept)
        with self._lock:
            if self.begin == self.end or start < self.begin or start > self.end + size:
                self._kept[:] = 0
                self.begin = self.end = start
            if start > self.end:
                self._write(self.end, silence(start - self.end, self.channels))
            self._write(start, sound[-size:] if len(sound) <= size else sound[len(sound) - size :])
            self.end = max(self.end, start + len(sound))
            self.begin = max(self.begin, self.end - size)

    def _write(self, start: int, sound: Sound) -> None:
        size = len(self._kept)
        at, first = start % size, min(len(sound), size - start % size)
        self._kept[at : at + first] = sound[:first]
        self._kept[: len(sound) - first] = sound[first:]

    def read(self, start: int, samples: int) -> Sound | None:
        """A stretch; silent where nothing was written, None where nothing of it was."""
        made = silence(samples, self.channels)
        with self._lock:
            one, two = max(start, self.begin), min(start + samples, self.end)
            if one >= two:
                return None
            made[one - start : two - start] = self._kept[np.arange(one, two) % len(self._kept)]
        return made
