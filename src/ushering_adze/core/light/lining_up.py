"""Test patterns for lining up projectors and panels: cross-hatch, marks, focus, circles, greys near black, and a line
that moves.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.patterns import PATTERNS, Label, flat, pattern, write
from ushering_adze.core.plane.rect import Rect

Pixels = NDArray[np.uint8]
Colour = tuple[int, int, int]


class Look(NamedTuple):
    """How a pattern is drawn: pixels between lines, their width, and their colour, blue first."""

    spacing: int = 60
    width: int = 1
    ink: Colour = (235, 235, 235)


def _lines(picture: Pixels, look: Look, x0: int = 0, y0: int = 0) -> None:
    """Lines every ``spacing`` pixels, counted from the place (x0, y0) of the picture."""
    h, w = picture.shape[:2]
    for k in range(look.width):
        xs = np.arange((x0 + k) % look.spacing, w, look.spacing)
        ys = np.arange((y0 + k) % look.spacing, h, look.spacing)
        picture[:, xs, :3] = look.ink
        picture[ys, :, :3] = look.ink


def cross_hatch(width: int, height: int, label: Label = Label(), look: Look = Look()) -> Pixels:
    """Lines on black with a spacing, width and colour of choice, and a frame on the outermost pixels.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.
    look : Look, optional
        How it is drawn: spacing, line width, colour.

    Returns
    -------
    Pixels
    """
    picture = flat(width, height, 0, 0, 0)
    _lines(picture, look)
    for k in range(look.width):
        picture[[k, height - 1 - k], :, :3] = look.ink
        picture[:, [k, width - 1 - k], :3] = look.ink
    return picture


def numbered_grid(
    width: int, height: int, look: Look = Look(), first: tuple[int, int] = (0, 0), title: str = ""
) -> Pixels:
    """A grid whose lines are numbered by coordinates that begin at ``first``: of an output, a canvas, or a screen.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    look : Look, optional
        How it is drawn: spacing, line width, colour.
    first : tuple[int, int], optional
        Coordinates at the first pixel.
    title : str, optional
        What is written on it.

    Returns
    -------
    Pixels
    """
    picture = flat(width, height, 14, 11, 9)
    _lines(picture, look, -first[0], -first[1])
    size = max(11, min(26, look.spacing // 3))
    pale = (225, 230, 235, 255)
    every = max(1, -(-int(size * 3.2) // look.spacing))
    for n, x in enumerate(range(-first[0] % look.spacing, width, look.spacing)):
        if n % every == 0:
            for y in (size + 4, height // 2 + size + 4, height - 8):
                write(picture, str(x + first[0]), x + 4, y, size, pale)
    down = max(1, -(-(size + 4) // look.spacing))  # as many rows as leave each number room
    for y in range(-first[1] % look.spacing, height, down * look.spacing):
        for x in (4, width // 2 + 4, width - int(size * 2.6)):
            write(picture, str(y + first[1]), x, y + size + 2, size, pale)
    if title:
        write(
            picture, title, width / 2, height / 2 - 12, max(16, min(44, height // 20)), (87, 168, 227, 255), 700, True
        )
    picture[[0, -1], :, :3] = picture[:, [0, -1], :3] = look.ink
    return picture


def marks(width: int, height: int, label: Label = Label(), look: Look = Look()) -> Pixels:
    """Corner and edge marks in one colour, the frame on the outermost pixels, and the name: what shows where a picture
    ends.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.
    look : Look, optional
        How it is drawn: spacing, line width, colour.

    Returns
    -------
    Pixels
    """
    picture = flat(width, height, 0, 0, 0)
    arm, thick = max(6, min(width, height) // 6), max(2, 3 * look.width)
    ink = (*look.ink, 255)
    for x in (0, width - thick):
        for y0, y1 in ((0, arm), (height // 2 - arm // 2, height // 2 + arm // 2), (height - arm, height)):
            picture[y0:y1, x : x + thick] = ink
    for y in (0, height - thick):
        for x0, x1 in ((0, arm), (width // 2 - arm // 2, width // 2 + arm // 2), (width - arm, width)):
            picture[y : y + thick, x0:x1] = ink
    for fx in (0.25, 0.5, 0.75):
        for fy in (0.25, 0.5, 0.75):
            x, y = int(width * fx), int(height * fy)
            picture[y - 12 : y + 13, x : x + look.width] = ink
            picture[y : y + look.width, x - 12 : x + 13] = ink
    picture[[0, -1]] = picture[:, [0, -1]] = ink
    write(picture, label.name, width / 2, height / 2 - 30, max(12, height // 16), ink, 700, True)
    return picture


def focus(width: int, height: int, label: Label = Label(), look: Look = Look()) -> Pixels:
    """Stars of rays, one-pixel lines and small type in nine places; below, red, green and blue lines over white for
    convergence.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.
    look : Look, optional
        How it is drawn: spacing, line width, colour.

    Returns
    -------
    Pixels
    """
    picture = flat(width, height, 0, 0, 0)
    size = max(16, min(width, height) // 8)
    for fx in (0.12, 0.5, 0.88):
        for fy in (0.14, 0.5, 0.86):
            cx, cy = int(width * fx), int(height * fy)
            y, x = np.ogrid[-size : size + 1, -size : size + 1]
            angle, radius = np.arctan2(y, x), np.hypot(x, y)
            star = (np.cos(36 * angle) > 0) & (radius < size)
            box = picture[max(0, cy - size) : cy + size + 1, max(0, cx - size) : cx + size + 1]
            box[star[: box.shape[0], : box.shape[1]], :3] = 255
            for k, tint in enumerate(((255, 255, 255), (0, 0, 255), (0, 255, 0), (255, 0, 0))):
                at = cx + size + 8 + 4 * k
                picture[max(0, cy - size) : cy, at : at + 1, :3] = tint
                row = cy + 8 + 4 * k
                if row < height:
                    picture[row : row + 1, cx + size + 8 : cx + 2 * size, :3] = tint
            box = picture[cy + size + 4 : cy + size + 12, max(0, cx - size) : cx + size]
            box[:, ::2, :3] = 255
            write(picture, "the quick brown fox 0123456789", cx, cy + size + 26, 10, (235, 235, 235, 255), 400, True)
    return picture


def near_black(width: int, height: int, label: Label = Label(), look: Look = Look()) -> Pixels:
    """Grey steps from code 0 to 31 on black, numbered: the first that is told from its neighbour shows where blacks
    begin.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.
    look : Look, optional
        How it is drawn: spacing, line width, colour.

    Returns
    -------
    Pixels
    """
    picture = flat(width, height, 0, 0, 0)
    for n in range(32):
        column, row = n % 16, n // 16
        x0, x1 = round(width * (column + 0.1) / 16), round(width * (column + 0.9) / 16)
        y0, y1 = round(height * (0.12 + 0.4 * row)), round(height * (0.12 + 0.4 * row + 0.3))
        picture[y0:y1, x0:x1, :3] = n
        write(
            picture,
            str(n),
            (x0 + x1) / 2,
            y1 + max(12, height // 40),
            max(10, height // 50),
            (70, 70, 70, 255),
            400,
            True,
        )
    return picture


def circles(width: int, height: int, label: Label = Label(), look: Look = Look()) -> Pixels:
    """True circles in the middle and the corners, squares and diagonals: what is round and square where pixels are.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    label : Label, optional
        What is written on it.
    look : Look, optional
        How it is drawn: spacing, line width, colour.

    Returns
    -------
    Pixels
    """
    picture = cross_hatch(width, height, label, look._replace(ink=(70, 62, 56)))
    small = max(4, min(width, height) // 6)
    middle = min(width, height) // 2 - 4
    places = [(width / 2, height / 2, middle), (width / 2, height / 2, middle // 2)]
    places += [(x, y, small) for x in (small + 4, width - small - 5) for y in (small + 4, height - small - 5)]
    for x, y, r in places:
        cv2.circle(
            picture,
            (round((x - 0.5) * 16), round((y - 0.5) * 16)),
            r * 16,
            (*look.ink, 255),
            max(1, look.width),
            cv2.LINE_AA,
            4,
        )
    cv2.line(picture, (0, 0), (width - 1, height - 1), (*look.ink, 255), 1, cv2.LINE_AA)
    cv2.line(picture, (width - 1, 0), (0, height - 1), (*look.ink, 255), 1, cv2.LINE_AA)
    return picture


def overlap_zones(
    width: int, height: int, pictures: Sequence[Rect], colours: Sequence[Colour], look: Look = Look()
) -> Pixels:
    """A screen with each picture's edges in its own colour and its overlaps hatched; ``pictures`` in pixels of the
    screen.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    pictures : Sequence[Rect]
        The pictures.
    colours : Sequence[Colour]
        One for each.
    look : Look, optional
        How it is drawn: spacing, line width, colour.

    Returns
    -------
    Pixels
    """
    picture = flat(width, height, 20, 16, 14)
    diagonal = (np.add.outer(np.arange(height), np.arange(width)) // 6) % 4 == 0
    for k, a in enumerate(pictures):
        for b in pictures[k + 1 :]:
            both = a.meet(b).meet(Rect(0, 0, width, height))
            if not both.empty:
                part = picture[both.cut()]
                part[..., :3] = 70
                part[diagonal[both.cut()], :3] = 130
    for rect, ink in zip(pictures, colours, strict=True):
        cv2.rectangle(picture, (rect.x, rect.y), (rect.right - 1, rect.foot - 1), (*ink, 255), max(2, look.width))
    return picture


def moving_line(width: int, height: int, seconds: float, look: Look = Look()) -> Pixels:
    """An upright line that crosses in four seconds, and a number of the frame's time: what tears or lags is seen.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    seconds : float
        In seconds.
    look : Look, optional
        How it is drawn: spacing, line width, colour.

    Returns
    -------
    Pixels
    """
    picture = flat(width, height, 0, 0, 0)
    x = int(seconds / 4 % 1 * width)
    picture[:, x : x + max(2, 4 * look.width), :3] = look.ink
    y = int(seconds / 4 % 1 * height)
    picture[y : y + max(1, look.width), :, :3] = (120, 120, 120)
    write(picture, f"{seconds % 100:05.2f}", width / 2, height / 2, max(16, height // 10), (*look.ink, 255), 700, True)
    return picture


SHAPES = {"hatch": cross_hatch, "marks": marks, "focus": focus, "near-black": near_black, "circles": circles}
NAMES = (
    "grid",
    "hatch",
    "marks",
    "overlaps",
    "focus",
    "near-black",
    "ramp",
    "white",
    "grey",
    "black",
    "circles",
    "line",
    "bars",
    "identify",
)
"""Every pattern that aligning offers, in the order of use."""


def shaped(name: str, width: int, height: int, label: Label = Label(), look: Look = Look()) -> Pixels:
    """A pattern by name, also those of `pattern`, with a look of choice where it has lines.

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
    look : Look, optional
        How it is drawn: spacing, line width, colour.

    Returns
    -------
    Pixels

    Raises
    ------
    ValueError
        If there is no such pattern.
    """
    if name in SHAPES:
        return SHAPES[name](width, height, label, look)
    if name == "line":
        return moving_line(width, height, 1.0, look)
    if name == "flash":
        return flat(width, height, 255, 255, 255)
    if name == "grey":
        return flat(width, height, 128, 128, 128)
    if name not in PATTERNS:
        raise ValueError(f'no pattern "{name}"; there are: {", ".join((*PATTERNS, *SHAPES, "grey", "line"))}')
    return pattern(name, width, height, label)
