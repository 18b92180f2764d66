"""Frames: contiguous uint8 arrays of shape (height, width, 4), BGRA, premultiplied alpha.

Canvases and rasters have the same shape but are opaque by definition: their fourth channel is never read.
"""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

Pixels = NDArray[np.uint8]


class Frame(NamedTuple):
    """A picture of a source.  ``serial`` changes when, and only when, the pixels do; ``opaque`` says alpha is 255 throughout."""

    pixels: Pixels
    serial: int
    opaque: bool = True


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
