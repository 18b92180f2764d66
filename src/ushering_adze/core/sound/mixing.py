"""Mixing: sources into mixes by a matrix of factors, without a click when it changes."""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping
from operator import itemgetter
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.sound.delays import Delays
from ushering_adze.core.sound.filtering import Cascade, high_pass
from ushering_adze.core.sound.levels import RAMP, RATE, Sound, decibels, gain_of, to_two
from ushering_adze.core.sound.limiting import LATE, Limiter

Matrix = Mapping[str, Mapping[str, float]]
"""Factors by mix and source; what is not named is 0."""


class Finish(NamedTuple):
    """What becomes of a mix at its end: its delay in seconds, where its low cut begins in hertz (0: none), and the true
    peak that it may have at most, in dBTP.
    """

    delay: float = 0.0
    low_cut: float = 0.0
    most: float = -1.0


class Duck(NamedTuple):
    """While one source is heard others get less: by how many decibels, from which level of the one on, and how many
    seconds it takes to go down, to wait, and to come back.
    """

    by: str
    depth: float = 12.0
    above: float = -40.0
    attack: float = 0.1
    hold: float = 0.8
    release: float = 1.2


class Mixed(NamedTuple):
    """Samples of each mix, and by how many decibels its limiter turned it down."""

    sound: dict[str, Sound]
    reduction: dict[str, float]


class Ducking:
    """Follows one duck from block to block."""

    def __init__(self, duck: Duck) -> None:
        self.duck = duck
        self._down, self._waits = 0.0, 0.0

    def factor(self, heard: float, seconds: float) -> float:
        """What others are multiplied by at the end of a block in which the source was as loud as ``heard`` (root of the
        mean square), of so many seconds.
        """
        if decibels(heard) > self.duck.above:
            self._waits = self.duck.hold
        else:
            self._waits = max(0.0, self._waits - seconds)
        if self._waits > 0:
            self._down = min(1.0, self._down + seconds / max(0.005, self.duck.attack))
        else:
            self._down = max(0.0, self._down - seconds / max(0.005, self.duck.release))
        return gain_of(-self.duck.depth * self._down)


def rms(sound: Sound) -> float:
    """The root of the mean square over all channels."""
    return float(np.sqrt(np.mean(np.square(sound, dtype=np.float64)))) if sound.size else 0.0


