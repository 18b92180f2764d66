"""A source's picture as it is shown everywhere: cut, flipped, adjusted."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.adjust import adjustment
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import SourcePicture

_FLIPS = {"left-right": 1, "top-bottom": 0, "both": -1}


@lru_cache(256)
def _matrix(settings: SourcePicture) -> NDArray[np.float64] | None:
    """The affine map of codes as one linear map of premultiplied ones: what is added, is added by the share
    of alpha.
    """
    codes = adjustment(settings)
    if codes is None:
        return None
    whole = np.eye(4)
    whole[:3, :3], whole[:3, 3] = codes[:, :3], codes[:, 3] / 255
    return whole


def pictured(pixels: Pixels, settings: SourcePicture) -> Pixels:
    """Adjust a picture.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
        BGRA, premultiplied; it is not written to.
    settings : SourcePicture
        Its cut comes first, then its flip, then its colours.

    Returns
    -------
    ndarray, shape (h', w', 4), uint8
        The very same if nothing is to be done; at least one pixel is left.

    Examples
    --------
    >>> grey = np.full((2, 2, 4), 100, np.uint8)
    >>> pictured(grey, SourcePicture(left=0.5)).shape, pictured(grey, SourcePicture()) is grey
    ((2, 1, 4), True)
    """
    if settings == SourcePicture():
        return pixels
    h, w = pixels.shape[:2]
    x0, y0 = min(w - 1, round(settings.left * w)), min(h - 1, round(settings.top * h))
    x1, y1 = max(x0 + 1, round((1 - settings.right) * w)), max(y0 + 1, round((1 - settings.bottom) * h))
    cut = pixels[y0:y1, x0:x1]
    if settings.flip != "none":
        cut = np.asarray(cv2.flip(cut, _FLIPS[settings.flip]), np.uint8)
    matrix = _matrix(settings)
    if matrix is not None:
        made = np.asarray(cv2.transform(cut, matrix), np.uint8)
        if int(cut[..., 3].min()) < 255:  # premultiplied, no colour is more than its alpha
            made[..., :3] = np.minimum(made[..., :3], made[..., 3:])
        return made
    return np.ascontiguousarray(cut)
