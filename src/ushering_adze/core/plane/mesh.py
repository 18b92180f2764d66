"""Meshes: how a region bends on its way to a raster.  The way back is in `ushering_adze.core.plane.inverse`.

A mesh has nodes at even fractions of the region, and each node has a place on the raster.  With *straight* spans every
cell is bilinear between its four nodes.  With *smooth* spans the region goes through the homography of its four outer
corners, and what the nodes add to that is a bicubic spline; so a mesh that comes from a corner pin is that corner pin,
exactly, until a node is moved.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.homography import homography, is_convex

Floats = NDArray[np.float64]
Spans = Literal["smooth", "straight"]


def projected(matrix: Floats, points: Floats) -> Floats:
    """Points taken through a homography; shape (..., 2).  Points on its vanishing line become very large.

    Parameters
    ----------
    matrix : Floats
        3 × 3, from the one plane to the other.
    points : Floats
        Places, x and y in the last axis.

    Returns
    -------
    Floats

    References
    ----------
    R. Hartley and A. Zisserman, *Multiple View Geometry*, 2nd ed., section 2.3 (from memory).
    """
    p = np.asarray(points, float)
    x, y = p[..., 0], p[..., 1]
    d = matrix[2, 0] * x + matrix[2, 1] * y + matrix[2, 2]
    d = np.where(np.abs(d) < 1e-12, 1e-12, d)
    return np.stack(
        [
            (matrix[0, 0] * x + matrix[0, 1] * y + matrix[0, 2]) / d,
            (matrix[1, 0] * x + matrix[1, 1] * y + matrix[1, 2]) / d,
        ],
        -1,
    )


@lru_cache(maxsize=64)
def slope_operator(count: int) -> Floats:
    """The matrix that gives the slopes at the knots of the interpolating spline through values at ``0, 1, … count −
    1``.

    Cubic with the not-a-knot condition from four knots on, a parabola through three, a straight line through two: the
    usual interpolating spline (C. de Boor, *A Practical Guide to Splines*, chapter IV; from memory), checked against
    SciPy's.

    References
    ----------
    C. de Boor, *A Practical Guide to Splines* (1978), chapter IV: cubic splines with second derivatives that go on
    (from memory).

    Examples
    --------
    >>> slope_operator(2).tolist()
    [[-1.0, 1.0], [-1.0, 1.0]]
    """
    if count == 2:
        return np.array([[-1.0, 1.0], [-1.0, 1.0]])
    if count == 3:
        return np.array([[-1.5, 2.0, -0.5], [-0.5, 0.0, 0.5], [0.5, -2.0, 1.5]])
    left, right = np.zeros((count, count)), np.zeros((count, count))
    for k in range(1, count - 1):
        left[k, k - 1 : k + 2] = 1, 4, 1
        right[k, k - 1], right[k, k + 1] = -3, 3
    left[0, :2], right[0, :3] = (2, 4), (-5, 4, 1)
    left[-1, -2:], right[-1, -3:] = (4, 2), (-1, -4, 5)
    return np.asarray(np.linalg.solve(left, right))


@lru_cache(maxsize=64)
def _rows_between(count: int, times: int) -> tuple[Floats, Floats]:
    """What gives values, and slopes per knot, of the spline through ``count`` values, ``times`` between two knots, amid
    equal parts.

    Returns
    -------
    tuple of ndarray
        Two of shape (times · (count − 1), count).
    """
    at = (np.arange(times * (count - 1)) + 0.5) / times
    k = at.astype(int)
    t = (at - k)[:, None]
    value, slope = np.eye(count), slope_operator(count)
    step = value[k + 1] - value[k]
    return (
        value[k] + (3 - 2 * t) * t * t * step + t * (1 - t) * ((1 - t) * slope[k] - t * slope[k + 1]),
        6 * t * (1 - t) * step + (1 - t) * (1 - 3 * t) * slope[k] + t * (3 * t - 2) * slope[k + 1],
    )


_POWERS = np.array([[1.0, 0, 0, 0], [0, 0, 1, 0], [-3, 3, -2, -1], [2, -2, 1, 1]])
"""From value 0, value 1, slope 0, slope 1 of a cubic on 0 to 1 to its coefficients, constant first."""


def _slowed(at: Floats, end: int) -> tuple[Floats, Floats]:
    """Knot coordinates that past 0 and ``end`` go on to a third more at most, twice continuously, and their slope."""
    over = at - np.clip(at, 0, end)
    if not over.any():
        return at, np.ones_like(at)
    slow = np.tanh(over / 0.35)
    return np.clip(at, 0, end) + 0.35 * slow, np.where(over == 0, 1.0, 1 - slow * slow)


class Spline(NamedTuple):
    """A bicubic spline on a regular grid: for each cell the coefficients of powers down and across, for each
    component.
    """

    rows: int
    columns: int
    powers: Floats
    """Shape (4 down, 4 across, components, cells), cells row by row."""
    values: Floats
    """At the knots: shape (rows + 1, columns + 1, components)."""

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """Value and slopes across and down at knot coordinates, each of shape (n, components).

        Outside, the outermost cells go on, ever slower, for a third of a cell.
        """
        (uc, fade_u), (vc, fade_v) = _slowed(u, self.columns), _slowed(v, self.rows)
        i, j = np.clip(uc.astype(int), 0, self.columns - 1), np.clip(vc.astype(int), 0, self.rows - 1)
        s, t = uc - i, vc - j
        c = self.powers[..., j * self.columns + i]
        across = ((c[3] * t + c[2]) * t + c[1]) * t + c[0]
        sloped = (3 * c[3] * t + 2 * c[2]) * t + c[1]
        value = ((across[3] * s + across[2]) * s + across[1]) * s + across[0]
        to_u = ((3 * across[3] * s + 2 * across[2]) * s + across[1]) * fade_u
        to_v = (((sloped[3] * s + sloped[2]) * s + sloped[1]) * s + sloped[0]) * fade_v
        return value.T, to_u.T, to_v.T


def spline_through(values: Floats) -> Spline:
    """The interpolating bicubic spline through values on a regular grid.

    Parameters
    ----------
    values : ndarray, shape (rows, columns, components)

    Returns
    -------
    Spline
        In knot coordinates: column 0 to columns − 1, row 0 to rows − 1.

    References
    ----------
    C. de Boor, *A Practical Guide to Splines* (1978), chapters IV and XVII: tensor products (from memory).
    """
    rows, columns = values.shape[0] - 1, values.shape[1] - 1
    across, down = slope_operator(columns + 1), slope_operator(rows + 1)
    fu, fv = across @ values, np.tensordot(down, values, 1)
    fuv = across @ fv
    corners = np.empty((4, 4, values.shape[2], rows, columns))
    for a, of_row in enumerate(((values, fu), (values, fu), (fv, fuv), (fv, fuv))):
        for b, kind in enumerate((0, 0, 1, 1)):
            part = of_row[kind][a % 2 : rows + a % 2, b % 2 : columns + b % 2]
            corners[a, b] = np.moveaxis(part, -1, 0)
    powers = np.tensordot(_POWERS, np.tensordot(_POWERS, corners, (1, 1)), (1, 1))
    return Spline(rows, columns, powers.reshape(4, 4, values.shape[2], rows * columns), values)


class Warp(NamedTuple):
    """A mesh ready to be evaluated: ``nodes`` of shape (rows, columns, 2) in raster pixels, the region's size in its
    own pixels.

    ``matrix`` takes region pixels to the raster: the homography of the four outer corners.  ``spline`` is what the
    nodes add to that.
    """

    nodes: Floats
    width: float
    height: float
    spans: Spans
    matrix: Floats
    spline: Spline


@lru_cache(maxsize=64)
def _between_corners(
    corners: tuple[tuple[float, float], ...], width: float, height: float, rows: int, columns: int
) -> tuple[Floats, Floats]:
    """The homography of the outer corners, and where it takes the nodes; not to be written to.  Most edits leave the
    corners as they are.
    """
    matrix = homography([(0, 0), (width, 0), (width, height), (0, height)], corners)
    places = np.stack(np.meshgrid(np.linspace(0, width, columns), np.linspace(0, height, rows)), -1)
    return matrix, projected(matrix, places)


def warp_of(nodes: Floats, width: float, height: float, spans: Spans = "smooth") -> Warp:
    """A warp from its nodes.

    Parameters
    ----------
    nodes : ndarray, shape (rows, columns, 2)
        Places on the raster in pixels, row by row from the top left; 2 to 33 rows and columns.
    width, height : float
        Of the region, in its own pixels.
    spans : {"smooth", "straight"}

    Raises
    ------
    ValueError
        If three of the outer corners lie on one line.
    """
    n = np.asarray(nodes, float)
    (x0, y0), (x1, y1), (x2, y2), (x3, y3) = n[0, 0].tolist(), n[0, -1].tolist(), n[-1, -1].tolist(), n[-1, 0].tolist()
    matrix, knots = _between_corners(((x0, y0), (x1, y1), (x2, y2), (x3, y3)), width, height, *n.shape[:2])
    return Warp(n, width, height, spans, matrix, spline_through(n - knots))


def forward(warp: Warp, points: Floats) -> Floats:
    """Where points of the region land on the raster.

    Parameters
    ----------
    warp : Warp
    points : ndarray, shape (..., 2)
        In pixels of the region, edges at 0 and its size.

    Returns
    -------
    ndarray, shape (..., 2)
        In pixels of the raster.
    """
    p = np.asarray(points, float)
    flat = p.reshape(-1, 2)
    rows, columns = warp.nodes.shape[:2]
    u, v = flat[:, 0] / warp.width * (columns - 1), flat[:, 1] / warp.height * (rows - 1)
    if warp.spans == "straight":
        i = np.clip(u.astype(int), 0, columns - 2)
        j = np.clip(v.astype(int), 0, rows - 2)
        s, t = (u - i)[:, None], (v - j)[:, None]
        n = warp.nodes
        found = (n[j, i] * (1 - s) + n[j, i + 1] * s) * (1 - t) + (n[j + 1, i] * (1 - s) + n[j + 1, i + 1] * s) * t
    else:
        found = projected(warp.matrix, flat) + warp.spline.at(u, v)[0]
    return np.asarray(found.reshape(p.shape), np.float64)


def _projected_slopes(m: Floats, u: Floats, v: Floats) -> tuple[Floats, Floats, tuple[Floats, Floats, Floats, Floats]]:
    """Where a homography takes points, x and y, and its slopes there: x and y per pixel across, x and y per
    pixel down.
    """
    d = m[2, 0] * u + m[2, 1] * v + m[2, 2]
    d = np.where(np.abs(d) < 1e-9, 1e-9, d)
    x, y = (m[0, 0] * u + m[0, 1] * v + m[0, 2]) / d, (m[1, 0] * u + m[1, 1] * v + m[1, 2]) / d
    return (
        x,
        y,
        (
            (m[0, 0] - x * m[2, 0]) / d,
            (m[1, 0] - y * m[2, 0]) / d,
            (m[0, 1] - x * m[2, 1]) / d,
            (m[1, 1] - y * m[2, 1]) / d,
        ),
    )


def landing_and_slopes(warp: Warp, p: Floats) -> tuple[Floats, tuple[Floats, Floats, Floats, Floats]]:
    """Where points of shape (n, 2) land by smooth spans, and by how much: x and y per pixel across, x and y per pixel
    down.

    Parameters
    ----------
    warp : Warp
        How the region bends.
    p : Floats
        The place.

    Returns
    -------
    tuple[Floats, tuple[Floats, Floats, Floats, Floats]]
    """
    rows, columns = warp.nodes.shape[:2]
    ku, kv = (columns - 1) / warp.width, (rows - 1) / warp.height
    hx, hy, (xu, yu, xv, yv) = _projected_slopes(warp.matrix, p[:, 0], p[:, 1])
    s, su, sv = warp.spline.at(p[:, 0] * ku, p[:, 1] * kv)
    return np.stack([hx + s[:, 0], hy + s[:, 1]], -1), (
        xu + su[:, 0] * ku,
        yu + su[:, 1] * ku,
        xv + sv[:, 0] * kv,
        yv + sv[:, 1] * kv,
    )


def slopes(warp: Warp, points: Floats) -> Floats:
    """Jacobians of `forward` at points of shape (n, 2): shape (n, 2, 2), raster pixels per region pixel, ``[component,
    direction]``.

    Parameters
    ----------
    warp : Warp
        How the region bends.
    points : Floats
        Places, x and y in the last axis.

    Returns
    -------
    Floats
    """
    p = np.asarray(points, float)
    if warp.spans == "smooth":
        _, (xu, yu, xv, yv) = landing_and_slopes(warp, p)
        return np.stack([np.stack([xu, xv], -1), np.stack([yu, yv], -1)], -2)
    e = 1e-3
    du = (forward(warp, p + np.array([e, 0])) - forward(warp, p - np.array([e, 0]))) / (2 * e)
    dv = (forward(warp, p + np.array([0, e])) - forward(warp, p - np.array([0, e]))) / (2 * e)
    return np.stack([du, dv], -1)


def _slopes_between(warp: Warp, u: Floats, v: Floats, times: int) -> tuple[Floats, Floats, Floats, Floats]:
    """The slopes of `landing_and_slopes` on a grid ``times`` as fine as the knots of smooth spans, quickly; ``u`` and
    ``v`` are its places.
    """
    rows, columns = warp.nodes.shape[:2]
    (across, to_u), (down, to_v) = _rows_between(columns, times), _rows_between(rows, times)
    added = np.moveaxis(warp.spline.values, -1, 0)
    su = down @ added @ to_u.T * ((columns - 1) / warp.width)
    sv = to_v @ added @ across.T * ((rows - 1) / warp.height)
    _, _, (xu, yu, xv, yv) = _projected_slopes(warp.matrix, u, v)
    return xu + su[0], yu + su[1], xv + sv[0], yv + sv[1]


def is_sane(warp: Warp) -> bool:
    """Whether a mesh is nowhere folded or crossed: its Jacobian has one sign all over, looked at on a grid four times
    as fine.

    Examples
    --------
    >>> square = np.array([[[0.0, 0], [9, 0]], [[0, 9], [9, 9]]])
    >>> is_sane(warp_of(square, 9, 9)), is_sane(warp_of(square[:, ::-1], 9, 9))
    (True, True)
    """
    rows, columns = warp.nodes.shape[:2]
    u = (np.arange(4 * (columns - 1)) + 0.5) / (4 * (columns - 1)) * warp.width
    v = (np.arange(4 * (rows - 1)) + 0.5) / (4 * (rows - 1)) * warp.height
    if warp.spans == "smooth":
        xu, yu, xv, yv = _slopes_between(warp, u, v[:, None], 4)
        d = xu * yv - yu * xv
    else:
        d = np.linalg.det(slopes(warp, np.stack(np.meshgrid(u, v), -1).reshape(-1, 2)))
    if not np.isfinite(d).all():
        return False
    cross = _cell_turns(warp.nodes)
    return bool(((d > 0).all() and (cross > 0).all()) or ((d < 0).all() and (cross < 0).all()))


def _cell_turns(nodes: Floats) -> Floats:
    """Twice the area of the two triangles at each cell's corners, with their sign."""
    a, b, c, d = nodes[:-1, :-1], nodes[:-1, 1:], nodes[1:, 1:], nodes[1:, :-1]

    def turn(p: Floats, q: Floats, r: Floats) -> Floats:
        return np.asarray(
            (q[..., 0] - p[..., 0]) * (r[..., 1] - p[..., 1]) - (q[..., 1] - p[..., 1]) * (r[..., 0] - p[..., 0])
        )

    return np.stack([turn(a, b, c), turn(b, c, d), turn(c, d, a), turn(d, a, b)])


CROSSED = (
    "its four corners are crossed or dented, or three of them lie in line; drag them so that the sides do not meet"
)
FOLDED = "its mesh is folded or crossed; drag its points apart so that no cell turns over"


@lru_cache(maxsize=1024)
def shape_fault(
    points: tuple[tuple[float, float], ...], columns: int, spans: Spans, width: int, height: int
) -> str | None:
    """What is wrong with the shape of a bend, and its cure; None if nothing is.

    Parameters
    ----------
    points : tuple
        On the raster; row by row from the top left, or four corners clockwise if ``columns`` is 0.
    columns : int
    spans : {"smooth", "straight"}
    width, height : int
        Of the region, in pixels.

    Examples
    --------
    >>> shape_fault(((0, 0), (9, 0), (9, 9), (0, 9)), 0, "smooth", 9, 9) is None
    True
    """
    if not columns:
        return None if is_convex(points) else CROSSED
    try:
        sane = is_sane(warp_of(np.array(points, float).reshape(-1, columns, 2), width, height, spans))
    except ValueError:
        return FOLDED
    return None if sane else FOLDED
