"""Levels in decibels, and samples."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

RATE = 48_000
"""Samples a second, everywhere inside."""
RAMP = 240
"""Samples over which what is heard gets from one way to another, without a click: 5 ms."""
SILENT = -120.0
"""Decibels that stand for no sound at all."""

Sound = NDArray[np.float32]
"""Samples × channels, full scale at ±1."""


def gain_of(decibels: float) -> float:
    """The factor of a level.

    Parameters
    ----------
    decibels : float
        At `SILENT` or below it is 0.

    Examples
    --------
    >>> round(gain_of(-6.0), 3), gain_of(-120.0)
    (0.501, 0.0)
    """
    return 0.0 if decibels <= SILENT else 10 ** (decibels / 20)


def decibels(gain: float) -> float:
    """The level of a factor, `SILENT` at least.

    Examples
    --------
    >>> round(decibels(0.5), 2), decibels(0.0)
    (-6.02, -120.0)
    """
    return SILENT if gain <= 1e-6 else 20 * math.log10(gain)


def silence(samples: int, channels: int = 2) -> Sound:
    """So many samples of nothing.

    Parameters
    ----------
    samples, channels : int

    Returns
    -------
    ndarray, (samples, channels)
    """
    return np.zeros((samples, channels), np.float32)


HALF = math.sqrt(0.5)
_SURROUND = {
    3: [[1, 0], [0, 1], [HALF, HALF]],
    4: [[1, 0], [0, 1], [HALF, 0], [0, HALF]],
    5: [[1, 0], [0, 1], [HALF, HALF], [HALF, 0], [0, HALF]],
    6: [[1, 0], [0, 1], [HALF, HALF], [0, 0], [HALF, 0], [0, HALF]],
    8: [[1, 0], [0, 1], [HALF, HALF], [0, 0], [HALF, 0], [0, HALF], [HALF, 0], [0, HALF]],
}


def to_two(channels: int) -> NDArray[np.float32]:
    """How channels are heard in two: one in both, two as they are, more as the usual orders of surround say.

    Parameters
    ----------
    channels : int
        1 to 64.  What is in no usual order goes left and right in turn.

    Returns
    -------
    ndarray, (2, channels)

    References
    ----------
    ITU-R BS.775, table 2: centre and surround by 0.7071; the channel of low effects is left out (from memory).

    Examples
    --------
    >>> to_two(1).tolist(), to_two(2).tolist()
    ([[1.0], [1.0]], [[1.0, 0.0], [0.0, 1.0]])
    """
    if channels == 1:
        return np.ones((2, 1), np.float32)
    found: Any = _SURROUND.get(channels) or [[1 - n % 2, n % 2] for n in range(channels)]
    return np.ascontiguousarray(np.array(found, np.float32).T)
