"""Lenses: radial distortion about the middle of a picture, and a flat screen seen through one."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.mesh import Floats, projected


class Lens(NamedTuple):
    """Radial distortion ``r' = r·(1 + k1·r² + k2·r⁴)`` about a centre, with r in half widths of the picture.

    After D. C. Brown, "Close-range camera calibration", 1971 (from memory); the tangential terms are left out.
    """

    width: int
    height: int
    k1: float = 0.0
    k2: float = 0.0
    centre: tuple[float, float] = (0.0, 0.0)
    """From the middle of the picture, in pixels."""

    def _middle(self) -> NDArray[np.float64]:
        return np.array([self.width / 2 + self.centre[0], self.height / 2 + self.centre[1]])

    def bent(self, points: Floats) -> Floats:
        """Where points of a picture without distortion, in pixels, shape (..., 2), lie in one with it."""
        p = (np.asarray(points, float) - self._middle()) / (self.width / 2)
        r2 = _squared(p)
        return np.asarray(p * (1 + self.k1 * r2 + self.k2 * r2 * r2) * (self.width / 2) + self._middle())

    def straight(self, points: Floats) -> Floats:
        """The inverse of `bent`, by fixed-point iteration to less than a thousandth of a pixel."""
        q = (np.asarray(points, float) - self._middle()) / (self.width / 2)
        p = q
        for _ in range(12):
            r2 = _squared(p)
            p = q / (1 + self.k1 * r2 + self.k2 * r2 * r2)
        return np.asarray(p * (self.width / 2) + self._middle())


def _squared(p: Floats) -> Floats:
    """Squared distance from the middle, shape (..., 1)."""
    return np.asarray(p[..., :1] * p[..., :1] + p[..., 1:] * p[..., 1:])


def filled(values: NDArray[np.float64], columns: NDArray[np.float64], rows: NDArray[np.float64]) -> NDArray[np.float32]:
    """A smooth field known on a coarse grid, at places between: bilinear, in one go.

    Parameters
    ----------
    values : ndarray, shape (down, across, components)
        At grid places 0, 1, 2 …
    columns, rows : ndarray
        Grid places wanted, within the grid.

    Returns
    -------
    ndarray, shape (components, len(rows), len(columns)), float32

    References
    ----------
    D. C. Brown, "Close-range camera calibration", Photogrammetric Engineering 37 (1971): radial terms (from memory).
    """

    def hats(at: NDArray[np.float64], count: int) -> NDArray[np.float32]:
        return np.asarray(np.maximum(0, 1 - np.abs(at[:, None] - np.arange(count))), np.float32)

    across, down = hats(columns, values.shape[1]), hats(rows, values.shape[0])
    part = np.moveaxis(values, -1, 0).astype(np.float32)
    return np.asarray(down @ part @ across.T, np.float32)


class View(NamedTuple):
    """A flat screen seen through a lens: ``matrix`` takes pixels of the picture without distortion to pixels of the
    screen.
    """

    lens: Lens
    matrix: Floats

    def to_screen(self, points: Floats) -> Floats:
        """Screen places of points of the picture, shape (..., 2)."""
        return projected(self.matrix, self.lens.straight(points))

    def from_screen(self, points: Floats) -> Floats:
        """Places in the picture of points of the screen, shape (..., 2)."""
        return self.lens.bent(projected(np.asarray(np.linalg.inv(self.matrix), np.float64), points))
