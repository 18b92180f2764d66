"""The inverse of a mesh whose points have moved a little, from the inverse it had: only what the move changes is
computed anew.

What a moved point adds to a smooth mesh dies away quickly, is smooth, and is found with two or three steps of Newton's
method from where the raster's points were.  So it is solved at a few of them and interpolated; all the fine detail of
the old lattice is kept.
"""

from __future__ import annotations

from functools import lru_cache
from math import ceil, log
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.inverse import Lattice, backward_from
from ushering_adze.core.plane.mesh import Warp

SMALLEST = 1e-2
"""Raster pixels below which a move is none."""
DECAY = 0.268
"""What is left of a spline's swing one knot further on: 2 − √3 (C. de Boor, *A Practical Guide to Splines*; from
memory).
"""
ENOUGH = 0.5
"""Region pixels: the last step of Newton's method here.  Meshes curve by a hundredth per pixel at most: it is off by a
thousandth or so.
"""
LEAP = 2.0
"""How much further than a mesh's points what lies past its edges may move."""
MOST = 24.0
"""Raster pixels that points may move, all moves added up, before the lattice is due to be computed whole."""


WIDER = DECAY ** (-1 / 5)
"""By how much fewer samples a swing needs one knot further on; the error of cubic interpolation goes with its step to
the fourth.
"""


class _Span(NamedTuple):
    """A row of lattice points, ``length`` long, along which ``knots`` lie from ``first`` to ``last``; those ``moved``
    are its middle.
    """

    length: int
    first: int
    last: int
    knots: int
    moved: tuple[int, int]


