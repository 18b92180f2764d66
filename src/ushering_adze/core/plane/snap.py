"""Snapping a dragged rectangle to the lines of what is already there, and the distances to its neighbours."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.arrange import Axis
from ushering_adze.core.plane.rect import Rect


class Hint(NamedTuple):
    """A line that a dragged rectangle snapped to: where it lies, along which axis it was met, and the rectangle it
    belongs to, if any.
    """

    axis: Axis
    at: int
    other: int | None


class SnapLines(NamedTuple):
    """Lines to snap to, sorted; twice their place, so that a centre line may lie between two pixels, and whose they
    are.
    """

    across: NDArray[np.int64]
    down: NDArray[np.int64]
    across_of: NDArray[np.int64]
    down_of: NDArray[np.int64]


def snap_lines(
    rects: Sequence[Rect], whole: Rect | None = None, grid_x: Sequence[int] = (), grid_y: Sequence[int] = ()
) -> SnapLines:
    """Edges and middles of other rectangles and of the whole, and the lines of a cabinet grid.

    Lines that are no rectangle's have owner −1.

    Parameters
    ----------
    rects : Sequence[Rect]
        In whole pixels.
    whole : Rect | None, optional
        The canvas; None for no lines of its own.
    grid_x : Sequence[int], optional
        By row and column.
    grid_y : Sequence[int], optional
        By row and column.

    Returns
    -------
    SnapLines
    """

    def lines(starts: list[tuple[int, int]], more: Sequence[int]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        flat = [(2 * a, n) for n, (a, _) in enumerate(starts)] + [
            (2 * (a + size), n) for n, (a, size) in enumerate(starts)
        ]
        flat += [(2 * a + size, n) for n, (a, size) in enumerate(starts)]
        flat += [(2 * a, -1) for a in more]
        if whole is not None:
            a, size = (whole.x, whole.w) if starts is across else (whole.y, whole.h)
            flat += [(2 * a, -1), (2 * a + size, -1), (2 * (a + size), -1)]
        flat.sort()
        table = np.array(flat, np.int64).reshape(-1, 2)
        return table[:, 0], table[:, 1]

    across = [(r.x, r.w) for r in rects]
    down = [(r.y, r.h) for r in rects]
    x, x_of = lines(across, grid_x)
    y, y_of = lines(down, grid_y)
    return SnapLines(x, y, x_of, y_of)


def _nearest(
    lines: NDArray[np.int64], owners: NDArray[np.int64], mine: Sequence[int], near2: int
) -> tuple[int, int, int] | None:
    """The shift, twice, the line, twice, and its owner that bring one of ``mine`` to the nearest line."""
    best: tuple[int, int, int] | None = None
    for at in mine:
        k = int(np.searchsorted(lines, at))
        for n in (k - 1, k):
            if 0 <= n < len(lines):
                shift = int(lines[n]) - at
                if shift % 2 == 0 and abs(shift) <= near2 and (best is None or abs(shift) < abs(best[0])):
                    best = (shift, int(lines[n]), int(owners[n]))
    return best


def snapped(rect: Rect, lines: SnapLines, near: int, middles: bool = True) -> tuple[Rect, list[Hint]]:
    """A dragged rectangle brought to the nearest line on each axis, if one of its edges or its middle is within
    ``near`` px of it.

    Parameters
    ----------
    rect : Rect
        In whole pixels.
    lines : SnapLines
        The lines.
    near : int
        How near, in pixels, counts.
    middles : bool, optional
        The middles.

    Returns
    -------
    tuple[Rect, list[Hint]]

    Examples
    --------
    >>> snapped(Rect(103, 0, 50, 50), snap_lines([Rect(0, 0, 100, 100)]), 6)
    (Rect(x=100, y=0, w=50, h=50), [Hint(axis='across', at=100, other=0), Hint(axis='down', at=0, other=0)])
    """
    hints = []
    xs = [2 * rect.x, 2 * rect.right, *([2 * rect.x + rect.w] if middles else [])]
    ys = [2 * rect.y, 2 * rect.foot, *([2 * rect.y + rect.h] if middles else [])]
    x = _nearest(lines.across, lines.across_of, xs, 2 * near)
    y = _nearest(lines.down, lines.down_of, ys, 2 * near)
    if x is not None:
        rect = rect.moved(x[0] // 2, 0)
        hints.append(Hint("across", x[1] // 2, x[2] if x[2] >= 0 else None))
    if y is not None:
        rect = rect.moved(0, y[0] // 2)
        hints.append(Hint("down", y[1] // 2, y[2] if y[2] >= 0 else None))
    return rect, hints


def distances(rect: Rect, others: Sequence[Rect] | NDArray[np.int64]) -> list[tuple[Axis, int, int, int]]:
    """The free pixels to the nearest neighbour on each side that faces the rectangle.

    Parameters
    ----------
    rect : Rect
    others : sequence of Rect, or ndarray of shape (n, 4)

    Returns
    -------
    list of (axis, start, length, across)
        For drawing a dimension line: along ``axis`` from ``start`` for ``length`` px, at ``across`` on the other axis.
    """
    table = np.asarray(others, np.int64).reshape(-1, 4)
    x, y, right, foot = table[:, 0], table[:, 1], table[:, 0] + table[:, 2], table[:, 1] + table[:, 3]
    top, bottom = np.maximum(y, rect.y), np.minimum(foot, rect.foot)
    near, far = np.maximum(x, rect.x), np.minimum(right, rect.right)
    sides: list[tuple[Axis, NDArray[np.bool_], NDArray[np.int64], bool, NDArray[np.int64]]] = [
        ("across", (bottom > top) & (right <= rect.x), rect.x - right, True, (top + bottom) // 2),
        ("across", (bottom > top) & (x >= rect.right), x - rect.right, False, (top + bottom) // 2),
        ("down", (far > near) & (foot <= rect.y), rect.y - foot, True, (near + far) // 2),
        ("down", (far > near) & (y >= rect.foot), y - rect.foot, False, (near + far) // 2),
    ]
    found: list[tuple[Axis, int, int, int]] = []
    for axis, facing, length, before, middle in sides:
        if facing.any():
            n = int(np.argmin(np.where(facing, length, np.iinfo(np.int64).max)))
            edge = (
                (rect.x if axis == "across" else rect.y) - int(length[n])
                if before
                else (rect.right if axis == "across" else rect.foot)
            )
            found.append((axis, edge, int(length[n]), int(middle[n])))
    return found
