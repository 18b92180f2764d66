"""Bends on their way to a raster: their inverse maps, up to where they cover it and not beyond."""

from __future__ import annotations

from math import floor, log2
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.mapping.bend import bend_fault, corners_of, points_of, warp_of_region
from ushering_adze.core.mapping.outline import Sides
from ushering_adze.core.picture.resampling import FAR_APART
from ushering_adze.core.picture.steps import shrunk
from ushering_adze.core.plane.coverage import Coverage, coverage_of, outline_of
from ushering_adze.core.plane.homography import homography
from ushering_adze.core.plane.inverse import Lattice, Maps, inverse_warp, lattice_of, polished
from ushering_adze.core.plane.mesh import slopes
from ushering_adze.core.plane.nudged import MOST, distance_moved, lattice_moved
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import MeshLanding, Output, RectLanding, Region
from ushering_adze.core.show.canvas import Landing, Resampling

Floats = NDArray[np.float32]


def inverse_maps(corners: tuple[tuple[float, float], ...], take: Rect, put: Rect) -> tuple[Floats, Floats]:
    """For each raster pixel of ``put``, the place in the taken picture that a quad landing shows there.

    Corners are edges, not pixel centres: a quad equal to the rectangle ``(0, 0)–(w, h)`` maps pixel centres to pixel
    centres.

    Parameters
    ----------
    corners : tuple[tuple[float, float], ...]
        Four, from the top left, clockwise.
    take : Rect
        What is taken, in pixels of where it comes from.
    put : Rect
        Where it is put, in pixels of where it goes.

    Returns
    -------
    tuple of ndarray
        ``map_x, map_y``, float32, shape (put.h, put.w); outside the quad they point outside the picture.
    """
    square = [(0.0, 0.0), (take.w, 0.0), (take.w, take.h), (0.0, take.h)]
    h = homography(corners, square)
    x = np.arange(put.x, put.right) + 0.5
    y = np.arange(put.y, put.foot)[:, None] + 0.5
    d = h[2, 0] * x + h[2, 1] * y + h[2, 2]
    safe = np.where(np.abs(d) < 1e-9, 1e-9, d)
    u = (h[0, 0] * x + h[0, 1] * y + h[0, 2]) / safe - 0.5
    v = (h[1, 0] * x + h[1, 1] * y + h[1, 2]) / safe - 0.5
    sign = np.sign(h[2, 0] * corners[0][0] + h[2, 1] * corners[0][1] + h[2, 2])
    lost = d * sign <= 0
    u[lost] = v[lost] = -1e4
    limit = 2e5
    return np.clip(u, -limit, limit).astype(np.float32), np.clip(v, -limit, limit).astype(np.float32)


def _bounds(points: NDArray[np.float64], raster: Rect) -> Rect:
    """The part of a raster that a landing can touch; curves between points go out by a twentieth of the
    whole at most.
    """
    low, high = points.min(0), points.max(0)
    more = 1.0 if len(points) == 4 else 1.0 + 0.05 * float((high - low).max())
    whole = (
        1 if len(points) == 4 else 16
    )  # by whole blocks, so that a point that moves a little seldom touches other pixels
    x0, y0 = (int(v) * whole for v in np.floor((low - more) / whole))
    x1, y1 = (int(v) * whole for v in np.ceil((high + more) / whole))
    return Rect(x0, y0, x1 - x0, y1 - y0).meet(raster)


def maps_of(region: Region, put: Rect) -> Maps:
    """For each pixel of a rectangle of the raster, the place of the region it shows, in pixel centres; float32, shape
    (h, w).

    Parameters
    ----------
    region : Region
        Which region.
    put : Rect
        Where it is put, in pixels of where it goes.

    Returns
    -------
    Maps
    """
    if isinstance(region.landing, MeshLanding):
        return inverse_warp(warp_of_region(region), put.x, put.y, put.w, put.h)
    return inverse_maps(corners_of(region.landing), Rect(0, 0, region.w, region.h), put)


def shrink_of(region: Region) -> tuple[float, float]:
    """By how much a region becomes smaller on its way, across and down, in the middle of its places; 1 at least."""
    landing = region.landing
    if isinstance(landing, RectLanding):
        w, h = landing.native
        return max(1.0, region.w / w), max(1.0, region.h / h)
    warp = warp_of_region(region)
    u, v = np.meshgrid(np.linspace(0.1, 0.9, 5) * region.w, np.linspace(0.1, 0.9, 5) * region.h)
    slope = slopes(warp, np.stack([u.ravel(), v.ravel()], -1))
    across, down = (float(np.median(np.hypot(slope[:, 0, k], slope[:, 1, k]))) for k in (0, 1))
    return max(1.0, 1 / max(across, 1e-6)), max(1.0, 1 / max(down, 1e-6))


