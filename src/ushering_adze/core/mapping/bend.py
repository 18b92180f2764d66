"""Landings that bend: rectangle, four corners, mesh, and the way from one to the next without losing what was done."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from functools import lru_cache
from math import cos, degrees, radians, sin

import numpy as np

from ushering_adze.core.mapping.orient import landing_corners
from ushering_adze.core.plane.inverse import backward
from ushering_adze.core.plane.mesh import Floats, Spans, Warp, forward, warp_of
from ushering_adze.core.show import Fault, MeshLanding, Output, QuadLanding, RectLanding, Region, ShowError
from ushering_adze.core.show.canvas import Landing
from ushering_adze.core.show.show import bend_shape_fault

REACH = 4.0
"""How many rasters beyond its raster a point may lie."""


def corners_of(landing: Landing) -> tuple[tuple[float, float], ...]:
    """Raster places of a region's top left, top right, bottom right, bottom left corner."""
    if isinstance(landing, RectLanding):
        return landing_corners(landing)
    if isinstance(landing, QuadLanding):
        return landing.corners
    p, c = landing.points, landing.columns
    return p[0], p[c - 1], p[-1], p[-c]


@lru_cache(maxsize=256)
def warp_of_landing(landing: Landing, width: int, height: int) -> Warp:
    """How a region of ``width`` × ``height`` pixels bends.

    Parameters
    ----------
    landing : Landing
        Where and how it lies on its raster.
    width : int
        In pixels.
    height : int
        In pixels.

    Returns
    -------
    Warp

    Raises
    ------
    ValueError
        If three of its corners lie on one line.
    """
    if isinstance(landing, MeshLanding):
        return warp_of(
            np.array(landing.points, float).reshape(landing.rows, landing.columns, 2), width, height, landing.spans
        )
    a, b, c, d = corners_of(landing)
    return warp_of(np.array([[a, b], [d, c]], float), width, height)


def warp_of_region(region: Region) -> Warp:
    """How a region bends on its way to its raster, whatever its landing."""
    return warp_of_landing(region.landing, region.w, region.h)


def as_quad(region: Region) -> Region:
    """The region landing by its four corners; points between them are let go."""
    a, b, c, d = corners_of(region.landing)
    how = region.landing.resampling if not isinstance(region.landing, RectLanding) else "linear"
    return region.model_copy(update={"landing": QuadLanding(corners=(a, b, c, d), resampling=how)})


def as_mesh(region: Region, columns: int, rows: int, spans: Spans | None = None) -> Region:
    """The region landing by a mesh of so many points, taken from the bend it has; nothing of a corner pin is lost.

    Parameters
    ----------
    region : Region
        Which region.
    columns : int
        How many, from left to right.
    rows : int
        How many, from top to bottom.
    spans : Spans | None, optional
        Straight from point to point, or smooth.

    Returns
    -------
    Region
    """
    old = region.landing
    warp = warp_of_region(region)
    u, v = np.meshgrid(np.linspace(0, region.w, columns), np.linspace(0, region.h, rows))
    points = forward(warp, np.stack([u, v], -1)).reshape(-1, 2)
    kept = old.spans if isinstance(old, MeshLanding) else "smooth"
    how = "linear" if isinstance(old, RectLanding) else old.resampling
    return region.model_copy(update={"landing": mesh_landing(points, columns, rows, spans or kept, how)})


def mesh_landing(
    points: Floats, columns: int, rows: int, spans: Spans = "smooth", resampling: str = "linear"
) -> MeshLanding:
    """A mesh landing from an array of points, shape (rows · columns, 2), kept to a thousandth of a pixel.

    Parameters
    ----------
    points : Floats
        Places, x and y in the last axis.
    columns : int
        How many, from left to right.
    rows : int
        How many, from top to bottom.
    spans : Spans, optional
        Straight from point to point, or smooth.
    resampling : str, optional
        By which method.

    Returns
    -------
    MeshLanding
    """
    rounded = np.round(np.asarray(points, float).reshape(-1, 2), 3).tolist()
    return MeshLanding.model_validate(
        {
            "columns": columns,
            "rows": rows,
            "points": tuple(map(tuple, rounded)),
            "spans": spans,
            "resampling": resampling,
        }
    )


