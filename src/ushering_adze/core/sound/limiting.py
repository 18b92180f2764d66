"""What stands at the end of a mix: a low cut, a delay, and a limiter that lets no true peak through."""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from ushering_adze.core.sound.levels import RATE, Sound, gain_of
from ushering_adze.core.sound.peaks import FINER, TruePeak

AHEAD = 72
"""Samples that a limiter looks ahead: 1.5 ms."""
TAPS = len(FINER)
LATE, WITHIN = AHEAD + TAPS // 2 + 2, AHEAD + TAPS + 4
"""Samples by which sound leaves a limiter later, and over which it looks for the highest peak: with some to spare on
both sides, as peaks are known half a filter later.
"""
SAFE = 0.985
"""An eighth of a decibel below: whoever measures goes by a filter of his own."""
RELEASE = 1 / (0.12 * RATE)
"""Of its factor, a sample: it is back in 0.12 s at most."""


class LowCut:
    """Lets less through below a frequency: 12 dB an octave.

    Parameters
    ----------
    hertz : float
    channels : int
    """

    def __init__(self, hertz: float, channels: int = 2) -> None:
        self.hertz = hertz
        self._sos = butter(2, hertz, "highpass", fs=RATE, output="sos")
        self._state = np.zeros((len(self._sos), 2, channels))

    def run(self, sound: Sound) -> Sound:
        """What comes next, with less of what is low.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        """
        made, self._state = sosfilt(self._sos, sound, axis=0, zi=self._state)
        return np.asarray(made, np.float32)


class Delay:
    """Keeps sound back.

    Parameters
    ----------
    samples, channels : int
    """

    def __init__(self, samples: int, channels: int = 2) -> None:
        self.samples = samples
        self._kept = np.zeros((samples, channels), np.float32)

    def run(self, sound: Sound) -> Sound:
        """What comes out while this goes in.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        """
        if not self.samples:
            return sound
        whole = np.concatenate((self._kept, sound))
        self._kept = whole[len(sound) :]
        return whole[: len(sound)]


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
        if quiet and self._wanted.min() == 1.0 and self._freed.min() == 1.0:
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
        smooth = np.convolve(run, np.full(AHEAD, 1 / AHEAD), "valid")
        self.reduction = -20 * float(np.log10(max(1e-6, smooth.min())))
        return np.asarray(late * smooth[:, None], np.float32)
