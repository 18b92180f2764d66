"""How far sound is from its picture: measured of flashes and beeps that come back through a camera."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.sound.levels import RATE, Sound, gain_of
from ushering_adze.core.sound.patterns import EVERY, TONE

CONTRAST = 16.0
"""Codes by which a flash must be brighter than what lies between."""
FAINT = -60.0
"""dBFS of a beep, at least."""
STANDS_OUT = 4.0
"""By how much a beep must be louder than what lies between, as a factor."""
WINDOW = 240
"""Samples over which the tone's level is taken: five of its periods."""
SHORTEST, LONGEST = 0.02, 0.25
"""Seconds of a beep, or of a flash at most, as they come back."""
GAP = 1.5
"""Times of a picture from one to the next by which one between is missing."""
LEAST = 2
"""Flashes with their beeps that say something."""


class InStep(NamedTuple):
    """Seconds by which sound comes after its picture, less than 0 if before; by how much single ones differ from that
    at most, and of how many it is.
    """

    seconds: float
    spread: float
    flashes: int

    @property
    def words(self) -> str:
        """In one line."""
        ms = round(self.seconds * 1000)
        where = "with its picture" if ms == 0 else f"{abs(ms)} ms {'after' if ms > 0 else 'before'} its picture"
        return f"the sound comes {where} (± {self.spread * 1000:.0f} ms, {self.flashes} flashes)"


def _runs(over: NDArray[np.bool_]) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate(([False], over, [False])).astype(np.int8)))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))


def flashes_in(stamps: Sequence[float], lights: Sequence[float]) -> list[float]:
    """When flashes begin among pictures of a camera.

    Parameters
    ----------
    stamps : sequence of float
        Times of the pictures, in seconds, rising.
    lights : sequence of float
        How bright each is, in codes.

    Returns
    -------
    list of float
        In seconds of the same clock, right to half a picture's time; by how bright the first of a flash is, if that was
        exposed while it began.  One at either end, that may be cut off, is left out, and so is one before which a
        picture is missing: that may have been its first.
    """
    at, light = np.asarray(stamps, np.float64), np.asarray(lights, np.float64)
    if len(at) < 4:
        return []
    low, high = float(np.median(light)), float(light.max())
    if high - low < CONTRAST:
        return []
    found = []
    gap = GAP * float(np.percentile(np.diff(at), 10))
    for first, end in _runs(light > low + (high - low) * 0.4):
        if first == 0 or end == len(at) or at[end] - at[first] > LONGEST:
            continue
        period = at[first] - at[first - 1]
        if period > gap:
            continue
        share = (light[first - 1 : first + 1] - low) / (light[first:end].max() - low)
        found.append(float(at[first] + period * (1 - share[1] - max(0.0, share[0]))))
    return found


def beeps_in(sound: Sound, begins: float) -> list[float]:
    """When beeps begin in the sound of a camera; a room makes their ends longer.

    Parameters
    ----------
    sound : ndarray, (samples, channels)
    begins : float
        Time of the first sample, in seconds.

    Returns
    -------
    list of float
    """
    if len(sound) < 4 * WINDOW:
        return []
    one = sound.mean(axis=1, dtype=np.float64)
    turning = one * np.exp(-2j * np.pi * TONE / RATE * np.arange(len(one)))
    sums = np.concatenate(([0], np.cumsum(turning)))
    level = 2 * np.abs(sums[WINDOW:] - sums[:-WINDOW]) / WINDOW  # of a tone: its peak; at the middle of each window
    low, high = float(np.median(level)), float(level.max())
    if high < gain_of(FAINT) or high < STANDS_OUT * low:
        return []
    found = []
    for first, end in _runs(level > low + (high - low) * 0.5):
        if first > 0 and SHORTEST <= (end - first) / RATE <= LONGEST:
            found.append(begins + (first + WINDOW / 2) / RATE)
    return found


def in_step(flashes: Sequence[float], beeps: Sequence[float]) -> InStep | None:
    """By how much beeps come after flashes: each beside its nearest.

    Parameters
    ----------
    flashes, beeps : sequence of float
        Seconds of one clock.

    Returns
    -------
    InStep or None
        None if there are too few to say.
    """
    off = [min((b - f for b in beeps), key=abs) for f in flashes] if beeps else []
    off = [o for o in off if abs(o) < EVERY / 2]
    if len(off) < LEAST:
        return None
    middle = float(np.median(off))
    return InStep(middle, float(np.abs(np.asarray(off) - middle).max()), len(off))
