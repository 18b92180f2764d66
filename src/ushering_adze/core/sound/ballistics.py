"""Pointers of meters: how fast they rise and fall."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.sound.filtering import Cascade
from ushering_adze.core.sound.levels import RATE, Sound

Scale = Literal["ppm1", "ppm2", "vu"]
PART = 24
"""Samples from one move of a pointer to the next: half a thousandth of a second."""
CHARGE = {"ppm1": (0.0016, 1.0), "ppm2": (0.00185, 1.4)}
"""Seconds in which what lies over the pointer is taken in, and by which power of it, such that bursts read as IEC
60268-10 says (from memory): of 10, 5 and 3 ms −1, −2, −4 dB with type I; of 10, 5 and 1.5 ms −2.5, −4, −9 dB with type
II.
"""
FALL = {"ppm1": 20 / 1.7, "ppm2": 24 / 2.8}
"""Decibels a second."""
VU_RISE = 0.3
"""Seconds in which a VU meter comes to 99 % (IEC 60268-17, from memory)."""


class Pointer:
    """The pointers of one kind of meter, one for each channel.

    Parameters
    ----------
    scale : {"ppm1", "ppm2", "vu"}
    channels : int
    """

    def __init__(self, scale: Scale, channels: int = 2) -> None:
        self._scale = scale
        self.at: NDArray[np.float64] = np.zeros(channels)
        """Where they are, as factors of full scale for a tone's peak."""
        if scale == "vu":  # two equal poles: 99 % at 6.64 time constants
            k = math.exp(-6.64 / (VU_RISE * RATE))
            self._filter = Cascade([(((1 - k) ** 2, 0.0, 0.0, 1.0, -2 * k, k * k),)], channels)

    def hear(self, sound: Sound) -> None:
        """Move with what comes next.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        """
        if self._scale == "vu":
            self.at = np.asarray(self._filter.run(np.abs(sound).T[None])[0, :, -1] * (np.pi / 2), np.float64)
            return
        fall = 10 ** (-FALL[self._scale] * PART / RATE / 20)
        seconds, power = CHARGE[self._scale]
        loud = np.abs(sound)
        for n in range(0, len(loud), PART):
            part = loud[n : n + PART]
            over = (np.maximum(part - self.at, 0.0) ** power).sum(axis=0) / (seconds * RATE)
            over = np.minimum(over, np.maximum(part.max(axis=0) - self.at, 0.0))
            self.at = self.at * fall ** (len(part) / PART) + over


class Correlation:
    """How alike two channels are: 1 the same, 0 nothing in common, −1 the same the other way round.

    Parameters
    ----------
    seconds : float
        Over which it is taken.
    """

    def __init__(self, seconds: float = 0.6) -> None:
        self._seconds = seconds
        self._sums = np.zeros(3)

    def hear(self, sound: Sound) -> None:
        """Measure what comes next.

        Parameters
        ----------
        sound : ndarray, (samples, 2 or more)
        """
        left, right = sound[:, 0].astype(np.float64), sound[:, 1].astype(np.float64)
        keep = np.exp(-len(sound) / RATE / self._seconds)
        self._sums = self._sums * keep + np.array([left @ right, left @ left, right @ right])

    @property
    def now(self) -> float | None:
        """−1 to 1; None where one channel or both are silent."""
        both, left, right = self._sums
        if left < 1e-7 or right < 1e-7:
            return None
        return float(np.clip(both / np.sqrt(left * right), -1, 1))
