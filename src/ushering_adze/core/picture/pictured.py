"""A source's picture as it is shown everywhere: cut, flipped, adjusted."""

from __future__ import annotations

from functools import lru_cache
from typing import get_args

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.adjust import adjustment
from ushering_adze.core.picture.key import chroma_keyed, fill_keyed, luma_keyed, mask_of
from ushering_adze.core.plane.pixels import AlphaOf, Pixels
from ushering_adze.core.plane.strips import bgr_of, linear, strips
from ushering_adze.core.show import ChromaKey, FillKey, LumaKey, SourcePicture

_FLIPS = {"left-right": 1, "top-bottom": 0, "both": -1}


_UNTOUCHED = tuple(SourcePicture(alpha=alpha) for alpha in get_args(AlphaOf))
"""Pictures to which nothing is done: what alpha means was settled when their file was read."""


@lru_cache(256)
def _matrix(settings: SourcePicture) -> NDArray[np.float64] | None:
    return adjustment(settings)


def _coloured(pixels: Pixels, matrix: NDArray[np.float64]) -> Pixels:
    """An affine map of codes, on premultiplied ones: what is added, is added by the share of alpha."""
    if int(pixels[..., 3].min()) < 255:
        whole = np.eye(4)
        whole[:3, :3], whole[:3, 3] = matrix[:, :3], matrix[:, 3] / 255
        found = np.asarray(cv2.transform(pixels, whole), np.uint8)
        found[..., :3] = np.minimum(found[..., :3], found[..., 3:])  # no colour is more than its alpha
        return found
    made = np.empty_like(pixels)
    for strip in strips(*pixels.shape[:2]):
        made[strip] = cv2.cvtColor(linear(bgr_of(pixels[strip]), matrix), cv2.COLOR_BGR2BGRA)
    return made


def keyed(
    pixels: Pixels, key: LumaKey | ChromaKey | FillKey | None, key_picture: Pixels | None, opaque: bool = False
) -> Pixels:
    """A picture with its key.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
    key : LumaKey, ChromaKey, FillKey or None
    key_picture : ndarray, shape (h', w', 4), uint8, or None
        Of the source that is the key; without it nothing is seen.
    opaque : bool
        Whether the picture is known to be.

    Returns
    -------
    ndarray, shape (h, w, 4), uint8
    """
    match key:
        case LumaKey():
            return luma_keyed(pixels, key, opaque)
        case ChromaKey():
            return chroma_keyed(pixels, key)
        case FillKey():
            return fill_keyed(pixels, np.zeros((1, 1, 4), np.uint8) if key_picture is None else key_picture, key)
    return pixels


def pictured(pixels: Pixels, settings: SourcePicture, key_picture: Pixels | None = None) -> Pixels:
    """Adjust a picture.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
        BGRA, premultiplied; it is not written to.
    settings : SourcePicture
        Its cut comes first, then its flip, its key, its colours.
    key_picture : ndarray, shape (h', w', 4), uint8, optional
        Of the source that is its key; it is cut and flipped alike.

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
    if settings in _UNTOUCHED:
        return pixels
    cut = _cut(pixels, settings)
    if settings.key is not None:
        cut = keyed(cut, settings.key, None if key_picture is None else _cut(key_picture, settings))
    if settings.mask:
        return mask_of(cut)
    matrix = _matrix(settings)
    if matrix is not None:
        return _coloured(cut, matrix)
    return np.ascontiguousarray(cut)


def _cut(pixels: Pixels, settings: SourcePicture) -> Pixels:
    """The part of a picture that is left, flipped."""
    h, w = pixels.shape[:2]
    x0, y0 = min(w - 1, round(settings.left * w)), min(h - 1, round(settings.top * h))
    x1, y1 = max(x0 + 1, round((1 - settings.right) * w)), max(y0 + 1, round((1 - settings.bottom) * h))
    cut = pixels[y0:y1, x0:x1]
    return cut if settings.flip == "none" else np.asarray(cv2.flip(cut, _FLIPS[settings.flip]), np.uint8)
