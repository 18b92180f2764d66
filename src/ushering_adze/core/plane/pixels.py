"""Pixels: contiguous uint8 arrays of shape (height, width, 4), BGRA, premultiplied alpha."""

from __future__ import annotations

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
