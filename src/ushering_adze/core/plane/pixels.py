"""Pixels: contiguous uint8 arrays of shape (height, width, 4), BGRA, premultiplied alpha."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

Pixels = NDArray[np.uint8]


def dark(pixels: Pixels) -> Pixels:
    """A raster of the same size in which every colour is black.

    Examples
    --------
    >>> dark(np.full((1, 1, 4), 200, np.uint8)).tolist()
    [[[0, 0, 0, 200]]]
    """
    made = pixels.copy()
    made[..., :3] = 0
    return made


def premultiplied(straight: Pixels) -> tuple[Pixels, bool]:
    """Premultiply straight alpha.

    Parameters
    ----------
    straight : ndarray, shape (h, w, 4), uint8
        BGRA with straight alpha.

    Returns
    -------
    pixels : ndarray
        BGRA premultiplied; the same array if every pixel is opaque.
    opaque : bool

    Examples
    --------
    >>> premultiplied(np.array([[[200, 100, 50, 128]]], np.uint8))[0].tolist()
    [[[100, 50, 25, 128]]]
    """
    alpha = straight[..., 3]
    if int(alpha.min()) == 255:
        return straight, True
    factor = cv2.merge([alpha, alpha, alpha, np.full_like(alpha, 255)])
    return np.asarray(cv2.multiply(straight, factor, scale=1 / 255), np.uint8), False


def _bayer(steps: int) -> NDArray[np.float32]:
    """Thresholds of 2 to the power of ``steps`` a side, each of them once, 0 to 1."""
    made = np.zeros((1, 1))
    for _ in range(steps):
        made = np.block([[4 * made, 4 * made + 2], [4 * made + 3, 4 * made + 1]])
    return np.asarray((made + 0.5) / made.size, np.float32)


_THRESHOLDS = _bayer(3)


def dithered(codes: NDArray[np.uint16]) -> Pixels:
    """Codes of 16 bits with 8, so that the mean of every 8 × 8 of equal ones stays what it was, to a 64th of a code.

    Parameters
    ----------
    codes : ndarray, shape (h, w, c), uint16

    Returns
    -------
    ndarray, shape (h, w, c), uint8
        Black, white and all that is a whole code stays one.

    References
    ----------
    B. E. Bayer, "An optimum method for two-level rendition of continuous-tone pictures", ICC 1973.

    Examples
    --------
    >>> dithered(np.full((8, 8, 1), 257 * 100 + 128, np.uint16)).mean().item()
    100.5
    """
    height, width, depth = codes.shape
    tile = np.tile(_THRESHOLDS, (-(-height // 8), -(-width // 8)))[:height, :width]
    raised = cv2.add(codes.astype(np.float32) * np.float32(1 / 257), cv2.merge([tile] * depth).reshape(codes.shape))
    return np.minimum(raised, np.float32(255)).astype(np.uint8)


AlphaOf = Literal["straight", "premultiplied", "ignored"]
"""How a file's colours were made: undiminished by its alpha, diminished already, or of no account."""


def by_alpha(codes: Pixels, alpha: AlphaOf) -> tuple[Pixels, bool]:
    """Premultiplied pixels of what a file holds, by how its colours were made.

    Parameters
    ----------
    codes : ndarray, shape (h, w, 4), uint8
        BGRA as it was read.
    alpha : "straight", "premultiplied" or "ignored"
        No colour of premultiplied pixels may be more than its alpha: what is, is cut.

    Returns
    -------
    pixels : ndarray
        BGRA premultiplied.
    opaque : bool

    Examples
    --------
    >>> [by_alpha(np.array([[[99, 40, 0, 50]]], np.uint8), a)[0].tolist() for a in ("premultiplied", "ignored")]
    [[[[50, 40, 0, 50]]], [[[99, 40, 0, 255]]]]
    """
    if alpha == "straight":
        return premultiplied(codes)
    made = codes.copy()
    if alpha == "ignored":
        made[..., 3] = 255
        return made, True
    np.minimum(made[..., :3], made[..., 3:], out=made[..., :3])
    return made, bool(made[..., 3].min() == 255)


def straight(pixels: Pixels) -> Pixels:
    """Premultiplied pixels as files have them: colour undiminished by alpha; the way back from `premultiplied`.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
        BGRA premultiplied.

    Returns
    -------
    ndarray, shape (h, w, 4), uint8
        BGRA straight; the same array if every pixel is opaque.

    Examples
    --------
    >>> straight(np.array([[[50, 25, 0, 128]]], np.uint8))[0, 0].tolist()
    [100, 50, 0, 128]
    """
    alpha = cv2.extractChannel(pixels, 3)
    least, most, _, _ = cv2.minMaxLoc(alpha)
    if least == 255:
        return pixels
    if least == most:  # as of an opaque picture that fades
        made = cv2.convertScaleAbs(pixels, alpha=255 / most) if most else np.zeros_like(pixels)
    else:
        made = cv2.divide(pixels, cv2.merge([alpha] * 4), scale=255)  # what is divided by 0 is 0
    cv2.insertChannel(alpha, made, 3)
    return np.asarray(made, np.uint8)
