"""Loudness as it is heard: momentary, short-term, integrated, and its range."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.sound.filtering import Cascade
from ushering_adze.core.sound.levels import RATE, Sound

SHELF = (1.53512485958697, -2.69169619070638, 1.19839281085285, 1.0, -1.69065929318241, 0.73248077421585)
HIGH_PASS = (1.0, -2.0, 1.0, 1.0, -1.99004745483398, 0.99007225036621)
"""The two filters of K weighting at 48 kHz (ITU-R BS.1770, annex 1, tables 1 and 2, from memory)."""
STEP = RATE // 10
"""Samples of a tenth of a second: blocks of 400 ms overlap by three quarters."""
OFFSET = -0.691
ABSOLUTE, RELATIVE, RANGE_RELATIVE = -70.0, -10.0, -20.0
"""Gates in LUFS and LU (BS.1770 annex 1; EBU Tech 3342)."""
LEAST = -120.0
OFTEN = 5
"""Tenths of a second from one look at all that was to the next."""


class Loudness(NamedTuple):
    """Momentary, short-term and integrated loudness in LUFS, −120 if there is none yet, and the range in LU."""

    momentary: float = LEAST
    short: float = LEAST
    integrated: float = LEAST
    range: float = 0.0


def _lufs(power: float) -> float:
    return LEAST if power <= 1e-13 else OFFSET + 10 * math.log10(power)


def _power(lufs: float) -> float:
    return 10 ** ((lufs - OFFSET) / 10)


def gated(powers: NDArray[np.float64], relative: float = RELATIVE) -> NDArray[np.float64]:
    """Those of the mean squares of blocks that pass both gates.

    Parameters
    ----------
    powers : ndarray
    relative : float
        Of the second gate, in LU beside the loudness of what passes the first.

    References
    ----------
    ITU-R BS.1770, annex 1, equations 4 to 7 (from memory).
    """
    loud = powers[powers > _power(ABSOLUTE)]
    if not loud.size:
        return loud
    return loud[loud > float(loud.mean()) * 10 ** (relative / 10)]


class KWeighting:
    """Weights channels as the ear hears them, and takes their mean squares a tenth of a second at a time.

    Parameters
    ----------
    channels : int
    """

    def __init__(self, channels: int) -> None:
        self._filter = Cascade([(SHELF, HIGH_PASS)], channels)
        self._part = np.zeros((0, channels))

    def hear(self, sound: Sound) -> NDArray[np.float64]:
        """The mean squares of every tenth of a second that is whole by now.

        Parameters
        ----------
        sound : ndarray, (samples, channels)

        Returns
        -------
        ndarray, (steps, channels)
        """
        weighted = self._filter.run(sound.T[None])[0].T
        squares = np.concatenate((self._part, weighted**2))
        whole = len(squares) // STEP
        self._part = squares[whole * STEP :]
        made: NDArray[np.float64] = squares[: whole * STEP].reshape(whole, STEP, sound.shape[1]).mean(axis=1)
        return made


class LoudnessHistory:
    """What comes of the mean squares of one mix, a tenth of a second at a time."""

    def __init__(self) -> None:
        self._steps: list[float] = []
        self._blocks, self._shorts = np.zeros(64), np.zeros(64)
        self._counts = [0, 0]
        self._told: tuple[int, float, float] = (-1, LEAST, 0.0)

    def reset(self) -> None:
        """Begin the integrated loudness and the range anew."""
        self._counts, self._told = [0, 0], (-1, LEAST, 0.0)

    def step(self, power: float) -> None:
        """One more tenth of a second.

        Parameters
        ----------
        power : float
            Mean square, summed over channels by their weights.
        """
        self._steps = [*self._steps[-29:], power]
        if len(self._steps) >= 4:
            self._blocks = self._kept(self._blocks, 0, sum(self._steps[-4:]) / 4)
        if len(self._steps) == 30:
            self._shorts = self._kept(self._shorts, 1, sum(self._steps) / 30)

    def _kept(self, row: NDArray[np.float64], n: int, value: float) -> NDArray[np.float64]:
        if self._counts[n] == len(row):
            row = np.concatenate((row, np.zeros(len(row))))
        row[self._counts[n]] = value
        self._counts[n] += 1
        return row

    @property
    def now(self) -> Loudness:
        """What it has come to."""
        count, shorts = self._counts
        if self._told[0] < 0 or count - self._told[0] >= OFTEN or count < OFTEN * 4:
            passed = gated(self._blocks[:count])
            spread = 0.0
            kept = gated(self._shorts[:shorts], RANGE_RELATIVE)
            if kept.size:
                low, high = np.percentile(kept, (10, 95), method="nearest")
                spread = _lufs(float(high)) - _lufs(float(low))
            self._told = count, _lufs(float(passed.mean())) if passed.size else LEAST, spread
        momentary = _lufs(sum(self._steps[-4:]) / 4) if len(self._steps) >= 4 else LEAST
        short = _lufs(sum(self._steps) / len(self._steps)) if len(self._steps) == 30 else LEAST
        return Loudness(momentary, short, self._told[1], self._told[2])


class LoudnessMeter:
    """Measures the loudness of one mix as it goes by.

    Parameters
    ----------
    channels : int
        Two count alike; of six (L R C LFE Ls Rs) the fourth does not count and the last two count 1.41 fold.
    """

    def __init__(self, channels: int = 2) -> None:
        weights = [1.0] * channels if channels < 5 else [1.0, 1.0, 1.0, 0.0, 1.41, 1.41][:channels]
        self._weights = np.array(weights + [0.0] * (channels - len(weights)))
        self._weighting, self._history = KWeighting(channels), LoudnessHistory()

    def hear(self, sound: Sound) -> None:
        """Measure what comes next.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        """
        for powers in self._weighting.hear(sound):
            self._history.step(float(powers @ self._weights))

    @property
    def now(self) -> Loudness:
        """What it has measured."""
        return self._history.now
