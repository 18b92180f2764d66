"""Integer pixel rectangles, half open: a rectangle covers columns ``x`` to ``x + w - 1``."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

TILE = 32
"""Pixels along the side of a tile: parts of a picture are told apart so coarsely."""
MAX = np.iinfo(np.int64).max


class Rect(NamedTuple):
    """A rectangle of whole pixels."""

    x: int
    y: int
    w: int
    h: int

    @property
    def right(self) -> int:
        """First column past the rectangle."""
        return self.x + self.w

    @property
    def foot(self) -> int:
        """First row past the rectangle."""
        return self.y + self.h

    @property
    def empty(self) -> bool:
        """Whether it covers no pixel."""
        return self.w <= 0 or self.h <= 0

    @property
    def area(self) -> int:
        """Number of pixels covered."""
        return max(0, self.w) * max(0, self.h)

    def meet(self, other: Rect) -> Rect:
        """The pixels in both; of zero size when there are none.

        Examples
        --------
        >>> Rect(0, 0, 10, 10).meet(Rect(6, 2, 10, 3))
        Rect(x=6, y=2, w=4, h=3)
        """
        x, y = max(self.x, other.x), max(self.y, other.y)
        return Rect(x, y, max(0, min(self.right, other.right) - x), max(0, min(self.foot, other.foot) - y))

    def join(self, other: Rect) -> Rect:
        """The smallest rectangle that holds both."""
        if self.empty:
            return other
        if other.empty:
            return self
        x, y = min(self.x, other.x), min(self.y, other.y)
        return Rect(x, y, max(self.right, other.right) - x, max(self.foot, other.foot) - y)

    def holds(self, other: Rect) -> bool:
        """Whether every pixel of ``other`` is in this one."""
        return other.empty or (
            self.x <= other.x and self.y <= other.y and self.right >= other.right and self.foot >= other.foot
        )

    def moved(self, dx: int, dy: int) -> Rect:
        """The same size, ``dx`` columns to the right and ``dy`` rows down."""
        return Rect(self.x + dx, self.y + dy, self.w, self.h)

    def cut(self) -> tuple[slice, slice]:
        """Index for a picture array: ``array[rect.cut()]``."""
        return slice(self.y, self.foot), slice(self.x, self.right)


def gathered(rects: Iterable[Rect]) -> list[Rect]:
    """Join rectangles until none touch pixels of another, so that no pixel is worked on twice.

    Examples
    --------
    >>> gathered([Rect(0, 0, 4, 4), Rect(2, 2, 4, 4), Rect(20, 0, 1, 1)])
    [Rect(x=0, y=0, w=6, h=6), Rect(x=20, y=0, w=1, h=1)]
    """
    table = np.array([r for r in rects if not r.empty], np.int64).reshape(-1, 4)
    table[:, 2:] += table[:, :2]
    while len(table):
        pairs = overlapping(table)
        if not len(pairs):
            break
        group = _families(pairs, len(table))
        count = int(group.max()) + 1
        joined = np.empty((count, 4), np.int64)
        for n, (take, start) in enumerate(
            ((np.minimum, MAX), (np.minimum, MAX), (np.maximum, -MAX), (np.maximum, -MAX))
        ):
            column = np.full(count, start)
            take.at(column, group, table[:, n])
            joined[:, n] = column
        table = joined
    return sorted(Rect(x, y, right - x, foot - y) for x, y, right, foot in table.tolist())


@lru_cache(maxsize=1024)
def within(rects: tuple[Rect, ...], parts: tuple[Rect, ...]) -> tuple[Rect, ...]:
    """What rectangles share with parts, gathered.  Kept for the next time: from frame to frame the same places change.

    Parameters
    ----------
    rects : tuple[Rect, ...]
        In whole pixels.
    parts : tuple[Rect, ...]
        Where they may lie.

    Returns
    -------
    tuple[Rect, ...]

    Examples
    --------
    >>> within((Rect(0, 0, 4, 4), Rect(2, 2, 4, 4)), (Rect(3, 0, 1, 9), Rect(8, 0, 9, 9)))
    (Rect(x=3, y=0, w=1, h=6),)
    """
    return tuple(gathered(rect.meet(part) for rect in gathered(rects) for part in parts))


def _families(pairs: NDArray[np.int64], count: int) -> NDArray[np.int64]:
    """The number of the connected family each of ``count`` things is in, from pairs that belong together."""
    label = np.arange(count)
    while True:
        before = label.copy()
        least = np.minimum(label[pairs[:, 0]], label[pairs[:, 1]])
        np.minimum.at(label, pairs[:, 0], least)
        np.minimum.at(label, pairs[:, 1], least)
        label = label[label]
        if np.array_equal(label, before):
            return np.asarray((np.cumsum(label == np.arange(count)) - 1)[label], np.int64)


def overlapping(table: NDArray[np.int64]) -> NDArray[np.int64]:
    """Pairs of rectangles that share pixels, each once, the smaller index first.

    Parameters
    ----------
    table : ndarray, shape (n, 4), int64
        First column and row, first column and row past the end.

    Returns
    -------
    ndarray, shape (pairs, 2), int64
    """
    # Candidates are those that begin within another along one axis: the one along which fewer begin at the same place.
    across = len(set(table[:, 0].tolist())) >= len(set(table[:, 1].tolist()))
    a0, b0, a1, b1 = table.T if across else table.T[[1, 0, 3, 2]]
    order = np.argsort(a0, kind="stable")
    starts = a0[order]
    ends = np.searchsorted(starts, a1[order], "left")
    found = []
    for first in range(0, len(table), 1024):  # in blocks, so that memory stays small however many there are
        mine = np.arange(first, min(first + 1024, len(table)))
        counts = np.maximum(ends[mine] - mine - 1, 0)
        i = np.repeat(mine, counts)
        j = i + 1 + np.arange(len(i)) - np.repeat(np.cumsum(counts) - counts, counts)
        i, j = order[i], order[j]
        hit = (b0[i] < b1[j]) & (b1[i] > b0[j])
        found.append(np.stack([np.minimum(i[hit], j[hit]), np.maximum(i[hit], j[hit])], 1))
    return np.concatenate(found) if found else np.zeros((0, 2), np.int64)


def rects_of_tiles(tiles: NDArray[np.bool_], width: int, height: int) -> list[Rect]:
    """The tiles that are marked, joined to rectangles in pixels: runs in a row, and equal runs one below the other.

    Parameters
    ----------
    tiles : ndarray
        The tiles.
    width : int
        In pixels.
    height : int
        In pixels.

    Returns
    -------
    list[Rect]
    """
    open_runs: dict[tuple[int, int], int] = {}
    done: list[tuple[int, int, int, int]] = []
    for j in range(tiles.shape[0] + 1):
        runs: set[tuple[int, int]] = set()
        if j < tiles.shape[0]:
            edges = np.flatnonzero(np.diff(np.concatenate([[0], tiles[j].astype(np.int8), [0]])))
            runs = {(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)}
        for run, top in list(open_runs.items()):
            if run not in runs:
                done.append((run[0], top, run[1], j))
                del open_runs[run]
        for run in runs:
            open_runs.setdefault(run, j)
    return [
        Rect(a * TILE, top * TILE, min(b * TILE, width) - a * TILE, min(foot * TILE, height) - top * TILE)
        for a, top, b, foot in sorted(done)
    ]


def frame_strips(box: Rect, inner: Rect) -> list[Rect]:
    """The four strips between a box and the rectangle inside its border.

    Parameters
    ----------
    box : Rect
        The box, in pixels.
    inner : Rect
        The box inside the border.

    Returns
    -------
    list[Rect]
    """
    if inner.empty:
        return [box]
    return [
        Rect(box.x, box.y, box.w, inner.y - box.y),
        Rect(box.x, inner.foot, box.w, box.foot - inner.foot),
        Rect(box.x, inner.y, inner.x - box.x, inner.h),
        Rect(inner.right, inner.y, box.right - inner.right, inner.h),
    ]


def disjoint(rects: Iterable[Rect]) -> list[Rect]:
    """All that rectangles cover, as rectangles that do not overlap; of two that do, the first stays whole.

    Examples
    --------
    >>> disjoint([Rect(0, 0, 4, 2), Rect(2, 0, 4, 2)])
    [Rect(x=0, y=0, w=4, h=2), Rect(x=4, y=0, w=2, h=2)]
    """
    found: list[Rect] = []
    for rect in rects:
        fresh = [rect]
        for other in found:
            fresh = without(fresh, other)
        found += fresh
    return found


def without(rects: Iterable[Rect], cut: Rect) -> list[Rect]:
    """What is left of rectangles without another one, as rectangles that do not overlap if those did not.

    Examples
    --------
    >>> without([Rect(0, 0, 10, 10)], Rect(2, 0, 8, 10))
    [Rect(x=0, y=0, w=2, h=10)]
    """
    left: list[Rect] = []
    for rect in rects:
        both = rect.meet(cut)
        left += [rect] if both.empty else [part for part in frame_strips(rect, both) if not part.empty]
    return left
