"""How projectors share the light of a screen when their pictures bend: weights and lifts from the outlines of what each
can light.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.blend import ramp
from ushering_adze.core.light.handover import Handover, Outline, handovers, picture_outline, weight_at, within
from ushering_adze.core.plane.coverage import coverage_of
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show.canvas import Curve

Floats = NDArray[np.float32]
Bytes = NDArray[np.uint8]
GRID = 2
"""Canvas pixels between two points at which light is shared out; between them it is interpolated."""


class Share(NamedTuple):
    """What one picture gives to a screen, at points ``grid`` canvas pixels apart, the first at half of that from the
    face's corner.

    ``weight`` is its share of the light; ``lacking`` is the light that lacks in black, shape (h, w, 3), as a share of
    white, red first, of which it adds its share; None if it adds none.
    """

    face: Rect
    weight: Floats
    lacking: Floats | None
    grid: int = GRID
    parted: NDArray[np.int32] | None = None
    """How many points above and left of each have a weight other than 1, shape (h + 1, w + 1)."""
    picture: int = 0
    pairs: tuple[Handover, ...] = ()
    """Which of the screen's pictures it is, and how every two of them hand their light over."""
    exponent: float = 2.0
    curve: Curve = "power"

    @property
    def lift(self) -> Floats | None:
        """The light it adds in black, at the points."""
        return None if self.lacking is None else self.lacking * self.weight[..., None]

    def weight_at(self, x: Floats, y: Floats) -> Floats:
        """The share of the light at canvas places, exactly; see `ushering_adze.core.light.handover.weight_at`."""
        return weight_at(self.picture, self.pairs, x, y, self.exponent, self.curve)


class Shape(NamedTuple):
    """Where a picture is on a screen's face: what its region holds and its raster reaches, and all that its raster
    reaches.

    Both of ``rows`` × ``columns`` points, as bytes: so two shapes that are the same are known to be.  The mask is of 0
    and 1, the reach in 255 parts of what lies about a point.
    """

    rows: int
    columns: int
    mask: bytes
    reach: bytes
    outline: Outline = ()

    def points(self, reach: bool = False) -> Bytes:
        """The mask, or the reach, as an array of shape (rows, columns); not to be written to."""
        return np.frombuffer(self.reach if reach else self.mask, np.uint8).reshape(self.rows, self.columns)


def shape_of(face: Rect, rect: Rect, outline: NDArray[np.float64], grid: int = GRID) -> Shape:
    """Where a picture with this region and outline, both in canvas pixels, is on a face, at points ``grid`` pixels
    apart.

    Parameters
    ----------
    face : Rect
        What a surface shows of its canvas, in pixels.
    rect : Rect
        In whole pixels.
    outline : ndarray
        Corners of its edge in order, x and y in pixels.
    grid : int, optional
        Points by row and column.

    Returns
    -------
    Shape
    """
    mask = _mask(face, outline, grid)
    h, w = mask.shape
    reach = np.zeros((h, w), np.float32)
    if np.isfinite(outline).all():
        whole = Rect(0, 0, w, h)
        reach = coverage_of((outline - (face.x, face.y)) / grid, whole).within(whole)
    return Shape(
        h,
        w,
        (_box(face, rect, grid) & mask).tobytes(),
        np.rint(reach * 255).astype(np.uint8).tobytes(),
        picture_outline(rect, outline),
    )


