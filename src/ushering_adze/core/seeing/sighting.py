"""What a camera sees: the screen in its picture, and from there each projector's bend."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.mapping.bend import mesh_landing
from ushering_adze.core.plane.homography import homography
from ushering_adze.core.plane.lens import Lens, View
from ushering_adze.core.plane.mesh import Floats, forward, projected, slope_operator, warp_of
from ushering_adze.core.show import Fault, MeshLanding, Region, ShowError

Photo = NDArray[np.float32]
CENTRE_PRIOR = 0.03
"""What a pixel by which the lens' centre is off the picture's counts against pixels by which the screen's edges are
missed.
"""
K2_PRIOR = 0.3
"""The same for a hundredth of the second term of distortion: both are hardly told by four edges."""


BURNT = 0.02
"""Share of a picture that may be at its limit: specks of glare."""


def burnt_share(photo: Photo) -> float:
    """How much of a photograph is as bright as it can be, 0 to 1; above `BURNT` its light cannot be told."""
    return float(np.mean(photo >= 0.999))


def find_corners(photo: Photo) -> Floats:
    """The corners of a screen that is lit all over, in a photograph: top left, top right, bottom right, bottom left.

    Parameters
    ----------
    photo : ndarray, shape (h, w), float32
        Linear light, 0 to 1.

    Raises
    ------
    ShowError
        If the picture is too dark, or no shape with four corners stands out.
    """
    top = float(np.percentile(photo, 99))
    if top < 0.05:
        raise ShowError(
            [
                Fault(
                    "camera",
                    f"the picture is too dark (its brightest parts are {100 * top:.1f} % of what it can take); "
                    "open the exposure, or check that every projector shows white",
                )
            ]
        )
    bright = photo[photo > 0.25 * top]
    lit = (photo > 0.4 * float(np.median(bright))).astype(np.uint8)
    outlines, _ = cv2.findContours(lit, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not outlines:
        raise ShowError([Fault("camera", "no screen stands out in the picture; mark its corners by hand")])
    hull = cv2.convexHull(max(outlines, key=cv2.contourArea))
    around = cv2.arcLength(hull, True)
    for k in np.linspace(0.01, 0.08, 15):
        found = cv2.approxPolyDP(hull, k * around, True)
        if len(found) == 4:
            return _in_order(found.reshape(4, 2).astype(float) + 0.5)
    raise ShowError(
        [Fault("camera", "the lit part of the picture has not four corners; mark the screen's corners by hand")]
    )


def _in_order(corners: Floats) -> Floats:
    """Four corners clockwise from the top left."""
    middle = corners.mean(0)
    angle = np.arctan2(corners[:, 1] - middle[1], corners[:, 0] - middle[0])
    turned = corners[np.argsort(angle)]
    first = int(np.argmin(turned.sum(1)))
    return np.asarray(np.roll(turned, -first, 0))


def _edge_points(
    photo: Photo, lens: Lens, matrix: Floats, size: tuple[int, int], count: int = 400
) -> tuple[Floats, NDArray[np.int64]]:
    """Places at which the light falls to half across the screen's edges, and which edge that is: 0 top, 1 right, 2
    bottom, 3 left.
    """
    w, h = size
    view = View(lens, matrix)
    t = np.linspace(0.02, 0.98, count)
    none = 0 * t
    edges = [(t * w, none, (0, 1)), (none + w, t * h, (-1, 0)), (t * w, none + h, (0, -1)), (none, t * h, (1, 0))]
    points, which = [], []
    reach = 12.0
    steps = np.linspace(-reach, reach, 97)
    for n, (x, y, inwards) in enumerate(edges):
        at = view.from_screen(np.stack([x, y], -1))
        ahead = view.from_screen(np.stack([x + inwards[0], y + inwards[1]], -1)) - at
        normal = ahead / np.linalg.norm(ahead, axis=1, keepdims=True)
        line = (at[:, None] + normal[:, None] * steps[None, :, None]).astype(np.float32) - np.float32(0.5)
        light = cv2.remap(
            photo, np.ascontiguousarray(line[..., 0]), np.ascontiguousarray(line[..., 1]), cv2.INTER_LINEAR
        )
        inside, outside = np.median(light[:, -30:], 1), np.median(light[:, :30], 1)
        level = (inside + outside) / 2
        above = light > level[:, None]
        first = above.argmax(1)
        good = (inside > 2 * outside) & (first > 0) & above.any(1)
        rows = np.flatnonzero(good)
        k = first[rows]
        a, b = light[rows, k - 1], light[rows, k]
        place = steps[k - 1] + (level[rows] - a) / np.maximum(b - a, 1e-9) * (steps[1] - steps[0])
        points.append(at[rows] + normal[rows] * place[:, None])
        which.append(np.full(len(rows), n))
    return np.concatenate(points), np.concatenate(which)


class Sighting(NamedTuple):
    """How a camera sees a screen, and how well that is known: ``off`` are standard errors over the screen, in its
    pixels; empty where only the corners are known, which are as exact as they were marked."""

    view: View
    off: Floats

    @property
    def mean(self) -> float | None:
        """Mean error over the screen."""
        return float(self.off.mean()) if len(self.off) else None

    @property
    def worst(self) -> float | None:
        """The largest error on the screen."""
        return float(self.off.max()) if len(self.off) else None


MARKED = 20
"""Places found along an edge that one mark set by hand counts for."""
GROUPS = 6
"""Parts that each edge is divided into, to see how much the whole hangs on each."""


def see_screen(photo: Photo, corners: Floats, size: tuple[int, int], marks: Floats | None = None) -> Sighting:
    """How the camera sees the screen: its lens and where it stands, from the screen's four straight edges.

    Parameters
    ----------
    photo : ndarray, shape (h, w), float32
        The screen lit all over; linear light.
    corners : ndarray, shape (4, 2)
        Of the screen in the photograph, as marked by the user or found; within about 10 px.
    size : tuple of int
        Of the screen in its own pixels.
    marks : ndarray, shape (n, 2), optional
        Places on the screen's edges, marked by the user; each counts for the edge it is nearest.

    Notes
    -----
    Homography, two terms of radial distortion and their centre are fitted by least squares so that the places where the
    light falls to half lie on the screen's edges (the plumb-line method: D. C. Brown, 1971; from memory).  With too few
    such places the corners alone are taken.  How well it is known is told by the jackknife over parts of the edges (J.
    W. Tukey, 1958; from memory).
    """
    h, w = photo.shape
    target = [(0.0, 0.0), (float(size[0]), 0.0), (float(size[0]), float(size[1])), (0.0, float(size[1]))]
    view = View(Lens(w, h), homography(corners, target))
    by_hand = np.zeros((0, 2)) if marks is None else np.asarray(marks, float).reshape(-1, 2)
    points, which = np.zeros((0, 2)), np.zeros(0, np.int64)
    for _ in range(3):
        points, which = _edge_points(photo, view.lens, np.asarray(view.matrix), size)
        if len(by_hand):
            x, y = view.to_screen(by_hand).T
            nearest = np.argmin(np.abs([y, x - size[0], y - size[1], x]), 0)
            points, which = (
                np.concatenate([points, np.repeat(by_hand, MARKED, 0)]),
                np.concatenate([which, np.repeat(nearest, MARKED)]),
            )
        if len(points) < 60 or len(set(which.tolist())) < 4:
            return Sighting(view, np.zeros(0))
        view = _solved(view, points, which, size)
    x, y = view.to_screen(points).T
    share = np.clip(np.where(which % 2 == 0, x / size[0], y / size[1]), 0, 1)
    part = np.minimum((share * GROUPS).astype(int), GROUPS - 1)
    grid = np.stack(np.meshgrid(np.linspace(0, size[0], 9), np.linspace(0, size[1], 7)), -1).reshape(-1, 2)
    seen = view.from_screen(grid)
    groups = [(k, n) for k in range(4) for n in range(GROUPS)]
    without = [
        _solved(view, points[keep], which[keep], size).to_screen(seen)
        for keep in (~((which == k) & (part == n)) for k, n in groups)
        if len(set(which[keep].tolist())) == 4
    ]
    spread = np.array(without) - np.mean(without, 0)
    count = len(without)
    return Sighting(view, np.sqrt((spread**2).sum((0, 2)) * (count - 1) / count))


def _solved(view: View, points: Floats, which: NDArray[np.int64], size: tuple[int, int]) -> View:
    """A view fitted to places on the screen's edges, from one that is near."""
    from scipy.optimize import least_squares  # loaded when first needed, so that the program starts sooner

    lens, matrix = view.lens, np.asarray(view.matrix)
    scale = np.array(
        [matrix[0, 0], matrix[0, 1], matrix[0, 2], matrix[1, 0], matrix[1, 1], matrix[1, 2], matrix[2, 0], matrix[2, 1]]
    )
    unit = np.where(np.abs(scale) > 1e-12, np.abs(scale), 1e-6)

    def view_of(v: Floats) -> View:
        made = Lens(lens.width, lens.height, float(v[8]) / 100, float(v[9]) / 100, (float(v[10]), float(v[11])))
        return View(made, np.append(v[:8] * unit, 1.0).reshape(3, 3))

    def off(v: Floats) -> Floats:
        s = view_of(v).to_screen(points)
        edges = np.select(
            [which == 0, which == 1, which == 2], [s[:, 1], s[:, 0] - size[0], s[:, 1] - size[1]], s[:, 0]
        )
        return np.concatenate(
            [edges, v[10:] * len(edges) ** 0.5 * CENTRE_PRIOR, v[9:10] * len(edges) ** 0.5 * K2_PRIOR]
        )

    start = np.append(scale / unit, [lens.k1 * 100, lens.k2 * 100, *lens.centre])
    return view_of(least_squares(off, start, loss="soft_l1", f_scale=1.0, max_nfev=60).x)


