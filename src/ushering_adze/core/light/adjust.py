"""Adjusting an output's picture: brightness, contrast, saturation, gain and offset of each channel, limited range.

All of it is one affine map of codes, so it is computed once and costs one pass over the picture.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show.output import Adjusted, PictureSettings, SignalSettings

LUMA = (0.2126, 0.7152, 0.0722)
"""Weights of red, green, blue in ITU-R BT.709's luma (from memory; checked against colour-science)."""


def adjustment(picture: Adjusted, signal: SignalSettings = SignalSettings()) -> NDArray[np.float64] | None:
    """The affine map of an output's codes.

    Codes of 0 to 1 first have their saturation set about their BT.709 luma, then contrast about 0.5, brightness, then
    each channel's gain and offset; last, for limited-range RGB, 0 to 1 becomes 16/255 to 235/255.  YCbCr is limited by
    its own wire, so there the codes stay as they are.

    Parameters
    ----------
    picture : Adjusted
        Of an output, or of a source.
    signal : SignalSettings, optional
        How the picture is sent.

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


def wire_table(signal: SignalSettings) -> Pixels | None:
    """The table of codes for the wire, shape (1, 256, 4), uint8; None if they go as they are.

    For limited-range RGB, 0 to 1 becomes 16/255 to 235/255.  YCbCr is limited by its own wire, so there the codes stay
    as they are.

    Examples
    --------
    >>> wire_table(SignalSettings(range="limited"))[0, [0, 255], 0].tolist()
    [16, 235]
    """
    if signal.range != "limited" or signal.encoding != "rgb":
        return None
    column = np.rint(np.arange(256) * (219 / 255) + 16).astype(np.uint8)
    return np.dstack([np.stack([column] * 3, -1)[None], np.arange(256, dtype=np.uint8)[None]])


def sent_codes(picture: PictureSettings) -> NDArray[np.float64] | None:
    """What is sent for each code so that light = code ** gamma holds on a display whose response was measured; None if
    it was not.

    Returns
    -------
    ndarray, shape (257,), float64
        Codes with fractions, for codes 0 to 256.

    Examples
    --------
    >>> sent_codes(PictureSettings(gamma=2.0, response=(0, 0.25, 1))).round(1)[[0, 128, 255]].tolist()
    [0.0, 128.0, 255.0]
    """
    if picture.response is None:
        return None
    light = np.minimum(np.arange(257) / 255, 1) ** picture.gamma
    even = np.linspace(0, 1, len(picture.response))
    # Between measured points light goes by a power of the code, which near black is far from a straight line.
    power = 1 / picture.gamma
    return np.asarray(255 * np.interp(light**power, np.asarray(picture.response) ** power, even))


def shown_table(picture: PictureSettings) -> Pixels | None:
    """For each code sent to a display of a measured response, the code that gives its light on one of the gamma that is
    to hold.

    Returns
    -------
    ndarray, shape (1, 256), uint8, or None
        Undoes `sent_codes`; None where no response was measured.
    """
    if picture.response is None:
        return None
    even = np.linspace(0, 1, len(picture.response))
    power = np.interp(np.arange(256) / 255, even, np.asarray(picture.response) ** (1 / picture.gamma))
    return np.rint(255 * power)[None].astype(np.uint8)


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