def points_of(landing: Landing) -> Floats:
    """The points that can be dragged: four corners clockwise from the top left, or the mesh row by row;
    shape (n, 2).
    """
    return np.array(landing.points if isinstance(landing, MeshLanding) else corners_of(landing), float)


def with_points(region: Region, points: Floats) -> Region:
    """The region with its points elsewhere; a rectangle becomes four corners.

    Parameters
    ----------
    region : Region
        Which region.
    points : Floats
        Places, x and y in the last axis.

    Returns
    -------
    Region
    """
    if isinstance(region.landing, MeshLanding):
        m = region.landing
        return region.model_copy(update={"landing": mesh_landing(points, m.columns, m.rows, m.spans, m.resampling)})
    how = region.landing.resampling if isinstance(region.landing, QuadLanding) else "linear"
    a, b, c, d = np.round(points, 3).tolist()
    return region.model_copy(
        update={"landing": QuadLanding(corners=(tuple(a), tuple(b), tuple(c), tuple(d)), resampling=how)}
    )


def moved_points(region: Region, chosen: Collection[int], dx: float, dy: float, falloff: float = 0.0) -> Region:
    """The region with points moved by raster pixels, and those around them less and less.

    Parameters
    ----------
    chosen : collection of int
        Of `points_of`.
    falloff : float
        Raster pixels within which other points follow, by a raised cosine of their distance to the nearest chosen one;
        0 for none.
    """
    points = points_of(region.landing)
    share = np.zeros(len(points))
    picked = sorted(chosen)
    share[picked] = 1
    if falloff > 0 and picked:
        distance = np.hypot(*np.moveaxis(points[:, None] - points[None, picked], -1, 0)).min(1)
        share = np.maximum(
            share, np.where(distance < falloff, 0.5 + 0.5 * np.cos(np.pi * np.minimum(distance / falloff, 1)), 0)
        )
    return with_points(region, points + share[:, None] * (dx, dy))


