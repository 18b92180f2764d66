"""A picture is wiped away, and another one comes up: along a line, from the middle, round a clock, in blinds, or as a
picture's brightness tells.
"""

from __future__ import annotations

import math
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.picture.transitions.transition import Parameters, Transition
from ushering_adze.core.plane.pixels import Pixels

GRID = 512
"""Points along the longer side by which areas are measured."""
_FULL = 65535


def ranked(order: NDArray[np.float32], by: NDArray[np.float32] | None = None) -> NDArray[np.uint16]:
    """When each pixel's turn comes, so that a share t of them has had theirs at t.

    Parameters
    ----------
    order : ndarray, shape (h, w)
        Who comes first has the least.
    by : ndarray, optional
        The same at fewer points, by which areas are measured; ``order`` itself if not given.

    Returns
    -------
    ndarray, shape (h, w), uint16
        0 to 65535.
    """
    known = np.sort((order if by is None else by).ravel())
    known = known[:: max(1, len(known) // 4096)]
    steps = np.linspace(0, _FULL, len(known), dtype=np.float32)
    return np.asarray(np.interp(order, known, steps), np.uint16)


def _order(
    form: str, angle: float, count: int, width: int, height: int, columns: int, rows: int
) -> NDArray[np.float32]:
    """The order of the pixels of a box of a size, at so many points of it."""
    y, x = np.mgrid[0:rows, 0:columns].astype(np.float32)
    x = (x + 0.5) / columns * width - width / 2
    y = (y + 0.5) / rows * height - height / 2
    turn = math.radians(angle)
    along = x * math.cos(turn) + y * math.sin(turn)
    if form == "iris":
        return np.asarray(np.hypot(x / width, y / height), np.float32)
    if form == "clock":
        return np.asarray(np.mod(np.arctan2(x, -y) - turn, 2 * np.pi), np.float32)
    if form == "blinds":
        span = abs(width * math.cos(turn)) + abs(height * math.sin(turn))
        return np.asarray(np.mod((along / span + 0.5) * count, 1.0), np.float32)
    return np.asarray(along, np.float32)


@lru_cache(8)
def turns(form: str, angle: float, count: int, width: int, height: int) -> NDArray[np.uint16]:
    """When each pixel of a box is wiped, 0 to 65535; it must not be written to."""
    scale = min(1.0, GRID / max(width, height))
    columns, rows = max(1, round(width * scale)), max(1, round(height * scale))
    order = _order(form, angle, count, width, height, width, height)
    return ranked(order, None if scale == 1 else _order(form, angle, count, width, height, columns, rows))


def _of_picture(picture: Pixels, width: int, height: int) -> NDArray[np.uint16]:
    luma = cv2.transform(picture, np.array([[0.0722, 0.7152, 0.2126, 0.0]]))
    order = np.asarray(cv2.resize(luma, (width, height), interpolation=cv2.INTER_AREA), np.float32).reshape(
        height, width
    )
    return ranked(order + _dither(height, width))


def _dither(height: int, width: int) -> NDArray[np.float32]:
    """Less than a code, so that pixels of one brightness come one after another."""
    y, x = np.mgrid[0:height, 0:width]
    return np.asarray(((x * 0.7548776662 + y * 0.5698402909) % 1.0) * 0.98, np.float32)


def share_of(when: NDArray[np.uint16], progress: float, soft: float) -> NDArray[np.uint8]:
    """How much of the new picture is seen at each pixel, 0 to 255.

    Parameters
    ----------
    when : ndarray, shape (h, w), uint16
    progress : float
        0 to 1.
    soft : float
        Width of the edge, as a share of the whole way.
    """
    width = max(soft, 1e-4)
    at = -width / 2 + progress * (1 + width)
    slope = 255 / (width * _FULL)
    return np.asarray(cv2.convertScaleAbs(_clipped(when, at, width), alpha=slope, beta=0.0), np.uint8)


def _clipped(when: NDArray[np.uint16], at: float, width: float) -> NDArray[np.float32]:
    raised = (at + width / 2) * _FULL
    return np.asarray(np.clip(np.float32(raised) - when.astype(np.float32), 0, width * _FULL), np.float32)


def draw(before: Pixels, after: Pixels, progress: float, parameters: Parameters) -> Pixels:
    """The new picture where its turn has come, the old one elsewhere, a mix at the edge."""
    height, width = before.shape[:2]
    picture = parameters.get("picture")
    form = str(parameters.get("form", "line"))
    if form == "picture" and picture is not None:
        when = _of_picture(picture, width, height)
    else:
        when = turns(form, float(parameters.get("angle", 0.0)), int(parameters.get("count", 8)), width, height)
    mask = cv2.merge([share_of(when, progress, float(parameters.get("soft", 0.02)))] * 4)
    made = cv2.multiply(after, mask, scale=1 / 255)
    return np.asarray(cv2.add(made, cv2.multiply(before, 255 - mask, scale=1 / 255)), np.uint8)


TRANSITION = Transition("wipe", "Wipe", draw=draw)
