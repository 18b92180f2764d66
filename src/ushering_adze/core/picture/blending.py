"""How a layer's colours meet those below it: the separable blend modes."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from ushering_adze.core.kinds.mixed import Mixed
from ushering_adze.core.plane.pixels import Pixels


def blended(under: Pixels, over: Pixels, mode: Any, opacity: float = 1.0) -> Pixels:
    """A picture laid over another one by a blend mode.

    Parameters
    ----------
    under, over : ndarray, shape (h, w, 4), uint8
        BGRA, premultiplied.
    mode : str or Mixed
        ``normal``, ``add``, ``multiply``, ``screen``, ``lighten``, ``darken``; or on its way from one to another.
    opacity : float
        Of what is laid over, 0 to 1.

    Returns
    -------
    ndarray, shape (h, w, 4), uint8

    References
    ----------
    W3C, Compositing and Blending Level 1, sections 5.8 (source-over with blending), 10.1 (separable modes); *add* is
    its *plus-lighter*.  In premultiplied codes, with S and U of alpha a and b: ``S(1−b) + U(1−a) + ab·B(cb, cs)``.
    """
    if isinstance(mode, Mixed):
        before, after = (blended(under, over, m, opacity) for m in (mode.before, mode.after))
        return np.asarray(cv2.addWeighted(after, mode.share, before, 1 - mode.share, 0.0), np.uint8)
    s = over if opacity >= 1 else np.asarray(cv2.convertScaleAbs(over, alpha=opacity), np.uint8)
    if mode == "add":
        return np.asarray(cv2.add(s, under), np.uint8)
    a = cv2.merge([cv2.extractChannel(s, 3)] * 4)
    if mode == "normal":
        return np.asarray(cv2.add(s, cv2.multiply(under, 255 - a, scale=1 / 255)), np.uint8)
    if mode == "screen":
        return np.asarray(
            cv2.subtract(cv2.add(s, under, dtype=cv2.CV_16U), cv2.multiply(s, under, scale=1 / 255), dtype=cv2.CV_8U),
            np.uint8,
        )
    b = cv2.merge([cv2.extractChannel(under, 3)] * 4)
    rest = cv2.multiply(under, 255 - a, scale=1 / 255)
    if int(b.min()) < 255:
        rest = cv2.add(rest, cv2.multiply(s, 255 - b, scale=1 / 255))
    if mode == "multiply":
        both = cv2.multiply(s, under, scale=1 / 255)
    else:
        choose = cv2.max if mode == "lighten" else cv2.min
        both = choose(cv2.multiply(s, b, scale=1 / 255), cv2.multiply(under, a, scale=1 / 255))
    made = np.asarray(cv2.add(rest, both), np.uint8)
    made[..., 3] = cv2.add(s[..., 3], cv2.multiply(under[..., 3], 255 - a[..., 3], scale=1 / 255))
    return made
