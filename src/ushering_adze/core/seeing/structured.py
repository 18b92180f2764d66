"""Patterns that tell a camera which pixel of a raster lights a place: Gray code for the period, phase for the place
within it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

Grey = NDArray[np.uint8]
Floats = NDArray[np.float32]
Whole = NDArray[np.signedinteger]
PERIOD = 16
"""Pixels of one wave; the Gray code numbers half waves."""
PHASES = 6
LEAST = 0.02
"""Light by which white must exceed black for a camera pixel to count, as a share of full scale."""


class Named(NamedTuple):
    """One pattern of the series: its name, and the grey raster."""

    name: str
    picture: Grey


class Decoded(NamedTuple):
    """Where on the raster each camera pixel's light comes from, in pixels; ``sure`` where it is known."""

    x: Floats
    y: Floats
    sure: NDArray[np.bool_]


def gray_code(values: Whole) -> Whole:
    """The binary-reflected Gray code of whole numbers (F. Gray, US patent 2632058, 1953).

    References
    ----------
    F. Gray, US patent 2 632 058 (1953): ``n ^ (n >> 1)``.

    Examples
    --------
    >>> gray_code(np.arange(8)).tolist()
    [0, 1, 3, 2, 6, 7, 5, 4]
    """
    return values ^ (values >> 1)


def from_gray(code: Whole) -> Whole:
    """The number a Gray code stands for; inverse of `gray_code`.

    References
    ----------
    F. Gray, US patent 2 632 058 (1953), the inverse.
    """
    value = code.copy()
    shift = 1
    while shift < 32:
        value ^= value >> shift
        shift *= 2
    return value


def _bits(length: int) -> int:
    return max(1, int(np.ceil(np.log2(-(-length // (PERIOD // 2))))))


def series(width: int, height: int, gamma: float = 2.2) -> list[Named]:
    """The patterns for one raster: white and black, then for each axis the Gray code, its inverse, and a wave at six
    phases.

    Waves are even in light on a display of this gamma; with six phases, harmonics up to the fourth, as another gamma
    makes them, fall out (H. Schreiber and J. H. Bruning, "Phase shifting interferometry", in D. Malacara, *Optical Shop
    Testing*; from memory).

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    gamma : float, optional
        Exponent from code to light.

    Returns
    -------
    list[Named]

    References
    ----------
    J. Salvi, J. Pagès, J. Batlle, "Pattern codification strategies in structured light systems", Pattern Recognition 37
    (2004), section 3 (from memory).
    """
    made = [
        Named("white", np.full((height, width), 255, np.uint8)),
        Named("black", np.zeros((height, width), np.uint8)),
    ]
    for axis, length in (("x", width), ("y", height)):
        place = np.arange(length)
        code = gray_code(place // (PERIOD // 2))
        lines = []
        for bit in range(_bits(length)):
            on = ((code >> bit) & 1).astype(np.uint8) * 255
            lines += [(f"{axis} bit {bit}", on), (f"{axis} bit {bit} inverse", np.asarray(255 - on, np.uint8))]
        for k in range(PHASES):
            light = 0.5 + 0.45 * np.cos(2 * np.pi * ((place + 0.5) / PERIOD - k / PHASES))
            lines.append((f"{axis} phase {k}", np.rint(255 * light ** (1 / gamma)).astype(np.uint8)))
        for name, line in lines:
            whole = np.broadcast_to(line[None, :] if axis == "x" else line[:, None], (height, width))
            made.append(Named(name, np.ascontiguousarray(whole)))
    return made


def decode(photo_of: Callable[[str], Floats], width: int, height: int) -> Decoded:
    """Find out for each camera pixel which place of the raster lights it.

    Parameters
    ----------
    photo_of : callable
        Gives the photograph of a pattern by its name, shape (h, w), linear light, 1 the most the camera takes.

    Returns
    -------
    Decoded

    References
    ----------
    J. Salvi, J. Pagès, J. Batlle, "Pattern codification strategies in structured light systems", Pattern Recognition 37
    (2004), section 3 (from memory).
    """
    white, black = photo_of("white"), photo_of("black")
    swing = white - black
    sure = swing > LEAST
    found = []
    for axis, length in (("x", width), ("y", height)):
        code = np.zeros(white.shape, np.int32)
        for bit in range(_bits(length)):
            on, off = photo_of(f"{axis} bit {bit}"), photo_of(f"{axis} bit {bit} inverse")
            code |= (on > off).astype(np.int32) << bit
        sine = np.zeros(white.shape, np.float32)
        cosine = np.zeros(white.shape, np.float32)
        for k in range(PHASES):
            photo = photo_of(f"{axis} phase {k}")
            cv2.scaleAdd(photo, np.sin(2 * np.pi * k / PHASES), sine, sine)
            cv2.scaleAdd(photo, np.cos(2 * np.pi * k / PHASES), cosine, cosine)
        sure &= np.hypot(sine, cosine) * (2 / PHASES) > 0.08 * np.maximum(swing, 1e-6)
        within = np.mod(np.arctan2(sine, cosine) / np.float32(2 * np.pi), 1) * PERIOD
        rough = (from_gray(code) + 0.5) * (PERIOD / 2)
        place = within + PERIOD * np.rint((rough - within) / PERIOD)
        sure &= (np.abs(place - rough) < 0.45 * PERIOD) & (place >= 0) & (place <= length)
        found.append(place.astype(np.float32))
    return Decoded(found[0], found[1], sure)
