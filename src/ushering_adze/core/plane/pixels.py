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
    alpha = pixels[..., 3:].astype(np.float32)
    if (alpha == 255).all():
        return pixels
    colour = np.divide(
        pixels[..., :3] * np.float32(255), alpha, out=np.zeros(pixels[..., :3].shape, np.float32), where=alpha > 0
    )
    return np.concatenate([np.clip(np.round(colour), 0, 255), alpha], -1).astype(np.uint8)
