"""How a layer's colours meet those below it: the separable blend modes."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from ushering_adze.core.kinds.mixed import Mixed
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.porter_duff import keep, over, take_away


def blended(under: Pixels, above: Pixels, mode: Any, opacity: float = 1.0) -> Pixels:
    """A picture laid over another one by a blend mode.

    Parameters
    ----------
    under, above : ndarray, shape (h, w, 4), uint8
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
        before, after = (blended(under, above, m, opacity) for m in (mode.before, mode.after))
        return np.asarray(cv2.addWeighted(after, mode.share, before, 1 - mode.share, 0.0), np.uint8)
    s = above if opacity >= 1 else np.asarray(cv2.convertScaleAbs(above, alpha=opacity), np.uint8)
    if mode == "add":
        return np.asarray(cv2.add(s, under), np.uint8)
    if mode == "normal":
        made = under.copy()
        over(made, s)
        return made
    if mode == "screen":
        return np.asarray(
            cv2.subtract(cv2.add(s, under, dtype=cv2.CV_16U), cv2.multiply(s, under, scale=1 / 255), dtype=cv2.CV_8U),
            np.uint8,
        )
    rest = under.copy()
    take_away(rest, s)
    below = np.asarray(cv2.extractChannel(under, 3), np.uint8)
    if int(below.min()) < 255:
        own = s.copy()
        take_away(own, below)
        rest = np.asarray(cv2.add(rest, own), np.uint8)
    if mode == "multiply":
        both = np.asarray(cv2.multiply(s, under, scale=1 / 255), np.uint8)
    else:
        left, right = s.copy(), under.copy()
        keep(left, under)
        keep(right, s)
        both = np.asarray((cv2.max if mode == "lighten" else cv2.min)(left, right), np.uint8)
    made = np.asarray(cv2.add(rest, both), np.uint8)
    alpha = under.copy()
    over(alpha, s)
    made[..., 3] = alpha[..., 3]
    return made
