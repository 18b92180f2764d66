"""Text set on a picture, in a dress: its letters by HarfBuzz, its size such that it fits."""

from __future__ import annotations

import unicodedata
from functools import lru_cache
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np
from PIL import Image, ImageDraw

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.kinds.dress import Dress
from ushering_adze.core.plane.pixels import Pixels, premultiplied
from ushering_adze.core.text.lines import broken
from ushering_adze.core.text.pages import Shown
from ushering_adze.io.media.fonts import file_of, font_at, runs_of

LEADING = 1.28
"""From one line to the next, as a share of the letters' size."""


class Setting(NamedTuple):
    """A picture of text, and what was wrong with it, in a sentence, if anything was."""

    pixels: Pixels
    opaque: bool
    fault: str | None = None


class _Block(NamedTuple):
    lines: list[str]
    size: int
    height: float


def from_right(text: str) -> bool:
    """Whether a line runs from right to left: its first letter of a direction says so (Unicode annex 9, P2 and P3)."""
    for letter in text:
        way = unicodedata.bidirectional(letter)
        if way in ("R", "AL"):
            return True
        if way == "L":
            return False
    return False


@lru_cache(8192)
def _run_width(run: str, font: Path, size: int, right: bool) -> float:
    return float(font_at(font, size).getlength(run, direction="rtl" if right else "ltr"))


def _ways(line: str) -> list[bool]:
    """Whether each letter of a line runs from the right (Unicode annex 9, in the part that lines of a screen need).

    What has no direction of its own takes that of its neighbours where they agree (N1), else the line's (N2); numbers
    run from the left (W2 to W7).
    """
    base = from_right(line)
    found: list[bool | None] = []
    for letter in line:
        way = unicodedata.bidirectional(letter)
        if way == "NSM":
            found.append(found[-1] if found else None)
        else:
            found.append(True if way in ("R", "AL") else False if way in ("L", "EN", "AN") else None)
    ways: list[bool] = []
    for n, here in enumerate(found):
        if here is None:
            before = next((w for w in reversed(found[:n]) if w is not None), base)
            after = next((w for w in found[n:] if w is not None), base)
            here = before if before == after else base
        ways.append(here)
    return ways


def _runs(line: str, first: Path) -> list[tuple[str, Path, bool]]:
    """A line's runs of one font and one direction, from left to right as they stand, with their direction."""
    ways, at = _ways(line), 0
    found: list[tuple[str, Path, bool]] = []
    for run, font in runs_of(line, first):
        for letter in run:
            here, way = font if font is not None else first, ways[at]
            at += 1
            if found and found[-1][1:] == (here, way):
                found[-1] = (found[-1][0] + letter, here, way)
            else:
                found.append((letter, here, way))
    if from_right(line):
        return found[::-1]
    ordered: list[tuple[str, Path, bool]] = []
    turned: list[tuple[str, Path, bool]] = []
    for piece in found:  # what runs from the right within a line that does not, in several fonts
        if piece[2]:
            turned.insert(0, piece)
        else:
            ordered += [*turned, piece]
            turned = []
    return [*ordered, *turned]


def _width(line: str, font: Path, size: int) -> float:
    return sum(_run_width(run, f, size, right) for run, f, right in _runs(line, font))


def _block(text: str, font: Path, size: int, width: float) -> _Block:
    lines = broken(text, width, lambda line: _width(line, font, size)) if text else []
    return _Block(lines, size, len(lines) * size * LEADING)


def _lacking(text: str, font: Path) -> str:
    return "".join(dict.fromkeys(run for run, found in runs_of(text.replace("\n", " "), font) if found is None))


def _fits(block: _Block, font: Path, width: float, height: float) -> bool:
    return block.height <= height and all(_width(line, font, block.size) <= width for line in block.lines)


