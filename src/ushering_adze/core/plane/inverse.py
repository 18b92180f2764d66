"""The way back through a mesh: which place of its region each pixel of a raster shows.

Smooth spans are inverted by Newton's method, on a lattice that is interpolated, and pixel by pixel along the region's
edges; straight ones in closed form, cell by cell.
"""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.mesh import Floats, Warp, landing_and_slopes, projected

Maps = tuple[NDArray[np.float32], NDArray[np.float32]]
FAR = -1e4
"""Where a raster pixel points to that shows nothing of the region."""


def _newton(
    warp: Warp, x: Floats, y: Floats, start: Floats | None = None, most: int = 12, enough: float = 2e-4
) -> Floats:
    """Region points whose `forward` is (x, y), for smooth spans; shape (n, 2).  A point that went no further than
    ``enough`` has arrived.
    """
    points = np.stack([x, y], -1)
    p = projected(np.asarray(np.linalg.inv(warp.matrix), np.float64), points) if start is None else start
    limit = 0.6 * max(warp.width, warp.height)
    p = np.clip(p, (-limit, -limit), (warp.width + limit, warp.height + limit))
    whole, moving = p.copy(), np.arange(len(p))
    for _ in range(most):
        p = whole[moving]
        there, (a, c, b, e) = landing_and_slopes(warp, p)
        off = points - there
        det = a * e - b * c
        det = np.where(np.abs(det) < 1e-9, 1e-9, det)
        step = np.stack([(e * off[:, 0] - b * off[:, 1]) / det, (a * off[:, 1] - c * off[:, 0]) / det], -1)
        reach = np.maximum(1.0, np.abs(step).max(1, keepdims=True) / (0.25 * limit))
        whole[moving] = np.clip(p + step / reach, -limit, max(warp.width, warp.height) + limit)
        still = np.abs(step).max(1) > enough
        if not still.any():
            break
        moving, points = moving[still], points[still]
    return whole


def backward(warp: Warp, points: Floats) -> Floats:
    """The places of the region that land on points of the raster, of shape (n, 2); exact for smooth spans.

    Points that nothing of the region reaches give places outside it.

    Parameters
    ----------
    warp : Warp
        How the region bends.
    points : Floats
        Places, x and y in the last axis.

    Returns
    -------
    Floats

    References
    ----------
    Newton's method in two variables; W. H. Press et al., *Numerical Recipes*, 3rd ed., section 9.6 (from memory).
    """
    p = np.asarray(points, float).reshape(-1, 2)
    if warp.spans == "smooth":
        return _newton(warp, p[:, 0], p[:, 1])
    return _straight_back(warp, p)


def backward_from(warp: Warp, points: Floats, near: Floats, enough: float = 2e-4) -> Floats:
    """`backward` for smooth spans, from region points near what is sought; both of shape (n, 2).

    Newton's method ends with a step of ``enough`` region pixels, and is off by about its square, times half the
    curvature.

    Parameters
    ----------
    warp : Warp
        How the region bends.
    points : Floats
        Places, x and y in the last axis.
    near : Floats
        How near, in pixels, counts.
    enough : float, optional
        How near is near enough.

    Returns
    -------
    Floats
    """
    return _newton(warp, points[:, 0], points[:, 1], near, enough=enough)


@lru_cache(maxsize=64)
def _cubic_rows(coarse: int, times: int, pad: int) -> NDArray[np.float32]:
    """Interpolates ``times`` as many samples from coarse ones with ``pad`` more at each end, by cubic Lagrange
    polynomials.
    """
    matrix = np.zeros((coarse * times, coarse + 2 * pad), np.float32)
    for k in range(coarse * times):
        at = (k + 0.5) / times - 0.5 + pad
        i = int(np.floor(at))
        t = at - i
        matrix[k, i - 1 : i + 3] = (
            -t * (t - 1) * (t - 2) / 6,
            (t + 1) * (t - 1) * (t - 2) / 2,
            -(t + 1) * t * (t - 2) / 2,
            (t + 1) * t * (t - 1) / 6,
        )
    return matrix


class Lattice(NamedTuple):
    """The inverse of a warp at points of the raster ``edge`` pixels apart, between which it is interpolated.

    ``values``, float32 of shape (2, rows, columns), are places of the region in pixel centres, x and y; the first is
    that of the raster's ``left + edge / 2, top + edge / 2``.
    """

    values: NDArray[np.float32]
    left: int
    top: int
    edge: int

    def spread(self, x: int, y: int, w: int, h: int) -> Maps:
        """The place of each pixel of a rectangle that the lattice covers: ``map_x, map_y``, shape (h, w)."""
        _, rows, columns = self.values.shape
        here = np.s_[y - self.top : y - self.top + h, x - self.left : x - self.left + w]
        size = (columns * self.edge, rows * self.edge)
        map_x, map_y = (
            np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_LINEAR), np.float32)[here]
            for plane in self.values
        )
        return map_x, map_y


