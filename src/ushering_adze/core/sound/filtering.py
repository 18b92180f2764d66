"""Recursive filters over whole blocks of samples: a few products of matrices in place of a step for each sample."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.sound.levels import RATE

Section = tuple[float, float, float, float, float, float]
"""One filter of second order: b0, b1, b2, 1, a1, a2."""
Sections = tuple[Section, ...]
RUN = 32
"""Samples that are taken together: from one such run to the next only the filter's state goes on."""


def high_pass(hertz: float) -> Sections:
    """A Butterworth high pass of second order, at `RATE`.

    Parameters
    ----------
    hertz : float
        Where it lets half the power through; above 0 and below half the rate.

    Returns
    -------
    Sections

    References
    ----------
    Bilinear transform of s² / (s² + √2 s + 1), warped to meet at its corner (common textbook form, from memory).
    """
    k = math.tan(math.pi * hertz / RATE)
    whole = 1 / (1 + math.sqrt(2) * k + k * k)
    return ((whole, -2 * whole, whole, 1.0, 2 * (k * k - 1) * whole, (1 - math.sqrt(2) * k + k * k) * whole),)


class _Space(NamedTuple):
    """A filter as a state that goes on: state' = a·state + b·x, y = c·state + d·x."""

    a: NDArray[np.float64]
    b: NDArray[np.float64]
    c: NDArray[np.float64]
    d: float


Matrices = tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]
"""The a, b and c of a space."""


def _balanced(a: NDArray[np.float64], b: NDArray[np.float64], c: NDArray[np.float64]) -> Matrices:
    """The same filter with its state in another basis: where it swings, one in which it turns and shrinks, so that what
    is rounded does not grow before it fades.
    """
    values, vectors = np.linalg.eig(a)
    if not np.iscomplexobj(values) or abs(values[0].imag) < 1e-9:
        return a, b, c
    basis = np.stack((vectors[:, 0].real, vectors[:, 0].imag), axis=1)
    back = np.linalg.inv(basis)
    by = math.sqrt(np.linalg.norm(back @ b) / np.linalg.norm(c @ basis)) or 1.0
    return back @ a @ basis, back @ b / by, c @ basis * by


def _space(sections: Sections) -> _Space:
    made = _Space(np.zeros((0, 0)), np.zeros(0), np.zeros(0), 1.0)
    for b0, b1, b2, _, a1, a2 in sections:  # each in the transposed second direct form, fed by those before
        a = np.array([[-a1, 1.0], [-a2, 0.0]])
        a, b, c = _balanced(a, np.array([b1 - a1 * b0, b2 - a2 * b0]), np.array([1.0, 0.0]))
        n = len(made.b)
        both = np.zeros((n + 2, n + 2))
        both[:n, :n], both[n:, n:], both[n:, :n] = made.a, a, np.outer(b, made.c)
        made = _Space(both, np.concatenate((made.b, b * made.d)), np.concatenate((b0 * made.c, c)), b0 * made.d)
    return made


class _Run(NamedTuple):
    """What a run of samples does: ``makes`` of it and of the state before it what comes out; what it ``leaves`` in the
    state, and what of the state goes ``onward``.
    """

    makes: NDArray[np.floating]
    leaves: NDArray[np.floating]
    onward: NDArray[np.float64]


@lru_cache(maxsize=256)
def _run(sections: Sections, samples: int) -> _Run:
    """For samples along the last axis: each matrix is multiplied from the right."""
    a, b, c, d = _space(sections)
    order = len(b)
    powers = [np.eye(order)]
    for _ in range(samples):
        powers.append(a @ powers[-1])
    answer = np.array([d, *(float(c @ power @ b) for power in powers[: samples - 1])])
    direct = np.zeros((samples, samples))
    for n in range(samples):
        direct[n, n:] = answer[: samples - n]
    of_state = np.stack([c @ power for power in powers[:samples]], axis=1)
    leaves = np.stack([powers[samples - 1 - n] @ b for n in range(samples)])
    return _Run(np.concatenate((direct, of_state)), leaves, powers[samples].T.copy())


