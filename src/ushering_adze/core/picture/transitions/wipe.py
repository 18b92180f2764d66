"""A picture is wiped away, and another one comes up: along a line, from the middle, round a clock, in blinds, or as a
picture's brightness tells.
"""

from __future__ import annotations

import math
import weakref
from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.picture.key import luma_of
from ushering_adze.core.picture.transitions.transition import Parameters, Transition
from ushering_adze.core.plane.pixels import Pixels

GRID = 512
"""Points along the longer side by which areas are measured."""
TILE, FINE = 64, 8
"""Pixels along the sides of the squares that are looked at together, and from one look at them to the next."""
AT_ONCE = 16
"""Tiles of a row that are worked out together."""
_FULL, _STEPS = 65535, 16384
"""A whole way, and the steps in which a place in the order is looked up."""
Order = NDArray[np.float32]


def _order(form: str, angle: float, count: int, width: int, height: int, x: Order, y: Order) -> Order:
    """The order of places in a box of a size: across and down, in pixels from its corner."""
    x, y = (x - np.float32(width / 2))[None], (y - np.float32(height / 2))[:, None]
    turn = math.radians(angle)
    if form == "iris":
        return np.asarray((x / width) ** 2 + (y / height) ** 2, np.float32)
    if form == "clock":
        shape = y.shape[0], x.shape[1]
        round_it = cv2.phase(np.broadcast_to(-y, shape).copy(), np.broadcast_to(x, shape).copy())
        since = np.asarray(round_it, np.float32) - np.float32(turn % (2 * math.pi))
        return np.where(since < 0, since + np.float32(2 * math.pi), since)
    if form == "blinds":
        span = abs(width * math.cos(turn)) + abs(height * math.sin(turn))
        across, down = (x * math.cos(turn) / span + 0.5) * count, y * math.sin(turn) / span * count
        along = np.asarray(across + down, np.float32)
        return along - np.floor(along)
    return np.asarray(x * np.float32(math.cos(turn)) + y * np.float32(math.sin(turn)), np.float32)