def in_line(landing: Landing, chosen: Collection[int], rows: bool) -> set[int]:
    """The points in the same rows, or columns, as some points of a landing.

    Parameters
    ----------
    landing : Landing
        Where and how it lies on its raster.
    chosen : Collection[int]
        Which ones.
    rows : bool
        Whether rows, not columns, are brought in line.

    Returns
    -------
    set[int]
    """
    if not isinstance(landing, MeshLanding):  # corners go round: the upper two, the right two …
        pairs = ({0, 1}, {2, 3}) if rows else ({0, 3}, {1, 2})
        return {k for pair in pairs if pair & set(chosen) for k in pair}
    c = landing.columns
    wanted = {k // c if rows else k % c for k in chosen}
    return {k for k in range(c * landing.rows) if (k // c if rows else k % c) in wanted}


def arc_degrees(width: float, radius: float) -> float:
    """The angle that a curved screen spans about its axis, from its width along the curve and its radius, in one unit;
    below 0 if it bulges.

    Parameters
    ----------
    width : float
        In pixels.
    radius : float
        In pixels.

    Returns
    -------
    float

    Raises
    ------
    ValueError
        If it goes past what is seen from one side.
    """
    if abs(radius) < 1e-6 or abs(width / radius) > radians(170):
        raise ValueError(
            f"a screen {width:g} wide at a radius of {radius:g} goes past what is seen from one side; give a larger "
            "radius"
        )
    return degrees(width / radius)


def keystoned(width: int, height: int, across: float, down: float, roll: float, distance: float = 1.8) -> QuadLanding:
    """Four corners for a projector that stands askew.

    Parameters
    ----------
    width, height : int
        The raster that is to be filled, in pixels.
    across, down, roll : float
        By how many degrees the projector is turned to the right, tilted up, and rolled clockwise; the corners make up
        for it.
    distance : float
        Throw ratio: distance ÷ picture width, from which the strength of the keystone follows.

    Returns
    -------
    QuadLanding
        Scaled and shifted so that all of it lies on the raster.

    Raises
    ------
    ValueError
        If the screen would be seen from behind or from its edge.

    Notes
    -----
    A pinhole at the origin looks along z at a screen that is turned by the angles the other way (R. Hartley and A.
    Zisserman, *Multiple View Geometry*, 2nd ed., chapter 6: the pinhole camera).
    """
    a, b, c = radians(across), radians(down), radians(roll)
    if max(abs(across), abs(down)) > 60:
        raise ValueError(f"a keystone of {max(abs(across), abs(down)):g}° is past reason; angles go to 60°")
    turn = np.array([[cos(a), 0, sin(a)], [0, 1, 0], [-sin(a), 0, cos(a)]])
    tilt = np.array([[1, 0, 0], [0, cos(b), -sin(b)], [0, sin(b), cos(b)]])
    rolled = np.array([[cos(c), -sin(c), 0], [sin(c), cos(c), 0], [0, 0, 1]])
    half = np.array(
        [
            [-0.5, -0.5 * height / width],
            [0.5, -0.5 * height / width],
            [0.5, 0.5 * height / width],
            [-0.5, 0.5 * height / width],
        ]
    )
    screen = np.column_stack([half, np.zeros(4)]) @ (rolled @ tilt @ turn).T + (0, 0, distance)
    if screen[:, 2].min() < 0.05:
        raise ValueError("from so near and so askew the screen is seen from its edge; make the angles smaller")
    seen = screen[:, :2] / screen[:, 2:]
    low, high = seen.min(0), seen.max(0)
    k = min(width / (high[0] - low[0]), height / (high[1] - low[1]))
    placed = (seen - (low + high) / 2) * k + (width / 2, height / 2)
    p, q, r, s = np.round(placed, 3).tolist()
    return QuadLanding(corners=(tuple(p), tuple(q), tuple(r), tuple(s)))


def curved(region: Region, columns: int, rows: int, span: float, tall: float = 0.0) -> Region:
    """A mesh for a cylindrical screen seen from its axis' side by one projector.

    Parameters
    ----------
    span : float
        Degrees the screen spans about its axis, −170 to 170; above 0 its middle is farthest (hollow towards the
        projector).
    tall : float
        How far upper and lower edges bow apart in the middle, as a share of the height, for a projector above or below
        the screen's middle line: above 0 both bow downwards (an arc).

    Notes
    -----
    Equal lengths along the screen are taken: a point at the share s of the width lies at the angle (s − ½)·span; it is
    seen in perspective from a distance of the screen's own width.
    """
    if abs(span) > 170:
        raise ValueError(f"a screen of {abs(span):g}° cannot be seen from one side; up to 170°")
    warp = warp_of_region(as_quad(region))
    s, t = np.meshgrid(np.linspace(0, 1, columns), np.linspace(0, 1, rows))
    angle = radians(span)
    if abs(angle) > 1e-6:
        radius = 1 / angle
        x, depth = radius * np.sin((s - 0.5) * angle), radius * (np.cos((s - 0.5) * angle) - cos(angle / 2))
        seen = x / (1 + depth)
        shrink = 1 / (1 + depth)
        edge = abs(seen[0, 0])
        u, v = 0.5 + seen / (2 * edge), 0.5 + (t - 0.5) * shrink
    else:
        u, v = s, t
    bow = tall * (1 - (2 * s - 1) ** 2)
    points = forward(warp, np.stack([u * region.w, (v + bow) * region.h], -1))
    return region.model_copy(update={"landing": mesh_landing(points, columns, rows)})


def mirrored(region: Region, raster: tuple[int, int], across: bool = True) -> Region:
    """The region with its bend mirrored left–right or top–bottom on a raster; the picture itself is not mirrored.

    Parameters
    ----------
    region : Region
        Which region.
    raster : tuple[int, int]
        An output’s picture, shape (h, w, 4).
    across : bool, optional
        From the left, in pixels.

    Returns
    -------
    Region
    """
    landing = region.landing
    columns, rows = (landing.columns, landing.rows) if isinstance(landing, MeshLanding) else (2, 2)
    points = points_of(landing)
    if not isinstance(landing, MeshLanding):
        points = points[[0, 1, 3, 2]]
    grid = points.reshape(rows, columns, 2)
    grid = grid[:, ::-1].copy() if across else grid[::-1].copy()
    axis = 0 if across else 1
    grid[..., axis] = raster[axis] - grid[..., axis]
    points = grid.reshape(-1, 2)
    return with_points(region, points if isinstance(landing, MeshLanding) else points[[0, 1, 3, 2]])


def bend_fault(region: Region, output: Output) -> Fault | None:
    """Why a bend cannot be: crossed, folded, three corners on a line, or a point past all reason.

    Parameters
    ----------
    region : Region
        Which region.
    output : Output
        Which output.

    Returns
    -------
    Fault | None
    """
    landing = region.landing
    if isinstance(landing, RectLanding):
        return None
    where = f"{region.name} on {output.name}"
    points = points_of(landing)
    width, height = output.timing.width, output.timing.height
    far = np.flatnonzero((np.abs(points - (width / 2, height / 2)) > (REACH * width, REACH * height)).any(1))
    if len(far):
        x, y = points[far[0]]
        return Fault(
            where,
            f"point {far[0] + 1} at {x:.0f}, {y:.0f} lies more than {REACH:g} rasters away; bring it back towards the "
            "raster",
        )
    fault = bend_shape_fault(region)
    return None if fault is None else Fault(where, fault)


def checked_bend(region: Region, output: Output) -> Region:
    """The region, if its bend can be.

    Parameters
    ----------
    region : Region
        Which region.
    output : Output
        Which output.

    Returns
    -------
    Region

    Raises
    ------
    ShowError
        With what is wrong and how it is cured.
    """
    fault = bend_fault(region, output)
    if fault is not None:
        raise ShowError([fault])
    return region


def reach_of(region: Region, raster: tuple[int, int], steps: int = 24) -> Floats:
    """The outline of what a raster can light, in canvas pixels, clockwise; shape (4 · steps, 2).

    Parameters
    ----------
    region : Region
        Which region.
    raster : tuple[int, int]
        An output’s picture, shape (h, w, 4).
    steps : int, optional
        How many, or which.

    Returns
    -------
    Floats
    """
    width, height = raster
    t = np.linspace(0, 1, steps, endpoint=False)
    zero, one = np.zeros(steps), np.ones(steps)
    around = np.concatenate(
        [np.stack([t, zero], 1), np.stack([one, t], 1), np.stack([1 - t, one], 1), np.stack([zero, 1 - t], 1)]
    )
    if isinstance(region.landing, MeshLanding) and region.landing.spans == "straight":
        region = as_mesh(region, 3, 3, "smooth")
    return np.asarray(
        backward(warp_of_region(region), around * (width, height)) + np.array([region.x, region.y], float)
    )


def raster_points(region: Region, points: Floats | Sequence[tuple[float, float]]) -> Floats:
    """Raster places at which canvas points land, shape (n, 2).

    Parameters
    ----------
    region : Region
        Which region.
    points : Floats | Sequence[tuple[float, float]]
        Places, x and y in the last axis.

    Returns
    -------
    Floats
    """
    return forward(warp_of_region(region), np.asarray(points, float) - (region.x, region.y))
