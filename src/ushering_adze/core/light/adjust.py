"""Adjusting an output's picture: brightness, contrast, saturation, gain and offset of each channel, limited range.

All of it is one affine map of codes, so it is computed once and costs one pass over the picture.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.picture.frame import Pixels
from ushering_adze.core.show.output import PictureSettings, SignalSettings

LUMA = (0.2126, 0.7152, 0.0722)
"""Weights of red, green, blue in ITU-R BT.709's luma (from memory; checked against colour-science)."""


def adjustment(picture: PictureSettings, signal: SignalSettings) -> NDArray[np.float64] | None:
    """The affine map of an output's codes.

    Codes of 0 to 1 first have their saturation set about their BT.709 luma, then contrast about 0.5, brightness, then each
    channel's gain and offset; last, for limited-range RGB, 0 to 1 becomes 16/255 to 235/255.  YCbCr is limited by its own wire, so
    there the codes stay as they are.

    Returns
    -------
    ndarray, shape (3, 4), float64, or None
        ``[B G R]ᵀ → M[:, :3] · [B G R]ᵀ + M[:, 3]`` on codes of 0 to 255; None if nothing is adjusted.

    Examples
    --------
    >>> adjustment(PictureSettings(), SignalSettings()) is None
    True
    >>> adjustment(PictureSettings(), SignalSettings(range="limited"))[0].round(4).tolist()
    [0.8588, 0.0, 0.0, 16.0]
    """
    s, luma = picture.saturation, np.array(LUMA)
    matrix = s * np.eye(3) + (1 - s) * np.tile(luma, (3, 1))
    shift = np.zeros(3)
    matrix, shift = matrix * picture.contrast, (shift - 0.5) * picture.contrast + 0.5 + picture.brightness
    gain, offset = np.array(picture.gain), np.array(picture.offset)
    matrix, shift = matrix * gain[:, None], shift * gain + offset
    if signal.range == "limited" and signal.encoding == "rgb":
        matrix, shift = matrix * (219 / 255), shift * (219 / 255) + 16 / 255
    whole = np.hstack([matrix[::-1, ::-1], shift[::-1, None] * 255])
    return None if np.allclose(whole, np.hstack([np.eye(3), np.zeros((3, 1))]), atol=1e-12) else whole


def wire_table(picture: PictureSettings, signal: SignalSettings) -> Pixels | None:
    """The table of codes for the wire, shape (1, 256, 4), uint8; None if they go as they are.

    A measured response is undone, so that light = code ** gamma holds; then, for limited-range RGB, 0 to 1 becomes 16/255 to 235/255.
    YCbCr is limited by its own wire, so there the codes stay as they are.

    Examples
    --------
    >>> wire_table(PictureSettings(), SignalSettings(range="limited"))[0, [0, 255], 0].tolist()
    [16, 235]
    """
    code = np.arange(256) / 255
    sent = code
    if picture.response is not None:
        sent = np.interp(code**picture.gamma, picture.response, np.linspace(0, 1, len(picture.response)))
    if signal.range == "limited" and signal.encoding == "rgb":
        sent = sent * (219 / 255) + 16 / 255
    if sent is code:
        return None
    column = np.clip(np.rint(sent * 255), 0, 255).astype(np.uint8)
    return np.dstack([np.stack([column] * 3, -1)[None], np.arange(256, dtype=np.uint8)[None]])


def table_of(matrix: NDArray[np.float64]) -> Pixels | None:
    """A look-up table, shape (1, 256, 4), for a map that does not mix channels; None if it does."""
    if not np.allclose(matrix[:, :3], np.diag(np.diag(matrix[:, :3])), atol=1e-12):
        return None
    codes = np.arange(256)[:, None]
    mapped = np.clip(np.rint(codes * np.diag(matrix[:, :3]) + matrix[:, 3]), 0, 255).astype(np.uint8)
    return np.dstack([mapped.reshape(1, 256, 3), np.arange(256, dtype=np.uint8).reshape(1, 256)])


def adjusted(pixels: Pixels, matrix: NDArray[np.float64], target: Pixels | None = None) -> Pixels:
    """Apply an adjustment to BGRA codes; alpha is kept.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
    matrix : ndarray, shape (3, 4)
        From `adjustment`.
    target : ndarray, optional
        Where to write; may be ``pixels`` itself.
    """
    table = table_of(matrix)
    if table is not None:
        return np.asarray(cv2.LUT(pixels, table, dst=target), np.uint8)
    whole = np.zeros((4, 5))
    whole[:3, :3], whole[:3, 4], whole[3, 3] = matrix[:, :3], matrix[:, 3], 1
    return np.asarray(cv2.transform(pixels, whole, dst=target), np.uint8)


FLIP_CODES = {"left-right": 1, "top-bottom": 0, "both": -1}
"""OpenCV's codes for flips."""
