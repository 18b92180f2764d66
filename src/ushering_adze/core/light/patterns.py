"""Test patterns: computed pictures whose every pixel is known."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple
from unicodedata import category

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.lettering import put_text, text_size

Pixels = NDArray[np.uint8]
_FACE = cv2.FontFace("sans")

BARS_75 = ("grey", "yellow", "cyan", "green", "magenta", "red", "blue")
"""Order of the 75 % bars, left to right: falling luminance (SMPTE RP 219-1, pattern 1; from memory)."""


class Label(NamedTuple):
    """What an identify card says of where it is shown."""

    name: str = ""
    rate: float = 0.0
    note: str = ""


def flat(width: int, height: int, blue: int, green: int, red: int) -> Pixels:
    """One opaque colour, BGRA uint8, shape (height, width, 4); codes 0 to 255.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    blue : int
        0 to 255.
    green : int
        0 to 255.
    red : int
        0 to 255.

    Returns
    -------
    Pixels
    """
    picture = np.empty((height, width, 4), np.uint8)
    picture[:] = (blue, green, red, 255)
    return picture


def printable(text: str) -> str:
    r"""A line of text that every writer can take: what is no letter becomes a sign for it.

    Examples
    --------
    >>> printable("No 7\udce9\x00.png")
    'No 7��.png'
    """
    return "".join("\ufffd" if category(c) in ("Cc", "Cs", "Cn") else c for c in text)


def write(
    picture: Pixels,
    text: str,
    x: float,
    y: float,
    size: int,
    colour: tuple[int, int, int, int],
    weight: int = 500,
    centred: bool = False,
) -> None:
    """Write a line of text into an opaque picture, its baseline at ``y``; sizes in pixels, colour BGRA.

    Parameters
    ----------
    picture : Pixels
        The picture.
    text : str
        What is written.
    x : float
        Column, in pixels from the left.
    y : float
        Row, in pixels from the top.
    size : int
        Height of the letters in pixels.
    colour : tuple[int, int, int, int]
        As ``#RRGGBB``, or blue first.
    weight : int, optional
        0 to 1.
    centred : bool, optional
        About the middle.
    """
    text = printable(text)
    if centred:
        box = text_size((picture.shape[1], picture.shape[0]), text, (0, 0), _FACE, size, weight)
        x -= box[2] / 2 + box[0]
    put_text(picture, text, (round(x), round(y)), colour, _FACE, size, weight)
    near = slice(max(0, round(y) - 2 * size), max(0, round(y) + size))
    along = slice(max(0, round(x) - size), max(0, round(x) + (len(text) + 2) * 2 * size))
    picture[near, along, 3] = 255  # the writer thins alpha at the edges of letters


def white(width: int, height: int, label: Label = Label()) -> Pixels:
    """Full white: every channel 255.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.

    Returns
    -------
    Pixels
    """
    return flat(width, height, 255, 255, 255)


def black(width: int, height: int, label: Label = Label()) -> Pixels:
    """Full black: every channel 0, opaque.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.

    Returns
    -------
    Pixels
    """
    return flat(width, height, 0, 0, 0)


def bars(width: int, height: int, label: Label = Label()) -> Pixels:
    """75 % colour bars in full range: 191 in each channel that is on.

    The colours follow SMPTE RP 219-1 and Rec. ITU-R BT.471-1 (75/0/75/0 bars).

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.

    Returns
    -------
    Pixels
    """
    level = round(0.75 * 255)
    on = {
        "grey": (1, 1, 1),
        "yellow": (1, 1, 0),
        "cyan": (0, 1, 1),
        "green": (0, 1, 0),
        "magenta": (1, 0, 1),
        "red": (1, 0, 0),
        "blue": (0, 0, 1),
    }
    picture = flat(width, height, 0, 0, 0)
    edges = [round(width * k / 7) for k in range(8)]
    for k, name in enumerate(BARS_75):
        r, g, b = on[name]
        picture[:, edges[k] : edges[k + 1], :3] = (b * level, g * level, r * level)
    return picture


def ramp_pattern(width: int, height: int, label: Label = Label()) -> Pixels:
    """A grey ramp, code 0 at the left edge to 255 at the right, and its mirror below the middle.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.

    Returns
    -------
    Pixels
    """
    row = np.round(np.linspace(0, 255, width)).astype(np.uint8)
    picture = flat(width, height, 0, 0, 0)
    picture[: height // 2, :, :3] = row[None, :, None]
    picture[height // 2 :, :, :3] = row[None, ::-1, None]
    return picture


def grid(width: int, height: int, label: Label = Label()) -> Pixels:
    """One-pixel lines every 60 px (every 10 px under 240 px), numbered, with a frame, centre lines and a circle.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.

    Returns
    -------
    Pixels
    """
    step = 60 if min(width, height) >= 240 else 10
    picture = flat(width, height, 28, 22, 18)
    line, strong = (150, 140, 120, 255), (87, 168, 227, 255)
    for n, x in enumerate(range(0, width, step)):
        picture[:, x] = strong if n % 5 == 0 else line
    for n, y in enumerate(range(0, height, step)):
        picture[y, :] = strong if n % 5 == 0 else line
    if step == 60:
        for n in range(0, width // step + 1, 5):
            write(picture, str(n * step), n * step + 5, 20, 16, (225, 230, 235, 255))
        for n in range(5, height // step + 1, 5):
            write(picture, str(n * step), 5, n * step + 20, 16, (225, 230, 235, 255))
        _circle(picture, min(width, height) / 2 - 2)
    picture[:, [(width - 1) // 2, width // 2]] = (255, 255, 255, 255)
    picture[[(height - 1) // 2, height // 2], :] = (255, 255, 255, 255)
    _frame(picture)
    return picture


def _circle(picture: Pixels, radius: float) -> None:
    """A true circle about the centre, one pixel wide, each pixel covered by its distance from the line."""
    height, width = picture.shape[:2]
    x = np.arange(width, dtype=np.float32) - np.float32((width - 1) / 2)
    y = np.arange(height, dtype=np.float32)[:, None] - np.float32((height - 1) / 2)
    cover = np.clip(1 - np.abs(np.sqrt(x * x + y * y) - np.float32(radius)), 0, 1)
    rows, columns = np.nonzero(cover)
    share = cover[rows, columns][:, None]
    picture[rows, columns, :3] = np.round(picture[rows, columns, :3] * (1 - share) + 235 * share).astype(np.uint8)


def identify(width: int, height: int, label: Label = Label()) -> Pixels:
    """An identify card: name, size and rate, corner marks, and a frame one pixel wide on the outermost pixels.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.

    Returns
    -------
    Pixels
    """
    picture = flat(width, height, 54, 48, 32)
    arm, thick = max(3, min(width, height) // 8), max(1, min(width, height) // 120)
    for cx, sx in ((0, 1), (width - 1, -1)):
        for cy, sy in ((0, 1), (height - 1, -1)):
            x0, x1 = sorted((cx, cx + sx * arm))
            y0, y1 = sorted((cy, cy + sy * arm))
            picture[sorted((cy, cy + sy * thick))[0] : sorted((cy, cy + sy * thick))[1] + 1, x0 : x1 + 1] = (
                87,
                168,
                227,
                255,
            )
            picture[y0 : y1 + 1, sorted((cx, cx + sx * thick))[0] : sorted((cx, cx + sx * thick))[1] + 1] = (
                87,
                168,
                227,
                255,
            )
    lines = [
        label.name,
        f"{width} × {height}",
        " · ".join(t for t in (f"{label.rate:g} Hz" if label.rate else "", label.note) if t),
    ]
    size = max(8, min(height // 6, round(width / max(6, max(map(len, lines)) * 0.62))))
    top = height / 2 - size * 0.75
    for k, text in enumerate(lines):
        if text:
            small = size if k == 0 else max(8, round(size * 0.5))
            write(
                picture,
                text,
                width / 2,
                top + size * (0.4 + 0.85 * k),
                small,
                (235, 235, 230, 255),
                700 if k == 0 else 400,
                True,
            )
    _frame(picture)
    return picture


def _frame(picture: Pixels) -> None:
    picture[0] = picture[-1] = (255, 255, 255, 255)
    picture[:, 0] = picture[:, -1] = (255, 255, 255, 255)


PATTERNS: dict[str, Callable[[int, int, Label], Pixels]] = {
    "white": white,
    "black": black,
    "grid": grid,
    "bars": bars,
    "ramp": ramp_pattern,
    "identify": identify,
}


def pattern(name: str, width: int, height: int, label: Label = Label()) -> Pixels:
    """A test pattern by name.

    Parameters
    ----------
    name : str
        What it is called.
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.

    Returns
    -------
    Pixels

    Raises
    ------
    ValueError
        If there is no such pattern.
    """
    if name not in PATTERNS:
        raise ValueError(f'no pattern "{name}"; there are: {", ".join(PATTERNS)}')
    return PATTERNS[name](width, height, label)
