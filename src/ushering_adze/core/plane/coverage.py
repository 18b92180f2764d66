"""Coverage: how much of each raster pixel a landing covers, exactly, from its outline.

An outline is a closed line of straight pieces on the raster.  Landings that meet share the pieces they meet at, so that
what they cover adds up to whole pixels.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.homography import homography
from ushering_adze.core.plane.mesh import Floats, Warp, forward, projected, spline_through
from ushering_adze.core.plane.rect import TILE, Rect, rects_of_tiles

NEAR = 0.002
"""Raster pixels by which the straight pieces of an outline may miss its curve: half a code of white at most."""
MOST_PIECES = 256
"""Pieces between two points of a mesh."""
Side = tuple[tuple[float, float], ...]


class Coverage(NamedTuple):
    """What share of each pixel of the rectangle ``put`` an outline encloses.

    ``keys`` are the pixels its line goes through, counted row by row in rows of ``put.w + 2``, in order; ``sums`` the
    coverage at each, which goes on to the right until the next; ``tiles`` of 32 × 32 px are 0 outside, 1 inside, 2
    where the line is.  ``outside``, ``inside`` and ``mixed`` are the same tiles joined to rectangles of the raster;
    ``untouched`` are the pixels of mixed ones that are not covered at all, counted row by row over ``put``.
    """

    put: Rect
    keys: NDArray[np.int64]
    sums: Floats
    tiles: NDArray[np.uint8]
    outside: tuple[Rect, ...]
    inside: tuple[Rect, ...]
    mixed: tuple[Rect, ...]
    untouched: NDArray[np.int32] = np.zeros(0, np.int32)

    def within(self, part: Rect) -> NDArray[np.float32]:
        """Coverage of the pixels of a part of ``put``, shape (part.h, part.w), 0 to 1."""
        pitch = self.put.w + 2
        starts = (np.arange(part.y, part.foot) - self.put.y) * pitch + (part.x - self.put.x)
        first = np.searchsorted(self.keys, starts)
        last = np.searchsorted(self.keys, starts + part.w)
        before = np.concatenate([[0.0], self.sums])
        steps = np.zeros((part.h, part.w))
        steps[:, 0] = before[first]
        counts = last - first
        rows = np.repeat(np.arange(part.h), counts)
        which = np.arange(len(rows)) - np.repeat(np.cumsum(counts) - counts, counts) + np.repeat(first, counts)
        np.add.at(steps, (rows, self.keys[which] - starts[rows]), self.sums[which] - before[which])
        return np.asarray(np.clip(np.cumsum(steps, axis=1), 0, 1), np.float32)

    def touched(self) -> NDArray[np.bool_]:
        """Which pixels of ``put`` are covered at all, shape (put.h, put.w)."""
        full = np.ascontiguousarray(np.repeat(np.repeat(self.tiles == 1, TILE, 0), TILE, 1)[: self.put.h, : self.put.w])
        for r in self.mixed:
            full[r.moved(-self.put.x, -self.put.y).cut()] = True
        full.reshape(-1)[self.untouched] = False
        return full

    @property
    def edge(self) -> tuple[NDArray[np.int64], NDArray[np.int64], Floats]:
        """Pixels that are covered in part: rows and columns within ``put``, and their coverage."""
        part = (self.sums > SLIGHT) & (self.sums < 1 - SLIGHT)
        rows, columns = np.divmod(self.keys[part], self.put.w + 2)
        return rows, columns, self.sums[part]


SLIGHT = 1 / 1024
"""Coverage that is none, or all that lacks of a whole pixel: far less than half a code."""


def _through_pixels(x: Floats, y: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """A closed line cut where it goes from one pixel to the next: starts and ends of its pieces, in order."""
    x1, y1 = np.roll(x, -1), np.roll(y, -1)
    over, down = (
        np.floor(np.maximum(x, x1)) - np.floor(np.minimum(x, x1)),
        np.floor(np.maximum(y, y1)) - np.floor(np.minimum(y, y1)),
    )
    pieces: list[Floats] = [np.zeros(len(x))]
    owners = [np.arange(len(x))]
    for low, high, count in ((x, x1, over.astype(int)), (y, y1, down.astype(int))):
        owner = np.repeat(np.arange(len(x)), count)
        n = np.arange(len(owner)) - np.repeat(np.cumsum(count) - count, count)
        line = np.floor(np.minimum(low, high))[owner] + 1 + n
        pieces.append(np.clip((line - low[owner]) / (high[owner] - low[owner]), 0.0, 1.0))
        owners.append(owner)
    owner, at = np.concatenate(owners), np.concatenate(pieces)
    order = np.lexsort((at, owner))
    owner, at = owner[order], at[order]
    ends = np.append(at[1:], 1.0)
    ends[np.append(owner[1:] != owner[:-1], True)] = 1.0
    dx, dy = (x1 - x)[owner], (y1 - y)[owner]
    return x[owner] + dx * at, y[owner] + dy * at, x[owner] + dx * ends, y[owner] + dy * ends


def coverage_of(outline: Floats, put: Rect) -> Coverage:
    """How much of each pixel of a rectangle lies within an outline.

    Parameters
    ----------
    outline : ndarray, shape (n, 2)
        A closed line that does not cross itself, in raster pixels, either way round.
    put : Rect

    Returns
    -------
    Coverage
        Exact to rounding: areas under the line's pieces are added up pixel by pixel, as for the outlines of type (the
        signed area of a polygon, after C. F. Gauss's formula; each row's sum is carried to the right).

    References
    ----------
    Green's theorem on each pixel square: signed areas of the outline's edges add to the area inside; common in font
    rasterisers.

    Examples
    --------
    >>> coverage_of(np.array([[0.5, 0.0], [3.0, 0.0], [3.0, 2.0], [0.5, 2.0]]), Rect(0, 0, 4, 2)).within(Rect(0, 0,
    ...     4, 2))[0].tolist()
    [0.5, 1.0, 1.0, 0.0]
    """
    pitch = put.w + 2
    far = np.asarray(outline, float) - (put.x, put.y)
    x, y = np.clip(far[:, 0], -1e6, 1e6), np.clip(far[:, 1], -1e6, 1e6)
    x, y = _cut_rows(x, y, put.h)
    x, y = _cut_columns(x, y, put.w)
    xa, ya, xb, yb = _through_pixels(x, y)
    dy = yb - ya
    middle = (xa + xb) / 2
    row = np.clip(np.floor((ya + yb) / 2), 0, put.h - 1).astype(np.int64)
    column = np.clip(np.floor(middle), 0, put.w).astype(np.int64)
    line = np.unique(row // TILE * -(-put.w // TILE) + np.minimum(column, put.w - 1) // TILE)
    here = np.abs(dy) > 1e-12
    row, column, middle, dy = row[here], column[here], middle[here], dy[here]
    key = row * pitch + column
    right = dy * (middle - column)
    keys, which = np.unique(np.concatenate([key, key + 1]), return_inverse=True)
    sums: Floats = np.cumsum(np.bincount(which, np.concatenate([dy - right, right]), len(keys)))
    if len(sums) and sums.sum() < 0:
        sums = -sums
    sums = np.asarray(np.clip(sums, 0, 1), np.float64)
    tiles = _tiles(put, keys, sums, line)
    outside, inside, mixed = (
        tuple(r.moved(put.x, put.y) for r in rects_of_tiles(tiles == n, put.w, put.h)) for n in range(3)
    )
    found = Coverage(put, keys, sums, tiles, outside, inside, mixed)
    places = [np.flatnonzero(found.within(r) <= SLIGHT) for r in mixed]
    untouched = [
        (at // r.w + r.y - put.y) * put.w + at % r.w + r.x - put.x for at, r in zip(places, mixed, strict=True)
    ]
    return found._replace(untouched=np.concatenate([np.zeros(0, np.int32), *untouched]).astype(np.int32))


def _cut_rows(x: Floats, y: Floats, height: int) -> tuple[Floats, Floats]:
    """A closed line with what is above and below moved to the first and last line of rows; sides that cross these lines
    are cut there.
    """
    for line in (0.0, float(height)):
        x1, y1 = np.roll(x, -1), np.roll(y, -1)
        crosses = ((y < line) & (y1 > line)) | ((y > line) & (y1 < line))
        at = np.flatnonzero(crosses)
        t = (line - y[at]) / (y1[at] - y[at])
        x, y = np.insert(x, at + 1, x[at] + t * (x1[at] - x[at])), np.insert(y, at + 1, line)
    return x, np.clip(y, 0.0, float(height))


def _cut_columns(x: Floats, y: Floats, width: int) -> tuple[Floats, Floats]:
    """The same for what is left and right: it goes along the edge there, and covers the same rows."""
    y, x = _cut_rows(y, x, width)
    return x, y


def _tiles(put: Rect, keys: NDArray[np.int64], sums: Floats, line: NDArray[np.int64]) -> NDArray[np.uint8]:
    """Of each tile whether it is outside, inside, or on the line."""
    down, across = -(-put.h // TILE), -(-put.w // TILE)
    pitch = put.w + 2
    ys, xs = (
        np.minimum(np.arange(down) * TILE + TILE // 2, put.h - 1),
        np.minimum(np.arange(across) * TILE + TILE // 2, put.w - 1),
    )
    at = np.searchsorted(keys, (ys[:, None] * pitch + xs).ravel(), "right")
    inside = np.concatenate([[0.0], np.abs(sums)])[at] > 0.5
    tiles: NDArray[np.uint8] = inside.astype(np.uint8).reshape(down, across)
    rows, columns = np.divmod(keys, pitch)
    seen = columns < put.w
    tiles[rows[seen] // TILE, columns[seen] // TILE] = 2
    tiles.flat[line] = 2  # level pieces change no sum
    return tiles


def side_points(warp: Warp, start: tuple[float, float], end: tuple[float, float]) -> Side:
    """A straight line of a region, as it lies on the raster: its pieces miss the curve by less than `NEAR`.

    Parameters
    ----------
    warp : Warp
    start, end : tuple of float
        In pixels of the region, along a row or a column of it.

    Returns
    -------
    tuple
        Of points (x, y) on the raster, from the start to the end, both with it.
    """
    rows, columns = warp.nodes.shape[:2]
    across = start[1] == end[1]
    a, b = (start[0], end[0]) if across else (start[1], end[1])
    size, spans = (warp.width, columns - 1) if across else (warp.height, rows - 1)
    knots = np.linspace(0, size, spans + 1)
    between = knots[(knots > min(a, b) + 1e-9) & (knots < max(a, b) - 1e-9)]
    at = np.concatenate([[a], between if a < b else between[::-1], [b]])

    def land(places: Floats) -> Floats:
        return forward(
            warp,
            np.stack(
                [places, np.full_like(places, start[1])] if across else [np.full_like(places, start[0]), places], -1
            ),
        )

    if warp.spans == "smooth" and (rows, columns) != (2, 2):
        # The curve's own bulge between points tells how many pieces it takes: it falls with their square.
        found = land(np.sort(np.concatenate([at, (at[:-1] + at[1:]) / 2])))
        off = np.hypot(*(found[1::2] - (found[:-1:2] + found[2::2]) / 2).T).max(initial=0.0) * 1.5
        count = int(np.clip(np.ceil(np.sqrt(off / NEAR)), 1, MOST_PIECES))
        share = np.arange(count) / count
        at = np.append((at[:-1, None] + (at[1:] - at[:-1])[:, None] * share).ravel(), at[-1])
    return tuple(map(tuple, land(at).tolist()))


@lru_cache(maxsize=1024)
def _edge_points(nodes: Side, corners: Side, width: float, height: float, side: int) -> Side:
    """An edge of a smooth bend, which its own nodes and the four corners tell alone; ``side`` 0 is the upper, then
    clockwise.
    """
    matrix = homography([(0, 0), (width, 0), (width, height), (0, height)], corners)
    round_ = [(0.0, 0.0), (width, 0.0), (width, height), (0.0, height), (0.0, 0.0)]
    start, end = round_[side], round_[side + 1]
    places = np.linspace(start, end, len(nodes))
    added = np.array(nodes, float) - projected(matrix, places)
    line = added if side < 2 else added[::-1]
    net = np.stack([line, line]) if side % 2 == 0 else np.stack([line, line], 1)
    return side_points(Warp(net, width, height, "smooth", matrix, spline_through(net)), start, end)


def outline_of(sides: Iterable[Side]) -> Floats:
    """Sides that follow one another round, as one closed line; shape (n, 2)."""
    return np.array([p for side in sides for p in side[:-1]], float)


def sides_of(warp: Warp, part: tuple[float, float, float, float]) -> tuple[Side, Side, Side, Side]:
    """The upper, right, lower and left side of a part of a region (left, top, right, bottom, in its pixels), clockwise
    round, on the raster.

    Parameters
    ----------
    warp : Warp
        How the region bends.
    part : tuple[float, float, float, float]
        x, y, width and height of the part of the region.

    Returns
    -------
    tuple[Side, Side, Side, Side]
    """
    x0, y0, x1, y1 = part
    if part == (0, 0, warp.width, warp.height) and warp.spans == "smooth":
        n = warp.nodes
        edges = [tuple(map(tuple, e.tolist())) for e in (n[0], n[:, -1], n[-1, ::-1], n[::-1, 0])]
        corners = tuple(e[0] for e in edges)
        a, b, c, d = (_edge_points(e, corners, warp.width, warp.height, k) for k, e in enumerate(edges))
        return a, b, c, d
    return (
        side_points(warp, (x0, y0), (x1, y0)),
        side_points(warp, (x1, y0), (x1, y1)),
        side_points(warp, (x1, y1), (x0, y1)),
        side_points(warp, (x0, y1), (x0, y0)),
    )


def matched(sides: Sequence[Side], nodes: Sequence[Side], known: dict[Side, Side]) -> tuple[Side, ...]:
    """Sides with those that another landing has too taken from it, whichever way it goes round; and those of this one
    made known.

    ``nodes`` are the points that each side goes through: two curves through the same points are the same line for both.

    Parameters
    ----------
    sides : Sequence[Side]
        Which sides.
    nodes : Sequence[Side]
        Places that are known.
    known : dict[Side, Side]
        What is known already, to be used again.

    Returns
    -------
    tuple[Side, ...]
    """
    out = []
    for side, through in zip(sides, nodes, strict=True):
        if len(through) <= 2:
            out.append(side)
            continue
        back = known.get(through[::-1])
        out.append(back[::-1] if back is not None else known.setdefault(through, side))
    return tuple(out)