def lattice_of(warp: Warp, x: int, y: int, w: int, h: int) -> Lattice:
    """The inverse of smooth spans over a rectangle of the raster.

    It is solved by Newton's method on every sixteenth pixel, where nodes are dense or the curve ends on every fourth,
    and interpolated between.

    Parameters
    ----------
    warp : Warp
        How the region bends.
    x : int
        Column, in pixels from the left.
    y : int
        Row, in pixels from the top.
    w : int
        Width in pixels.
    h : int
        Height in pixels.

    Returns
    -------
    Lattice
    """
    cells = [float(np.hypot(*np.moveaxis(np.diff(warp.nodes, axis=a), -1, 0)).min()) for a in (0, 1)]
    dense = min(cells) < 130 and warp.nodes.shape[:2] != (2, 2)
    left, top, nx, ny = x - 16, y - 16, (w + 32 + 15) // 16, (h + 32 + 15) // 16
    gx, gy = np.meshgrid(left + (np.arange(-2, nx + 2) + 0.5) * 16, top + (np.arange(-2, ny + 2) + 0.5) * 16)
    coarse = _newton(warp, gx.ravel(), gy.ravel()).reshape(*gx.shape, 2).astype(np.float32)
    up_x, up_y = _cubic_rows(nx, 4, 2), _cubic_rows(ny, 4, 2)
    fine = np.stack([up_y @ coarse[..., k] @ up_x.T for k in (0, 1)], -1)
    # Between samples the curve is missed most where it ends, and where nodes are dense: there Newton goes on from what
    # was found.
    u, v = fine[..., 0], fine[..., 1]
    inside = (u > -12) & (u < warp.width + 12) & (v > -12) & (v < warp.height + 12)
    if not dense:
        inside &= (u < 36) | (u > warp.width - 36) | (v < 36) | (v > warp.height - 36)
    rows, columns = np.nonzero(inside)
    if len(rows) and warp.nodes.shape[:2] != (2, 2):
        at_x, at_y = np.asarray(left + (columns + 0.5) * 4, np.float64), np.asarray(top + (rows + 0.5) * 4, np.float64)
        fine[rows, columns] = _newton(warp, at_x, at_y, fine[rows, columns].astype(float), 3)
    planes = np.asarray(np.ascontiguousarray(np.moveaxis(fine, -1, 0)) - np.float32(0.5), np.float32)
    if not dense:
        return Lattice(planes, left, top, 4)
    twice_x, twice_y = _cubic_rows(planes.shape[2] - 4, 2, 2), _cubic_rows(planes.shape[1] - 4, 2, 2)
    return Lattice(np.asarray([twice_y @ plane @ twice_x.T for plane in planes], np.float32), left + 8, top + 8, 2)


def inverse_warp(warp: Warp, x: int, y: int, w: int, h: int) -> Maps:
    """For each pixel of a rectangle of the raster, the place of the region it shows; straight spans in closed form,
    smooth by a lattice.

    Parameters
    ----------
    warp : Warp
        How the region bends.
    x : int
        Column, in pixels from the left.
    y : int
        Row, in pixels from the top.
    w : int
        Width in pixels.
    h : int
        Height in pixels.

    Returns
    -------
    tuple of ndarray
        ``map_x, map_y``, float32, shape (h, w), in pixel centres: the region's first pixel is 0.  Where the raster
        shows nothing of the region the place is outside it.
    """
    if warp.spans == "straight":
        return _inverse_straight(warp, x, y, w, h)
    return polished(warp, lattice_of(warp, x, y, w, h).spread(x, y, w, h), x, y)


RIM = 5.0
"""Region pixels on either side of a region's edge within which a lattice, spread, is not exact enough: there the curve
ends.
"""


def polished(warp: Warp, maps: Maps, x: int, y: int) -> Maps:
    """Maps of smooth spans over a rectangle that begins at ``x, y``, solved for each single pixel along the region's
    edges.

    Parameters
    ----------
    warp : Warp
        How the region bends.
    maps : Maps
        Columns and rows to take from, in pixel centres.
    x : int
        Column, in pixels from the left.
    y : int
        Row, in pixels from the top.

    Returns
    -------
    Maps
    """
    u, v = maps
    near_x = (np.abs(u) < RIM) | (np.abs(u - np.float32(warp.width)) < RIM)
    near_y = (np.abs(v) < RIM) | (np.abs(v - np.float32(warp.height)) < RIM)
    on_x, on_y = (u > -RIM) & (u < warp.width + RIM), (v > -RIM) & (v < warp.height + RIM)
    rows, columns = np.nonzero((near_x & on_y) | (near_y & on_x))
    if not len(rows):
        return maps
    start = np.stack([u[rows, columns], v[rows, columns]], -1).astype(np.float64) + 0.5
    at = np.stack([columns + x, rows + y], -1).astype(np.float64) + 0.5
    found = backward_from(warp, at, start) - 0.5
    u, v = u.copy(), v.copy()
    u[rows, columns], v[rows, columns] = found[:, 0], found[:, 1]
    return u, v


