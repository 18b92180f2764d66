"""What a rectangle found in a pixel map truly is: framed, parted by a line, a cell of a checkerboard, a slice of a
gradient, or no rectangle.

Nothing here is guessed in silence: what could be read in two ways is offered both ways, and is never more than nine
tenths sure.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.mapping.from_surface import whole_rects
from ushering_adze.core.plane.rect import Rect

Bytes = NDArray[np.uint8]
Flags = NDArray[np.bool_]
UNSURE = 0.85
"""The most confidence in what could be read in another way as well."""
FRAME = 8
"""Thickest frame, in pixels, that is taken for a panel's own."""
FAINT = 10.0
"""Codes by which a panel's colour must differ from what lies beside it."""
STRIP = 6
"""Least width of a strip that is at least eight times as long."""


class Found(NamedTuple):
    """A rectangle found in a picture, in its pixels, how sure that is (0 to 1), and its colour as ``#RRGGBB``.

    ``parts`` are rectangles it may be divided into instead: the cabinets of a checkerboard or of a grid.
    """

    rect: Rect
    confidence: float
    colour: str
    parts: tuple[Rect, ...] = ()


def is_panel(rect: Rect, smallest: int) -> bool:
    """Whether a rectangle is large enough for a panel, or a strip of one.

    Parameters
    ----------
    rect : Rect
        In whole pixels.
    smallest : int
        Sides of the smallest, in pixels.

    Returns
    -------
    bool
    """
    short, long = sorted((rect.w, rect.h))
    return short >= smallest or (short >= STRIP and long >= 8 * short)


def near(pixels: Bytes, colour: NDArray[np.float32], same: float) -> Flags:
    """Which pixels are of a colour, but for noise.

    Parameters
    ----------
    pixels : Bytes
        BGRA, premultiplied, shape (h, w, 4).
    colour : ndarray
        As ``#RRGGBB``, or blue first.
    same : float
        Codes by which colours may differ and still be one.

    Returns
    -------
    Flags
    """
    return np.asarray(np.abs(pixels.astype(np.float32) - colour).max(-1) <= same)


def framed(
    picture: Bytes, rect: Rect, own: NDArray[np.float32], ground: NDArray[np.float32] | None, same: float
) -> Rect:
    """A rectangle with the frame of another colour around it, if there is one all round, of one width and not of the
    ground.

    Parameters
    ----------
    picture : Bytes
        The picture.
    rect : Rect
        In whole pixels.
    own : ndarray
        Its own colour.
    ground : ndarray | None
        What lies under it.
    same : float
        Codes by which colours may differ and still be one.

    Returns
    -------
    Rect
    """
    h, w = picture.shape[:2]
    colour: NDArray[np.float32] | None = None
    wide = 0
    for t in range(1, FRAME + 2):
        x0, y0, x1, y1 = rect.x - t, rect.y - t, rect.right + t - 1, rect.foot + t - 1
        if x0 < 0 or y0 < 0 or x1 >= w or y1 >= h:
            break
        ring = np.concatenate(
            [picture[y0, x0 : x1 + 1], picture[y1, x0 : x1 + 1], picture[y0 : y1 + 1, x0], picture[y0 : y1 + 1, x1]]
        )
        if colour is None:
            colour = np.median(ring, 0).astype(np.float32)
            if np.abs(colour - own).max() <= same or (ground is not None and np.abs(colour - ground).max() <= same):
                return rect
        corners = picture[
            [y0, y0, y1, y1], [x0, x1, x0, x1]
        ]  # may be rounded; in a checkerboard they are of the panel's own colour
        if near(ring, colour, same).mean() < 0.97 or near(corners, own, same).any():
            break
        wide = t
    return (
        rect if not wide or wide > FRAME else Rect(rect.x - wide, rect.y - wide, rect.w + 2 * wide, rect.h + 2 * wide)
    )


