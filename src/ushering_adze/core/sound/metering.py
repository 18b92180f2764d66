"""All that is measured of a mix, as values."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ushering_adze.core.sound.ballistics import Correlation, Pointer, Scale
from ushering_adze.core.sound.levels import RATE, SILENT, Sound, decibels
from ushering_adze.core.sound.loudness import Loudness, LoudnessMeter
from ushering_adze.core.sound.peaks import TruePeak

QUIET = -60.0
"""dBFS below which there is no sound."""


class Measured(NamedTuple):
    """A mix at a moment.

    ``pointers`` are those of its meter for each channel, in dBFS; ``peak`` the largest true peak since it was set
    back, in dBTP, ``peak_lately`` that of the last block; ``silent`` the seconds for which there was no sound;
    ``correlation`` is None where there is none.
    """

    pointers: tuple[float, ...] = (SILENT, SILENT)
    peak: float = SILENT
    peak_lately: float = SILENT
    loudness: Loudness = Loudness()
    correlation: float | None = None
    silent: float = 0.0
    reduction: float = 0.0


class Meters:
    """Measures one mix.

    Parameters
    ----------
    scale : {"ppm1", "ppm2", "vu"}
    channels : int
    """

    def __init__(self, scale: Scale = "ppm1", channels: int = 2) -> None:
        self._channels = channels
        self._pointer = Pointer(scale, channels)
        self.scale: Scale = scale
        self._loudness, self._true = LoudnessMeter(channels), TruePeak(channels)
        self._correlation = Correlation()
        self._peak, self._lately, self._silent, self._reduction = 0.0, 0.0, 0.0, 0.0

    def turn(self, scale: Scale) -> None:
        """Have pointers of another kind."""
        if scale != self.scale:
            self.scale, self._pointer = scale, Pointer(scale, self._channels)

    def reset(self) -> None:
        """Set back what is measured over long: peak, integrated loudness, range."""
        self._peak = 0.0
        self._loudness.reset()

    def hear(self, sound: Sound, reduction: float = 0.0) -> None:
        """Measure what comes next.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        reduction : float
            Decibels by which its limiter turned it down.
        """
        self._pointer.hear(sound)
        self._loudness.hear(sound)
        self._correlation.hear(sound)
        self._lately = float(self._true.hear(sound).max(initial=0.0))
        self._peak = max(self._peak, self._lately)
        quiet = decibels(float(np.abs(sound).max(initial=0.0))) < QUIET
        self._silent = self._silent + len(sound) / RATE if quiet else 0.0
        self._reduction = reduction

    @property
    def now(self) -> Measured:
        """What it has measured."""
        return Measured(
            tuple(decibels(float(v)) for v in self._pointer.at),
            decibels(self._peak),
            decibels(self._lately),
            self._loudness.now,
            self._correlation.now,
            self._silent,
            self._reduction,
        )
