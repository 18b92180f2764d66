"""Walls painted: every cell with its picture as large as it fits, its name under it, and its tally around it."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.picture.bitmap import Bitmap
from ushering_adze.core.picture.resampling import looked_at
from ushering_adze.core.plane.lettering import put_text, text_size
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show.wall import Wall, WallCell
from ushering_adze.core.sound.metering import LOW, Measured, height_of

FACE = cv2.FontFace("sans")
GROUND, BAR, TEXT = (20, 18, 13, 255), (40, 34, 26, 255), (230, 238, 240, 255)
"""Colours in BGRA."""
RED, GREEN, AMBER, LINE = (73, 80, 224, 255), (120, 176, 77, 255), (87, 168, 227, 255), (64, 56, 46, 255)
DARK_RED = (38, 30, 140, 255)
GAP = 4
"""Pixels between cells."""
SAFE = (0.93, 0.90)
"""Shares of the picture that are safe for action and for titles (SMPTE ST 2046-1 and EBU R 95; from memory)."""


class CellNow(NamedTuple):
    """What a cell shows at a moment: its picture, what is written under it and at the right of that, its tally, and
    whether something is wrong with it.
    """

    picture: Pixels | None = None
    label: str = ""
    state: str = ""
    program: bool = False
    preview: bool = False
    wrong: bool = False
    words: str = ""
    """In place of a picture, large."""
    meter: Measured | None = None
    """In place of a picture, that of a mix."""
    target: float = -23.0
    most: float = -1.0
    data: str = ""
    """Over the picture, small."""
    alarm: bool = False
    """Whether its words are an alarm, on red."""
    caption: str = ""
    """Lines over the foot of the picture."""
    over: tuple[Bitmap, ...] = ()
    """Captions that come as bitmaps."""
    channels: tuple[float, ...] = ()
    """Peaks of the channels of its sound, in dBFS."""
    serial: int = 0
    """A number for its picture: the same number means the same picture; 0 if it has none."""


def cell_rect(wall: Wall, cell: WallCell) -> Rect:
    """Where a cell lies on the raster of its wall.

    Examples
    --------
    >>> cell_rect(Wall(id="w", name="W", columns=2, rows=2), WallCell(x=1, y=0))
    Rect(x=960, y=0, w=960, h=540)
    """
    if cell.box is not None:
        return Rect(*cell.box)
    x0, y0 = round(cell.x * wall.width / wall.columns), round(cell.y * wall.height / wall.rows)
    x1 = round((cell.x + cell.w) * wall.width / wall.columns)
    y1 = round((cell.y + cell.h) * wall.height / wall.rows)
    return Rect(x0, y0, x1 - x0, y1 - y0)


def bar_height(rect: Rect, line: str = "under") -> int:
    """Pixels of the line under, or over, a cell's picture."""
    if line == "none":
        return 0
    usual = max(14, min(34, round(rect.h * 0.09)))
    return usual * 2 if line == "large" else usual


