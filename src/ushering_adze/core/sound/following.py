"""Reading sound in step with a clock that is not its own: without a click, and without being heard to hurry."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.sound.levels import RAMP, RATE, Sound

LEAP = 0.040
"""Seconds off its place from which a reading leaps there; less is caught up with."""
EASY = 0.0015
"""Seconds within which nothing is done."""
CATCH = 1.5
"""Seconds in which it catches up."""
HURRY = 0.004
"""By how much it may run fast or slow, at most: less than a fifteenth of a semitone."""
TAPS, FINE = 16, 2048
"""Samples that one between two others is made from, and places between two samples."""


class Reading(NamedTuple):
    """What is to be read next: from which sample on, how far from one to the next, and whether it is a leap."""

    start: float
    step: float
    leap: bool


class Follower:
    """Says what to read so that a source is heard where it should be.

    Sound that is within a thousandth or two of its place is read sample by sample; clocks that run apart are followed
    by reading a little faster or slower.
    """

    def __init__(self) -> None:
        self.at: float | None = None
        """The sample that comes next; None before the first."""
        self._hurries = False

    def next(self, wanted: float, samples: int, speed: float = 1.0) -> Reading:
        """Read so many samples, of which the first should be ``wanted``.

        Parameters
        ----------
        wanted : float
            A place in the source, in samples.
        samples : int
        speed : float
            At which the source runs.

        Returns
        -------
        Reading
        """
        off = 0.0 if self.at is None else (wanted - self.at) / RATE
        if self.at is None or abs(off) > LEAP:
            self.at, self._hurries = wanted + samples * speed, False
            return Reading(wanted, speed, True)
        self._hurries = abs(off) > (EASY / 4 if self._hurries else EASY)
        step = speed + float(np.clip(off / CATCH, -HURRY, HURRY)) if self._hurries else speed
        start = self.at
        if step == 1.0 and start != int(start) and not self._hurries:
            start = float(round(start))  # half a sample is not heard; whole ones are read as they are
        self.at = start + samples * step
        return Reading(start, step, False)


def _table() -> Sound:
    at = np.arange(-TAPS // 2 + 1, TAPS // 2 + 1)[None, :] - np.arange(FINE + 1)[:, None] / FINE
    window = np.where(np.abs(at) < TAPS / 2, np.cos(np.pi * at / TAPS) ** 2, 0.0)
    made = np.sinc(at) * window
    made /= made.sum(axis=1, keepdims=True)
    return np.ascontiguousarray(made, np.float32)


_TABLE = _table()
BEFORE, BEHIND = TAPS // 2 - 1, TAPS // 2 + 1
"""Samples that are needed before the first and behind the last place."""


def read_between(window: Sound, start: float, step: float, samples: int) -> Sound:
    """Samples at places between those of a window.

    Parameters
    ----------
    window : ndarray, (n, channels)
    start : float
        Of the first, in samples of the window; `BEFORE` at least.
    step : float
        From one to the next.
    samples : int

    Returns
    -------
    ndarray, (samples, channels)

    References
    ----------
    J. O. Smith, *Digital Audio Resampling*: a windowed sinc, looked up in a table (Hann, 16 samples).
    """
    at = start + step * np.arange(samples)
    whole = np.floor(at).astype(np.int64)
    taps = _TABLE[np.round((at - whole) * FINE).astype(np.int64)]
    around = window[whole[:, None] + np.arange(-TAPS // 2 + 1, TAPS // 2 + 1)[None, :]]
    made: Sound = np.einsum("nt,ntc->nc", taps, around, optimize=False)
    return made


class Reader:
    """Takes block after block from where a source should be, joined without a click.

    Parameters
    ----------
    read : callable (start, samples) -> Sound or None
        None while a stretch is not there.
    channels : int
    """

    def __init__(self, read: Callable[[int, int], Sound | None], channels: int) -> None:
        self._read, self._channels = read, channels
        self._follower = Follower()
        self._last: NDArray[np.float32] | None = None
        """The sample that was given last; None after silence."""

    @property
    def at(self) -> float | None:
        """The place that comes next, in samples; None before the first."""
        return self._follower.at

    def _stretch(self, start: float, step: float, samples: int) -> Sound | None:
        first = int(np.floor(start))
        if step == 1.0 and start == first:
            return self._read(first, samples)
        need = int(np.ceil(step * (samples - 1) + (start - first))) + BEFORE + BEHIND + 1
        window = self._read(first - BEFORE, need)
        return None if window is None else read_between(window, BEFORE + start - first, step, samples)

    def take(self, wanted: float | None, samples: int, speed: float = 1.0) -> Sound | None:
        """The next block.

        Parameters
        ----------
        wanted : float, optional
            Where it should be, in samples; None if it stands still.
        samples : int
            As many as a ramp has, at least.
        speed : float

        Returns
        -------
        ndarray, (samples, channels), or None if all of it is silent
        """
        if wanted is None or speed <= 0:
            self._follower.at, reading = None, None
        else:
            before = self._follower.at
            reading = self._follower.next(wanted, samples, speed)
        made = None if reading is None else self._stretch(reading.start, reading.step, samples)
        first = min(RAMP, samples)
        if made is None:
            if self._last is None:
                return None
            made = np.zeros((samples, self._channels), np.float32)
            made[:first] = self._last * np.linspace(1, 0, first, endpoint=False, dtype=np.float32)[:, None]
            self._last = None
            return made
        share = np.linspace(0, 1, first, endpoint=False, dtype=np.float32)[:, None]
        if self._last is None:
            made = np.array(made)
            made[:first] *= share
        elif reading is not None and reading.leap and before is not None:
            old = self._stretch(float(round(before)), 1.0, first)
            made = np.array(made)
            made[:first] = made[:first] * share + (self._last if old is None else old) * (1 - share)
        self._last = np.array(made[-1])
        return made
