"""All that is measured of a mix, as values."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple

import numpy as np

from ushering_adze.core.sound.ballistics import Correlation, Pointer, Scale
from ushering_adze.core.sound.levels import RATE, SILENT, Sound, decibels
from ushering_adze.core.sound.loudness import LEAST, KWeighting, Loudness, LoudnessHistory
from ushering_adze.core.sound.peaks import TruePeak

FAINT = 0.01
"""Below it a true peak is not worth the time."""
QUIET = -60.0
"""dBFS below which there is no sound."""


LOW = -60.0
"""dBFS at the foot of a meter."""
OFF_TARGET = 1.0
"""LU beside its target from which a loudness is marked."""


def height_of(level: float) -> float:
    """How far up a meter a level is, 0 to 1: even in decibels down to −30, closer together below.

    Parameters
    ----------
    level : float
        dBFS.

    Examples
    --------
    >>> height_of(0.0), height_of(-30.0), height_of(-60.0)
    (1.0, 0.25, 0.0)
    """
    level = max(LOW, min(0.0, level))
    return 0.25 + 0.75 * (level + 30) / 30 if level > -30 else 0.25 * (level - LOW) / 30


class Measured(NamedTuple):
    """A mix at a moment.

    ``pointers`` are those of its meter for each channel, in dBFS; ``peak`` the largest true peak since it was set
    back, in dBTP, ``peak_lately`` about that of the last block; ``silent`` the seconds for which there was no sound;
    ``correlation`` is None where there is none.
    """

    pointers: tuple[float, ...] = (SILENT, SILENT)
    peak: float = SILENT
    peak_lately: float = SILENT
    loudness: Loudness = Loudness()
    correlation: float | None = None
    silent: float = 0.0
    reduction: float = 0.0

    def off_target(self, target: float) -> bool:
        """Whether its integrated loudness is beside a target, in LUFS."""
        return self.loudness.integrated > LEAST and abs(self.loudness.integrated - target) > OFF_TARGET

    def over(self, most: float) -> bool:
        """Whether its true peak is over what it may have, in dBTP."""
        return self.peak > most + 0.05


class Meters:
    """Measures mixes of two channels, all of them at once.

    Parameters
    ----------
    mixes : sequence of str
    scale : {"ppm1", "ppm2", "vu"}
    """

    def __init__(self, mixes: Sequence[str], scale: Scale = "ppm1") -> None:
        self.mixes: tuple[str, ...] = tuple(mixes)
        self.scale: Scale = scale
        self.points = True
        """Whether pointers move: it takes as long as all else, and nobody may look."""
        self._pointer, self._true = Pointer(scale, 2 * len(mixes)), TruePeak(2 * len(mixes))
        self._weighting = KWeighting(2 * len(mixes))
        self._history = {mix: LoudnessHistory() for mix in mixes}
        self._correlation = {mix: Correlation() for mix in mixes}
        self._peak, self._lately, self._silent, self._reduction = (dict.fromkeys(mixes, 0.0) for _ in range(4))

    def turn(self, scale: Scale) -> None:
        """Have pointers of another kind."""
        if scale != self.scale:
            self.scale, self._pointer = scale, Pointer(scale, 2 * len(self.mixes))

    def of(self, mixes: Sequence[str]) -> Meters:
        """Meters of these mixes, which remember what they have measured of those they had."""
        made = Meters(mixes, self.scale)
        made.points = self.points
        for mix in set(mixes) & set(self.mixes):
            made._history[mix], made._correlation[mix] = self._history[mix], self._correlation[mix]
            made._peak[mix], made._silent[mix] = self._peak[mix], self._silent[mix]
        return made

    def reset(self, mix: str) -> None:
        """Set back what is measured over long of a mix: peak, integrated loudness, range."""
        self._peak[mix] = 0.0
        self._history[mix].reset()

    def hear(self, sound: Sound, reduction: Mapping[str, float] = MappingProxyType({})) -> None:
        """Measure what comes next.

        Parameters
        ----------
        sound : ndarray, (samples, 2 × mixes)
            Left and right of each mix, in their order.
        reduction : mapping
            Decibels by which limiters turned mixes down.
        """
        if self.points:
            self._pointer.hear(sound)
        columns = np.ascontiguousarray(sound.T)  # many times quicker than across two or six channels
        high = np.maximum(columns.max(axis=1), -columns.min(axis=1))
        most = np.array([max(self._peak[mix], FAINT) for mix in self.mixes]).repeat(2)
        if (high * self._true.most > most).any():
            peaks = self._true.highest(sound)
        else:  # no true peak can be higher than what was there
            self._true.skip(sound)
            peaks = high
        steps = self._weighting.hear(sound)
        for n, mix in enumerate(self.mixes):
            two = slice(2 * n, 2 * n + 2)
            for powers in steps:
                self._history[mix].step(float(powers[two].sum()))
            self._correlation[mix].hear(sound[:, two])
            self._lately[mix] = float(peaks[two].max())
            self._peak[mix] = max(self._peak[mix], self._lately[mix])
            quiet = decibels(float(high[two].max())) < QUIET
            self._silent[mix] = self._silent[mix] + len(sound) / RATE if quiet else 0.0
            self._reduction[mix] = reduction.get(mix, 0.0)

    def now(self, mix: str) -> Measured:
        """What it has measured of a mix."""
        n = self.mixes.index(mix)
        return Measured(
            tuple(decibels(float(v)) for v in self._pointer.at[2 * n : 2 * n + 2]),
            decibels(self._peak[mix]),
            decibels(self._lately[mix]),
            self._history[mix].now,
            self._correlation[mix].now,
            self._silent[mix],
            self._reduction[mix],
        )
