"""Scopes: where the codes of a picture lie, drawn as traces."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.picture.key import CHROMA, luma_of
from ushering_adze.core.plane.lettering import put_text
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show.wall import ScopeName

Scope = ScopeName
MOST_ACROSS, MOST_DOWN = 640, 180
"""Pixels of a picture that are looked at: every so many, never mixed ones, which would show codes that are not
there.
"""
LARGEST = 960
"""Pixels across of a picture in false colours or with stripes, at most; of traces it is `MOST_ACROSS`."""
GROUND = (18, 14, 10, 255)
MARK = (72, 64, 52, 255)
TRACE = (196, 220, 190)
BANDS = (
    (2, (96, 32, 80)),
    (12, (168, 72, 32)),
    (42, (150, 128, 40)),
    (58, (88, 88, 88)),
    (66, (84, 168, 84)),
    (72, (132, 132, 132)),
    (82, (176, 164, 236)),
    (94, (176, 176, 176)),
    (99, (64, 208, 232)),
    (1000, (56, 56, 224)),
)
"""Per cent of luma up to which a band of false colour reaches, and its colour in BGR: our own choice of bands."""
ZEBRA = 95.0
"""Per cent of luma from which there are stripes."""


def sampled(pixels: Pixels) -> Pixels:
    """Every so many pixels of a picture.

    Parameters
    ----------
    pixels : ndarray, (h, w, 4)
    """
    h, w = pixels.shape[:2]
    down, across = max(1, -(-h // MOST_DOWN)), max(1, -(-w // MOST_ACROSS))
    if pixels.strides[-1] != 1 or pixels.strides[-2] != 4:
        return np.ascontiguousarray(pixels[::down, ::across])
    whole = pixels[::down].view(np.uint32)[:, ::across]  # four bytes at once
    return np.ascontiguousarray(whole).view(np.uint8)


_DIFFERENCES = np.concatenate((CHROMA / 255, np.zeros((2, 1))), axis=1).astype(np.float32)


def colour_difference(pixels: Pixels) -> NDArray[np.float32]:
    """Cb and Cr of BGRA codes, each −0.5 to 0.5.

    Parameters
    ----------
    pixels : ndarray, (h, w, 4)

    Returns
    -------
    ndarray, (h, w, 2)

    References
    ----------
    ITU-R BT.709, section 3.3: (B − Y) / 1.8556 and (R − Y) / 1.5748.
    """
    return np.asarray(cv2.transform(pixels.astype(np.float32), _DIFFERENCES), np.float32)


@lru_cache(16)
def _shades(most: int, colour: tuple[int, int, int]) -> NDArray[np.uint32]:
    """The light of each count, as four bytes in one number."""
    bright = np.where(np.arange(256) > 0, 0.25 + 0.75 * np.sqrt(np.minimum(1.0, np.arange(256) / max(1, most))), 0.0)
    table = np.zeros((256, 4), np.uint8)
    table[:, :3] = bright[:, None] * np.array(colour)
    return table.view(np.uint32).ravel()


def _trace(counts: NDArray[np.int64], colour: tuple[int, int, int]) -> Pixels:
    """Counts as light: what is hit once is seen, what is hit often is bright; a little thicker than a pixel."""
    few = np.asarray(cv2.dilate(np.minimum(counts, 255).astype(np.uint8), np.ones((2, 2), np.uint8)), np.uint8)
    made = np.take(_shades(int(few.max()) // 4, colour), few)
    return made.view(np.uint8).reshape(*few.shape, 4)


def _counts(at: NDArray[np.intp], width: int, height: int) -> NDArray[np.int64]:
    return np.bincount(at.ravel(), minlength=width * height)[: width * height].reshape(height, width)


def _waveform(channel: NDArray[np.uint8], width: int, height: int) -> NDArray[np.int64]:
    columns = np.linspace(0, width - 1, channel.shape[1]).round().astype(np.intp)[None, :]
    rows = np.rint((255 - np.arange(256)) / 255 * (height - 1)).astype(np.intp) * width
    at = np.take(rows, channel)
    at += columns
    return _counts(at, width, height)


def _levels(made: Pixels, left: int = 0) -> None:
    """Lines at each tenth of the way from 0 to 100 %."""
    height = made.shape[0]
    for tenth in range(11):
        y = round((10 - tenth) / 10 * (height - 1))
        made[y, left:] = MARK


def waveform(pixels: Pixels, width: int, height: int) -> Pixels:
    """Luma of each column, 0 % at the foot, 100 % at the top.

    Parameters
    ----------
    pixels : ndarray, (h, w, 4)
        BGRA.
    width, height : int
        Of the scope.

    Returns
    -------
    ndarray, (height, width, 4)
    """
    made = _ground(width, height)
    _levels(made)
    _lay(made, _trace(_waveform(luma_of(sampled(pixels)), width, height), TRACE))
    return made


def parade(pixels: Pixels, width: int, height: int) -> Pixels:
    """Red, green and blue of each column, side by side.

    Parameters
    ----------
    pixels : ndarray, (h, w, 4)
    width, height : int

    Returns
    -------
    ndarray, (height, width, 4)
    """
    made = _ground(width, height)
    _levels(made)
    few, third = sampled(pixels), width // 3
    every = max(1, few.shape[1] // max(1, third) // 2)  # two to each column of a third at the least
    few = np.ascontiguousarray(few.view(np.uint32)[:, ::every]).view(np.uint8)
    for n, (channel, colour) in enumerate(((2, (96, 96, 255)), (1, (110, 230, 110)), (0, (255, 150, 90)))):
        part = made[:, n * third : (n + 1) * third]
        one = np.asarray(cv2.extractChannel(few, channel), np.uint8)
        _lay(part, _trace(_waveform(one, part.shape[1], height), colour))
        if n:
            made[:, n * third] = MARK
    return made


def vector_place(blue: float, red: float, width: int, height: int) -> tuple[float, float]:
    """Where Cb and Cr lie on a vectorscope: right is blue, up is red; the circle is at half a unit.

    Examples
    --------
    >>> vector_place(0.0, 0.0, 101, 101), vector_place(0.5, 0.0, 101, 101)
    ((50.0, 50.0), (95.0, 50.0))
    """
    radius = 0.9 * (min(width, height) - 1)
    return (width - 1) / 2 + blue * radius, (height - 1) / 2 - red * radius


BARS = {
    "R": (255, 0, 0),
    "Y": (255, 255, 0),
    "G": (0, 255, 0),
    "C": (0, 255, 255),
    "B": (0, 0, 255),
    "M": (255, 0, 255),
}
AMPLITUDE = 0.75
"""Of the bars that a vectorscope's boxes are for (ITU-R BT.471; SMPTE RP 219, from memory)."""


