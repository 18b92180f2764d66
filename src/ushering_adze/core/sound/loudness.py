"""Loudness as it is heard: momentary, short-term, integrated, and its range."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.signal import sosfilt

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
_SOS = np.array([SHELF, HIGH_PASS])


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


class LoudnessMeter:
    """Measures loudness as sound goes by.

    Parameters
    ----------
    channels : int
        Two count alike; of six (L R C LFE Ls Rs) the fourth does not count and the last two count 1.41 fold.
    """

    def __init__(self, channels: int = 2) -> None:
        weights = [1.0] * channels if channels < 5 else [1.0, 1.0, 1.0, 0.0, 1.41, 1.41][:channels]
        self._weights = np.array(weights + [0.0] * (channels - len(weights)))
        self._state = np.zeros((2, 2, channels))
        self._part = np.zeros((0, channels))
        self._steps: list[float] = []
        self._blocks: list[float] = []
        self._shorts: list[float] = []
        self._told: tuple[int, float, float] = (-1, LEAST, 0.0)

    def reset(self) -> None:
        """Begin the integrated loudness and the range anew."""
        self._blocks, self._shorts, self._told = [], [], (-1, LEAST, 0.0)

    def hear(self, sound: Sound) -> None:
        """Measure what comes next.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        """
        weighted, self._state = sosfilt(_SOS, sound.astype(np.float64), axis=0, zi=self._state)
        squares = np.concatenate((self._part, weighted**2))
        whole = len(squares) // STEP
        self._part = squares[whole * STEP :]
        for n in range(whole):
            self._step(float(squares[n * STEP : (n + 1) * STEP].mean(axis=0) @ self._weights))

    def _step(self, power: float) -> None:
        self._steps = [*self._steps[-29:], power]
        if len(self._steps) >= 4:
            self._blocks.append(sum(self._steps[-4:]) / 4)
        if len(self._steps) == 30:
            self._shorts.append(sum(self._steps) / 30)

    @property
    def now(self) -> Loudness:
        """What it has measured."""
        if self._told[0] != len(self._blocks):
            passed = gated(np.array(self._blocks))
            shorts = gated(np.array(self._shorts), RANGE_RELATIVE)
            spread = 0.0
            if shorts.size:
                low, high = np.percentile(shorts, (10, 95), method="nearest")
                spread = _lufs(float(high)) - _lufs(float(low))
            self._told = len(self._blocks), _lufs(float(passed.mean())) if passed.size else LEAST, spread
        momentary = _lufs(sum(self._steps[-4:]) / 4) if len(self._steps) >= 4 else LEAST
        short = _lufs(sum(self._steps) / len(self._steps)) if len(self._steps) == 30 else LEAST
        return Loudness(momentary, short, self._told[1], self._told[2])