def _in_cell(nodes: Floats, j: int, i: int, x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Where points lie within the bilinear cell (j, i), 0 to 1 across and down: the inverse in closed form.  ``x`` and
    ``y`` broadcast.
    """
    a, b, c, d = nodes[j, i], nodes[j, i + 1], nodes[j + 1, i], nodes[j + 1, i + 1]
    e, f, g = b - a, c - a, a - b - c + d
    qx, qy = x - a[0], y - a[1]
    k2 = g[0] * f[1] - g[1] * f[0]
    k1 = (qx * g[1] - qy * g[0]) + (e[0] * f[1] - e[1] * f[0])
    k0 = qx * e[1] - qy * e[0]
    root = np.sqrt(np.maximum(k1 * k1 - 4 * k2 * k0, 0.0))
    lower = k1 + np.where(k1 >= 0, root, -root)  # the root that stays finite as the cell becomes a parallelogram
    v = -2 * k0 / np.where(np.abs(lower) < 1e-12, 1e-12, lower)
    k = 0 if abs(e[0]) + abs(e[0] + g[0]) >= abs(e[1]) + abs(e[1] + g[1]) else 1
    den = e[k] + g[k] * v
    u = ((qx, qy)[k] - f[k] * v) / np.where(np.abs(den) < 1e-12, 1e-12, den)
    return u, v


def _reach(nodes: Floats, j: int, i: int) -> tuple[tuple[float, float], tuple[float, float]]:
    """How far a cell goes, in its own measure: 0 to 1, and a raster pixel more where it is the outermost."""
    rows, columns = nodes.shape[:2]
    over = 1.0 / max(1e-6, float(np.hypot(*(nodes[j, i + 1] - nodes[j, i]))))
    under = 1.0 / max(1e-6, float(np.hypot(*(nodes[j + 1, i] - nodes[j, i]))))
    return (
        (-over if i == 0 else 0.0, 1 + over if i == columns - 2 else 1.0),
        (-under if j == 0 else 0.0, 1 + under if j == rows - 2 else 1.0),
    )


def _each_cell(warp: Warp) -> list[tuple[int, int]]:
    rows, columns = warp.nodes.shape[:2]
    return [(j, i) for j in range(rows - 1) for i in range(columns - 1)]


def _straight_back(warp: Warp, p: Floats) -> Floats:
    rows, columns = warp.nodes.shape[:2]
    out = np.full((len(p), 2), FAR)
    for j, i in _each_cell(warp):
        (u0, u1), (v0, v1) = _reach(warp.nodes, j, i)
        u, v = _in_cell(warp.nodes, j, i, p[:, 0], p[:, 1])
        here = (u >= u0) & (u <= u1) & (v >= v0) & (v <= v1)
        out[here, 0], out[here, 1] = (
            (i + u[here]) / (columns - 1) * warp.width,
            (j + v[here]) / (rows - 1) * warp.height,
        )
    return out


def _inverse_straight(warp: Warp, x: int, y: int, w: int, h: int) -> Maps:
    rows, columns = warp.nodes.shape[:2]
    maps = np.full((h, w), FAR, np.float32), np.full((h, w), FAR, np.float32)
    for j, i in _each_cell(warp):
        corners = warp.nodes[j : j + 2, i : i + 2].reshape(4, 2)
        x0, y0 = np.maximum(np.floor(corners.min(0)).astype(int) - 2 - (x, y), 0)
        x1, y1 = np.minimum(np.ceil(corners.max(0)).astype(int) + 2 - (x, y), (w, h))
        if x0 >= x1 or y0 >= y1:
            continue
        u, v = _in_cell(warp.nodes, j, i, np.arange(x + x0, x + x1) + 0.5, (np.arange(y + y0, y + y1) + 0.5)[:, None])
        (u0, u1), (v0, v1) = _reach(warp.nodes, j, i)
        here = (u >= u0) & (u <= u1) & (v >= v0) & (v <= v1)
        np.copyto(maps[0][y0:y1, x0:x1], (i + u) * (warp.width / (columns - 1)) - 0.5, where=here, casting="same_kind")
        np.copyto(maps[1][y0:y1, x0:x1], (j + v) * (warp.height / (rows - 1)) - 0.5, where=here, casting="same_kind")
    return maps