def _mask(face: Rect, outline: NDArray[np.float64], grid: int) -> Bytes:
    """Which points of the grid lie within an outline in canvas pixels, shape (n, 2)."""
    h, w = -(-face.h // grid), -(-face.w // grid)
    if not np.isfinite(outline).all():
        return np.zeros((h, w), np.uint8)
    return within(outline, face.x + (np.arange(w) + 0.5) * grid, face.y + (np.arange(h) + 0.5) * grid)


def _box(face: Rect, rect: Rect, grid: int) -> Bytes:
    mask = np.zeros((-(-face.h // grid), -(-face.w // grid)), np.uint8)
    x0, y0 = rect.x - face.x, rect.y - face.y
    mask[
        max(0, -(-(2 * y0 - grid) // (2 * grid))) : max(0, -(-(2 * (y0 + rect.h) - grid) // (2 * grid))),
        max(0, -(-(2 * x0 - grid) // (2 * grid))) : max(0, -(-(2 * (x0 + rect.w) - grid) // (2 * grid))),
    ] = 1
    return mask


def _to_end(mask: Bytes, other: Bytes) -> Floats | None:
    """For each point its distance to where ``mask`` ends within ``other``; None where it does not."""
    ends = np.asarray(cv2.dilate(mask, np.ones((3, 3), np.uint8)), np.uint8) & (1 - mask) & other
    if not ends.any():
        return None
    distance = np.asarray(cv2.distanceTransform(1 - ends, cv2.DIST_L2, cv2.DIST_MASK_PRECISE), np.float32)
    return np.asarray(np.maximum(distance - np.float32(0.5), 0), np.float32)


def shared_weights(masks: Sequence[Bytes], exponent: float = 2.0, curve: Curve = "power") -> list[Floats]:
    """Weights of light for pictures of any outline.

    Parameters
    ----------
    masks : sequence of ndarray, shape (h, w), uint8
        1 where a picture reaches.
    exponent, curve
        Of the ramp from one picture to the other.

    Returns
    -------
    list of ndarray
        Of shape (h, w), float32.  Where any picture reaches the weights add to 1; past its own end a picture's weight
        goes on as it was there, so that nothing is lost between points.

    Notes
    -----
    Between two pictures the light is handed over by the distance to where each ends within the other, after R. Raskar
    et al., "Multi-projector displays using camera-based registration", IEEE Visualization 1999 (weights by distance to
    the edge, normalised; from memory); with more than two, the shares towards each neighbour are multiplied, and all
    divided by their sum.
    """
    shares = [m.astype(np.float32) for m in masks]
    for i in range(len(masks)):
        for j in range(i + 1, len(masks)):
            x, y, w, h = cv2.boundingRect(masks[i] & masks[j])
            if not w:
                continue
            here = np.s_[max(0, y - 2) : y + h + 2, max(0, x - 2) : x + w + 2]
            a_mask, b_mask = np.ascontiguousarray(masks[i][here]), np.ascontiguousarray(masks[j][here])
            both = (a_mask & b_mask).astype(bool)
            mine, theirs = _to_end(a_mask, b_mask), _to_end(b_mask, a_mask)
            if mine is None and theirs is None:
                continue
            far = np.float32(masks[i].shape[0] + masks[i].shape[1])
            a = mine[both] if mine is not None else np.full(int(both.sum()), far, np.float32)
            b = theirs[both] if theirs is not None else np.full(int(both.sum()), far, np.float32)
            u = ramp(a / np.maximum(a + b, 1e-6), exponent, curve).astype(np.float32)
            shares[i][here][both] *= u
            shares[j][here][both] *= 1 - u
    total = np.sum(shares, axis=0)
    reached = np.maximum.reduce(list(masks)) > 0
    count = np.sum(masks, axis=0)
    weights = []
    for share, mask in zip(shares, masks, strict=True):
        weight = np.where(
            total > 1e-9, share / np.maximum(total, 1e-9), np.where(reached, mask / np.maximum(count, 1), 0)
        ).astype(np.float32)
        weights.append(np.where(mask > 0, weight, cv2.dilate(weight, np.ones((7, 7), np.uint8))))
    return weights


def shares_of(
    face: Rect,
    rects: Sequence[Rect],
    outlines: Sequence[NDArray[np.float64]],
    leaks: Sequence[tuple[float, float, float] | None],
    softs: Sequence[float],
    exponent: float = 2.0,
    curve: Curve = "power",
    grid: int = GRID,
) -> list[Share]:
    """Share out the light of a screen.

    Parameters
    ----------
    face : Rect
        The canvas rectangle that the screen shows.
    rects : sequence of Rect
        The region of each picture, on the canvas.
    outlines : sequence of ndarray, shape (n, 2)
        What each projector can light at all, in canvas pixels.
    leaks : sequence of tuple or None
        Light of each projector in black as a share of its white, red, green, blue; None leaves it out of matching.
    softs : sequence of float
        Canvas pixels over which each lift fades at borders.
    grid : int
        Canvas pixels between two points.

    Returns
    -------
    list of Share

    Notes
    -----
    In black every point is brought to the light of the point that has the most; what lacks is added by the pictures
    that reach the point, by their weights.
    """
    shapes = [shape_of(face, rect, outline, grid) for rect, outline in zip(rects, outlines, strict=True)]
    return shares_between(face, shapes, leaks, softs, exponent, curve, grid)


def shares_between(
    face: Rect,
    shapes: Sequence[Shape],
    leaks: Sequence[tuple[float, float, float] | None],
    softs: Sequence[float],
    exponent: float = 2.0,
    curve: Curve = "power",
    grid: int = GRID,
    uneven: Sequence[Floats | None] = (),
) -> list[Share]:
    """`shares_of` for pictures whose shapes on the face are known.

    ``uneven`` is, for each picture, its own white at the grid's points as a multiple of what it is brought to, shape
    (h, w, 3); its black is as uneven.

    Parameters
    ----------
    face : Rect
        What a surface shows of its canvas, in pixels.
    shapes : Sequence[Shape]
        The shapes.
    leaks : Sequence[tuple[float, float, float] | None]
        Light of black of each, as a share of white.
    softs : Sequence[float]
        Widths over which each fades, in pixels.
    exponent : float, optional
        Of the blend curve.
    curve : Curve, optional
        Of the blend.
    grid : int, optional
        Points by row and column.
    uneven : Sequence[Floats | None], optional
        Light of each place, as a share of the brightest.

    Returns
    -------
    list[Share]
    """
    masks = [shape.points() for shape in shapes]
    weights = shared_weights(masks, exponent, curve)
    lifts: list[Floats | None] = [None] * len(masks)
    if any(leak is not None for leak in leaks):
        lit = np.zeros((*masks[0].shape, 3), np.float32)
        for k, (leak, shape) in enumerate(zip(leaks, shapes, strict=True)):
            own = shape.points(reach=True)[..., None] * (np.asarray(leak or (0, 0, 0), np.float32) / np.float32(255))
            more = uneven[k] if k < len(uneven) else None
            lit += own if more is None else own * more
        seen = np.maximum.reduce(masks) > 0
        most = lit[seen].max(0) if seen.any() else np.zeros(3, np.float32)
        lacking = np.where(seen[..., None], np.maximum(most - lit, 0), 0).astype(np.float32)
        soft = max(softs) / grid
        if soft > 0.25:
            lacking = np.asarray(cv2.GaussianBlur(lacking, (0, 0), soft / 2), np.float32)
        for k, leak in enumerate(leaks):
            if leak is not None:
                lifts[k] = lacking
    parted = [np.asarray(cv2.integral((np.abs(weight - 1) > 1e-6).astype(np.uint8)), np.int32) for weight in weights]
    pairs = handovers([shape.outline for shape in shapes])
    return [
        Share(face, weight, lift, grid, less, k, pairs, exponent, curve)
        for k, (weight, lift, less) in enumerate(zip(weights, lifts, parted, strict=True))
    ]


def contrast_cost(leak: tuple[float, float, float], count: int) -> tuple[float, float]:
    """White ÷ black of a screen before and after its blacks are matched where up to ``count`` pictures overlap.

    Before, a single picture's own contrast; after, the black everywhere is that of the overlap.  Luminance by BT.709's
    weights.

    Parameters
    ----------
    leak : tuple[float, float, float]
        Light of black, as a share of white.
    count : int
        How many projectors share the screen.

    Returns
    -------
    tuple[float, float]

    Examples
    --------
    >>> contrast_cost((0.001, 0.001, 0.001), 2)
    (1000.0, 500.0)
    """
    black = 0.2126 * leak[0] + 0.7152 * leak[1] + 0.0722 * leak[2]
    return (float("inf"), float("inf")) if black <= 0 else (round(1 / black, 6), round(1 / (black * max(1, count)), 6))
