"""Pictures that carry their number, to be read by people and by programs, also after they were coded."""

from __future__ import annotations

import cv2
import numpy as np

from ushering_adze.core.plane.lettering import put_text, text_size
from ushering_adze.core.plane.pixels import Pixels

BITS = 24
"""Bits of a number, beside one that is always lit, one never, and one of parity."""
STRIP = 1 / 24
"""Height of the strip of bits, as a share of the picture's."""


def timecode(number: int, rate: float) -> str:
    """Hours, minutes, seconds and frames of a picture's number; frames are not dropped.

    Parameters
    ----------
    number : int
        From 0.
    rate : float
        Pictures a second; it is counted in whole ones (SMPTE ST 12-1, non-drop; from memory).

    Returns
    -------
    str

    Examples
    --------
    >>> timecode(1531, 25.0), timecode(30, 29.97)
    ('00:01:01:06', '00:00:01:00')
    """
    whole = max(1, round(rate))
    seconds, frame = divmod(number, whole)
    return f"{seconds // 3600 % 24:02}:{seconds // 60 % 60:02}:{seconds % 60:02}:{frame:02}"


def number_strip(number: int) -> tuple[bool, ...]:
    """The cells of a strip, from the left: lit, dark, the number's bits, the highest first, and their parity.

    Examples
    --------
    >>> number_strip(3)[:2], number_strip(3)[-3:], len(number_strip(3))
    ((True, False), (True, True, False), 27)
    """
    bits = [bool(number >> n & 1) for n in reversed(range(BITS))]
    return (True, False, *bits, sum(bits) % 2 == 1)


def put_number(pixels: Pixels, number: int, words: str) -> None:
    """Write a number into a picture: as a strip of cells along its head, and words beneath.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
        BGRA; it is written to.
    number : int
        0 to 2 ** 24 - 1.
    words : str
    """
    h, w = pixels.shape[:2]
    strip = max(4, round(h * STRIP))
    cells = number_strip(number)
    edges = np.linspace(0, w, len(cells) + 1).round().astype(int)
    for lit, x0, x1 in zip(cells, edges, edges[1:], strict=False):
        pixels[:strip, x0:x1, :3] = 235 if lit else 16
    size = h / 360
    (wide, high), foot = text_size(words, cv2.FONT_HERSHEY_DUPLEX, size, 2)
    x, y = (w - wide) // 2, h - round(high * 1.2)
    pixels[max(0, y - round(high * 1.4)) : min(h, y + foot), max(0, x - high) : x + wide + high, :3] = 16
    thick = max(1, round(size * 1.6))
    put_text(pixels, words, (x, y), cv2.FONT_HERSHEY_DUPLEX, size, (235, 235, 235, 255), thick, cv2.LINE_AA)


def number_in(pixels: Pixels) -> int | None:
    """The number in the strip of a picture; None if there is none that can be read.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8

    Returns
    -------
    int or None

    Examples
    --------
    >>> picture = np.zeros((180, 320, 4), np.uint8)
    >>> put_number(picture, 90210, "")
    >>> number_in(picture), number_in(np.zeros((180, 320, 4), np.uint8))
    (90210, None)
    """
    h, w = pixels.shape[:2]
    strip, count = max(4, round(h * STRIP)), BITS + 3
    edges = np.linspace(0, w, count + 1)
    rows = slice(strip // 4, max(strip // 4 + 1, strip * 3 // 4))
    middles = ((edges[:-1] + edges[1:]) / 2).astype(int)
    values = np.array([float(pixels[rows, max(0, x - 1) : x + 2, :3].mean()) for x in middles])
    lit = values > 126
    if not lit[0] or lit[1] or np.abs(values - 126).min() < 30 or lit[2:-1].sum() % 2 != int(lit[-1]):
        return None
    return int(sum(1 << n for n, bit in enumerate(reversed(lit[2:-1].tolist())) if bit))
