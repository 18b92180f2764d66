"""Finding the rectangles of a pixel map picture.

A pixel map is drawn flat: each panel a rectangle of one colour, with labels and grid lines in it.  Colours are told
apart by the peaks of the picture's colour histogram; whatever is too thin to be a panel is *ink* (letters, lines, the
soft edges of both), and bridges the tiles that a cabinet grid cuts a panel into.  Each side is then placed by itself,
row by row, where the colours change from the panel's own to what lies outside, and the majority of rows decides.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.seeing.find_shapes import (
    FAINT,
    Found,
    checkered,
    framed,
    is_panel,
    parted,
    stands_out,
    unsaid,
    whole_shapes,
)

MAX_PIXELS = 140_000_000
"""Largest picture looked at; 16 384 × 8192 fits."""

_BINS = 64
_SOLID = 5
_BRIDGE = 9
_REACH = 20
_DEPTH = 12
_LINES = 120
_APART = 40
_Bytes = NDArray[np.uint8]


def _classes(picture: _Bytes, near: int) -> tuple[NDArray[np.int16], NDArray[np.float32]]:
    """The flat colour of each pixel as a number, −1 for none, and the colours (n, 3)."""
    blue, green, red = (picture[..., k].astype(np.int32) >> 2 for k in range(3))
    bins = blue << 12 | green << 6 | red
    counts = np.bincount(bins.ravel(), minlength=_BINS**3)
    least = max(100, picture.shape[0] * picture.shape[1] // 200_000)
    # The bins that matter, most frequent first; each takes in what lies near it, so that noise makes no colours of its
    # own.
    order = np.flatnonzero(counts >= max(8, least // 20))
    order = order[np.argsort(-counts[order], kind="stable")]
    levels = np.stack([order >> 12, order >> 6 & 63, order & 63], 1).astype(np.float32) * 4 + 2
    lookup = np.full(_BINS**3, -1, np.int16)
    colours: list[NDArray[np.float32]] = []
    left = np.ones(len(order), bool)
    for n in range(len(order)):
        if not left[n] or counts[order[n]] < least or len(colours) > 400:
            continue
        member = left & (np.abs(levels - levels[n]).max(1) <= near)
        lookup[order[member]] = len(colours)
        colours.append(np.average(levels[member], 0, counts[order[member]]).astype(np.float32))
        left &= ~member
    return lookup[bins], np.array(colours, np.float32).reshape(-1, 3)


def _solid(labels: NDArray[np.int16]) -> NDArray[np.int16]:
    """Labels with everything thinner than a few pixels taken away: a morphological opening of every colour at once."""
    kernel = np.ones((_SOLID, _SOLID), np.uint8)
    same = cv2.erode(labels, kernel, borderType=cv2.BORDER_REPLICATE) == cv2.dilate(
        labels, kernel, borderType=cv2.BORDER_REPLICATE
    )
    high = np.where(same, labels, -1)
    low = np.where(same & (labels >= 0), labels, 32767)
    near_high = cv2.dilate(high, kernel, borderType=cv2.BORDER_REPLICATE)
    near_low = cv2.erode(low, kernel, borderType=cv2.BORDER_REPLICATE)
    return np.where((labels == near_high) | (labels == near_low), labels, -1).astype(np.int16)


class _Look(NamedTuple):
    """How a picture is looked at: colours nearer than ``same`` are one, and the colour of the ground, if
    there is one.
    """

    same: float
    ground: NDArray[np.float32] | None


def _strip(picture: _Bytes, rect: Rect, side: int) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
    """Rows of pixels across one side of a rectangle, from a little inside outwards, and which of them are off the
    picture.

    Sides are 0 left, 1 top, 2 right, 3 foot.
    """
    turned: Any = picture if side in (0, 2) else picture.transpose(1, 0, 2)
    x, y, w, h = rect if side in (0, 2) else (rect.y, rect.x, rect.h, rect.w)
    width = turned.shape[1]
    inset = min(4, h // 4)
    rows = np.unique(np.linspace(y + inset, y + h - 1 - inset, min(h, _LINES)).astype(int))
    steps = np.arange(-min(_DEPTH, w), _REACH)
    columns = x - 1 - steps if side in (0, 1) else x + w + steps
    off = (columns < 0) | (columns >= width)
    return turned[rows][:, np.clip(columns, 0, width - 1)].astype(np.float32), np.broadcast_to(
        off, (len(rows), len(columns))
    )


def _side(picture: _Bytes, rect: Rect, own: NDArray[np.float32], side: int, look: _Look) -> tuple[int, float, float]:
    """Where one side of a rectangle lies: its shift outwards in px, the share of rows that agree on it, and that saw an
    edge at all.

    In each row the panel goes on while its own colour comes back after no more than a line; past the last of it, lines
    on its very edge still belong to it, until something flat begins outside.
    """
    strip, off = _strip(picture, rect, side)
    rows, columns = strip.shape[:2]
    depth = columns - _REACH
    mine = (np.abs(strip - own).max(2) <= look.same) & ~off
    ground = np.zeros_like(mine) if look.ground is None else np.abs(strip - look.ground).max(2) <= look.same
    ground &= ~mine
    last = np.full(rows, -1)
    open_ = np.ones(rows, bool)
    wall = ground.copy()  # a line of the ground's colour may be drawn on a panel; a strip of it is outside
    wall[:, :-2] &= ground[:, 1:-1] & ground[:, 2:]
    for k in range(columns):
        started = last >= 0
        open_ &= ~(started & wall[:, k]) & ~(started & (k - last > _BRIDGE))
        last = np.where(mine[:, k] & open_, k, last)
    steady = np.full((rows, columns), False)
    three = (strip[:, :-2], strip[:, 1:-1], strip[:, 2:])
    spread = np.maximum.reduce(three) - np.minimum.reduce(three)
    steady[:, :-2] = (spread.max(2) <= 1.5 * look.same) & ~off[:, 2:]
    steady |= off
    steady &= np.arange(columns) > last[:, None]
    first = np.where(steady.any(1), np.argmax(steady, 1), -1)
    usable = (last >= 0) & (first > last)
    if not usable.any():
        return 0, 0.0, 0.0
    strip, off, ground, last, first = strip[usable], off[usable], ground[usable], last[usable], first[usable]
    here = np.arange(len(strip))
    outside = strip[here, np.minimum(first + 1, columns - 1)]
    nearness = np.full((len(strip), 1), look.same) if look.same < 4 else 0.5 * np.abs(outside - own).max(1)[:, None]
    like_outside = (np.abs(strip - outside[:, None]).max(2) <= nearness) & ~off[here, first][:, None]
    out = like_outside | ground | off
    edge = last.copy()
    for k in range(columns):
        goes_on = (k == edge + 1) if look.same < 4 else (k > edge)  # noise may make a dark line look like the outside
        edge = np.where(goes_on & (k <= first) & ~out[:, k], k, edge)
    # Between two panels that touch, lines are shared: a single one is the first of the right or lower panel.
    beside = (
        ~off[here, first]
        if look.ground is None
        else ~off[here, first] & (np.abs(outside - look.ground).max(1) > look.same)
    )
    lines = first - last - 1
    edge = np.where(beside, last + (lines + 1 if side in (0, 1) else lines) // 2, edge)
    shift = edge + 1 - depth
    values, counts = np.unique(shift, return_counts=True)
    best = int(values[np.argmax(counts)])
    return best, float(counts[np.abs(values - best) <= 1].sum() / len(shift)), float(usable.mean())


def _outlined(picture: _Bytes, rect: Rect, own: NDArray[np.float32], look: _Look) -> tuple[Rect, float]:
    """A rectangle with its sides where the picture changes, and the least agreement of a side."""
    shifts, agreement = [], 1.0
    for side in range(4):
        shift, agree, seen = _side(picture, rect, own, side, look)
        shifts.append(shift)
        agreement = min(agreement, agree * min(1.0, seen * 1.25))
    left, top, right, foot = shifts
    return Rect(rect.x - left, rect.y - top, rect.w + left + right, rect.h + top + foot), agreement


def find_rectangles(picture: NDArray[np.uint8], smallest: int = 12) -> list[Found]:
    """Find the solid rectangles of a pixel map.

    Parameters
    ----------
    picture : ndarray, shape (h, w, 3) or (h, w, 4), uint8
        BGR or BGRA; transparent parts count as black.
    smallest : int
        Least width and height of a rectangle, px; strips of half that and more are found where they are eight times as
        long.

    Returns
    -------
    list of Found
        Row by row from the top left.  In pictures without loss the bounds are exact; in JPEG they are within a pixel.

    Raises
    ------
    ValueError
        If the picture is too large to be looked at.

    Examples
    --------
    >>> picture = np.zeros((120, 200, 3), np.uint8)
    >>> picture[20:80, 30:110] = (40, 90, 200)
    >>> picture[20:80, 70] = 255
    >>> [(tuple(f.rect), f.colour) for f in find_rectangles(picture)]
    [((30, 20, 80, 60), '#C85A28')]
    """
    height, width = picture.shape[:2]
    if height * width > MAX_PIXELS:
        raise ValueError(
            f"a picture of {width} × {height} px is too large to be searched; "
            f"cut it to at most {MAX_PIXELS // 10**6} million px"
        )
    colours = picture[..., :3]
    if picture.shape[2] == 4 and picture[..., 3].min() < 255:
        colours = np.where(picture[..., 3:] >= 128, colours, 0).astype(np.uint8)
    labels, peaks = _classes(colours, 10)
    solid = _solid(labels)
    ink = (solid < 0).astype(np.uint8)
    exact, own_colours = _own_colours(colours, solid, len(peaks))
    ground = _ground(solid, own_colours)
    look = _Look(3.0 if exact else 14.0, None if ground is None else own_colours[ground])
    if ground is not None:  # strips of the ground's own colour part panels, lines of it do not
        ink[
            cv2.morphologyEx((labels == ground).astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)).astype(
                bool
            )
        ] = 0
    found: list[Found] = []
    candidates: list[tuple[Rect, int]] = []
    pieces: dict[int, list[Rect]] = {}
    bridge = np.ones((_BRIDGE, _BRIDGE), np.uint8)
    sizes = np.bincount(solid[solid >= 0].ravel(), minlength=len(peaks))
    for c in np.flatnonzero(sizes >= smallest * smallest // 2):
        own = (solid == c).astype(np.uint8)
        x, y, w, h = cv2.boundingRect(own)
        x0, y0 = max(0, x - _BRIDGE - 1), max(0, y - _BRIDGE - 1)
        window = np.s_[y0 : y + h + _BRIDGE + 1, x0 : x + w + _BRIDGE + 1]
        closed = cv2.morphologyEx(own[window], cv2.MORPH_CLOSE, bridge) & (own[window] | ink[window])
        count, _, stats, _ = cv2.connectedComponentsWithStats(closed.astype(np.uint8), connectivity=4)
        boxes = [
            Rect(int(left) + x0, int(top) + y0, int(wide), int(high)) for left, top, wide, high, _ in stats[1:count]
        ]
        big = [
            b
            for b in _together([b for b in boxes if min(b.w, b.h) >= smallest - 6], ink)
            if c != ground and not (b.w >= width - 2 and b.h >= height - 2 and sizes[c] < 0.7 * b.area)
        ]
        candidates += [(b, int(c)) for b in big]
        pieces[int(c)] = [b for b in boxes if min(b.w, b.h) >= 3] if c != ground else []
    for box, own_class in sorted(
        candidates, key=lambda k: -k[0].area
    ):  # the largest first: what lies in them is mostly letters
        if not any(f.rect.holds(box) and _is_letter(box, f.rect) for f in found):
            candidate = _judged(colours, labels, solid, box, own_class, look)
            if candidate is not None and is_panel(candidate.rect, smallest):
                found.append(candidate)
    # Large letters, softened by loss, can cut a panel into pieces of which none is a rectangle: those are tried
    # together.
    for own_class, boxes in pieces.items():
        left = [b for b in boxes if not any(f.rect.holds(b) for f in found)]
        for box in _clusters(left, labels == ground if ground is not None else None):
            candidate = _judged(colours, labels, solid, box, own_class, look)
            if candidate is not None and is_panel(candidate.rect, smallest):
                found.append(candidate)
    truly = _truly(colours, _not_letters(found, Rect(0, 0, width, height)), look, smallest)
    return sorted(truly, key=lambda f: (f.rect.y, f.rect.x))


def _truly(colours: _Bytes, found: list[Found], look: _Look, smallest: int) -> list[Found]:
    """What was found as what it is: see `ushering_adze.core.seeing.find_shapes`."""
    ground, same = look.ground, look.same
    kept: list[Found] = []
    for f in found:
        clear = stands_out(colours, f.rect) / FAINT
        if clear >= 0.8:
            f = f._replace(confidence=round(f.confidence * min(1.0, clear), 3))
            own = np.array([int(f.colour[k : k + 2], 16) for k in (5, 3, 1)], np.float32)
            for shape in whole_shapes(
                colours, f._replace(rect=framed(colours, f.rect, own, ground, same)), ground, same
            ):
                kept += parted(colours, shape, ground, same)
    kept = [f for f in kept if is_panel(f.rect, smallest)]
    return _not_letters(checkered([*kept, *unsaid(colours, kept, ground, same, smallest)]), Rect(0, 0, 0, 0))


def _together(boxes: list[Rect], ink: _Bytes) -> list[Rect]:
    """Pieces of one colour that letters have cut apart: as wide as each other and above each other, or as high and side
    by side.
    """
    left = sorted(boxes)
    if len(left) > 400:
        return left
    done: list[Rect] = []
    while left:
        box = left.pop(0)
        n = 0
        while n < len(left):
            other = left[n]
            down, across = (
                max(box.y, other.y) - min(box.foot, other.foot),
                max(box.x, other.x) - min(box.right, other.right),
            )
            stacked = abs(box.x - other.x) <= 3 and abs(box.right - other.right) <= 3 and 0 < down <= 16
            abreast = abs(box.y - other.y) <= 3 and abs(box.foot - other.foot) <= 3 and 0 < across <= 16
            whole = box.join(other)
            between = (
                ink[min(box.foot, other.foot) : max(box.y, other.y), whole.x : whole.right]
                if stacked
                else ink[whole.y : whole.foot, min(box.right, other.right) : max(box.x, other.x)]
            )
            if (stacked or abreast) and between.mean() > 0.6:
                box, n = whole, 0
                left.remove(other)
            else:
                n += 1
        done.append(box)
    return done


def _clusters(boxes: list[Rect], ground: NDArray[np.bool_] | None) -> list[Rect]:
    """The boxes around pieces of one colour that lie near each other with little ground among them."""
    left = sorted(boxes, key=lambda b: -b.area)[:200]
    done: list[Rect] = []
    while left:
        box, n, joined = left.pop(0), 0, False
        while n < len(left):
            near = Rect(box.x - _APART, box.y - _APART, box.w + 2 * _APART, box.h + 2 * _APART)
            whole = box.join(left[n])
            if not near.meet(left[n]).empty and (ground is None or float(ground[whole.cut()].mean()) < 0.12):
                del left[n]
                box, n, joined = whole, 0, True
            else:
                n += 1
        if joined:
            done.append(box)
    return done


def _own_colours(colours: _Bytes, solid: NDArray[np.int16], count: int) -> tuple[bool, NDArray[np.float32]]:
    """Whether the picture is free of noise, and the middle colour of each class."""
    step = max(1, solid.size // 4_000_000)
    flat, pixels = solid.ravel()[::step], colours.reshape(-1, 3)[::step]
    order = np.argsort(flat, kind="stable")
    parts = np.split(order, np.searchsorted(flat[order], np.arange(count + 1)))
    own = np.zeros((count, 3), np.float32)
    alike = total = 0
    for c, part in enumerate(parts[1 : count + 1]):
        if len(part):
            some = pixels[part[:: max(1, len(part) // 4000)]]
            own[c] = np.median(some, 0)
            alike += int((np.abs(some - own[c]).max(1) < 1).sum())
            total += len(some)
    return alike > 0.9 * total, own


def _ground(solid: NDArray[np.int16], own: NDArray[np.float32]) -> int | None:
    """The colour that fills most of the picture's border; else black, if a good part of the picture is."""
    border = np.concatenate([solid[0], solid[-1], solid[:, 0], solid[:, -1]])
    counts = np.bincount(border[border >= 0], minlength=1)
    if counts.max() > 0.4 * border.size:
        return int(np.argmax(counts))
    dark = np.flatnonzero(own.max(1) <= 12) if len(own) else np.zeros(0, int)
    share = [float((solid == c).mean()) for c in dark]
    return int(dark[int(np.argmax(share))]) if share and max(share) > 0.01 else None