@lru_cache(maxsize=64)
def _places(span: _Span, step: int) -> tuple[NDArray[np.intp], NDArray[np.float32]]:
    """Of points in a line every ``step``-th or so up to a knot from what moved, fewer further away, with the first and
    the last, and what interpolates all from them.

    Returns
    -------
    at : ndarray, shape (n,)
    matrix : ndarray, shape (length, n), float32
        Cubic Lagrange polynomials through the four nearest.
    """
    length = span.length
    wanted = np.arange(length)
    knot = (wanted - span.first) / max(1, span.last - span.first) * (span.knots - 1)
    away = np.clip(np.maximum(span.moved[0] - knot, knot - span.moved[1]) - 1, 0, 6)
    passed = np.concatenate([[0], np.cumsum(1 / (step * WIDER**away))[:-1]])
    stops = np.interp(np.linspace(0, passed[-1], max(4, ceil(passed[-1]) + 1)), passed, wanted)
    at = np.unique(np.round(stops).astype(np.intp))
    order = min(4, len(at))
    first = np.clip(np.searchsorted(at, wanted) - order // 2, 0, len(at) - order)
    matrix = np.zeros((length, len(at)))
    for k in range(order):
        part = np.ones(length)
        for j in range(order):
            if j != k:
                part *= (wanted - at[first + j]) / (at[first + k] - at[first + j])
        matrix[wanted, first + k] = part
    return at, matrix.astype(np.float32)


def _cells_touched(move: NDArray[np.float64]) -> tuple[int, int, int, int]:
    """First and last row and column of nodes past which a move is not felt."""
    size = np.abs(move).max(-1)
    rows, columns = np.nonzero(size > 0)
    far = 1 + ceil(max(0.0, log(SMALLEST / max(float(size.max()), SMALLEST)) / log(DECAY)))
    return (
        max(0, int(rows.min()) - far),
        min(size.shape[0] - 1, int(rows.max()) + far),
        max(0, int(columns.min()) - far),
        min(size.shape[1] - 1, int(columns.max()) + far),
    )


def _window(old: Warp, new: Warp, move: NDArray[np.float64], lattice: Lattice) -> tuple[slice, slice]:
    """The rows and columns of a lattice in which it changes."""
    rows, columns = move.shape[:2]
    top, foot, left, right = _cells_touched(move)
    few = (
        min(rows, columns) < 7
    )  # with many nodes another homography through the outer corners is made up for by the spline
    if (few and not np.array_equal(old.matrix, new.matrix)) or (
        top == 0 and foot == rows - 1 and left == 0 and right == columns - 1
    ):
        return slice(None), slice(None)
    points = np.concatenate([w.nodes[top : foot + 1, left : right + 1].reshape(-1, 2) for w in (old, new)])
    size = points.max(0) - points.min(0)
    over = 4 + 0.05 * size + np.where([left == 0 or right == columns - 1, top == 0 or foot == rows - 1], 0.1 * size, 0)
    corner = np.array([lattice.left, lattice.top])
    x0, y0 = (max(0, int(v)) for v in np.floor((points.min(0) - over - corner) / lattice.edge))
    x1, y1 = (max(0, int(v)) for v in np.ceil((points.max(0) + over - corner) / lattice.edge))
    return slice(y0, y1), slice(x0, x1)


def distance_moved(old: Warp, new: Warp) -> float:
    """How far the point moved that moved most, in raster pixels; infinite if the meshes cannot be compared.

    Parameters
    ----------
    old : Warp
        As it was.
    new : Warp
        As it is now.

    Returns
    -------
    float
    """
    smooth = old.spans == new.spans == "smooth"
    if not smooth or old.nodes.shape != new.nodes.shape or (old.width, old.height) != (new.width, new.height):
        return float("inf")
    return float(np.hypot(*np.moveaxis(new.nodes - old.nodes, -1, 0)).max())


def _change(old: Warp, new: Warp, points: NDArray[np.float64], was: NDArray[np.float64]) -> NDArray[np.float64]:
    """By how much the places that raster points show differ between two meshes; ``was`` is about where they were."""
    size = np.array([new.width, new.height])
    change = backward_from(new, points, was, ENOUGH) - was
    out = np.flatnonzero(((was < 0) | (was > size)).any(1))
    # The old lattice is less exact past the end of the curve, and what they are off there is no change.  The way back
    # may leap out there:
    # no point moves much further than the mesh's own.
    change[out] += was[out] - backward_from(old, points[out], was[out], ENOUGH)
    sides = np.hypot(*np.moveaxis(np.diff(new.nodes, axis=1), -1, 0)).sum(1)
    far, most = np.hypot(*change[out].T), LEAP * distance_moved(old, new) * new.width / float(sides.mean())
    change[out] *= np.where(far > most, most / np.maximum(far, 1e-9), 1.0)[:, None]
    cell = size / (np.array(new.nodes.shape[1::-1]) - 1)
    change[((was < -cell) | (was > size + cell)).any(1)] = 0
    return change


def _span(
    knots: NDArray[np.float64], move: NDArray[np.float64], lattice: Lattice, corner: int, start: int, length: int
) -> _Span:
    """The knots along one axis of a lattice's window that begins at ``start``; where they do not follow the axis all of
    it counts as moved.
    """
    count, moved = len(knots), np.flatnonzero(move > 0)
    if (np.diff(knots) <= 0).any():
        return _Span(length, 0, length - 1, count, (0, count - 1))
    first, last = (round((float(at) - corner) / lattice.edge) - start for at in (knots[0], knots[-1]))
    return _Span(length, first, last, count, (int(moved[0]), int(moved[-1])))


def lattice_moved(old: Warp, new: Warp, lattice: Lattice) -> Lattice:
    """The lattice of ``new`` from that of ``old``.

    Parameters
    ----------
    old, new : Warp
        Smooth meshes of the same number of nodes, whose nodes lie no further than `MOST` apart.
    lattice : Lattice
        What `lattice_of` gave for ``old``, or this function.

    Returns
    -------
    Lattice
        Near enough to work by: a few hundredths of a pixel off, up to a third along the region's edges, a pixel or two
        where an outer corner is bent far in.  The interpolation is linear in the samples and the samples are exact, so
        errors of many small moves add up to those of one move as large.
    """
    move = new.nodes - old.nodes
    if not move.any():
        return lattice
    rows, columns = _window(old, new, move, lattice)
    was = lattice.values[:, rows, columns]
    _, h, w = was.shape
    if not h or not w:
        return lattice
    cells = [float(np.hypot(*np.moveaxis(np.diff(new.nodes, axis=a), -1, 0)).min()) for a in (1, 0)]
    # The error goes with the move and with the third power of the step.
    wider = min(2.0, (MOST / max(1e-9, distance_moved(old, new))) ** (1 / 3))
    spans = (
        _span(new.nodes[..., 0].mean(0), np.abs(move).max((0, 2)), lattice, lattice.left, columns.start or 0, w),
        _span(new.nodes[..., 1].mean(1), np.abs(move).max((1, 2)), lattice, lattice.top, rows.start or 0, h),
    )
    (xs, across), (ys, down) = (
        _places(span, max(1, int(np.clip(cell / 8 * wider, 3, 48) / lattice.edge)))
        for span, cell in zip(spans, cells, strict=True)
    )
    gx, gy = np.meshgrid(
        lattice.left + (xs + (columns.start or 0) + 0.5) * lattice.edge,
        lattice.top + (ys + (rows.start or 0) + 0.5) * lattice.edge,
    )
    sampled = was[:, ys[:, None], xs].reshape(2, -1).T.astype(np.float64) + 0.5
    change = _change(old, new, np.stack([gx.ravel(), gy.ravel()], -1), sampled).astype(np.float32)
    values = lattice.values.copy()
    for k in (0, 1):
        values[k, rows, columns] += down @ change[:, k].reshape(len(ys), len(xs)) @ across.T
    return lattice._replace(values=values)
