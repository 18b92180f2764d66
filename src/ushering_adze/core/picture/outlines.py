"""What of a box is seen, as a mask: rounded corners, ellipses, polygons, with edges that are sharp or soft."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.kinds.shape import ShapeNow, polygon_points

Mask = NDArray[np.float32]
_FINE = 4
"""Bits of a pixel to which corners of polygons are drawn."""


def outline(shape: ShapeNow, width: int, height: int, grow: float = 0.0) -> Mask | None:
    """The share of each pixel of a box that lies within a shape.

    Parameters
    ----------
    shape : ShapeNow
        Its mask is not looked at.
    width, height : int
        Of the box, in pixels.
    grow : float
        Pixels by which the shape is larger than its box on each side, or smaller if negative; the array grows alike.

    Returns
    -------
    ndarray, shape (height + 2·grow, width + 2·grow), float32, or None
        0 to 1; None if all of the box is seen.

    References
    ----------
    Distances to a rounded box: I. Quílez, "2D distance functions" (from memory); to an ellipse, the first-order one of
    its equation over the length of its gradient (G. Taubin, "Estimation of planar curves …", PAMI 1991, from memory).
    """
    plain = shape.form == "box" and shape.radius <= 0 and shape.soft <= 0
    if plain:
        return None
    border = max(0, math.ceil(grow))
    size_w, size_h = width + 2 * border, height + 2 * border
    if shape.form == "polygon":
        return _polygon(shape, width, height, grow, border)
    y, x = np.mgrid[0:size_h, 0:size_w].astype(np.float32)
    x += np.float32(0.5 - size_w / 2)
    y += np.float32(0.5 - size_h / 2)
    a, b = max(0.5, width / 2 + grow), max(0.5, height / 2 + grow)
    if shape.form == "ellipse":
        k0 = np.sqrt((x / a) ** 2 + (y / b) ** 2)
        k1 = np.sqrt((x / a**2) ** 2 + (y / b**2) ** 2)
        d = k0 * (k0 - 1) / np.maximum(k1, 1e-6)
    else:
        radius = min(max(0.0, shape.radius + (grow if shape.radius > 0 else 0.0)), a, b)
        qx, qy = np.abs(x) - (a - radius), np.abs(y) - (b - radius)
        d = np.hypot(np.maximum(qx, 0), np.maximum(qy, 0)) + np.minimum(np.maximum(qx, qy), 0) - radius
    return _ramp(d, shape.soft)


def _ramp(distance: NDArray[np.floating], soft: float) -> Mask:
    """From outside, where distances are positive, to ``soft`` pixels within; half a pixel either way at least."""
    return np.asarray(np.clip((0.5 - distance) / max(1.0, soft), 0, 1), np.float32)


def corners_of(shape: ShapeNow, width: float, height: float) -> NDArray[np.float64]:
    """The corners of a polygon in a box, in pixels, shape (n, 2)."""
    return np.asarray(polygon_points(shape), float) * (width, height)


def _inset(corners: NDArray[np.float64], by: float) -> NDArray[np.float64]:
    """A polygon whose edges lie a little further in: filling one takes every pixel that its edge touches."""
    along = np.roll(corners, -1, 0) - corners
    length = np.maximum(np.hypot(*along.T), 1e-9)[:, None]
    area = np.sum(corners[:, 0] * np.roll(corners[:, 1], -1) - np.roll(corners[:, 0], -1) * corners[:, 1])
    inward = np.stack([-along[:, 1], along[:, 0]], -1) / length * (1 if area >= 0 else -1)
    before = np.roll(inward, 1, 0)
    sharp = np.maximum(1 + np.sum(before * inward, -1, keepdims=True), 0.2)
    return np.asarray(corners + by * (before + inward) / sharp)


def _polygon(shape: ShapeNow, width: int, height: int, grow: float, border: int) -> Mask:
    """A polygon four times as fine, brought down by area; soft edges by the distance to its outside."""
    fine = 4 if shape.soft < 2 and max(width, height) <= 4096 else 1
    size = (height + 2 * border) * fine, (width + 2 * border) * fine
    at = _inset((corners_of(shape, width, height) + border) * fine, 0.5 if fine > 1 else 0.0) - 0.5
    drawn = np.zeros(size, np.uint8)
    cv2.fillPoly(
        drawn, [np.round(at * (1 << _FINE)).astype(np.int32)], 255, cv2.LINE_8 if fine > 1 else cv2.LINE_AA, _FINE
    )
    if grow or shape.soft >= 2:
        inside = cv2.distanceTransform(drawn, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        outside = cv2.distanceTransform(255 - drawn, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        made = _ramp((outside - inside) / fine - grow, shape.soft)
    else:
        made = np.asarray(drawn / 255, np.float32)
    if fine > 1:
        made = np.asarray(
            cv2.resize(made, (size[1] // fine, size[0] // fine), interpolation=cv2.INTER_AREA), np.float32
        )
    return made
