"""Boxes of layers, which need not lie on whole pixels: moved, sized by a handle, brought to lines."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import Literal, NamedTuple, cast

from ushering_adze.core.plane.rect import Rect

Box = tuple[float, float, float, float]
"""x, y, w, h in canvas pixels."""

LEAST = 1.0
"""Pixels that a side has at least when it is dragged."""


class Line(NamedTuple):
    """A line to bring a box to: where, and whose it is, in words."""

    at: float
    words: str


class Met(NamedTuple):
    """A line that a box was brought to, by the axis that it crosses."""

    axis: str
    line: Line


def sized(box: Box, handle: tuple[int, int], dx: float, dy: float, keep: bool = False, middle: bool = False) -> Box:
    """A box whose handle was dragged.

    Parameters
    ----------
    box : Box
    handle : tuple of int
        −1, 0 or 1 along each axis: ``(-1, -1)`` is the upper left corner, ``(1, 0)`` the right edge.
    dx, dy : float
        By how many pixels.
    keep : bool
        Keep its shape: of a corner the longer way counts, at an edge the other side follows about its middle.
    middle : bool
        Let its middle stay, instead of the side across.

    Returns
    -------
    Box
        No side under `LEAST`.

    Examples
    --------
    >>> sized((0, 0, 100, 50), (1, 1), 100, 0, keep=True), sized((0, 0, 100, 50), (1, 0), 10, 0, middle=True)
    ((0, 0, 200.0, 100.0), (-10.0, 0, 120, 50))
    """
    x, y, w, h = box
    both = 2 if middle else 1
    wide = max(LEAST, w + handle[0] * dx * both) if handle[0] else w
    high = max(LEAST, h + handle[1] * dy * both) if handle[1] else h
    if keep and w > 0 and h > 0:
        if handle[0] and handle[1]:
            scale = max(wide / w, high / h)
        else:
            scale = wide / w if handle[0] else high / h
        wide, high = w * scale, h * scale

    def start(at: float, old: float, new: float, side: int) -> float:
        if middle or side == 0:
            return at + (old - new) / 2 if new != old else at
        return at + old - new if side < 0 else at

    return start(x, w, wide, handle[0]), start(y, h, high, handle[1]), wide, high


def rotated(dx: float, dy: float, degrees: float) -> tuple[float, float]:
    """A way turned clockwise, as it is seen with y downwards.

    Examples
    --------
    >>> tuple(round(v, 6) for v in rotated(10, 0, 90))
    (0.0, 10.0)
    """
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return dx * c - dy * s, dx * s + dy * c


def sized_turned(
    box: Box, degrees: float, handle: tuple[int, int], dx: float, dy: float, keep: bool = False, middle: bool = False
) -> Box:
    """A box that is turned about its middle and whose handle was dragged: as it is seen, the side across stays.

    Parameters
    ----------
    box : Box
        As it is before it is turned.
    degrees : float
        Clockwise.
    handle : tuple of int
        As for `sized`, of the box that is not turned.
    dx, dy : float
        By how many pixels, as it is seen.
    keep, middle : bool
        As for `sized`.

    Returns
    -------
    Box

    Examples
    --------
    >>> [round(v) for v in sized_turned((0, 0, 100, 50), 90, (1, 0), 0, 20)]
    [-10, 10, 120, 50]
    """
    made = sized(box, handle, *rotated(dx, dy, -degrees), keep, middle)
    (x, y), (u, v) = middle_of(box), middle_of(made)
    right, down = rotated(u - x, v - y, degrees)
    return about((x + right, y + down), made[2], made[3])


def turn_towards(box: Box, at: tuple[float, float], step: float | None = None) -> float:
    """By how many degrees a box is turned whose upper side faces a point.

    Parameters
    ----------
    box : Box
    at : tuple of float
    step : float, optional
        Degrees of which it is to be a multiple; a tenth if not given.

    Returns
    -------
    float
        More than −180, 180 at most, clockwise.

    Examples
    --------
    >>> turn_towards((0, 0, 10, 10), (20, 5)), turn_towards((0, 0, 10, 10), (4, -50), 15)
    (90.0, 0.0)
    """
    x, y = middle_of(box)
    found = math.degrees(math.atan2(at[0] - x, y - at[1]))
    found = round(found / step) * step if step else round(found, 1)
    return 180.0 if found == -180 else found + 0.0


def _nearest(mine: Sequence[float], lines: Sequence[Line], near: float) -> tuple[float, Line] | None:
    found = [(line.at - at, line) for at in mine for line in lines if abs(line.at - at) <= near]
    return min(found, key=lambda f: abs(f[0]), default=None)


def brought(box: Box, across: Sequence[Line], down: Sequence[Line], near: float) -> tuple[Box, list[Met]]:
    """A box that is moved, brought to the nearest lines by its edges and middles.

    Parameters
    ----------
    box : Box
    across, down : sequence of Line
        Upright lines by their x, level ones by their y.
    near : float
        Pixels within which a line draws.

    Returns
    -------
    box : Box
    met : list of Met

    Examples
    --------
    >>> brought((98, 7, 50, 20), [Line(100, "Meridian")], [], 6)[0]
    (100, 7, 50, 20)
    """
    x, y, w, h = box
    met = []
    side = _nearest((x, x + w, x + w / 2), across, near)
    if side is not None:
        x += side[0]
        met.append(Met("across", side[1]))
    side = _nearest((y, y + h, y + h / 2), down, near)
    if side is not None:
        y += side[0]
        met.append(Met("down", side[1]))
    return (x, y, w, h), met


def brought_by_handle(
    box: Box,
    handle: tuple[int, int],
    across: Sequence[Line],
    down: Sequence[Line],
    near: float,
    keep: bool,
    middle: bool,
) -> tuple[Box, list[Met]]:
    """A box that is sized, with the sides that its handle moves brought to the nearest lines; if its shape is kept, by
    the nearer of the two.

    Parameters
    ----------
    box : Box
        As it was dragged.
    handle : tuple of int
        As of `sized`.
    across, down : sequence of Line
    near : float
        Pixels within which a line draws.
    keep, middle : bool
        As of `sized`.

    Returns
    -------
    box : Box
    met : list of Met
    """
    x, y, w, h = box
    sides: list[tuple[str, float, Line]] = []
    if handle[0]:
        found = _nearest((x if handle[0] < 0 else x + w,), across, near)
        if found is not None:
            sides.append(("across", found[0], found[1]))
    if handle[1]:
        found = _nearest((y if handle[1] < 0 else y + h,), down, near)
        if found is not None:
            sides.append(("down", found[0], found[1]))
    if keep and len(sides) > 1:
        sides = [min(sides, key=lambda s: abs(s[1]))]
    made, met = box, []
    for axis, by, line in sides:
        if keep and handle[0] and handle[1]:
            made = _to_shape(made, handle, axis, by, middle)
        else:
            made = sized(made, handle, by if axis == "across" else 0, by if axis == "down" else 0, keep, middle)
        met.append(Met(axis, line))
    return made, met


def _to_shape(box: Box, handle: tuple[int, int], axis: str, by: float, middle: bool) -> Box:
    """A corner dragged so that one of its sides comes to a line, the other with it."""
    _, _, w, h = box
    both = 2 if middle else 1
    scale = 1 + (handle[0] * by * both / w if axis == "across" else handle[1] * by * both / h)
    return sized(box, handle, handle[0] * w * (scale - 1) / both, handle[1] * h * (scale - 1) / both, True, middle)


def same_shape(box: Box, width: float, height: float) -> Box:
    """The largest box of a picture's shape within another, about its middle.

    Parameters
    ----------
    box : Box
    width, height : float
        Of the picture.

    Returns
    -------
    Box

    Examples
    --------
    >>> same_shape((0, 0, 100, 100), 1920, 1080)
    (0.0, 21.875, 100.0, 56.25)
    """
    x, y, w, h = box
    scale = min(w / width, h / height)
    return x + (w - width * scale) / 2, y + (h - height * scale) / 2, width * scale, height * scale


def around(boxes: Iterable[Box]) -> Box | None:
    """The smallest box that holds all of them; None for none.

    Examples
    --------
    >>> around([(0, 0, 10, 10), (20, 5, 10, 10)])
    (0, 0, 30, 15)
    """
    listed = list(boxes)
    if not listed:
        return None
    x0, y0 = min(b[0] for b in listed), min(b[1] for b in listed)
    return x0, y0, max(b[0] + b[2] for b in listed) - x0, max(b[1] + b[3] for b in listed) - y0


class Gap(NamedTuple):
    """A distance from a box to what is next to it, across or down: from where to where, on which line of the other
    axis.
    """

    axis: Literal["across", "down"]
    begin: float
    end: float
    at: float

    @property
    def length(self) -> float:
        """In pixels."""
        return self.end - self.begin


def gaps(box: Box, others: Iterable[Box]) -> tuple[Gap, ...]:
    """Distances from a box to the nearest of others to its left, its right, above and below, as far as they lie beside
    it; what it lies within has its edges inside.

    Parameters
    ----------
    box : Box
    others : iterable of Box

    Returns
    -------
    tuple of Gap
        At most four; what touches has none.

    Examples
    --------
    >>> [(g.axis, g.length) for g in gaps((10, 10, 10, 10), [(0, 0, 100, 40), (30, 12, 10, 4)])]
    [('across', 10), ('across', 10), ('down', 10), ('down', 20)]
    """
    known = list(others)
    found: list[Gap] = []
    for axis, n in (("across", 0), ("down", 1)):
        low, high = box[n], box[n] + box[n + 2]
        side, end = box[1 - n], box[1 - n] + box[3 - n]
        beside = [o for o in known if min(end, o[1 - n] + o[3 - n]) > max(side, o[1 - n])]
        edges = [(e, o) for o in beside for e in (o[n], o[n] + o[n + 2])]
        before = max((pair for pair in edges if pair[0] < low), key=lambda pair: pair[0], default=None)
        after = min((pair for pair in edges if pair[0] > high), key=lambda pair: pair[0], default=None)
        for pair, first in ((before, True), (after, False)):
            if pair is not None:
                edge, other = pair
                middle = (max(side, other[1 - n]) + min(end, other[1 - n] + other[3 - n])) / 2
                begin, stop = (edge, low) if first else (high, edge)
                found.append(Gap(cast('Literal["across", "down"]', axis), begin, stop, middle))
    return tuple(found)


def middle_of(box: Box) -> tuple[float, float]:
    """The middle of a box."""
    return box[0] + box[2] / 2, box[1] + box[3] / 2


def about(middle: tuple[float, float], width: float, height: float) -> Box:
    """A box of a size about a middle."""
    return middle[0] - width / 2, middle[1] - height / 2, width, height


def whole(box: Box) -> Box:
    """A box on whole pixels, at least one wide and high."""
    x, y, w, h = box
    return float(round(x)), float(round(y)), float(max(1, round(w))), float(max(1, round(h)))


def box_of_rect(rect: Rect) -> Box:
    """A rectangle of whole pixels as a box."""
    return float(rect.x), float(rect.y), float(rect.w), float(rect.h)


def rect_of_box(box: Box) -> Rect:
    """A box as a rectangle of whole pixels, at least one wide and high."""
    x, y, w, h = whole(box)
    return Rect(int(x), int(y), int(w), int(h))


def holds(box: Box, at: tuple[float, float]) -> bool:
    """Whether a point lies in a box."""
    x, y, w, h = box
    return x <= at[0] < x + w and y <= at[1] < y + h


def alike(a: Box, b: Box, near: float = 1.0) -> bool:
    """Whether two boxes are the same to less than so many pixels."""
    return all(abs(x - y) < near for x, y in zip(a, b, strict=True))


def carried(box: Box, old: Box, new: Box) -> Box:
    """A box that goes with a larger one which was moved or sized.

    Parameters
    ----------
    box : Box
    old, new : Box
        The larger one, before and after.

    Examples
    --------
    >>> carried((50, 0, 50, 50), (0, 0, 100, 50), (0, 0, 200, 100))
    (100.0, 0.0, 100.0, 100.0)
    """
    kx, ky = new[2] / old[2] if old[2] else 1.0, new[3] / old[3] if old[3] else 1.0
    return new[0] + (box[0] - old[0]) * kx, new[1] + (box[1] - old[1]) * ky, box[2] * kx, box[3] * ky


MOST_CUT = 0.98
"""Share of a picture that is cut from it at most by hand."""


def cropped(box: Box, crop: Box, handle: tuple[int, int], dx: float, dy: float) -> tuple[Box, Box]:
    """A picture cut by a handle of its box: the box shrinks with it, so that what is left stays where it is.

    Parameters
    ----------
    box : Box
    crop : tuple of float
        What is cut from the left, top, right and bottom, as shares of the picture.
    handle : tuple of int
        As of `sized`.
    dx, dy : float
        By how many pixels it was dragged.

    Returns
    -------
    box, crop

    Examples
    --------
    >>> cropped((0, 0, 100, 50), (0, 0, 0, 0), (-1, 0), 25, 0)
    ((25.0, 0.0, 75.0, 50.0), (0.25, 0, 0, 0))
    """
    left, top, right, bottom = crop
    wide, high = box[2] / max(1e-6, 1 - left - right), box[3] / max(1e-6, 1 - top - bottom)
    if handle[0] < 0:
        left = min(max(0.0, left + dx / wide), MOST_CUT - right)
    elif handle[0] > 0:
        right = min(max(0.0, right - dx / wide), MOST_CUT - left)
    if handle[1] < 0:
        top = min(max(0.0, top + dy / high), MOST_CUT - bottom)
    elif handle[1] > 0:
        bottom = min(max(0.0, bottom - dy / high), MOST_CUT - top)
    x, y = box[0] + (left - crop[0]) * wide, box[1] + (top - crop[1]) * high
    return (x, y, (1 - left - right) * wide, (1 - top - bottom) * high), (left, top, right, bottom)


def panned(crop: Box, dx: float, dy: float) -> Box:
    """A picture moved within its box, as far as there is more of it.

    Parameters
    ----------
    crop : tuple of float
        What is cut from the left, top, right and bottom, as shares of the picture.
    dx, dy : float
        By which shares of what is seen of it.

    Returns
    -------
    crop
        As much is seen as before.

    Examples
    --------
    >>> panned((0.2, 0, 0.2, 0), 0.1, 0.5)
    (0.14, 0, 0.26, 0)
    """
    left, top, right, bottom = crop
    across = max(-right, min(left, dx * (1 - left - right)))
    down = max(-bottom, min(top, dy * (1 - top - bottom)))
    return tuple(round(v, 9) for v in (left - across, top - down, right + across, bottom + down))  # type: ignore[return-value]


def zoomed(crop: Box, factor: float) -> Box:
    """A picture made larger within its box about the middle of what is seen, or smaller as far as there is more of it.

    Parameters
    ----------
    crop : tuple of float
        As for `panned`.
    factor : float
        Over 1 to make it larger.

    Returns
    -------
    crop
        Of the same shape, unless it would go past the picture.

    Examples
    --------
    >>> zoomed((0, 0, 0, 0), 2), zoomed((0.25, 0.25, 0.25, 0.25), 0.5)
    ((0.25, 0.25, 0.25, 0.25), (0.0, 0.0, 0.0, 0.0))
    """
    left, top, right, bottom = crop
    wide, high = 1 - left - right, 1 - top - bottom
    scale = 1 / max(factor, 1e-6)
    scale = max(min(scale, 1 / wide, 1 / high), (1 - MOST_CUT) / min(wide, high))

    def within(low: float, high: float, size: float) -> tuple[float, float]:
        new = min(1.0, size * scale)
        start = min(max(0.0, low + (size - new) / 2), 1 - new)
        return start, max(0.0, 1 - start - new)

    (left, right), (top, bottom) = within(left, right, wide), within(top, bottom, high)
    return left, top, right, bottom


def handled(
    old: Box,
    handle: tuple[int, int],
    by: tuple[float, float],
    lines: tuple[Sequence[Line], Sequence[Line]],
    near: float,
    keep: bool = False,
    middle: bool = False,
) -> tuple[Box, list[Met]]:
    """A box that was dragged, by a handle or as a whole, brought to lines that are near, else to whole pixels.

    Parameters
    ----------
    old : tuple of float
    handle : tuple of int
        (0, 0) is the whole box, which is moved.
    by : tuple of float
    lines : tuple of sequence of Line
        Across and down.
    near : float
    keep : bool, optional
        Its shape; of a box that is moved, one of its axes.
    middle : bool, optional
        Sized about its middle.

    Returns
    -------
    Box
    list of Met

    Examples
    --------
    >>> handled((0.0, 0.0, 10.0, 10.0), (0, 0), (5.4, 2.0), ((), ()), 1.0, keep=True)[0]
    (5.0, 0.0, 10.0, 10.0)
    """
    dx, dy = by
    if handle == (0, 0):
        if keep:
            dx, dy = (dx, 0.0) if abs(dx) >= abs(dy) else (0.0, dy)
        return brought((old[0] + round(dx), old[1] + round(dy), old[2], old[3]), *lines, near)
    new, met = brought_by_handle(sized(old, handle, dx, dy, keep, middle), handle, *lines, near, keep, middle)
    return (new if keep or met else whole(new)), met