class _Ranks:
    """When the turn of a place in the order comes, so that a share t of all places have had theirs at t.

    Parameters
    ----------
    known : ndarray, float32
        Orders of places that are spread evenly.
    """

    def __init__(self, known: Order) -> None:
        known = np.sort(known.ravel())
        known = known[:: max(1, len(known) // 4096)]
        self._least = float(known[0])
        step = max(1e-9, float(known[-1]) - self._least) / (_STEPS - 1)
        self._scale = np.float32(1 / step)
        values, first, many = np.unique(known, return_index=True, return_counts=True)
        turn = (first + many / 2) * (_FULL / len(known))  # those alike: in the middle of theirs
        # how much is left, not how much has gone
        self._table = (_FULL - np.interp(self._least + np.arange(_STEPS) * step, values, turn)).astype(np.uint16)

    def left(self, order: Order) -> NDArray[np.uint16]:
        """How much of the whole way is left when their turn has come, 0 to 65535; ``order`` is written over."""
        order -= np.float32(self._least)
        order *= self._scale
        order += np.float32(0.5)
        np.clip(order, 0, _STEPS - 1, out=order)
        found: NDArray[np.uint16] = np.take(self._table, order.astype(np.uint16))
        return found


class Turns:
    """How much of the whole way is left when the turn of each pixel of a box has come, 0 to 65535.

    ``least`` and ``most`` are those of each tile, by which most of a picture is known to be all old or all new; what
    lies between is worked out where it is asked for, once.

    Parameters
    ----------
    form : str
    angle : float
        In degrees.
    count : int
        Of blinds.
    width, height : int
    """

    def __init__(self, form: str, angle: float, count: int, width: int, height: int) -> None:
        self._form = (form, angle, count, width, height)
        columns, rows = _points(width, height)
        x, y = (_middles(n, size) for n, size in ((columns, width), (rows, height)))
        self._ranks = _Ranks(_order(*self._form, x, y))
        looked = [np.append(np.arange(0, size, FINE), size).astype(np.float32) for size in (width, height)]
        order = _order(*self._form, *looked)
        between = (FINE / 2 / width) ** 2 + (FINE / 2 / height) ** 2 if form == "iris" else 0.0  # beside its middle
        self.least = _pooled(self._ranks.left(order.copy()), np.minimum)
        self.most = _pooled(self._ranks.left(order - np.float32(between)), np.maximum)
        if form in ("clock", "blinds"):  # where it begins anew there is all of it, whatever the looks beside it have
            narrow = form == "blinds" and min(width, height) / max(1, count) < 4 * FINE
            anew = narrow | (self.most - self.least > _FULL // 2)
            self.least[anew], self.most[anew] = 0, _FULL
        self._left = np.empty((height, width), np.uint16)
        self._has = np.zeros(self.least.shape, bool)
        self._pictures = 0

    def begin(self) -> None:
        """Another picture is wiped by it: of a box that stays as large as it is more is worked out at once."""
        self._pictures += 1

    def left(self, row: int, first: int, end: int) -> NDArray[np.uint16]:
        """Of the pixels of a row's tiles, from the first to before the end."""
        _, _, _, width, height = self._form
        top, bottom = row * TILE, min(height, (row + 1) * TILE)
        if self._has[row, first:end].all():
            return self._left[top:bottom, first * TILE : min(width, end * TILE)]
        begin, ends = first, end
        if self._pictures > 1:
            begin, ends = first // AT_ONCE * AT_ONCE, min(len(self._has[row]), -(-end // AT_ONCE) * AT_ONCE)
        unknown = begin + np.flatnonzero(~self._has[row, begin:ends])
        for run in np.split(unknown, np.flatnonzero(np.diff(unknown) > 1) + 1) if unknown.size else ():
            left, right = int(run[0]) * TILE, min(width, (int(run[-1]) + 1) * TILE)
            x, y = (np.arange(*span, dtype=np.float32) + np.float32(0.5) for span in ((left, right), (top, bottom)))
            self._left[top:bottom, left:right] = self._ranks.left(_order(*self._form, x, y))
            self._has[row, run] = True
        return self._left[top:bottom, first * TILE : min(width, end * TILE)]


def _pooled(looks: NDArray[np.uint16], find: np.ufunc) -> NDArray[np.uint16]:
    """The least or most of each tile, its edges among it."""
    found: NDArray[np.uint16] = looks
    for axis in (0, 1):
        starts = np.arange(0, found.shape[axis] - 1, TILE // FINE)
        ends = np.append(starts[1:], found.shape[axis] - 1)
        found = find(find.reduceat(found, starts, axis=axis), found.take(ends, axis=axis))
    return found


def _middles(count: int, size: int) -> Order:
    return (np.arange(count, dtype=np.float32) + np.float32(0.5)) * np.float32(size / count)


turns = lru_cache(24)(Turns)


class _OfPicture:
    """The same as a picture's brightness tells, at a size."""

    def __init__(self, picture: Pixels, width: int, height: int) -> None:
        points = _points(width, height)
        order = np.asarray(cv2.resize(luma_of(picture), points, interpolation=cv2.INTER_AREA), np.float32).reshape(
            points[::-1]
        )
        order += _dither(points[1], points[0])
        left = _Ranks(order).left(order)
        if points != (width, height):
            left = np.asarray(cv2.resize(left, (width, height), interpolation=cv2.INTER_LINEAR), np.uint16)
        rows, columns = (np.arange(0, size, TILE) for size in left.shape)
        self.least, self.most = (
            find.reduceat(find.reduceat(left, rows, axis=0), columns, axis=1) for find in (np.minimum, np.maximum)
        )
        self._left = left.reshape(height, width)

    def begin(self) -> None:
        """Another picture is wiped by it."""

    def left(self, row: int, first: int, end: int) -> NDArray[np.uint16]:
        """Of the pixels of a row's tiles, from the first to before the end."""
        return self._left[row * TILE : (row + 1) * TILE, first * TILE : end * TILE]


def _points(width: int, height: int) -> tuple[int, int]:
    """Columns and rows of the points by which areas are measured."""
    scale = min(1.0, GRID / max(width, height))
    return max(1, round(width * scale)), max(1, round(height * scale))


_KNOWN: dict[tuple[int, int, int], tuple[weakref.ref[Pixels], _OfPicture]] = {}
"""Of pictures by which boxes of a size are wiped: a still is the same one with every frame."""


def _of_picture(picture: Pixels, width: int, height: int) -> _OfPicture:
    key = (id(picture), width, height)
    known = _KNOWN.get(key)
    if known is not None and known[0]() is picture:
        return known[1]
    made = _OfPicture(picture, width, height)
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
        found: Turns | _OfPicture = _of_picture(picture, width, height)
    else:
        found = turns(form, float(parameters.get("angle", 0.0)), int(parameters.get("count", 8)), width, height)
    found.begin()
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
            mask = cv2.merge([share_of(found.left(row, int(start), int(end)), progress, soft)] * 4)
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