@lru_cache(8)
def _vector_ground(width: int, height: int) -> Pixels:
    """The circle, the cross and the boxes; it must not be written to."""
    made = _ground(width, height)
    middle = (round((width - 1) / 2), round((height - 1) / 2))
    cv2.circle(made, middle, round(0.45 * (min(width, height) - 1)), MARK, 1, cv2.LINE_AA)
    cv2.line(made, (middle[0], 0), (middle[0], height - 1), MARK, 1)
    cv2.line(made, (0, middle[1]), (width - 1, middle[1]), MARK, 1)
    side = max(3, min(width, height) // 30)
    for name, (r, g, b) in BARS.items():
        one = np.rint(np.array([[[b, g, r, 255]]]) * AMPLITUDE).astype(np.uint8)
        blue, red = (float(v) for v in colour_difference(one)[0, 0])
        x, down = vector_place(blue, red, width, height)
        at = (round(x), round(down))
        cv2.rectangle(made, (at[0] - side, at[1] - side), (at[0] + side, at[1] + side), (128, 116, 96, 255), 1)
        put_text(
            made,
            name,
            (at[0] + side + 2, at[1] + 4),
            cv2.FONT_HERSHEY_SIMPLEX,
            max(0.3, side / 18),
            (160, 150, 130, 255),
            1,
            cv2.LINE_AA,
        )
    return made


def vectors(pixels: Pixels, width: int, height: int) -> Pixels:
    """Cb against Cr, with boxes where bars of 75 % lie.

    Parameters
    ----------
    pixels : ndarray, (h, w, 4)
    width, height : int

    Returns
    -------
    ndarray, (height, width, 4)
    """
    made = _vector_ground(width, height).copy()
    radius = 0.9 * (min(width, height) - 1)
    codes = sampled(pixels).reshape(-1, 4).astype(np.float32)
    across, down = (_DIFFERENCES * np.array(((radius,), (-radius,)), np.float32)) @ codes.T
    across += np.float32((width - 1) / 2)
    down += np.float32((height - 1) / 2)
    np.clip(np.rint(across, out=across), 0, width - 1, out=across)
    np.clip(np.rint(down, out=down), 0, height - 1, out=down)
    down *= width
    down += across  # whole numbers below 2²⁴: exact in 32 bits
    _lay(made, _trace(_counts(down.astype(np.intp), width, height), TRACE))
    return made


def histogram(pixels: Pixels, width: int, height: int) -> Pixels:
    """How many pixels have each code, of red, green and blue, one over another; black at the left.

    Parameters
    ----------
    pixels : ndarray, (h, w, 4)
    width, height : int

    Returns
    -------
    ndarray, (height, width, 4)
    """
    made = _ground(width, height)
    few = sampled(pixels)
    counts = [cv2.calcHist([few], [c], None, [256], [0, 256]).ravel().astype(np.float64) for c in (0, 1, 2)]
    most = max(float(np.sqrt(c.max())) for c in counts) or 1.0
    at = np.linspace(0, 255, width)
    rows = np.arange(height)[:, None]
    for channel, count in enumerate(counts):
        high = np.sqrt(np.interp(at, np.arange(256), count)) / most * (height - 1)
        filled = rows >= (height - 1 - high)[None, :]
        np.copyto(made[..., channel], 220, where=filled)
    for tenth in range(1, 10):
        made[:, round(tenth / 10 * (width - 1))] = np.maximum(made[:, round(tenth / 10 * (width - 1))], MARK)
    return made


def false_colour(pixels: Pixels) -> Pixels:
    """A picture in which each band of luma has a colour of its own.

    Parameters
    ----------
    pixels : ndarray, (h, w, 4)
    """
    grey = luma_of(pixels)
    return np.take(_bands(), grey).view(np.uint8).reshape(*grey.shape, 4)


@lru_cache(1)
def _bands() -> NDArray[np.uint32]:
    """The colour of each code, as four bytes in one number."""
    table = np.full((256, 4), 255, np.uint8)
    for code in range(256):
        table[code, :3] = next(colour for top, colour in BANDS if code / 255 * 100 <= top)
    return table.view(np.uint32).ravel()


def zebra(pixels: Pixels, number: int = 0) -> Pixels:
    """A picture with stripes over whatever is brighter than most displays can tell apart.

    Parameters
    ----------
    pixels : ndarray, (h, w, 4)
    number : int
        Of the frame: stripes move.
    """
    h, w = pixels.shape[:2]
    over = luma_of(pixels) >= ZEBRA * 2.55
    over &= _stripes(w, h, number % 12)
    made = pixels.copy()
    np.putmask(made.view(np.uint32)[..., 0], over, np.array((0, 0, 0, 255), np.uint8).view(np.uint32)[0])
    return made


@lru_cache(24)
def _stripes(width: int, height: int, number: int) -> NDArray[np.bool_]:
    found: NDArray[np.bool_] = ((np.arange(width)[None, :] + np.arange(height)[:, None] + number) // 6) % 2 == 0
    return found


def _ground(width: int, height: int) -> Pixels:
    packed = np.array(GROUND, np.uint8).view(np.uint32)[0]
    return np.full((height, width), packed, np.uint32).view(np.uint8).reshape(height, width, 4)


def _lay(made: Pixels, light: Pixels) -> None:
    """Light over a ground: whichever is brighter."""
    np.maximum(made, light, out=made)


def _fitted(pixels: Pixels, width: int, height: int) -> Pixels:
    """A picture within a size, by pixels that it has."""
    h, w = pixels.shape[:2]
    k = min(width / w, height / h)
    size = max(1, round(w * k)), max(1, round(h * k))
    return pixels if k >= 1 else np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_NEAREST), np.uint8)


