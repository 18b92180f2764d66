"""High dynamic range brought down to what walls and projectors show: PQ and HLG to plain codes of BT.709."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

Transfer = Literal["PQ", "HLG"]

PEAK = 1000.0
"""Nits of the brightest part of a signal: the nominal peak of HLG, and what most PQ is mastered for."""
WHITE = 203.0
"""Nits of diffuse white, BT.2408; what it is mapped for is a display whose white this is."""
_M1, _M2, _C1, _C2, _C3 = 2610 / 16384, 2523 / 4096 * 128, 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
_A, _B, _C = 0.17883277, 0.28466892, 0.55991073
_LUMINANCE = np.array([0.2627, 0.6780, 0.0593])
TO_709 = np.array([[1.6605, -0.5876, -0.0728], [-0.1246, 1.1329, -0.0083], [-0.0182, -0.1006, 1.1187]])


def pq_to_nits(codes: ArrayLike) -> NDArray[np.float64]:
    """Light of PQ codes.

    Parameters
    ----------
    codes : array_like
        0 to 1; what lies beyond is clipped.

    Returns
    -------
    ndarray
        In cd/m², 0 to 10 000.

    References
    ----------
    ITU-R BT.2100-2, table 4 (also SMPTE ST 2084).
    """
    e = np.clip(np.asarray(codes, float), 0, 1) ** (1 / _M2)
    return np.asarray(10000 * (np.maximum(e - _C1, 0) / (_C2 - _C3 * e)) ** (1 / _M1))


def nits_to_pq(nits: ArrayLike) -> NDArray[np.float64]:
    """PQ codes of light; inverse of `pq_to_nits`.

    Parameters
    ----------
    nits : array_like
        cd/m², 0 to 10 000.

    Returns
    -------
    ndarray

    References
    ----------
    ITU-R BT.2100-2, table 4.
    """
    y = np.clip(np.asarray(nits, float) / 10000, 0, 1) ** _M1
    return np.asarray(((_C1 + _C2 * y) / (1 + _C3 * y)) ** _M2)


def hlg_to_nits(codes: ArrayLike, peak: float = PEAK) -> NDArray[np.float64]:
    """Light that a display of a peak makes of HLG codes.

    Parameters
    ----------
    codes : array_like, shape (..., 3)
        R, G, B, 0 to 1.
    peak : float
        cd/m² of the display; its system gamma is 1.2 at 1000.

    Returns
    -------
    ndarray, shape (..., 3)
        In cd/m².

    References
    ----------
    ITU-R BT.2100-2, table 5: inverse OETF, then OOTF.
    """
    e = np.clip(np.asarray(codes, float), 0, 1)
    scene = np.where(e <= 0.5, e**2 / 3, (np.exp((e - _C) / _A) + _B) / 12)
    luminance = np.maximum(scene @ _LUMINANCE, 1e-9)[..., None]
    return np.asarray(peak * luminance ** (0.2 + 0.42 * np.log10(peak / 1000)) * scene)


def compressed(nits: ArrayLike, peak: float = PEAK, white: float = WHITE) -> NDArray[np.float64]:
    """Light of up to a peak on a display that ends at ``white``: unchanged up to a knee, from there bent together.

    Parameters
    ----------
    nits : array_like
        cd/m²; more than the peak counts as the peak.
    peak, white : float
        cd/m².

    Returns
    -------
    ndarray
        cd/m², at most ``white``.

    References
    ----------
    ITU-R BT.2390-10, section 5.4.1: the electro-electrical transfer function, without a lift of blacks.
    """
    top = nits_to_pq(peak)
    e1 = np.clip(nits_to_pq(nits) / top, 0, 1)
    most = float(nits_to_pq(white) / top)
    knee = 1.5 * most - 0.5
    t = np.clip((e1 - knee) / (1 - knee), 0, 1)
    bent = (2 * t**3 - 3 * t**2 + 1) * knee + (t**3 - 2 * t**2 + t) * (1 - knee) + (-2 * t**3 + 3 * t**2) * most
    return pq_to_nits(np.where(e1 < knee, e1, bent) * top)


def plain(codes: ArrayLike, transfer: Transfer) -> NDArray[np.float64]:
    """Codes of a display of BT.709 for those of a high dynamic range in BT.2020's primaries.

    What is bright is made darker by the same factor in all three colours, so that its hue stays; then its primaries
    are changed, and what BT.709 cannot show is clipped.

    Parameters
    ----------
    codes : array_like, shape (..., 3)
        R, G, B, 0 to 1.
    transfer : "PQ" or "HLG"

    Returns
    -------
    ndarray, shape (..., 3)
        R, G, B, 0 to 1, for a display of BT.1886.

    References
    ----------
    ITU-R BT.2087-0 for the primaries (the inverse of its matrix, to four places); BT.1886 for the display.
    """
    light = pq_to_nits(codes) if transfer == "PQ" else hlg_to_nits(codes)
    brightest = np.maximum(light.max(-1, keepdims=True), 1e-6)
    light = light * (compressed(brightest) / brightest) / WHITE
    return np.asarray(np.clip(light @ TO_709.T, 0, 1) ** (1 / 2.4))


def cube(transfer: Transfer, size: int = 49) -> str:
    """The same as a table of a lattice of codes, in the open form that many programs read.

    Parameters
    ----------
    transfer : "PQ" or "HLG"
    size : int
        Points along each edge.

    Returns
    -------
    str
        The text of a .cube file: red runs quickest.
    """
    edge = np.linspace(0, 1, size)
    blue, green, red = np.meshgrid(edge, edge, edge, indexing="ij")
    rows = plain(np.stack([red, green, blue], -1).reshape(-1, 3), transfer)
    return f"LUT_3D_SIZE {size}\n" + "".join(f"{r:.6f} {g:.6f} {b:.6f}\n" for r, g, b in rows)