class Mixer:
    """Mixes blocks of sound; it remembers factors, filters and delays from one block to the next."""

    def __init__(self) -> None:
        self._gains: dict[str, dict[str, float]] = {}
        self._made_of: object = None
        self._factors: NDArray[np.float32] = np.zeros((0, 0), np.float32)
        self._heard = self._whole = np.zeros((0, 0), np.float32)  # room for what is worked on
        self._delays = Delays(LATE)
        self._limiters: dict[str, Limiter] = {}
        self._loud: deque[tuple[int, float]] = deque()
        self._told = 0
        self._cuts: dict[str, float] = {}
        self._cut = Cascade((), 2)

    def mix(self, sources: Mapping[str, Sound], matrix: Matrix, finishes: Mapping[str, Finish], samples: int) -> Mixed:
        """The next block of every mix.

        Parameters
        ----------
        sources : mapping of str to ndarray, (samples, channels)
            What sounds; who is not in it is silent.
        matrix : mapping
            Factors at the end of this block; they are got to within 5 ms.
        finishes : mapping of str to Finish
            The mixes there are.
        samples : int

        Returns
        -------
        Mixed
        """
        ids, mixes = list(sources), list(finishes)
        plain = {mix: dict(matrix.get(mix, {})) for mix in mixes}
        if ids and mixes:
            rows = [sources[id].T for id in ids]
            self._heard = _of_shape(self._heard, sum(len(r) for r in rows), samples)
            heard = np.concatenate(rows, out=self._heard)
            key = (mixes, [(id, sources[id].shape[1]) for id in ids])
            if (key, plain) == self._made_of and plain == self._gains:
                before = now = self._factors
            else:
                fold = [to_two(sources[id].shape[1]) for id in ids]
                before, now = _factors(fold, ids, mixes, self._gains), _factors(fold, ids, mixes, plain)
            self._made_of, self._factors = (key, plain), now
            self._whole = _of_shape(self._whole, 2 * len(mixes), samples)
            whole = np.matmul(now, heard, out=self._whole)  # by channels: each is filtered as it lies
            if before is not now:
                first = min(RAMP, samples)
                share = np.arange(1, first + 1, dtype=np.float32) / first
                whole[:, :first] = whole[:, :first] * share + (before @ heard[:, :first]) * (1 - share)
        else:
            whole = np.zeros((2 * len(mixes), samples), np.float32)
        self._cut_low(mixes, finishes, whole)
        self._gains = plain
        return self._finished(whole, finishes)

    def _finished(self, whole: NDArray[np.float32], finishes: Mapping[str, Finish]) -> Mixed:
        """Each mix kept back, and then with no peak above what it may have."""
        made, reduction = {}, {}
        if self._limiters.keys() - finishes.keys():
            self._limiters = {mix: limiter for mix, limiter in self._limiters.items() if mix in finishes}
        held = self._delays.run(whole, {mix: round(finish.delay * RATE) for mix, finish in finishes.items()})
        loudest = self._loudest(whole)
        for mix, sound in held.items():
            limiter = self._limiters.get(mix)
            if limiter is None:
                limiter = self._limiters[mix] = Limiter()
            limiter.most = finishes[mix].most
            its = loudest if limiter.lets_through(loudest) else float(np.abs(sound).max(initial=0.0))
            made[mix], reduction[mix] = limiter.limited(sound, its), limiter.reduction
        return Mixed(made, reduction)

    def _loudest(self, newest: NDArray[np.float32]) -> float:
        """The largest magnitude of all mixes, in these samples and in those that are kept back."""
        here = float(cv2.norm(newest, cv2.NORM_INF)) if newest.size else 0.0
        self._loud.append((newest.shape[1], here))
        self._told += newest.shape[1]
        while self._told - self._loud[0][0] >= newest.shape[1] + self._delays.longest:
            self._told -= self._loud.popleft()[0]
        return max(self._loud, key=itemgetter(1))[1]

    def _cut_low(self, mixes: list[str], finishes: Mapping[str, Finish], whole: NDArray[np.float32]) -> None:
        """Let less through below the low cuts of mixes, in place."""
        cuts = {mix: finishes[mix].low_cut for mix in mixes if finishes[mix].low_cut > 0}
        if cuts != self._cuts:
            made, had = Cascade([high_pass(hertz) for hertz in cuts.values()], 2, np.float32), list(self._cuts)
            for n, mix in enumerate(cuts):
                if self._cuts.get(mix) == cuts[mix]:
                    made.with_state(n, self._cut, had.index(mix))
            self._cuts, self._cut = cuts, made
        if cuts:
            two = whole.reshape(len(mixes), 2, -1)
            those = slice(None) if len(cuts) == len(mixes) else [mixes.index(mix) for mix in cuts]
            two[those] = self._cut.run(two[those])


def _of_shape(room: NDArray[np.float32], rows: int, columns: int) -> NDArray[np.float32]:
    """Room of this shape: the same as before if it has that already, which is quicker to work in."""
    return room if room.shape == (rows, columns) else np.empty((rows, columns), np.float32)


def _factors(fold: list[NDArray[np.float32]], ids: list[str], mixes: list[str], matrix: Matrix) -> NDArray[np.float32]:
    """Left and right of all mixes × all channels of all sources."""
    made = [
        np.concatenate([f * np.float32(matrix.get(mix, {}).get(id, 0.0)) for f, id in zip(fold, ids, strict=True)], 1)
        for mix in mixes
    ]
    return np.concatenate(made)