def scope_picture(scope: Scope, pixels: Pixels, width: int, height: int, number: int = 0) -> Pixels:
    """A scope of a picture.

    Parameters
    ----------
    scope : {"waveform", "parade", "vectors", "histogram", "false-colour", "zebra"}
    pixels : ndarray, (h, w, 4)
    width, height : int
        Of a trace; a picture in false colours or with stripes is no larger.
    number : int
        Of the frame.
    """
    if width > LARGEST and scope in ("false-colour", "zebra"):
        return scope_picture(scope, pixels, LARGEST, max(1, round(height * LARGEST / width)), number)
    if width > MOST_ACROSS and scope not in ("false-colour", "zebra"):
        # a larger trace has no more to tell: it is drawn smaller, and enlarged
        made = scope_picture(scope, pixels, MOST_ACROSS, max(1, round(height * MOST_ACROSS / width)), number)
        return np.asarray(cv2.resize(made, (width, height), interpolation=cv2.INTER_LINEAR), np.uint8)
    match scope:
        case "waveform":
            return waveform(pixels, width, height)
        case "parade":
            return parade(pixels, width, height)
        case "vectors":
            return vectors(pixels, width, height)
        case "histogram":
            return histogram(pixels, width, height)
        case "false-colour":
            return false_colour(_fitted(pixels, width, height))
        case _:
            return zebra(_fitted(pixels, width, height), number)
