"""Arranging rectangles of whole pixels: aligning, dealing out gaps, reflecting, dividing, packing.

Pure arithmetic on lists of `Rect`; every function returns as many rectangles as it was given, in the same order.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Literal

from ushering_adze.core.plane.rect import Rect

Edge = Literal["left", "centre", "right", "top", "middle", "foot"]
Axis = Literal["across", "down"]


def box_around(rects: Sequence[Rect]) -> Rect:
    """The smallest rectangle that holds all of them; of no size for none."""
    whole = Rect(0, 0, 0, 0)
    for rect in rects:
        whole = whole.join(rect)
    return whole


def aligned(rects: Sequence[Rect], edge: Edge, to: Rect | None = None) -> list[Rect]:
    """Bring one edge or the middle of all to the same place.

    Parameters
    ----------
    rects : sequence of Rect
    edge : {"left", "centre", "right", "top", "middle", "foot"}
    to : Rect, optional
        What they are brought to; the box around them by default.  An odd rest goes to the right or below.

    Examples
    --------
    >>> aligned([Rect(0, 0, 10, 10), Rect(40, 5, 20, 10)], "right")
    [Rect(x=50, y=0, w=10, h=10), Rect(x=40, y=5, w=20, h=10)]
    """
    whole = to or box_around(rects)
    made = []
    for x, y, w, h in rects:
        if edge == "left":
            x = whole.x
        elif edge == "centre":
            x = whole.x + (whole.w - w) // 2
        elif edge == "right":
            x = whole.right - w
        elif edge == "top":
            y = whole.y
        elif edge == "middle":
            y = whole.y + (whole.h - h) // 2
        else:
            y = whole.foot - h
        made.append(Rect(x, y, w, h))
    return made


def _flipped(rect: Rect) -> Rect:
    return Rect(rect.y, rect.x, rect.h, rect.w)


def even_gaps(rects: Sequence[Rect], axis: Axis, span: tuple[int, int] | None = None) -> list[Rect]:
    """Deal the room between the first and the last out in even gaps.

    Gaps are whole pixels, differ by at most one, and add up exactly; the odd ones lie evenly among the others.

    Parameters
    ----------
    rects : sequence of Rect
        In any order; they keep their order along the axis.
    axis : {"across", "down"}
    span : tuple of int, optional
        First pixel and first pixel past the end; from the first to the last rectangle by default.

    Examples
    --------
    >>> [r.x for r in even_gaps([Rect(0, 0, 10, 1), Rect(12, 0, 10, 1), Rect(51, 0, 10, 1)], "across")]
    [0, 25, 51]
    """
    if len(rects) < 2:
        return list(rects)
    if axis == "down":
        return [_flipped(r) for r in even_gaps([_flipped(r) for r in rects], "across", span)]
    order = sorted(range(len(rects)), key=lambda n: (rects[n].x, rects[n].right))
    start, end = span or (min(r.x for r in rects), max(r.right for r in rects))
    room, seams = end - start - sum(r.w for r in rects), len(rects) - 1
    made = list(rects)
    x = start
    for k, n in enumerate(order):
        made[n] = Rect(x, rects[n].y, rects[n].w, rects[n].h)
        x += rects[n].w + (room * (k + 1)) // seams - (room * k) // seams
    return made


def with_gap(rects: Sequence[Rect], axis: Axis, gap: int) -> list[Rect]:
    """Set every gap to the same number of pixels; the first stays where it is.  A negative gap overlaps.

    Parameters
    ----------
    rects : Sequence[Rect]
        In whole pixels.
    axis : Axis
        Along x or along y.
    gap : int
        Pixels between neighbours.

    Returns
    -------
    list[Rect]
    """
    if axis == "down":
        return [_flipped(r) for r in with_gap([_flipped(r) for r in rects], "across", gap)]
    made, x = list(rects), None
    for n in sorted(range(len(rects)), key=lambda n: (rects[n].x, rects[n].right)):
        made[n] = Rect(rects[n].x if x is None else x, rects[n].y, rects[n].w, rects[n].h)
        x = made[n].right + gap
    return made


def reflected(rects: Sequence[Rect], axis: Axis, within: Rect) -> list[Rect]:
    """Mirror the places about the middle of a rectangle, pixel for pixel.

    A gap of *n* px at the left becomes one of *n* px at the right.  Reflecting twice gives the first places back.

    Parameters
    ----------
    rects : Sequence[Rect]
        In whole pixels.
    axis : Axis
        Along x or along y.
    within : Rect
        What is looked at.

    Returns
    -------
    list[Rect]

    Examples
    --------
    >>> reflected([Rect(0, 636, 256, 768)], "across", Rect(0, 0, 4112, 2040))
    [Rect(x=3856, y=636, w=256, h=768)]
    """
    if axis == "across":
        return [Rect(within.x + within.right - r.right, r.y, r.w, r.h) for r in rects]
    return [Rect(r.x, within.y + within.foot - r.foot, r.w, r.h) for r in rects]


def opened(rects: Sequence[Rect], axis: Axis, middle2: int, by: int) -> list[Rect]:
    """Open (or, negative, close) a gap at a centre line: both sides move away from it by the same number of pixels.

    Parameters
    ----------
    middle2 : int
        Twice the place of the centre line, so that it may lie between two pixels.
    by : int
        Pixels that each side moves; what lies across the line stays.

    Examples
    --------
    >>> opened([Rect(0, 0, 50, 10), Rect(50, 0, 50, 10)], "across", 100, 4)
    [Rect(x=-4, y=0, w=50, h=10), Rect(x=54, y=0, w=50, h=10)]
    """
    made = []
    for r in rects:
        twice = 2 * r.x + r.w if axis == "across" else 2 * r.y + r.h
        step = by if twice > middle2 else -by if twice < middle2 else 0
        made.append(r.moved(step, 0) if axis == "across" else r.moved(0, step))
    return made


def swapped(rects: Sequence[Rect]) -> list[Rect]:
    """Exchange places: each takes the top left corner of the next, the last that of the first; sizes stay."""
    return [Rect(rects[(n + 1) % len(rects)].x, rects[(n + 1) % len(rects)].y, r.w, r.h) for n, r in enumerate(rects)]


def in_grid(rect: Rect, columns: int, rows: int, step_x: int, step_y: int) -> list[Rect]:
    """Copies in rows and columns, row by row; the first is the rectangle itself.

    Parameters
    ----------
    rect : Rect
        In whole pixels.
    columns : int
        How many, from left to right.
    rows : int
        How many, from top to bottom.
    step_x : int
        Pixels from one to the next, to the right.
    step_y : int
        Pixels from one to the next, down.

    Returns
    -------
    list[Rect]
    """
    return [rect.moved(c * step_x, r * step_y) for r in range(rows) for c in range(columns)]


def divided(whole: Rect, columns: int, rows: int) -> list[Rect]:
    """A rectangle in equal parts, row by row; sizes differ by at most a pixel, and nothing is left over.

    Parameters
    ----------
    whole : Rect
        What is divided.
    columns : int
        How many, from left to right.
    rows : int
        How many, from top to bottom.

    Returns
    -------
    list[Rect]

    Examples
    --------
    >>> divided(Rect(0, 0, 3840, 2160), 2, 2)[3]
    Rect(x=1920, y=1080, w=1920, h=1080)
    >>> [r.w for r in divided(Rect(0, 0, 100, 10), 3, 1)]
    [33, 33, 34]
    """
    xs = [whole.x + whole.w * k // columns for k in range(columns + 1)]
    ys = [whole.y + whole.h * k // rows for k in range(rows + 1)]
    return [Rect(xs[c], ys[r], xs[c + 1] - xs[c], ys[r + 1] - ys[r]) for r in range(rows) for c in range(columns)]


def shared_out(whole: Rect, shares: Sequence[float], axis: Axis) -> list[Rect]:
    """A rectangle cut by shares (per cent or any unit); cuts are rounded each by itself, so that nothing is left over.

    Parameters
    ----------
    whole : Rect
        What is shared out.
    shares : Sequence[float]
        Shares of light.
    axis : Axis
        Along x or along y.

    Returns
    -------
    list[Rect]

    Examples
    --------
    >>> [r.w for r in shared_out(Rect(0, 0, 1000, 10), (50, 25, 25), "across")]
    [500, 250, 250]
    """
    total = sum(shares)
    length = whole.w if axis == "across" else whole.h
    cuts = [0, *(round(length * sum(shares[: k + 1]) / total) for k in range(len(shares)))]
    if axis == "across":
        return [Rect(whole.x + a, whole.y, b - a, whole.h) for a, b in pairwise(cuts)]
    return [Rect(whole.x, whole.y + a, whole.w, b - a) for a, b in pairwise(cuts)]


def packed(sizes: Sequence[tuple[int, int]], width: int) -> list[Rect]:
    """Lay sizes out from the top left in rows, in their order; a row ends where the next does not fit into ``width``.

    No two overlap.  What is wider than ``width`` gets a row of its own and sticks out.

    Parameters
    ----------
    sizes : Sequence[tuple[int, int]]
        Width and height of each.
    width : int
        In pixels.

    Returns
    -------
    list[Rect]

    Examples
    --------
    >>> packed([(600, 200), (600, 300), (900, 100)], 1300)
    [Rect(x=0, y=0, w=600, h=200), Rect(x=600, y=0, w=600, h=300), Rect(x=0, y=300, w=900, h=100)]
    """
    made: list[Rect] = []
    x = y = high = 0
    for w, h in sizes:
        if x and x + w > width:
            x, y, high = 0, y + high, 0
        made.append(Rect(x, y, w, h))
        x, high = x + w, max(high, h)
    return made
