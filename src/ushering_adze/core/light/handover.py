"""Handing light over from one bent picture to another: exactly, at any point of the screen.

Where two pictures overlap each gives light by how far the point lies from where it ends within the other.  These
distances are kept on grids, with a sign, so that between the grid's points they are as exact as at them, up to the very
end; and both pictures work with the same grids, so that what they give adds up.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from ushering_adze.core.light.blend import ramp
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.plane.remap import remapped
from ushering_adze.core.show.canvas import Curve

Floats = NDArray[np.float32]
FINE = 4
"""Canvas pixels between two points of a grid; more where it would be large."""
MOST = 4_000_000
"""Distances that are worked out for one grid."""
FAR = 1e6
Outline = tuple[tuple[float, float], ...]


class Handover(NamedTuple):
    """How far points lie from where each of two pictures ends within the other, in canvas pixels; below 0 past that
    end.

    The grids are of points ``step`` pixels apart, the first at ``x, y``.
    """

    one: int
    other: int
    x: float
    y: float
    step: int
    ones: Floats
    others: Floats


def picture_outline(rect: Rect, reach: NDArray[np.float64]) -> Outline:
    """The outline of a picture on its canvas: its region, as far as its raster reaches; empty if there is nothing of
    it.

    Parameters
    ----------
    rect : Rect
        In whole pixels.
    reach : ndarray
        How far, in pixels.

    Returns
    -------
    Outline
    """
    if not np.isfinite(reach).all():
        return ()
    shape: Any = shapely.make_valid(shapely.Polygon(np.round(reach, 4))).intersection(
        shapely.box(rect.x, rect.y, rect.right, rect.foot)
    )
    if shape.geom_type in ("MultiPolygon", "GeometryCollection"):
        parts = [part for part in shape.geoms if part.geom_type == "Polygon"]
        shape = max(parts, key=lambda part: float(part.area)) if parts else shapely.Polygon()
    if shape.is_empty or shape.geom_type != "Polygon":
        return ()
    simple = shape.simplify(0.02)
    return tuple((float(x), float(y)) for x, y in simple.exterior.coords[:-1])


def within(
    outline: NDArray[np.float64], x: NDArray[np.floating[Any]], y: NDArray[np.floating[Any]]
) -> NDArray[np.uint8]:
    """Which points of an even grid (columns ``x``, rows ``y``) lie within an outline: an odd number of its sides lies
    to their left.

    Parameters
    ----------
    outline : ndarray
        Corners of its edge in order, x and y in pixels.
    x : ndarray]
        Columns in pixels.
    y : ndarray]
        Rows in pixels.

    Returns
    -------
    ndarray, shape (len(y), len(x)), uint8, 1 within
    """
    h, w = len(y), len(x)
    step = x[1] - x[0] if w > 1 else 1.0
    (xa, ya), (xb, yb) = outline.T[..., None], np.roll(outline, -1, 0).T[..., None]
    sides, rows = np.nonzero((y >= np.minimum(ya, yb)) & (y < np.maximum(ya, yb)))
    xa, ya, xb, yb = (part[sides, 0] for part in (xa, ya, xb, yb))
    cross = xa + (y[rows] - ya) * ((xb - xa) / (yb - ya))
    first = np.clip(np.ceil((cross - x[0]) / step), 0, w).astype(int)
    turns = (np.bincount(rows * (w + 1) + first, minlength=h * (w + 1)) & 1).astype(np.uint8).reshape(h, w + 1)
    return np.asarray(np.bitwise_xor.accumulate(turns, axis=1)[:, :w], np.uint8)


def _distances(line: Any, x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """Distances of grid points (columns ``x``, rows ``y``) to lines; `FAR` where there is none."""
    pieces = [
        np.asarray(part.coords)
        for part in getattr(line, "geoms", [line])
        if part.geom_type in ("LineString", "LinearRing")
    ]
    best = np.full((len(y), len(x)), FAR**2)
    for piece in pieces:
        for (ax, ay), (bx, by) in pairwise(piece):
            dx, dy = bx - ax, by - ay
            long = dx * dx + dy * dy
            if long < 1e-18:
                continue
            px, py = x - ax, (y - ay)[:, None]
            along = np.clip((px * dx + py * dy) / long, 0.0, 1.0)
            np.minimum(best, (px - along * dx) ** 2 + (py - along * dy) ** 2, out=best)
    return np.asarray(np.sqrt(best))


def handovers(outlines: Sequence[Outline]) -> tuple[Handover, ...]:
    """The grids of every two pictures that overlap, and of which one ends within the other.

    Parameters
    ----------
    outlines : sequence
        Of `picture_outline`, in canvas pixels.
    """
    shapes = [shapely.Polygon(o) if len(o) > 2 else shapely.Polygon() for o in outlines]
    found = []
    for i, a in enumerate(shapes):
        for j in range(i + 1, len(shapes)):
            b = shapes[j]
            both = a.intersection(b)
            if both.area < 1e-6:
                continue
            ends = a.boundary.intersection(b.buffer(1e-7)), b.boundary.intersection(a.buffer(1e-7))
            # Where both end together neither ends within the other: the screen ends there for both.
            shared = a.boundary.intersection(b.boundary.buffer(1e-6))
            ends = tuple(e.difference(shared.buffer(1e-5)) for e in ends)
            x0, y0, x1, y1 = both.bounds
            count = sum(max(1, shapely.get_num_coordinates(e)) for e in ends)
            step = FINE
            while (x1 - x0) * (y1 - y0) / step**2 * count > MOST:
                step *= 2
            x, y = np.arange(x0 - 2 * step, x1 + 3 * step, step), np.arange(y0 - 2 * step, y1 + 3 * step, step)
            far = [_distances(end, x, y) for end in ends]
            inside = [within(np.array(outlines[k]), x, y) > 0 for k in (i, j)]
            # Past an end that both share each goes on as it was: there is no end of one within the other.
            beyond = ~(inside[0] | inside[1]) & (_distances(shared, x, y) < np.minimum(*far))
            grids = [np.where(own | beyond, d, -d).astype(np.float32) for own, d in zip(inside, far, strict=True)]
            found.append(Handover(i, j, float(x[0]), float(y[0]), step, grids[0], grids[1]))
    return tuple(found)


def weight_at(
    picture: int, pairs: Sequence[Handover], x: Floats, y: Floats, exponent: float = 2.0, curve: Curve = "power"
) -> Floats:
    """What one picture gives of the light at points of its own, so that all pictures there give 1 together.

    Parameters
    ----------
    picture : int
        Which of the outlines of `handovers`.
    pairs : sequence of Handover
    x, y : ndarray, float32, of one shape
        Canvas places; points on a pixel's middle have .5.
    exponent, curve
        Of the ramp from one picture to the other.

    Notes
    -----
    Between two pictures light is handed over by the distance to where each ends within the other, after R. Raskar et
    al., "Multi-projector displays using camera-based registration", IEEE Visualization 1999 (weights by distance to the
    edge, normalised; from memory); with more than two, the shares towards each neighbour are multiplied, and all
    divided by their sum.
    """
    mine = [p for p in pairs if picture in (p.one, p.other)]
    if not mine:
        return np.ones(x.shape, np.float32)
    present: dict[int, NDArray[np.bool_]] = {}
    shares: dict[int, Floats] = {picture: np.ones(x.shape, np.float32)}
    for pair in mine:
        ones, others = _sampled(pair, x, y)
        own, its, other = (ones, others, pair.other) if pair.one == picture else (others, ones, pair.one)
        there = its > 0
        if not there.any():
            continue
        given = _given(own, its, exponent, curve)
        shares[picture] *= np.where(there, given, np.float32(1))
        shares[other] = np.where(there, 1 - given, np.float32(0))
        present[other] = there
    if len(present) < 2:
        return shares[picture]
    for pair in pairs:
        if pair.one in present and pair.other in present:
            both = present[pair.one] & present[pair.other]
            if both.any():
                given = np.where(both, _given(*_sampled(pair, x, y), exponent, curve), np.float32(1))
                shares[pair.one] *= given
                shares[pair.other] *= np.where(both, 1 - given, np.float32(1))
    total = np.sum(list(shares.values()), axis=0)
    count = 1 + np.sum(list(present.values()), axis=0)
    return np.asarray(np.where(total > 1e-6, shares[picture] / np.maximum(total, 1e-6), 1 / count), np.float32)


def _sampled(pair: Handover, x: Floats, y: Floats) -> tuple[Floats, Floats]:
    u, v = (x - np.float32(pair.x)) / np.float32(pair.step), (y - np.float32(pair.y)) / np.float32(pair.step)
    return remapped(pair.ones, u, v), remapped(pair.others, u, v)


def _given(own: Floats, its: Floats, exponent: float, curve: Curve) -> Floats:
    """The share of the first of two pictures, by the distances to their ends."""
    a, b = np.maximum(own, 0), np.maximum(its, 0)
    return np.asarray(ramp(a / np.maximum(a + b, np.float32(1e-6)), exponent, curve), np.float32)
