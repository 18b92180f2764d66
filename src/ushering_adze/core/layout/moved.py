"""The inverse maps of a mesh whose points have moved a little, from the maps it had: only what the move changes is computed anew.

What a moved point adds to a smooth mesh dies away quickly, is smooth, and is found with two or three steps of Newton's method from where
the old maps were.  So it is solved at a few raster pixels and interpolated; all the fine detail of the old maps is kept.
"""

from __future__ import annotations

from functools import lru_cache
from math import ceil, log

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.layout.mesh import Warp, backward_from
from ushering_adze.core.layout.rect import Rect

BAND = 16
Maps = tuple[NDArray[np.float32], NDArray[np.float32]]
SMALLEST = 2e-3
"""Raster pixels below which a move is none."""
DECAY = 0.268
"""What is left of a spline's swing one knot further on: 2 − √3 (C. de Boor, *A Practical Guide to Splines*; from memory)."""
MOST = 24.0
"""Raster pixels that points may move, all moves added up, before the maps are due to be computed whole."""


@lru_cache(maxsize=64)
def _places(length: int, step: int) -> tuple[NDArray[np.intp], NDArray[np.float32], int]:
    """Where along a line of pixels samples are taken, what brings them to every fourth (second) pixel, and which of the two it is.

    Returns
    -------
    at : ndarray, shape (n,)
        Pixels, about ``step`` apart, the first and the last among them.
    matrix : ndarray, shape (m + 2, n)
        Interpolates by cubic Lagrange polynomials to the middles of blocks of ``edge`` pixels, one block more at each end.
    edge : int
    """
    edge = 4 if step > 12 else 2
    n = max(4, ceil((length - 1) / step) + 1)
    at = np.unique(np.round(np.linspace(0, length - 1, n)).astype(np.intp))
    wanted = (np.arange(-1, ceil(length / edge) + 1) + 0.5) * edge - 0.5
    order = min(4, len(at))
    first = np.clip(np.searchsorted(at, wanted) - order // 2, 0, len(at) - order)
    matrix = np.zeros((len(wanted), len(at)))
    for k in range(order):
        part = np.ones(len(wanted))
        for j in range(order):
            if j != k:
                part *= (wanted - at[first + j]) / (at[first + k] - at[first + j])
        matrix[np.arange(len(wanted)), first + k] = part
    return at, matrix.astype(np.float32), edge


def _cells_touched(move: NDArray[np.float64]) -> tuple[int, int, int, int]:
    """First and last row and column of nodes past which a move is not felt."""
    size = np.abs(move).max(-1)
    rows, columns = np.nonzero(size > 0)
    far = 1 + ceil(max(0.0, log(SMALLEST / max(float(size.max()), SMALLEST)) / log(DECAY)))
    return (max(0, int(rows.min()) - far), min(size.shape[0] - 1, int(rows.max()) + far),
            max(0, int(columns.min()) - far), min(size.shape[1] - 1, int(columns.max()) + far))


def _window(old: Warp, new: Warp, move: NDArray[np.float64], put: Rect) -> Rect:
    """The part of the raster in which the maps change."""
    rows, columns = move.shape[:2]
    top, foot, left, right = _cells_touched(move)
    few = min(rows, columns) < 7  # with many nodes another homography through the outer corners is made up for by the spline
    if (few and not np.array_equal(old.matrix, new.matrix)) or (top == 0 and foot == rows - 1 and left == 0 and right == columns - 1):
        return put
    points = np.concatenate([w.nodes[top:foot + 1, left:right + 1].reshape(-1, 2) for w in (old, new)])
    size = points.max(0) - points.min(0)
    over = 4 + 0.05 * size + np.where([left == 0 or right == columns - 1, top == 0 or foot == rows - 1], 0.1 * size, 0)
    x0, y0 = (int(v) for v in np.floor(points.min(0) - over))
    x1, y1 = (int(v) for v in np.ceil(points.max(0) + over))
    return Rect(x0, y0, x1 - x0, y1 - y0).meet(put)


def distance_moved(old: Warp, new: Warp) -> float:
    """How far the point moved that moved most, in raster pixels; infinite if the meshes cannot be compared."""
    smooth = old.spans == new.spans == "smooth"
    if not smooth or old.nodes.shape != new.nodes.shape or (old.width, old.height) != (new.width, new.height):
        return float("inf")
    return float(np.hypot(*np.moveaxis(new.nodes - old.nodes, -1, 0)).max())


def _change(old: Warp, new: Warp, points: NDArray[np.float64], was: NDArray[np.float64]) -> NDArray[np.float64]:
    """By how much the places that raster points show differ between two meshes; ``was`` is about where they were."""
    change = backward_from(new, points, was) - was
    size = np.array([new.width, new.height])
    outside = np.flatnonzero(((was < 0) | (was > size)).any(1))
    # Old maps are less exact past the end of the curve, and what they are off there is no change.
    change[outside] += was[outside] - backward_from(old, points[outside], was[outside])
    cell = size / (np.array(new.nodes.shape[1::-1]) - 1)
    change[((was < -cell) | (was > size + cell)).any(1)] = 0
    return change


def inverse_moved(old: Warp, new: Warp, maps: Maps, put: Rect) -> Maps:
    """The maps of ``new`` from those of ``old``.

    Parameters
    ----------
    old, new : Warp
        Smooth meshes of the same number of nodes, whose nodes lie no further than `MOST` apart.
    maps : tuple of ndarray, float32, shape (put.h, put.w)
        What `inverse_warp` gave for ``old``, or this function.
    put : Rect
        Of the raster.

    Returns
    -------
    tuple of ndarray
        New arrays, or the same ones where nothing moved.  As exact as those of `inverse_warp`: the interpolation is linear in the
        samples and the samples are exact, so the errors of many small moves do not add up, but for those of one move as large.
    """
    move = new.nodes - old.nodes
    if not move.any():
        return maps
    where = _window(old, new, move, put)
    if where.empty:
        return maps
    here = where.moved(-put.x, -put.y).cut()
    cells = [float(np.hypot(*np.moveaxis(np.diff(new.nodes, axis=a), -1, 0)).min()) for a in (1, 0)]
    # The error goes with the move and with the third power of the step.
    wider = min(2.0, (MOST / max(1e-9, distance_moved(old, new))) ** (1 / 3))
    steps = [int(np.clip(cell / 8 * wider, 3, 48)) for cell in cells]
    if new.nodes.shape[:2] == (2, 2):
        steps = [16, 16]
    (xs, across, wide), (ys, down, high) = _places(where.w, steps[0]), _places(where.h, steps[1])
    u, v = maps[0][here], maps[1][here]
    sampled = np.stack([u[np.ix_(ys, xs)], v[np.ix_(ys, xs)]], -1).reshape(-1, 2).astype(np.float64) + 0.5
    gx, gy = np.meshgrid(where.x + xs + 0.5, where.y + ys + 0.5)
    change = _change(old, new, np.stack([gx.ravel(), gy.ravel()], -1), sampled).astype(np.float32).reshape(len(ys), len(xs), 2)
    found = []
    for k, old_map in enumerate(maps):
        part = down @ change[..., k] @ across.T
        sum = np.empty_like(old_map) if where == put else old_map.copy()
        for first in range(0, part.shape[0] - 2, BAND):  # bands of rows stay within the processor's cache
            some = part[first:first + BAND + 2]
            rows = np.s_[first * high:min((first + BAND) * high, where.h)]
            added = cv2.resize(some, (some.shape[1] * wide, some.shape[0] * high), interpolation=cv2.INTER_LINEAR)
            cv2.add(old_map[here][rows], added[high:high + sum[here][rows].shape[0], wide:wide + where.w], dst=sum[here][rows])
        found.append(sum)
    return found[0], found[1]