def _judged(
    colours: _Bytes, labels: NDArray[np.int16], solid: NDArray[np.int16], box: Rect, c: int, look: _Look
) -> Found | None:
    """A component as a rectangle, or None if its sides are not those of one."""
    pixels = colours[box.cut()][solid[box.cut()] == c]
    own_colour = np.median(pixels[:: max(1, len(pixels) // 4000)], 0).astype(np.float32)
    rect, agreement = _outlined(colours, box, own_colour, look)
    rect = rect.meet(Rect(0, 0, colours.shape[1], colours.shape[0]))
    if rect.empty or agreement < 0.55:
        return None
    inner = solid[rect.cut()]
    own = float((inner == c).mean())
    foreign = float(((inner >= 0) & (inner != c)).mean())
    edge = labels[rect.cut()]
    in_y, in_x = min(4, rect.h // 3), min(4, rect.w // 3)
    rim = np.concatenate([edge[in_y], edge[-1 - in_y], edge[:, in_x], edge[:, -1 - in_x]])
    beside = float((rim == c).mean())
    if own < 0.2 or beside < 0.25:
        return None
    blue, green, red = (round(float(v)) for v in own_colour)
    confidence = agreement * min(1.0, 0.35 + 0.65 * max(own, 1 - 2 * foreign))
    if look.same > 4:  # in a picture with loss a side may be a pixel off
        confidence = min(confidence, 0.9)
    return Found(rect, round(min(1.0, confidence), 3), f"#{red:02X}{green:02X}{blue:02X}")


def _not_letters(found: list[Found], whole: Rect) -> list[Found]:
    """Without the ground, and small pieces that lie wholly within a far larger rectangle: the strokes of letters and
    icons.
    """
    if len(found) > 1:
        found = [f for f in found if f.rect != whole]

    return [
        f for f in found if not any(o is not f and o.rect.holds(f.rect) and _is_letter(f.rect, o.rect) for o in found)
    ]


def _is_letter(small: Rect, large: Rect) -> bool:
    return large.area > 24 * small.area and min(small.w, small.h) < 48