@lru_cache(maxsize=256)
def _across(sections: Sections, samples: int, runs: int) -> NDArray[np.float64]:
    """From the state at the beginning and what each run adds to it, one after the other, to the states before each run
    and after the last.
    """
    onward = _run(sections, samples).onward
    order = len(onward)
    powers = [np.eye(order)]
    for _ in range(runs):
        powers.append(powers[-1] @ onward)
    made = np.zeros((runs + 1, order, runs + 1, order))
    for come in range(runs + 1):
        for at in range(come, runs + 1):
            made[come, :, at] = powers[at - come]
    return made.reshape((runs + 1) * order, (runs + 1) * order)


class Cascade:
    """Filters several groups of channels, each group by sections of its own.

    Parameters
    ----------
    groups : sequence of Sections
        All of as many sections.
    channels : int
        Of each group.
    kind : type, optional
        Of the numbers that it works with within a run: `numpy.float32` is quicker, and right to about -140 dB.
        What goes on from run to run is always `numpy.float64`.
    """

    def __init__(
        self, groups: Sequence[Sections], channels: int, kind: type[np.float64] | type[np.float32] = np.float64
    ) -> None:
        self.groups: tuple[Sections, ...] = tuple(groups)
        self._kind = kind
        self._order = 2 * len(self.groups[0]) if self.groups else 0
        self._state: NDArray[np.float64] = np.zeros((len(self.groups), channels, self._order))
        self._rows: NDArray[np.floating] = np.empty((0, 0, 0))  # room for what is worked on
        self._kept: dict[tuple[int, int], tuple[_Run, NDArray[np.float64]]] = {}

    def with_state(self, group: int, of: Cascade, its: int) -> None:
        """Go on in a group where a group of another one stopped."""
        self._state[group] = of._state[its]

    def run(self, sound: NDArray[np.floating]) -> NDArray[np.floating]:
        """What comes next, filtered.

        Parameters
        ----------
        sound : ndarray, (groups, channels, samples)

        Returns
        -------
        ndarray, (groups, channels, samples)
        """
        whole = sound.shape[2] // RUN * RUN
        parts = [self._parts(sound[:, :, :whole], RUN)] if whole else []
        if whole < sound.shape[2]:
            parts.append(self._parts(sound[:, :, whole:], sound.shape[2] - whole))
        return parts[0] if len(parts) == 1 else np.concatenate([sound[:, :, :0].astype(self._kind), *parts], axis=2)

    def _matrices(self, samples: int, runs: int) -> tuple[_Run, NDArray[np.float64]]:
        kept = self._kept.get((samples, runs))
        if kept is None:
            each = [_run(sections, samples) for sections in self.groups]
            makes, leaves, onward = (np.stack(found) for found in zip(*each, strict=True))
            together = _Run(makes.astype(self._kind), leaves.astype(self._kind), onward)
            across = np.stack([_across(sections, samples, runs) for sections in self.groups])
            kept = self._kept[samples, runs] = together, across
        return kept

    def _parts(self, sound: NDArray[np.floating], samples: int) -> NDArray[np.floating]:
        groups, channels, count = sound.shape
        runs, order = count // samples, self._order
        run, across = self._matrices(samples, runs)
        if self._rows.shape != (groups, channels * runs, samples + order):
            self._rows = np.empty((groups, channels * runs, samples + order), self._kind)
        rows = self._rows
        rows[:, :, :samples] = sound.reshape(groups, channels * runs, samples)
        left = (rows[:, :, :samples] @ run.leaves).reshape(groups, channels, runs * order)
        states = np.concatenate((self._state, left), axis=2) @ across
        self._state = states[:, :, -order:]
        rows[:, :, samples:] = states[:, :, :-order].reshape(groups, channels * runs, order)
        made: NDArray[np.floating] = rows @ run.makes
        return made.reshape(groups, channels, count)
