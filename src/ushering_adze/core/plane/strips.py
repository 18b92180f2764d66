"""Pictures worked on in strips of rows, whose pixels stay in the cache from one step to the next."""

from __future__ import annotations

from collections.abc import Iterator

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.pixels import Pixels

AREA = 32 * 1920
"""Pixels that are worked on at a time: fewer, and what each step costs by itself would count."""
TILE = 32, 256
"""Rows and columns of a tile."""


def strips(rows: int, columns: int = 1920) -> Iterator[slice]:
    """The strips of so many rows, from the top.

    Parameters
    ----------
    rows, columns : int
        Of the picture.

    Examples
    --------
    >>> [s.stop - s.start for s in strips(100)]
    [32, 32, 32, 4]
    """
    high = max(8, AREA // max(1, columns))
    return (slice(y, min(rows, y + high)) for y in range(0, rows, high))


def tiles(rows: int, columns: int) -> Iterator[tuple[slice, slice]]:
    """The tiles of a picture, row by row: large enough that to look at each costs little.

    Parameters
    ----------
    rows, columns : int

    Examples
    --------
    >>> [(r.start, c.stop) for r, c in tiles(40, 300)]
    [(0, 256), (0, 300), (32, 256), (32, 300)]
    """
    high, wide = TILE
    return (
        (slice(y, min(rows, y + high)), slice(x, min(columns, x + wide)))
        for y in range(0, rows, high)
        for x in range(0, columns, wide)
    )


def bgr_of(pixels: Pixels) -> Pixels:
    """A picture without its alpha; shape (h, w, 3)."""
    return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_BGRA2BGR), np.uint8)


def linear(bgr: Pixels, rows: NDArray[np.float64]) -> Pixels:
    """Three affine sums of three channels, rounded and cut to codes: the one shape that OpenCV has a quick way for.

    Parameters
    ----------
    bgr : ndarray, shape (h, w, 3), uint8
    rows : ndarray, shape (3, 4)
        The last column is added.

    Returns
    -------
    ndarray, shape (h, w, 3), uint8
    """
    return np.asarray(cv2.transform(bgr, rows), np.uint8)