class Fitted(NamedTuple):
    """A bend solved from what a camera saw: the landing, and how far each sample is off it, in pixels of the raster."""

    landing: MeshLanding
    places: Floats
    """Of the samples, in screen pixels, shape (n, 2)."""
    errors: Floats

    @property
    def mean(self) -> float:
        """Mean error in pixels."""
        return float(self.errors.mean())

    @property
    def worst(self) -> float:
        """The error that 99.9 % of samples keep within, in pixels: single stray samples are the camera's."""
        return float(np.quantile(self.errors, 0.999))


def _basis(at: Floats, count: int) -> Floats:
    """Values of the cardinal splines of ``count`` even knots at knot coordinates, shape (n, count); outside, their
    straight continuation.
    """
    d = slope_operator(count)
    inside = np.clip(at, 0, count - 1)
    i = np.minimum(inside.astype(int), count - 2)
    t = inside - i
    eye = np.eye(count)
    t2, t3 = (t * t)[:, None], (t**3)[:, None]
    t1 = t[:, None]
    value = (
        (2 * t3 - 3 * t2 + 1) * eye[i]
        + (3 * t2 - 2 * t3) * eye[i + 1]
        + (t3 - 2 * t2 + t1) * d[i]
        + (t3 - t2) * d[i + 1]
    )
    over = (at - inside)[:, None]
    return np.asarray(value + over * np.where(over > 0, d[-1], d[0]))


