"""Sound that is kept back: several lines at once, each by a delay of its own."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.sound.levels import RAMP, Sound


class _Line:
    """By how many samples a line is kept back, and was before; how many have passed since it was another delay."""

    __slots__ = ("now", "passed", "was")

    def __init__(self, samples: int) -> None:
        self.now = self.was = samples
        self.passed = 0


class Delays:
    """Keeps lines of sound back, and gives of each what came before as well.

    Parameters
    ----------
    before : int
        Samples of every line that are wanted once more, ahead of those that are due.
    channels : int
        Of each line.
    """

    def __init__(self, before: int = 0, channels: int = 2) -> None:
        self._before, self._channels = before, channels
        self._lines: dict[str, _Line] = {}
        self._kept = np.zeros((0, before), np.float32)
        self._asked: tuple[tuple[str, int], ...] = ()
        self._settled = True
        self.longest = before
        """Samples that are kept: what comes out is within these and those that go in."""

    def run(self, sound: NDArray[np.float32], delays: Mapping[str, int]) -> dict[str, Sound]:
        """What comes out while this goes in.

        Parameters
        ----------
        sound : ndarray, (lines · channels, samples)
            In the order of the delays.
        delays : mapping of str to int
            Samples by which each line is to be kept back; one that is another than before is got to within 5 ms,
            without a click.

        Returns
        -------
        dict of str to ndarray, (before + samples, channels)
            Not to be written to.
        """
        samples = sound.shape[1]
        asked = tuple(delays.items())
        if asked != self._asked or not self._settled:
            self._follow(delays)
            self._asked = asked
        whole = np.concatenate((self._kept, sound), axis=1)
        end = whole.shape[1]
        at, per = end - samples - self._before, self._channels
        self._kept = whole[:, end - self.longest :]
        made: dict[str, Sound] = {}
        n = 0
        for name, line in self._lines.items():
            now = line.now
            here = whole[n : n + per, at - now : end - now]
            if line.was != now:
                here = self._turned(line, here, whole[n : n + per, at - line.was : end - line.was], samples)
            made[name] = here.T
            n += per
        return made

    def _turned(self, line: _Line, now: NDArray[np.float32], was: NDArray[np.float32], samples: int) -> Sound:
        """On the way from one delay to another."""
        passed = line.passed + np.arange(1 - self._before, samples + 1, dtype=np.float32)
        share = np.clip(passed / np.float32(RAMP), 0, 1)
        line.passed += samples
        if line.passed >= RAMP + self._before:
            line.was = line.now
        return np.asarray(now * share + was * (1 - share), np.float32)

    def _follow(self, delays: Mapping[str, int]) -> None:
        """Go on with the lines there are, in their new order; those that are new begin with silence."""
        had, per = list(self._lines), self._channels
        if list(delays) != had:
            rows = np.zeros((per * len(delays), self._kept.shape[1]), np.float32)
            for n, name in enumerate(delays):
                if name in self._lines:
                    at = had.index(name)
                    rows[per * n : per * (n + 1)] = self._kept[per * at : per * (at + 1)]
            self._lines = {name: self._lines.get(name) or _Line(samples) for name, samples in delays.items()}
            self._kept = rows
        for name, line in self._lines.items():
            if line.was == line.now != delays[name]:
                line.now, line.passed = delays[name], 0
        self._settled = all(line.was == line.now == delays[name] for name, line in self._lines.items())
        self.longest = self._before + max((max(line.now, line.was) for line in self._lines.values()), default=0)
        more = self.longest - self._kept.shape[1]
        if more > 0:
            self._kept = np.concatenate((np.zeros((len(self._kept), more), np.float32), self._kept), axis=1)
