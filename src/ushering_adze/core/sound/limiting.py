"""What stands at the end of a mix: a limiter that lets no true peak through."""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from ushering_adze.core.sound.levels import RATE, Sound, gain_of
from ushering_adze.core.sound.peaks import FINER, TruePeak

AHEAD = 72
"""Samples that a limiter looks ahead: 1.5 ms."""
TAPS = len(FINER)
LATE, WITHIN = AHEAD + TAPS // 2 + 2, AHEAD + TAPS + 4
"""Samples by which sound leaves a limiter later, and over which it looks for the highest peak: with some to spare on
both sides, as peaks are known half a filter later.
"""
SAFE = 0.978
"""A fifth of a decibel below: whoever measures goes by a filter of his own, and that of the standard reads high."""
RELEASE = 1 / (0.12 * RATE)
"""Of its factor, a sample: it is back in 0.12 s at most."""


class Limiter:
    """Turns down what would go over a true peak, just before it does, and comes back slowly.

    Parameters
    ----------
    most : float
        In dBTP.
    channels : int
    """

    def __init__(self, most: float = -1.0, channels: int = 2) -> None:
        self.most = most
        self._peak = TruePeak(channels, FINER)
        self._before = np.zeros((LATE, channels), np.float32)
        self._wanted: NDArray[np.float64] = np.ones(WITHIN - 1)
        self._freed: NDArray[np.float64] = np.ones(AHEAD - 1)
        self._rests = self._dozes = True
        self.reduction = 0.0
        """Decibels by which it turned down most in what came last; 0 if it did not."""

    def run(self, sound: Sound) -> Sound:
        """What comes out while this goes in, `LATE` samples later.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        """
        whole = np.concatenate((self._before, sound))
        self._before = whole[len(whole) - LATE :]
        return self.limited(whole, float(np.abs(whole).max()))

    def lets_through(self, loudest: float) -> bool:
        """Whether no magnitude up to this one needs turning down."""
        return loudest * self._peak.most <= gain_of(self.most) * SAFE

    def limited(self, whole: Sound, loudest: float) -> Sound:
        """The same of sound that is kept elsewhere.

        Parameters
        ----------
        whole : ndarray, (LATE + samples, channels)
            What goes in, and ahead of it what went in last.
        loudest : float
            No magnitude in it is larger.

        Returns
        -------
        ndarray, (samples, channels)
            Not to be written to.
        """
        late = whole[: len(whole) - LATE]
        if self._rests and self.lets_through(loudest):
            self._dozes = True
            self.reduction = 0.0
            return late
        if self._dozes:
            self._peak.skip(whole[:LATE])
            self._dozes = False
        limit = gain_of(self.most) * SAFE
        peaks = self._peak.hear(whole[LATE:]).max(axis=1)
        wanted = np.concatenate((self._wanted, np.minimum(1.0, limit / np.maximum(peaks, 1e-9))))
        self._wanted = wanted[len(wanted) - WITHIN + 1 :]
        # the least that is wanted within what lies ahead, let go of slowly, then made smooth over as long
        least = sliding_window_view(wanted, WITHIN).min(axis=1)
        climb = RELEASE * np.arange(1, len(least) + 1)
        freed = np.minimum(np.minimum.accumulate(np.minimum(least - climb, self._freed[-1])) + climb, least)
        run = np.concatenate((self._freed, freed))
        self._freed = run[len(run) - AHEAD + 1 :]
        self._rests = bool(self._wanted.min() == 1.0 and self._freed.min() == 1.0)
        smooth = np.convolve(run, np.full(AHEAD, 1 / AHEAD), "valid")
        self.reduction = -20 * float(np.log10(max(1e-6, smooth.min())))
        return np.asarray(late * smooth[:, None], np.float32)
