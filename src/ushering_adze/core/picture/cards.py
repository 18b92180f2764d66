"""Pictures the application draws itself in place of a source: the countdown, and the named picture of a lost source."""

from __future__ import annotations

import math
from functools import lru_cache

import cv2
import numpy as np

from ushering_adze.core.light.patterns import flat, write
from ushering_adze.core.plane.pixels import Pixels

COUNTDOWN_SIZE = (1920, 1080)


def clock_digits(seconds: int) -> str:
    """Whole seconds as ``m:ss``, or ``h:mm:ss`` from an hour.

    Examples
    --------
    >>> clock_digits(5), clock_digits(300), clock_digits(3661)
    ('0:05', '5:00', '1:01:01')
    """
    hours, rest = divmod(max(0, seconds), 3600)
    minutes, secs = divmod(rest, 60)
    return f"{hours}:{minutes:02d}:{secs:02d}" if hours else f"{minutes}:{secs:02d}"


@lru_cache(maxsize=1)
def _dial() -> Pixels:
    width, height = COUNTDOWN_SIZE
    picture = flat(width, height, 46, 26, 18)
    centre, radius = (width // 2, height // 2), 400
    for k in range(60):
        a = 2 * math.pi * k / 60
        inner = radius + (18 if k % 5 else 6)
        p = (round(centre[0] + inner * math.sin(a)), round(centre[1] - inner * math.cos(a)))
        q = (round(centre[0] + (radius + 40) * math.sin(a)), round(centre[1] - (radius + 40) * math.cos(a)))
        cv2.line(picture, p, q, (110, 96, 84, 255), 3 if k % 5 else 7, cv2.LINE_AA)
    return picture


def countdown_picture(left: float, total: int) -> Pixels:
    """The countdown with ``left`` seconds to go of ``total``: digits within a ring that empties.

    Parameters
    ----------
    left : float
        Seconds left.
    total : int
        Seconds in all.

    Returns
    -------
    ndarray, shape (1080, 1920, 4), uint8
    """
    picture = _dial().copy()
    centre = (COUNTDOWN_SIZE[0] // 2, COUNTDOWN_SIZE[1] // 2)
    share = min(1.0, max(0.0, left / total))
    cv2.ellipse(picture, centre, (372, 372), -90, 0, 360, (74, 52, 40, 255), 14, cv2.LINE_AA)
    if share > 0:
        cv2.ellipse(picture, centre, (372, 372), -90, 0, 360 * share, (87, 168, 227, 255), 14, cv2.LINE_AA)
    text = clock_digits(math.ceil(left))
    write(picture, text, centre[0], centre[1] + 82, 230 if len(text) < 6 else 170, (220, 232, 238, 255), 600, True)
    return picture


def input_picture(name: str, words: str, width: int, height: int) -> Pixels:
    """The card shown for an input whose hardware is not there yet: its name, its format, and a frame on its outermost
    pixels.

    Parameters
    ----------
    name : str
        What it is called.
    words : str
        In words.
    width : int
        In pixels.
    height : int
        In pixels.

    Returns
    -------
    ndarray, shape (height, width, 4), uint8
    """
    picture = flat(width, height, 52, 44, 30)
    short = min(width, height)
    picture[0, :, :3] = picture[-1, :, :3] = (130, 120, 90)
    picture[:, 0, :3] = picture[:, -1, :3] = (130, 120, 90)
    write(picture, name, width / 2, height / 2, max(12, short // 9), (211, 226, 232, 255), 700, True)
    write(picture, words, width / 2, height / 2 + short // 9, max(10, short // 20), (177, 176, 159, 255), 400, True)
    write(picture, "unbound", width / 2, height / 2 + short // 5, max(10, short // 20), (87, 168, 227, 255), 400, True)
    return picture


@lru_cache(2)
def _stripes(width: int, height: int) -> Pixels:
    y, x = np.ogrid[0:height, 0:width]
    picture = flat(width, height, 34, 26, 26)
    picture[((x + y) // 40) % 2 == 0, :3] = (40, 32, 44)
    cv2.rectangle(picture, (24, 24), (width - 25, height - 25), (74, 80, 226, 255), 4)
    return picture


def lost_picture(name: str, why: str, width: int = 1280, height: int = 720) -> Pixels:
    """The picture shown in place of a source that cannot be had: its name and the reason, on dark stripes.

    Parameters
    ----------
    name : str
        What it is called.
    why : str
        In a sentence.
    width : int, optional
        In pixels.
    height : int, optional
        In pixels.

    Returns
    -------
    ndarray, shape (height, width, 4), uint8
    """
    picture = _stripes(width, height).copy()
    write(picture, name, width / 2, height / 2 - 10, height // 9, (211, 226, 232, 255), 700, True)
    write(picture, "lost", width / 2, height / 2 + height // 11, height // 14, (94, 100, 236, 255), 600, True)
    size = max(14, min(height // 26, int(width / max(20, len(why)) * 1.7)))
    write(picture, why, width / 2, height - 70, size, (177, 176, 159, 255), 400, True)
    return picture