def _largest(
    whole: str, second: str, dress: Dress, font: Path, width: float, height: float
) -> tuple[_Block, _Block, bool]:
    """The largest letters, down to the smallest allowed, with which a page and its second field fit; and whether they
    do.
    """
    low, high = round(dress.smallest), round(dress.size)
    best: tuple[_Block, _Block] | None = None
    while low <= high:
        size = (low + high + 1) // 2 if best is not None or low != high else low
        main = _block(whole, font, size, width)
        other = _block(second, font, max(6, round(size * dress.second_size)), width)
        gap = size * 0.25 if second and whole else 0.0
        if main.height + gap + other.height <= height and _fits(main, font, width, height):
            best, low = (main, other), size + 1
        else:
            high = size - 1
    if best is not None:
        return *best, True
    size = round(dress.smallest)
    return (
        _block(whole, font, size, width),
        _block(second, font, max(6, round(size * dress.second_size)), width),
        False,
    )


def set_text(stop: Shown, dress: Dress, tone: str | None = None) -> Setting:
    """A page in a dress.

    Parameters
    ----------
    stop : Shown
        Letters keep their size and place from step to step: they are those of the whole page.
    dress : Dress
    tone : str, optional
        A colour in place of the dress's.

    Returns
    -------
    Setting
    """
    font = file_of(dress.font)
    w, h = dress.width, dress.height
    edge_x, edge_y = dress.safe * w, dress.safe * h
    strip = dress.layout == "strip"
    top = h * (1 - dress.strip) if strip else 0.0
    inner = edge_y * (0.35 if strip else 1.0)
    area = (edge_x, top + inner, w - edge_x, h - (edge_y * 0.6 if strip else edge_y))
    width, height = area[2] - area[0], area[3] - area[1]
    second = stop.second if dress.second else ""
    main, other, fits = _largest(stop.whole, second, dress, font, width, height)
    picture = Image.new("RGBA", (w, h), (0, 0, 0, 0))
    draw = ImageDraw.Draw(picture)
    if dress.density > 0 and stop.whole:
        draw.rectangle((0, round(top), w, h), fill=(*rgb_of(dress.box), round(dress.density * 255)))
    gap = main.size * 0.25 if main.lines and other.lines else 0.0
    y = area[1] + (height - main.height - gap - other.height) / 2
    seen = len(stop.seen)
    colour = rgb_of(tone or dress.colour)
    used = 0
    for line in main.lines:
        here = line[: max(0, seen - used)] if used + len(line) > seen else line
        _draw_line(draw, line, here, font, main.size, area[0], y, width, dress.align, colour)
        used += len(line) + 1
        y += main.size * LEADING
    y += gap
    for line in other.lines:
        _draw_line(draw, line, line, font, other.size, area[0], y, width, dress.align, rgb_of(dress.second_colour))
        y += other.size * LEADING
    rgba = np.asarray(picture)
    pixels, opaque = premultiplied(cv2.cvtColor(rgba, cv2.COLOR_RGBA2BGRA))
    fault = None
    lacking = _lacking(stop.whole + second, font)
    if lacking:
        fault = f"no font here has “{lacking[:12]}”; install fonts-noto-core, or fonts-noto-cjk for Chinese or Japanese"
    elif not fits:
        fault = (
            f"page {stop.page} does not fit its box in letters of {dress.smallest:g} px; shorten it, or give it room"
        )
    return Setting(pixels, opaque, fault)


def _draw_line(
    draw: ImageDraw.ImageDraw,
    line: str,
    seen: str,
    font: Path,
    size: int,
    left: float,
    y: float,
    width: float,
    align: str,
    colour: tuple[int, int, int],
) -> None:
    """Draw what is seen of a line, in the place it has in the whole of it."""
    long = _width(line, font, size)
    right = from_right(line)
    ends = {"left": "right", "right": "left"} if right else {}
    match ends.get(align, align):
        case "left":
            x = left
        case "right":
            x = left + width - long
        case _:
            x = left + (width - long) / 2
    if right:  # what is seen of it grows from its right end
        x += long - _width(seen, font, size)
    for run, f, way in _runs(seen, font):
        draw.text(
            (x, y + size * LEADING * 0.5),
            run,
            font=font_at(f, size),
            fill=(*colour, 255),
            anchor="lm",
            direction="rtl" if way else "ltr",
        )
        x += _run_width(run, f, size, way)
