"""Light measured with a camera: each projector's gamma, white over its raster, and black; and what makes them match."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.show import BlackMatch, LightGrid

Floats = NDArray[np.float64]
LEVELS = (16, 24, 32, 48, 64, 96, 128, 160, 192, 224, 255)
"""Grey levels shown to measure a projector's response."""
COLUMNS, ROWS = 7, 5


class Measured(NamedTuple):
    """A projector as a camera saw it.

    ``gamma``, and ``response``: its light at each code as a share of white, black taken off, shape (256,);
    ``white``, the light of full white over its raster, shape (rows, columns, 3), red first, in units of the camera;
    ``leak``, its light in black in the same units, shape (3,).
    """

    gamma: float
    white: Floats
    leak: Floats
    response: Floats | None = None


def fit_response(light: Mapping[int, float], black: float, gamma: float) -> Floats:
    """The light of every code as a share of white, from light measured at some; black is taken off.

    Parameters
    ----------
    light : mapping
        Of codes, 255 among them.
    black : float
    gamma : float
        Of `fit_gamma`: what is measured is told by how far it is from that power, which changes slowly, and under the
        lowest code goes on.

    Returns
    -------
    ndarray, shape (256,)
        Rising from 0 to 1.

    Examples
    --------
    >>> found = fit_response({c: 0.01 + (c / 255) ** 2.3 for c in LEVELS}, 0.01, 2.2)
    >>> float(abs(found - (np.arange(256) / 255) ** 2.3).max()) < 1e-3
    True
    """
    from scipy.interpolate import PchipInterpolator  # loaded when first needed, so that the program starts sooner

    codes = np.array(sorted(c for c in light if light[c] > black))
    seen = np.array([light[c] - black for c in codes])
    apart = np.log(seen / seen[-1]) - gamma * np.log(codes / 255)
    every = np.arange(1, 256)
    # Under the lowest code measured the power near it holds.
    slope = (apart[1] - apart[0]) / np.log(codes[1] / codes[0])
    bent = np.where(
        every < codes[0],
        apart[0] + np.clip(slope, -0.5, 0.5) * np.log(every / codes[0]),
        PchipInterpolator(np.log(codes), apart, extrapolate=True)(np.log(every)),
    )
    found = np.concatenate([[0.0], (every / 255) ** gamma * np.exp(bent)])
    found = np.maximum.accumulate(found / found[-1])
    return np.asarray(found + np.arange(256) * 1e-12 * (np.diff(found, prepend=-1) <= 0))


def fit_gamma(light: Mapping[int, float], black: float) -> float:
    """The gamma that best explains light measured at some codes, by least squares of relative light; black is taken
    off.

    Parameters
    ----------
    light : Mapping[int, float]
        Measured light, by code.
    black : float
        Black level.

    Returns
    -------
    float

    Examples
    --------
    >>> fit_gamma({c: 0.01 + (c / 255) ** 2.3 for c in LEVELS}, 0.01)
    2.3
    """
    from scipy.optimize import least_squares  # loaded when first needed, so that the program starts sooner

    codes = np.array(sorted(light))
    seen = np.array([light[c] - black for c in codes])
    seen = seen / seen[-1]
    found = least_squares(lambda g: (codes / 255) ** g[0] - seen, [2.2], bounds=(0.5, 5.0))
    return round(float(found.x[0]), 4)


def fit_grid(
    places: Floats, light: Floats, raster: tuple[int, int], columns: int = COLUMNS, rows: int = ROWS
) -> Floats:
    """A bilinear grid over a raster that best explains light at some of its places.

    Parameters
    ----------
    places : ndarray, shape (n, 2)
        In pixels of the raster.
    light : ndarray, shape (n, components)

    Returns
    -------
    ndarray, shape (rows, columns, components)
        Where no place was measured it goes on as it does nearby.
    """
    u = np.clip(places[:, 0] / raster[0], 0, 1) * (columns - 1)
    v = np.clip(places[:, 1] / raster[1], 0, 1) * (rows - 1)
    a = np.maximum(0, 1 - np.abs(u[:, None] - np.arange(columns)))
    b = np.maximum(0, 1 - np.abs(v[:, None] - np.arange(rows)))
    system = (b[:, :, None] * a[:, None, :]).reshape(len(a), rows * columns)
    bend_u = np.kron(np.eye(rows), np.diff(np.eye(columns), 2, axis=0))
    bend_v = np.kron(np.diff(np.eye(rows), 2, axis=0), np.eye(columns))
    stiff = (bend_u.T @ bend_u + bend_v.T @ bend_v) * (1e-3 * len(a) / (rows * columns))
    solved = np.linalg.solve(system.T @ system + stiff + np.eye(rows * columns) * 1e-9 * len(a), system.T @ light)
    return np.asarray(solved.reshape(rows, columns, -1), np.float64)


def _rising(response: Floats) -> tuple[float, ...]:
    """A response as a show keeps it: from 0 to 1, each value above the one before."""
    values = [0.0]
    for v in response[1:-1].tolist():
        values.append(max(round(v, 9), values[-1] + 1e-9))
    return (*(min(v, 1 - 1e-9 * (len(values) - n)) for n, v in enumerate(values)), 1.0)


class Matched(NamedTuple):
    """What makes projectors match: the gamma that all of them are brought to and each one's response, light grid and
    black; ``cost`` is the share of light given up, on the mean."""

    gamma: float
    responses: tuple[tuple[float, ...] | None, ...]
    grids: tuple[LightGrid, ...]
    blacks: tuple[BlackMatch, ...]
    cost: float


def matching(measured: Sequence[Measured], soft: float = 2.0) -> Matched:
    """Bring all projectors to one gamma, that in the middle of theirs, to the light of the weakest place, for each
    colour, and their blacks to that of the most overlapped.

    Parameters
    ----------
    measured : sequence of Measured
    soft : float
        Pixels over which lifts fade at borders.
    """
    level = np.min([m.white.reshape(-1, 3).min(0) for m in measured], axis=0)
    grids, blacks = [], []
    for m in measured:
        share = np.clip(level / m.white, 0, 1).reshape(-1, 3).round(5)
        red, green, blue = (tuple(share[:, k].tolist()) for k in range(3))
        grids.append(LightGrid(columns=m.white.shape[1], rows=m.white.shape[0], red=red, green=green, blue=blue))
        leak = np.clip(m.leak / m.white.reshape(-1, 3).mean(0), 0, 0.5).round(7)
        blacks.append(BlackMatch(leak=(float(leak[0]), float(leak[1]), float(leak[2])), soft=soft))
    mean = float(np.mean([m.white.mean() for m in measured]))
    gamma = round(float(np.exp(np.mean([np.log(m.gamma) for m in measured]))), 3)
    responses = tuple(None if m.response is None else _rising(m.response) for m in measured)
    return Matched(gamma, responses, tuple(grids), tuple(blacks), 1 - float(level.mean()) / mean)
