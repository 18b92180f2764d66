"""What stands at the end of a mix: a delay, and a limiter that lets no true peak through."""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from ushering_adze.core.sound.levels import RAMP, RATE, Sound, gain_of
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


class Delay:
    """Keeps sound back.

    Parameters
    ----------
    samples, channels : int
    """

    def __init__(self, samples: int, channels: int = 2) -> None:
        self.samples = self._before = samples
        self._kept = np.zeros((channels, samples), np.float32).T  # by channels, as mixes come

    def turn(self, samples: int) -> None:
        """Keep it back by so much from now on: it gets there within 5 ms, without a click."""
        more = max(samples, self._before) - len(self._kept)
        if more > 0:
            self._kept = np.concatenate((np.zeros((self._kept.shape[1], more), np.float32).T, self._kept))
        self.samples = samples

    def run(self, sound: Sound) -> Sound:
        """What comes out while this goes in.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        """
        if not self.samples and not self._before:
            return sound
        whole, count = np.concatenate((self._kept, sound)), len(sound)
        at = len(self._kept) - self.samples
        made = whole[at : at + count]
        if self._before != self.samples:
            at = len(self._kept) - self._before
            share = np.minimum(np.arange(1, count + 1, dtype=np.float32) / RAMP, np.float32(1))[:, None]
            made = made * share + whole[at : at + count] * (1 - share)
            self._before = self.samples
        self._kept = whole[len(whole) - self.samples :]
        return made


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
        self._delay = Delay(LATE, channels)
        self._wanted: NDArray[np.float64] = np.ones(WITHIN - 1)
        self._freed: NDArray[np.float64] = np.ones(AHEAD - 1)
        self._rests = True
        self.reduction = 0.0
        """Decibels by which it turned down most in what came last; 0 if it did not."""

    def run(self, sound: Sound, loudest: float | None = None) -> Sound:
        """What comes out while this goes in, `LATE` samples later.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
            As many as it looks ahead, at least.
        loudest : float, optional
            Its largest magnitude, if that is known.
        """
        limit = gain_of(self.most) * SAFE
        late = self._delay.run(sound)
        loudest = float(np.abs(sound).max()) if loudest is None else loudest
        quiet = loudest * self._peak.most <= limit
        if quiet and self._rests:
            self._peak.skip(sound)
            self.reduction = 0.0
            return late
        peaks = self._peak.hear(sound).max(axis=1)
        whole = np.concatenate((self._wanted, np.minimum(1.0, limit / np.maximum(peaks, 1e-9))))
        self._wanted = whole[len(whole) - WITHIN + 1 :]
        # the least that is wanted within what lies ahead, let go of slowly, then made smooth over as long
        least = sliding_window_view(whole, WITHIN).min(axis=1)
        climb = RELEASE * np.arange(1, len(least) + 1)
        freed = np.minimum(np.minimum.accumulate(np.minimum(least - climb, self._freed[-1])) + climb, least)
        run = np.concatenate((self._freed, freed))
        self._freed = run[len(run) - AHEAD + 1 :]
        self._rests = bool(self._wanted.min() == 1.0 and self._freed.min() == 1.0)
        smooth = np.convolve(run, np.full(AHEAD, 1 / AHEAD), "valid")
        self.reduction = -20 * float(np.log10(max(1e-6, smooth.min())))
        return np.asarray(late * smooth[:, None], np.float32)