def picture_rect(rect: Rect, size: tuple[int, int], line: str = "under") -> Rect:
    """Where a picture of a size lies within a cell, whole and in its shape.

    Examples
    --------
    >>> picture_rect(Rect(0, 0, 480, 270), (1920, 1080))
    Rect(x=28, y=4, w=423, h=238)
    """
    bar = bar_height(rect, line)
    top = rect.y + GAP + (bar if line == "over" else 0)
    inner = Rect(rect.x + GAP, top, rect.w - 2 * GAP, max(1, rect.h - 2 * GAP - bar))
    width, height = size
    k = min(inner.w / max(1, width), inner.h / max(1, height))
    w, h = max(1, round(width * k)), max(1, round(height * k))
    return Rect(inner.x + (inner.w - w) // 2, inner.y + (inner.h - h) // 2, w, h)


def _fill(part: Pixels, colour: tuple[int, int, int, int]) -> None:
    """All of one colour; NumPy takes thirty times as long for rows of four bytes."""
    if part.size:
        cv2.rectangle(part, (0, 0), (part.shape[1] - 1, part.shape[0] - 1), colour, -1)


@lru_cache(maxsize=256)
def _line(label: str, state: str, width: int, height: int, wrong: bool) -> Pixels:
    """The line under a picture: a name at the left, a word at the right."""
    made = np.empty((height, width, 4), np.uint8)
    _fill(made, BAR)
    size = max(9, round(height * 0.58))
    foot = round(height * 0.72)
    room = width - 12
    if state:
        box = text_size((width, height), state, (0, 0), FACE, size, 700)
        put_text(made, state, (max(6, width - box[2] - 8), foot), AMBER if wrong else TEXT, FACE, size, 700)
        room -= box[2] + 14
    text = label
    while text and text_size((width, height), text, (0, 0), FACE, size, 600)[2] > room:
        text = text[:-2].rstrip("…") + "…" if len(text) > 2 else ""
    put_text(made, text, (6, foot), TEXT, FACE, size, 600)
    made[..., 3] = 255
    made.setflags(write=False)
    return made


def _fitted(text: str, count: int, width: int, height: int) -> tuple[int, list[str]]:
    """How large words can be in so many lines, and these."""
    words, lines = text.split(" "), [""]
    for word in words:
        if lines[-1] and len(lines) < count and len(lines[-1]) + len(word) / 2 > len(text) / count:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    size = max(9, round(height * min(0.4, 0.62 / len(lines))))
    longest = max(text_size((width, height), line, (0, 0), FACE, size, 700)[2] for line in lines)
    if longest > width - 16:
        size = max(9, int(size * (width - 16) / longest))
    return size, lines


@lru_cache(maxsize=64)
def _words(text: str, width: int, height: int, wrong: bool = False) -> Pixels:
    """Words as large as they find room; on red if something is wrong."""
    made = np.empty((height, width, 4), np.uint8)
    _fill(made, DARK_RED if wrong else GROUND)
    size, lines = max((_fitted(text, count, width, height) for count in (1, 2, 3)), key=lambda found: found[0])
    step = round(size * 1.35)
    top = (height - step * (len(lines) - 1) + size * 4 // 5) // 2
    for n, line in enumerate(lines):
        box = text_size((width, height), line, (0, 0), FACE, size, 700)
        put_text(made, line, ((width - box[2]) // 2, top + n * step), TEXT, FACE, size, 700)
    made[..., 3] = 255
    made.setflags(write=False)
    return made


def _frame(raster: Pixels, at: Rect, shape: str) -> None:
    """A frame of another shape, as large as it finds room; what is outside is darker."""
    wide, high = (int(v) for v in shape.split(":"))
    k = min(at.w / wide, at.h / high)
    w, h = round(wide * k), round(high * k)
    x, y = at.x + (at.w - w) // 2, at.y + (at.h - h) // 2
    for part in (
        raster[at.y : at.foot, at.x : x],
        raster[at.y : at.foot, x + w : at.right],
        raster[at.y : y, x : x + w],
        raster[y + h : at.foot, x : x + w],
    ):
        part[..., :3] >>= 1
    cv2.rectangle(raster, (x, y), (x + w - 1, y + h - 1), AMBER, 1)


def _data(part: Pixels, words: str) -> None:
    """A line of small words at the head of a picture."""
    size = max(9, min(15, part.shape[0] // 14))
    high = round(size * 1.6)
    strip = part[:high]
    strip[..., :3] >>= 2
    made = np.ascontiguousarray(strip)
    put_text(made, words, (6, round(high * 0.75)), TEXT, FACE, size, 500)
    strip[:] = made
    strip[..., 3] = 255


def _caption(part: Pixels, text: str) -> None:
    """Lines in boxes at the foot of a picture, within what is safe for titles."""
    h, w = part.shape[:2]
    lines = text.split("\n")[-4:]
    size = max(9, round(h * 0.058))
    high = round(size * 1.5)
    foot = round(h * (1 + SAFE[1]) / 2)
    made = np.ascontiguousarray(part)
    for n, line in enumerate(lines):
        top = foot - (len(lines) - n) * high
        box = text_size((w, h), line, (0, 0), FACE, size, 500)
        x = (w - box[2]) // 2
        cv2.rectangle(made, (x - size // 2, top), (x + box[2] + size // 2, top + high), (0, 0, 0, 255), -1)
        put_text(made, line, (x, top + round(high * 0.75)), (255, 255, 255, 255), FACE, size, 500)
    part[:] = made
    part[..., 3] = 255


TEAL, OVER = (189, 180, 90, 255), RED


def paint_meter(part: Pixels, measured: Measured, target: float, most: float) -> None:
    """Two bars with a scale, and loudness in numbers beside them.

    Parameters
    ----------
    part : ndarray, (h, w, 4)
        Written to.
    measured : Measured
    target : float
        LUFS.
    most : float
        dBTP of the mix's limiter.
    """
    _fill(part, GROUND)
    h, w = part.shape[:2]
    made = np.ascontiguousarray(part)
    size = max(9, min(22, h // 12))
    wide, gap = max(6, w // 16), max(18, round(size * 2.2))
    top, foot = size, h - size // 2
    left = max(6, w // 12)
    bars = (left, left + wide + gap)
    for mark in (0, -6, -12, -18, -24, -30, -40):
        y = round(foot - height_of(mark) * (foot - top))
        text = str(-mark)
        box = text_size((w, h), text, (0, 0), FACE, max(8, size * 2 // 3), 500)
        at = (left + wide + (gap - box[2]) // 2, y + size // 4)
        put_text(made, text, at, TEXT, FACE, max(8, size * 2 // 3), 500)
    for x, level in zip(bars, measured.pointers, strict=False):
        for low, high, colour in ((LOW, -9.0, TEAL), (-9.0, most, AMBER), (most, 0.0, OVER)):
            one, two = height_of(low), min(height_of(level), height_of(high))
            if two > one:
                y0, y1 = round(foot - two * (foot - top)), round(foot - one * (foot - top))
                cv2.rectangle(made, (x, y0), (x + wide, y1), colour, -1)
        cv2.rectangle(made, (x, top), (x + wide, foot), LINE, 1)
    loud = measured.loudness
    lines = (
        ("S", loud.short, False),
        ("I", loud.integrated, measured.off_target(target)),
        ("TP", measured.peak, measured.over(most)),
    )
    if measured.correlation is not None:
        _phase(made, Rect(left, foot + 2, bars[1] + wide - left, max(3, size // 3)), measured.correlation)
    x = bars[1] + wide + size
    for n, (name, value, wrong) in enumerate(lines):
        words = f"{name} {value:.1f}" if value > -100 else f"{name} –"
        colour = AMBER if wrong and value > -100 else TEXT
        put_text(made, words, (x, top + round((n + 1) * size * 1.7)), colour, FACE, size, 600)
    part[:] = made
    part[..., 3] = 255


CHANNELS = 16
"""Meters of one cell, at most."""


def meters_width(rect: Rect, channels: int) -> int:
    """Pixels that the meters of so many channels take of a cell's width: a third of it at most.

    Examples
    --------
    >>> meters_width(Rect(0, 0, 480, 270), 2), meters_width(Rect(0, 0, 480, 270), 16)
    (23, 135)
    """
    shown = min(CHANNELS, channels)
    return 0 if shown == 0 else min(rect.w // 3, 7 + shown * max(3, min(8, rect.w // 60)))


def shown_rect(rect: Rect, size: tuple[int, int], of: WallCell, channels: int = 0) -> Rect:
    """Where a cell's picture of a size lies, with so many meters beside it if it has them there.

    Parameters
    ----------
    rect : Rect
        The cell's.
    size : tuple of int
        Width and height of the picture.
    of : WallCell
    channels : int, optional
        How many meters there are.

    Examples
    --------
    >>> beside = WallCell(x=0, y=0, meters="beside")
    >>> [shown_rect(Rect(0, 0, 480, 270), (1920, 1080), beside, n).right for n in (0, 2)]
    [451, 440]
    """
    wide = meters_width(rect, channels) if of.meters == "beside" else 0
    return picture_rect(Rect(rect.x, rect.y, rect.w - wide, rect.h), size, of.line)


def _meters(part: Pixels, channels: tuple[float, ...], beside: bool) -> None:
    """A bar for each channel, from below; a line at −9 and at −18 dBFS."""
    h, w = part.shape[:2]
    if beside:
        _fill(part, GROUND)
    else:
        part[..., :3] >>= 2
    shown = channels[:CHANNELS]
    step = max(2, (w - 4) // max(1, len(shown)))
    for n, level in enumerate(shown):
        x = 3 + n * step
        part[:, x : x + step - 1, :3] = part[:, x : x + step - 1, :3] // 2 + 20
        for low, high, colour in ((LOW, -9.0, TEAL), (-9.0, -1.0, AMBER), (-1.0, 0.0, OVER)):
            one, two = height_of(low), min(height_of(level), height_of(high))
            if two > one:
                part[round(h - two * h) : round(h - one * h), x : x + step - 1, :3] = colour[:3]
    for mark in (-9.0, -18.0):
        y = min(h - 1, round(h - height_of(mark) * h))
        part[y, :, :3] = LINE[:3]
    part[..., 3] = 255


def _phase(made: Pixels, at: Rect, correlation: float) -> None:
    """Left and right alike are a mark at the right end, against one another at the left."""
    cv2.rectangle(made, (at.x, at.y), (at.right, at.foot), LINE, 1)
    x = round(at.x + (correlation + 1) / 2 * at.w)
    cv2.rectangle(made, (x - 2, at.y), (x + 2, at.foot), TEAL if correlation >= 0 else RED, -1)


def _guides(raster: Pixels, at: Rect, guides: str) -> None:
    """Lines over a picture: its middle, its thirds, or ten fields each way."""
    if guides == "centre":
        arm, x, y = max(6, min(at.w, at.h) // 12), at.x + at.w // 2, at.y + at.h // 2
        cv2.line(raster, (x - arm, y), (x + arm, y), TEXT, 1)
        cv2.line(raster, (x, y - arm), (x, y + arm), TEXT, 1)
        return
    parts = 3 if guides == "thirds" else 10
    for n in range(1, parts):
        x, y = at.x + round(at.w * n / parts), at.y + round(at.h * n / parts)
        raster[at.y : at.foot, x, :3] = raster[at.y : at.foot, x, :3] // 2 + 90
        raster[y, at.x : at.right, :3] = raster[y, at.x : at.right, :3] // 2 + 90


PLAIN = WallCell(x=0, y=0)


def paint_cell(raster: Pixels, rect: Rect, now: CellNow, of: WallCell = PLAIN) -> None:
    """Paint one cell, all of it.

    Parameters
    ----------
    raster : ndarray, shape (h, w, 4), uint8
        Of the wall, in BGRA; written to.
    rect : Rect
    now : CellNow
    of : WallCell, optional
        With its safe areas, frame, guides and colour.
    """
    cell = raster[rect.cut()]
    if cell.size == 0:
        return
    _fill(cell, GROUND)
    high = bar_height(rect, of.line)
    top = rect.y + GAP if of.line == "over" else rect.foot - high - GAP
    line = raster[top : top + high, rect.x + GAP : rect.right - GAP]
    if line.size:
        line[:] = _line(now.label, now.state, line.shape[1], line.shape[0], now.wrong)
    if now.words:
        inner = picture_rect(rect, (rect.w - 2 * GAP, rect.h - 2 * GAP - high), of.line)
        part = raster[inner.cut()]
        part[:] = _words(now.words, part.shape[1], part.shape[0], now.alarm)
    elif now.meter is not None:
        inner = picture_rect(rect, (rect.w - 2 * GAP, rect.h - 2 * GAP - high), of.line)
        paint_meter(raster[inner.cut()], now.meter, now.target, now.most)
    elif now.picture is not None:
        at = shown_rect(rect, (now.picture.shape[1], now.picture.shape[0]), of, len(now.channels))
        shown = looked_at(now.picture, at.w, at.h)
        part = raster[at.cut()]
        part[:] = shown[: part.shape[0], : part.shape[1]]
        part[..., 3] = 255
        for share in SAFE if of.marks else ():
            w, h = round(at.w * share), round(at.h * share)
            x, y = at.x + (at.w - w) // 2, at.y + (at.h - h) // 2
            cv2.rectangle(raster, (x, y), (x + w - 1, y + h - 1), TEXT, 1)
        if of.frame is not None:
            _frame(raster, at, of.frame)
        if of.guides is not None:
            _guides(raster, at, of.guides)
        if now.data:
            _data(part, now.data)
        if now.caption:
            _caption(part, now.caption)
        for bitmap in now.over:
            bitmap.lay(part)
        if of.meters is not None and now.channels:
            wide, beside = meters_width(rect, len(now.channels)), of.meters == "beside"
            left = rect.right - wide if beside else at.right - min(wide, at.w)
            part = raster[at.y : at.foot, left : left + min(wide, rect.right - GAP - left)]
            _meters(part, now.channels, beside)
    _tally(cell, now, LINE if of.colour is None else (*rgb_of(of.colour)[::-1], 255))


def _tally(cell: Pixels, now: CellNow, line: tuple[int, int, int, int]) -> None:
    """Red all around what is on program; dashed green around what is on preview alone."""
    x1, y1 = cell.shape[1] - 2, cell.shape[0] - 2
    if now.program:
        cv2.rectangle(cell, (1, 1), (x1, y1), RED, 3)
    elif now.preview:
        dash = max(8, cell.shape[1] // 24)
        for x in range(1, x1, 2 * dash):
            for y in (1, y1):
                cv2.line(cell, (x, y), (min(x1, x + dash), y), GREEN, 3)
        for y in range(1, y1, 2 * dash):
            for x in (1, x1):
                cv2.line(cell, (x, y), (x, min(y1, y + dash)), GREEN, 3)
    else:
        cv2.rectangle(cell, (1, 1), (x1, y1), line, 1 if line == LINE else 3)


def blank_wall(wall: Wall) -> Pixels:
    """A raster with nothing on it."""
    made = np.empty((wall.height, wall.width, 4), np.uint8)
    _fill(made, GROUND)
    return made