def _runs(lines: Flags) -> list[tuple[int, int]]:
    """Starts and ends of what is true."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], lines.astype(np.int8), [0]])))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _between(runs: list[tuple[int, int]], size: int) -> list[tuple[int, int]]:
    ends = [0, *(v for run in runs for v in run), size]
    return [(a, b) for a, b in zip(ends[::2], ends[1::2], strict=True) if b > a]


def parted(picture: Bytes, found: Found, ground: NDArray[np.float32] | None, same: float) -> list[Found]:
    """A rectangle at lines of one or two pixels of the ground that go all through it.

    Lines that part it one way, not evenly, make several of it; a grid of them, or even columns or rows, stays one and
    is offered as parts.

    Parameters
    ----------
    picture : Bytes
        The picture.
    found : Found
        What was found so far.
    ground : ndarray | None
        What lies under it.
    same : float
        Codes by which colours may differ and still be one.

    Returns
    -------
    list[Found]
    """
    if ground is None:
        return [found]
    rect = found.rect
    dark = near(picture[rect.cut()], ground, same)
    across, down = (
        [(a, b) for a, b in _runs(lines) if a > 0 and b < size and b - a <= 2]
        for lines, size in ((dark.mean(0) >= 0.95, rect.w), (dark.mean(1) >= 0.95, rect.h))
    )
    if not across and not down:
        return [found]
    columns, rows = _between(across, rect.w), _between(down, rect.h)
    parts = tuple(Rect(rect.x + a, rect.y + c, b - a, d - c) for c, d in rows for a, b in columns)
    lengths = [b - a for a, b in (columns if across else rows)]
    even = len(lengths) > 2 and max(lengths) - min(lengths) <= 1
    if (across and down) or even:
        return [found._replace(confidence=min(found.confidence, UNSURE), parts=parts)]
    return [found._replace(rect=p, parts=()) for p in parts if min(p.w, p.h) >= STRIP]


def stands_out(picture: Bytes, rect: Rect) -> float:
    """By how many codes a rectangle differs from what lies beside it on the side where it differs least; sides off the
    picture count as much as any.

    Within a gradient neighbouring pixels hardly differ: there is no edge.

    Parameters
    ----------
    picture : Bytes
        The picture.
    rect : Rect
        In whole pixels.

    Returns
    -------
    float
    """
    h, w = picture.shape[:2]
    least = 255.0
    for turned, (x, y, wide, high), size in (
        (picture, rect, w),
        (picture.transpose(1, 0, 2), (rect.y, rect.x, rect.h, rect.w), h),
    ):
        rows = slice(y + high // 8, max(y + high // 8 + 1, y + high - high // 8))
        deep = min(4, wide // 2)  # behind lines along the edge, which two panels may share
        for inner, first, step in ((x + deep, x - 1, -1), (x + wide - 1 - deep, x + wide, 1)):
            outside = [k for k in (first, first + 2 * step, first + 4 * step) if 0 <= k < size]
            if outside:
                apart = np.abs(turned[rows, inner].astype(np.int16)[:, None] - turned[rows][:, outside]).max(-1)
                least = min(least, float(np.median(apart, 0).max()))
    return least


def whole_shapes(picture: Bytes, found: Found, ground: NDArray[np.float32] | None, same: float) -> list[Found]:
    """A rectangle, or the rectangles that make up an L, U, T or stair of which it was only the box.

    Parameters
    ----------
    picture : Bytes
        The picture.
    found : Found
        What was found so far.
    ground : ndarray | None
        What lies under it.
    same : float
        Codes by which colours may differ and still be one.

    Returns
    -------
    list[Found]
    """
    if ground is None:
        return [found]
    rect = found.rect
    dark = cv2.morphologyEx(
        near(picture[rect.cut()], ground, same).astype(np.uint8), cv2.MORPH_OPEN, np.ones((5, 5), np.uint8)
    )
    count, labels, stats, _ = cv2.connectedComponentsWithStats(dark, connectivity=4)
    notches = [
        n
        for n in range(1, count)
        if stats[n][4] > 0.01 * rect.area
        and (
            stats[n][0] == 0
            or stats[n][1] == 0
            or stats[n][0] + stats[n][2] == rect.w
            or stats[n][1] + stats[n][3] == rect.h
        )
    ]
    if not notches:
        return [found]
    xs, ys = {0, rect.w}, {0, rect.h}
    for n in notches:
        xs |= {int(stats[n][0]), int(stats[n][0] + stats[n][2])}
        ys |= {int(stats[n][1]), int(stats[n][1] + stats[n][3])}
    columns, rows = sorted(xs), sorted(ys)
    hole = np.isin(labels, notches)
    cells = [
        (i + 1, j + 1)
        for j in range(len(rows) - 1)
        for i in range(len(columns) - 1)
        if float(hole[rows[j] : rows[j + 1], columns[i] : columns[i + 1]].mean()) < 0.5
    ]
    made = []
    for column, row, wide, high in whole_rects(cells):
        x0, x1, y0, y1 = columns[column - 1], columns[column + wide - 1], rows[row - 1], rows[row + high - 1]
        if min(x1 - x0, y1 - y0) >= STRIP:
            made.append(
                found._replace(
                    rect=Rect(rect.x + x0, rect.y + y0, x1 - x0, y1 - y0),
                    confidence=min(found.confidence, 0.7),
                    parts=(),
                )
            )
    return made


def checkered(found: Sequence[Found]) -> list[Found]:
    """Cells of one size and two colours in turn as one rectangle, with the cells as its parts."""
    groups: dict[tuple[int, int], list[Found]] = {}
    for f in found:
        groups.setdefault((f.rect.w, f.rect.h), []).append(f)
    done: set[int] = set()
    made: list[Found] = []
    for (w, h), cells in groups.items():
        places = {(f.rect.x, f.rect.y): f for f in cells}
        for f in cells:
            if id(f) in done:
                continue
            family, open_ = {(f.rect.x, f.rect.y)}, [(f.rect.x, f.rect.y)]
            while open_:
                x, y = open_.pop()
                for step in ((x + w, y), (x - w, y), (x, y + h), (x, y - h)):
                    if step in places and step not in family and places[step].colour != places[x, y].colour:
                        family.add(step)
                        open_.append(step)
            xs, ys = {x for x, _ in family}, {y for _, y in family}
            odd = [
                {places[p].colour for p in family if ((p[0] - min(xs)) // w + (p[1] - min(ys)) // h) % 2 == k}
                for k in (0, 1)
            ]
            if (
                len(family) < 4
                or len(family) != len(xs) * len(ys)
                or min(len(xs), len(ys)) < 2
                or [len(o) for o in odd] != [1, 1]
            ):
                continue
            parts = tuple(sorted((places[p].rect for p in family), key=lambda r: (r.y, r.x)))
            sure = min(places[p].confidence for p in family)
            made.append(
                Found(
                    Rect(min(xs), min(ys), len(xs) * w, len(ys) * h),
                    min(sure, UNSURE),
                    places[min(family)].colour,
                    parts,
                )
            )
            done |= {id(places[p]) for p in family}
    return [f for f in found if id(f) not in done] + made


def unsaid(
    picture: Bytes, found: Sequence[Found], ground: NDArray[np.float32] | None, same: float, smallest: int
) -> list[Found]:
    """What stands on the ground and in which nothing was found: photographs, gradients, L-shapes; three quarters sure
    at most.

    Parameters
    ----------
    picture : Bytes
        The picture.
    found : Sequence[Found]
        What was found so far.
    ground : ndarray | None
        What lies under it.
    same : float
        Codes by which colours may differ and still be one.
    smallest : int
        Sides of the smallest, in pixels.

    Returns
    -------
    list[Found]
    """
    if ground is None:
        return []
    lit = (~near(picture, ground, max(same, 6.0))).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(lit, connectivity=4)
    made = []
    for n in range(1, count):
        x, y, w, h, area = (int(v) for v in stats[n])
        rect = Rect(x, y, w, h)
        whole = rect.w == picture.shape[1] and rect.h == picture.shape[0]
        if whole or not is_panel(rect, smallest) or any(not rect.meet(f.rect).empty for f in found):
            continue
        pixels = picture[rect.cut()][labels[rect.cut()] == n]
        blue, green, red = (round(float(v)) for v in np.median(pixels[:: max(1, len(pixels) // 4000)], 0))
        one = Found(rect, 0.75, f"#{red:02X}{green:02X}{blue:02X}")
        if area >= 0.98 * rect.area:
            made += [one] if stands_out(picture, rect) >= FAINT else []
            continue
        parts = whole_shapes(picture, one, ground, same)
        if len(parts) < 9 and abs(sum(p.rect.area for p in parts) - area) < 0.02 * area:
            made += parts
    return made
