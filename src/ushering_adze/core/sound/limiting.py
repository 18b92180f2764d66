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
BLOCKS = 6
"""For which a tape that keeps sound back has room, before it is begun anew."""
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
        self._tape = np.zeros((channels, samples), np.float32)
        """By channels, as mixes come; what it gave out are views of it, so it is never written over, only gone on with
        and begun anew."""
        self._end = samples

    def turn(self, samples: int) -> None:
        """Keep it back by so much from now on: it gets there within 5 ms, without a click."""
        if samples > self._end:
            nothing = np.zeros((len(self._tape), samples - self._end), np.float32)
            self._tape = np.concatenate((nothing, self._tape[:, : self._end]), axis=1)
            self._end = samples
        self.samples = samples

    def run(self, sound: Sound) -> Sound:
        """What comes out while this goes in.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        """
        before, self._before = self._before, self.samples
        if not self.samples and not before:
            return sound
        count, reach = len(sound), max(self.samples, before)
        if self._end + count > self._tape.shape[1]:
            fresh = np.empty((len(self._tape), reach + BLOCKS * count), np.float32)
            fresh[:, :reach] = self._tape[:, self._end - reach : self._end]
            self._tape, self._end = fresh, reach
        at = self._end
        self._end += count
        self._tape[:, at : self._end] = sound.T
        made: Sound = self._tape[:, at - self.samples : self._end - self.samples].T
        if before != self.samples:
            share = np.minimum(np.arange(1, count + 1, dtype=np.float32) / RAMP, np.float32(1))[:, None]
            made = made * share + self._tape[:, at - before : self._end - before].T * (1 - share)
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

    def run(self, sound: Sound) -> Sound:
        """What comes out while this goes in, `LATE` samples later.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
            As many as it looks ahead, at least.
        """
        limit = gain_of(self.most) * SAFE
        late = self._delay.run(sound)
        quiet = max(float(sound.max()), -float(sound.min())) * self._peak.most <= limit
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