def fit_landing(
    region: Region, face: tuple[int, int], screen: Floats, raster: Floats, columns: int = 9, rows: int = 7
) -> Fitted:
    """The landing by which a region's picture falls where it belongs on the screen.

    Parameters
    ----------
    region : Region
    face : tuple of int
        Where the screen's picture begins on the canvas.
    screen, raster : ndarray, shape (n, 2)
        Samples: places on the screen in its pixels, and the places of the raster that light them.
    columns, rows : int
        Of the mesh.

    Raises
    ------
    ShowError
        If there are too few samples.

    Notes
    -----
    A homography by least squares (R. Hartley and A. Zisserman, *Multiple View Geometry*, 2nd ed., section 4.1, with
    strays left out by RANSAC), then the mesh's points by regularised least squares of what it leaves.
    """
    if len(screen) < 40:
        raise ShowError(
            [
                Fault(
                    region.name,
                    f"the camera sees only {len(screen)} places that this projector lights; check that it is on, that "
                    "its picture is on the screen, and that the camera sees it",
                )
            ]
        )
    _, good = cv2.findHomography(screen, raster, cv2.RANSAC, 8.0, maxIters=500, confidence=0.999)
    keep = good.ravel().astype(bool)
    screen, raster = screen[keep], raster[keep]
    matrix: Floats = np.array(cv2.findHomography(screen, raster, 0)[0], dtype=np.float64)
    left = raster - projected(matrix, screen)
    u = (screen[:, 0] + face[0] - region.x) / region.w * (columns - 1)
    v = (screen[:, 1] + face[1] - region.y) / region.h * (rows - 1)
    a, b = _basis(u, columns), _basis(v, rows)
    system = (b[:, :, None] * a[:, None, :]).reshape(len(a), rows * columns)
    bend_u = (
        np.kron(np.eye(rows), np.diff(np.eye(columns), 2, axis=0)) if columns > 2 else np.zeros((0, rows * columns))
    )
    bend_v = np.kron(np.diff(np.eye(rows), 2, axis=0), np.eye(columns)) if rows > 2 else np.zeros((0, rows * columns))
    stiff = (bend_u.T @ bend_u + bend_v.T @ bend_v) * (2e-3 * len(a) / (rows * columns))
    normal = system.T @ system + stiff + np.eye(rows * columns) * 1e-9 * len(a)
    for _ in range(2):
        nodes = np.linalg.solve(normal, system.T @ left)
        off = np.hypot(*(left - system @ nodes).T)
        near = off < max(0.5, 5 * float(np.median(off)))
        system, left, screen, raster = system[near], left[near], screen[near], raster[near]
        normal = system.T @ system + stiff + np.eye(rows * columns) * 1e-9 * len(system)
    nodes = np.linalg.solve(normal, system.T @ left)
    gu, gv = np.meshgrid(np.linspace(0, region.w, columns), np.linspace(0, region.h, rows))
    at = np.stack([gu + region.x - face[0], gv + region.y - face[1]], -1).reshape(-1, 2)
    landing = mesh_landing(projected(matrix, at) + nodes, columns, rows)
    warp = warp_of(np.array(landing.points).reshape(rows, columns, 2), region.w, region.h)
    errors = np.hypot(*(forward(warp, screen + np.array(face) - np.array([region.x, region.y])) - raster).T)
    return Fitted(landing, screen, np.asarray(errors))


def error_map(fits: Sequence[Fitted], size: tuple[int, int], step: int = 40) -> Photo:
    """The residual error over a screen, in pixels, shape (h ÷ step, w ÷ step); NaN where there is no sample.

    Parameters
    ----------
    fits : Sequence[Fitted]
        What it fits to.
    size : tuple[int, int]
        Width and height in pixels.
    step : int, optional
        Pixels between samples.

    Returns
    -------
    Photo
    """
    shape = -(-size[1] // step), -(-size[0] // step)
    total, count = np.zeros(shape), np.zeros(shape)
    for fit in fits:
        i = np.clip((fit.places[:, 0] // step).astype(int), 0, shape[1] - 1)
        j = np.clip((fit.places[:, 1] // step).astype(int), 0, shape[0] - 1)
        np.add.at(total, (j, i), fit.errors)
        np.add.at(count, (j, i), 1)
    return np.where(count > 0, total / np.maximum(count, 1), np.nan).astype(np.float32)
