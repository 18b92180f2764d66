"""A picture is wiped away, and another one comes up: along a line, from the middle, round a clock, in blinds, or as a
picture's brightness tells.
"""

from __future__ import annotations

import math
import weakref
from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.picture.transitions.transition import Parameters, Transition
from ushering_adze.core.plane.pixels import Pixels

GRID = 512
"""Points along the longer side by which areas are measured."""
TILE = 64
"""Pixels along the sides of the squares that are looked at together."""
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


class Turns(NamedTuple):
    """How much of the whole way is left when each pixel's turn has come, 0 to 65535; and the least and the most of each
    tile, by which most of a picture is known to be all old or all new.
    """

    left: NDArray[np.uint16]
    least: NDArray[np.uint16]
    most: NDArray[np.uint16]


def _tiled(when: NDArray[np.uint16]) -> Turns:
    left = _FULL - when
    rows, columns = (np.arange(0, size, TILE) for size in when.shape)
    least, most = (
        find.reduceat(find.reduceat(left, rows, axis=0), columns, axis=1) for find in (np.minimum, np.maximum)
    )
    return Turns(left, least, most)


@lru_cache(8)
def turns(form: str, angle: float, count: int, width: int, height: int) -> Turns:
    """When each pixel of a box is wiped; it must not be written to."""
    columns, rows = _points(width, height)
    order = _order(form, angle, count, width, height, width, height)
    same = (columns, rows) == (width, height)
    return _tiled(ranked(order, None if same else _order(form, angle, count, width, height, columns, rows)))


def _points(width: int, height: int) -> tuple[int, int]:
    """Columns and rows of the points by which areas are measured."""
    scale = min(1.0, GRID / max(width, height))
    return max(1, round(width * scale)), max(1, round(height * scale))


_KNOWN: dict[tuple[int, int, int], tuple[weakref.ref[Pixels], Turns]] = {}
"""Of pictures by which boxes of a size are wiped: a still is the same one with every frame."""


def _of_picture(picture: Pixels, width: int, height: int) -> Turns:
    key = (id(picture), width, height)
    known = _KNOWN.get(key)
    if known is not None and known[0]() is picture:
        return known[1]
    points = _points(width, height)
    luma = np.asarray(cv2.transform(picture, np.array([[0.0722, 0.7152, 0.2126, 0.0]])), np.uint8)
    order = np.asarray(cv2.resize(luma, points, interpolation=cv2.INTER_AREA), np.float32).reshape(points[::-1])
    when = ranked(order + _dither(points[1], points[0]))
    if points != (width, height):
        when = np.asarray(cv2.resize(when, (width, height), interpolation=cv2.INTER_LINEAR), np.uint16)
    made = _tiled(when)
    while len(_KNOWN) >= 6:
        _KNOWN.pop(next(iter(_KNOWN)), None)
    _KNOWN[key] = weakref.ref(picture), made
    return made


def _dither(height: int, width: int) -> NDArray[np.float32]:
    """Less than a code, so that pixels of one brightness come one after another."""
    y, x = np.mgrid[0:height, 0:width]
    return np.asarray(((x * 0.7548776662 + y * 0.5698402909) % 1.0) * 0.98, np.float32)


def share_of(left: NDArray[np.uint16], progress: float, soft: float) -> NDArray[np.uint8]:
    """How much of the new picture is seen at each pixel, 0 to 255.

    Parameters
    ----------
    left : ndarray, shape (h, w), uint16
        Of the whole way, when its turn has come.
    progress : float
        0 to 1.
    soft : float
        Width of the edge, as a share of the whole way.
    """
    width = max(soft, 1e-4)
    less = round(_FULL * (1 - progress * (1 + width)))
    by: Any = abs(less)
    raised = cv2.subtract(left, by) if less >= 0 else cv2.add(left, by)  # both stop at their ends
    return np.asarray(cv2.convertScaleAbs(raised, alpha=255 / (width * _FULL)), np.uint8).reshape(left.shape)


def draw(before: Pixels, after: Pixels, progress: float, parameters: Parameters) -> Pixels:
    """The new picture where its turn has come, the old one elsewhere, a mix at the edge."""
    height, width = before.shape[:2]
    picture, soft = parameters.get("picture"), float(parameters.get("soft", 0.02))
    form = str(parameters.get("form", "line"))
    if form == "picture" and picture is not None:
        found = _of_picture(picture, width, height)
    else:
        found = turns(form, float(parameters.get("angle", 0.0)), int(parameters.get("count", 8)), width, height)
    new, touched = share_of(found.least, progress, soft) == 255, share_of(found.most, progress, soft) > 0
    made = np.empty_like(before)

    def draw_row(row: int, classes: NDArray[np.int8]) -> None:
        rows = slice(row * TILE, min(height, (row + 1) * TILE))
        starts = np.flatnonzero(np.diff(classes, prepend=-1))
        for start, end in zip(starts, [*starts[1:], len(classes)], strict=True):
            part = rows, slice(start * TILE, min(width, end * TILE))
            if classes[start] != 1:
                np.copyto(made[part], (after if classes[start] else before)[part])
                continue
            mask = cv2.merge([share_of(found.left[part], progress, soft)] * 4)
            into = made[part]
            cv2.multiply(after[part], mask, dst=into, scale=1 / 255)
            cv2.bitwise_not(mask, dst=mask)
            cv2.multiply(before[part], mask, dst=mask, scale=1 / 255)
            cv2.add(into, mask, dst=into)

    parameters.get("each", _one_by_one)(lambda row: draw_row(*row), list(enumerate(new.astype(np.int8) + touched)))
    return made


def _one_by_one(work: Callable[[Any], object], items: Sequence[Any]) -> None:
    for item in items:
        work(item)


TRANSITION = Transition("wipe", "Wipe", draw=draw, opaque=True)