class Taken(NamedTuple):
    """How the part of a canvas that a bend reads is made smaller before: ``shrink``, ``halved``, ``rest`` as of a step;
    its size then.
    """

    shrink: tuple[float, float]
    halved: tuple[int, int, int, int]
    rest: tuple[float, float]
    width: int
    height: int


def taken_by(region: Region, take: Rect, how: Resampling) -> Taken:
    """How the part ``take`` of a region's canvas is made smaller before it is bent, so that no pixel of it is skipped.

    By area it is averaged to about the size at which it lands; otherwise halved on each side while it lands at half or
    less there, by blocks counted from the region's corner, as whole pictures are.  *Nearest* takes single pixels and is
    left alone.

    Parameters
    ----------
    region : Region
        Which region.
    take : Rect
        What is taken, in pixels of where it comes from.
    how : Resampling
        How it is treated.

    Returns
    -------
    Taken
    """
    sx, sy = (1.0, 1.0) if how == "nearest" else shrink_of(region)
    if how == "area":
        return Taken((sx, sy), (0, 0, 0, 0), (1.0, 1.0), *shrunk(take, (sx, sy)))
    kx, ky = (min(15, floor(log2(s) + 1e-9)) for s in (sx, sy))
    left, top = (take.x - region.x) % (1 << kx), (take.y - region.y) % (1 << ky)
    rest = sx / (1 << kx), sy / (1 << ky)
    rest = rest if max(rest) > FAR_APART else (1.0, 1.0)
    return Taken(
        (1.0, 1.0), (kx, ky, left, top), rest, -(-(left + take.w) // (1 << kx)), -(-(top + take.h) // (1 << ky))
    )


def taken_maps(maps: Maps, region: Region, take: Rect, taken: Taken) -> Maps:
    """Maps into the part of the canvas that is read, at the size it is read at.

    Parameters
    ----------
    maps : Maps
        Columns and rows to take from, in pixel centres.
    region : Region
        Which region.
    take : Rect
        What is taken, in pixels of where it comes from.
    taken : Taken
        What is taken.

    Returns
    -------
    Maps
    """
    u, v = maps
    kx, ky, left, top = taken.halved
    if take == Rect(region.x, region.y, region.w, region.h) and (taken.width, taken.height) == (take.w, take.h):
        return maps
    found = []
    for m, start, size, k, before, end, area in (
        (u, take.x - region.x, take.w, kx, left, taken.width, taken.shrink[0]),
        (v, take.y - region.y, take.h, ky, top, taken.height, taken.shrink[1]),
    ):
        scale = end / size if area > 1 else 1.0 / (1 << k)
        found.append((m + np.float32(0.5 - start + before)) * np.float32(scale) - np.float32(0.5))
    return found[0], found[1]


class Bent(NamedTuple):
    """The inverse maps of a bend over the rectangle ``put`` of a raster, in pixels of the region, and what they come
    from.

    ``coverage`` is how much of each pixel lies within its ``sides``.  ``moved`` is by how much its mesh has moved, in
    raster pixels, since its lattice was computed whole; ``rough`` ones are to be computed as exactly as can be when
    there is time.  ``lit`` is the landing that its weights are for.
    """

    put: Rect
    maps: Maps
    coverage: Coverage
    sides: Sides
    lattice: Lattice | None = None
    moved: float = 0.0
    rough: bool = False
    lit: Landing | None = None


def bent_of(
    old: Bent | None, before: Region | None, region: Region, output: Output, sides: Sides, quick: bool
) -> Bent | None:
    """The maps of a bend; those it had where it is as it was, and changed a little where its mesh has moved a little
    and it must be quick.

    Parameters
    ----------
    old, before
        The bend compiled before, and the region it was compiled from.
    sides
        Of `sides_on_raster`.
    quick : bool
    """
    landing = region.landing
    if bend_fault(region, output) is not None:
        return None
    put = _bounds(points_of(landing), Rect(0, 0, output.timing.width, output.timing.height))
    if put.empty:
        return None
    smooth = isinstance(landing, MeshLanding) and landing.spans == "smooth"
    lattice, moved = None, 0.0
    if old is not None and before is not None and old.put == put and (before.w, before.h) == (region.w, region.h):
        if before.landing == landing and old.sides == sides and (quick or not old.rough):
            return old
        then, now = warp_of_region(before), warp_of_region(region)
        moved = old.moved + distance_moved(then, now)
        if quick and smooth and old.lattice is not None and moved < MOST and now.nodes.shape[:2] != (2, 2):
            lattice = lattice_moved(then, now, old.lattice)
    same = old is not None and old.put == put and old.sides == sides
    coverage = old.coverage if old is not None and same else coverage_of(outline_of(sides), put)
    if not smooth:
        return Bent(put, maps_of(region, put), coverage, sides)
    if lattice is None:
        lattice, moved = lattice_of(warp_of_region(region), *put), 0.0
    maps = lattice.spread(*put)
    maps = maps if quick else polished(warp_of_region(region), maps, put.x, put.y)
    return Bent(put, maps, coverage, sides, lattice, moved, quick)
