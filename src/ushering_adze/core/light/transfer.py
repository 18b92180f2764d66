"""Transfer functions: how codes become light and light becomes codes."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray


def gamma_to_linear(code: ArrayLike, gamma: float) -> NDArray[np.float64]:
    """Light of a code on a display with a pure power response.

    Parameters
    ----------
    code : array_like
        Codes, 0 to 1.
    gamma : float
        Exponent of the display, 0.5 to 5.

    Returns
    -------
    ndarray
        Relative light, 0 to 1.

    References
    ----------
    ITU-R BT.1886 (2011), annex 1, with no black lift: a plain power of the code (from memory).

    Examples
    --------
    >>> float(round(gamma_to_linear(0.5, 2.2).item(), 4))
    0.2176
    """
    return np.asarray(np.clip(np.asarray(code, float), 0, 1) ** gamma)


def linear_to_gamma(light: ArrayLike, gamma: float) -> NDArray[np.float64]:
    """Code that makes ``light`` on a display with a pure power response; inverse of `gamma_to_linear`.

    Parameters
    ----------
    light : ArrayLike
        Linear light, 0 to 1.
    gamma : float
        Exponent from code to light.

    Returns
    -------
    ndarray

    References
    ----------
    ITU-R BT.1886 (2011), annex 1, the inverse, with no black lift (from memory).
    """
    return np.asarray(np.clip(np.asarray(light, float), 0, 1) ** (1.0 / gamma))


def srgb_to_linear(code: ArrayLike) -> NDArray[np.float64]:
    """Light of an sRGB code, IEC 61966-2-1, both 0 to 1.

    References
    ----------
    IEC 61966-2-1:1999, section 5.2 (from memory).

    Examples
    --------
    >>> float(round(srgb_to_linear(0.5).item(), 6))
    0.214041
    """
    v = np.asarray(code, float)
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


def linear_to_srgb(light: ArrayLike) -> NDArray[np.float64]:
    """sRGB code of a light, IEC 61966-2-1, both 0 to 1; inverse of `srgb_to_linear`.

    References
    ----------
    IEC 61966-2-1:1999, section 5.2, the inverse (from memory).
    """
    v = np.asarray(light, float)
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * np.clip(v, 0, None) ** (1 / 2.4) - 0.055)


def bt709_to_linear(code: ArrayLike) -> NDArray[np.float64]:
    """Scene light of a Rec. ITU-R BT.709-6 code (inverse of its camera curve, item 1.2), both 0 to 1.

    References
    ----------
    ITU-R BT.709-6, item 1.2, the inverse (from memory).
    """
    v = np.asarray(code, float)
    lowest = 1.099 * 0.018**0.45 - 0.099  # the code at which the camera curve leaves its straight part
    return np.where(v < lowest, v / 4.5, ((v + 0.099) / 1.099) ** (1 / 0.45))


def linear_to_bt709(light: ArrayLike) -> NDArray[np.float64]:
    """Rec. ITU-R BT.709-6 code of a scene light (item 1.2), both 0 to 1.

    References
    ----------
    ITU-R BT.709-6, item 1.2 (from memory).
    """
    v = np.asarray(light, float)
    return np.where(v < 0.018, v * 4.5, 1.099 * np.clip(v, 0, None) ** 0.45 - 0.099)


@lru_cache(maxsize=32)
def code_light_table(gamma: float) -> NDArray[np.float32]:
    """Light of each 8-bit code, shape (256,), float32."""
    return gamma_to_linear(np.arange(256) / 255.0, gamma).astype(np.float32)


FINE = 65535


@lru_cache(maxsize=16)
def _light_code_table(gamma: float) -> NDArray[np.uint8]:
    return np.asarray(np.round(255 * (np.arange(FINE + 1) / FINE) ** (1 / gamma)), np.uint8)


def codes_of_light(light: NDArray[np.float32], gamma: float) -> NDArray[np.uint8]:
    """The nearest 8-bit code of every light, by a table of lights 1/65535 apart; the inverse of `code_light_table`.

    Parameters
    ----------
    light : ndarray of any shape, float32
        0 for black to 1 for white; what lies beyond counts as these.
    gamma : float
        Exponent of the decoding power law.
    """
    place = np.minimum(np.maximum(light, np.float32(0)), np.float32(1)) * np.float32(FINE) + np.float32(0.5)
    return np.asarray(_light_code_table(gamma).take(place.astype(np.uint16)), np.uint8)
