"""Shadows that layers throw: how much they cover, and pictures above them."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.picture.resampling import reduced
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.porter_duff import black_below, over
from ushering_adze.core.plane.rect import Rect, frame_strips


def blurred(alpha: NDArray[np.uint8], sigma: float, share: float = 1.0) -> NDArray[np.uint8]:
    """An alpha with a soft edge: a Gaussian of a standard deviation in pixels, smaller where it is wide; times
    a share.
    """
    halvings = max(0, int(math.log2(sigma / 4))) if sigma >= 8 else 0
    height, width = alpha.shape
    if not halvings:
        return _lighter(alpha if sigma <= 0 else _gaussian(alpha, sigma), share)
    whole = 1 << halvings
    clear = cv2.copyMakeBorder(alpha, 0, -height % whole, 0, -width % whole, cv2.BORDER_CONSTANT, value=0)
    high, wide = clear.shape[:2]
    soft = _gaussian(reduced(np.asarray(clear, np.uint8), halvings, halvings), sigma / whole)
    return np.asarray(
        cv2.resize(_lighter(soft, share), (wide, high), interpolation=cv2.INTER_LINEAR)[:height, :width], np.uint8
    )


def _lighter(alpha: NDArray[np.uint8], share: float) -> NDArray[np.uint8]:
    return alpha if share >= 1 else np.asarray(cv2.convertScaleAbs(alpha, alpha=share), np.uint8)


def _gaussian(alpha: NDArray[np.uint8], sigma: float) -> NDArray[np.uint8]:
    """One dimension after the other, by a kernel that ends after three standard deviations and a half."""
    kernel = cv2.getGaussianKernel(2 * math.ceil(3.5 * sigma) + 1, sigma)
    return np.asarray(cv2.sepFilter2D(alpha, -1, kernel, kernel, borderType=cv2.BORDER_CONSTANT), np.uint8)


def shadow_of(alpha: NDArray[np.uint8], state: LayerState, scale: float, at: Rect, whole: Rect) -> NDArray[np.uint8]:
    """How much the shadow of what lies at a rectangle covers, over a larger one.

    Parameters
    ----------
    alpha : ndarray, shape (h, w), uint8
        Of what throws it.
    state : LayerState
    scale : float
    at, whole : Rect

    Returns
    -------
    ndarray, shape (whole.h, whole.w), uint8
        Its edge is a Gaussian whose standard deviation is half the blur.
    """
    dx, dy, blur, opacity = state.shadow[:4]
    put = at.moved(round(dx * scale) - whole.x, round(dy * scale) - whole.y)
    ground = np.zeros((whole.h, whole.w), np.uint8)
    ground[put.cut()] = alpha
    return blurred(ground, blur * scale / 2, opacity)


def over_shadow(made: Pixels, at: Rect, shadow: NDArray[np.uint8], rgb: tuple[float, float, float]) -> Pixels:
    """A picture over its shadow.

    Parameters
    ----------
    made : ndarray, shape (h, w, 4), uint8
        Premultiplied.
    at : Rect
        Where it lies in the shadow's picture.
    shadow : ndarray, shape (H, W), uint8
        How much that covers.
    rgb : tuple of float
        Its colour, in codes.

    Returns
    -------
    ndarray, shape (H, W, 4), uint8
        Premultiplied.
    """
    if any(rgb):
        channels = [cv2.convertScaleAbs(shadow, alpha=c / 255) for c in rgb[::-1]]
        whole = np.asarray(cv2.merge([*channels, shadow]), np.uint8)
        part = whole[at.cut()]
        over(part, made)
        return whole
    whole = np.empty((*shadow.shape, 4), np.uint8)
    np.copyto(whole[at.cut()], made)
    on_black_shadow(whole, at, shadow)
    return whole


def on_black_shadow(whole: Pixels, at: Rect, shadow: NDArray[np.uint8]) -> None:
    """Put a black shadow below, and around, a picture that lies there already.

    Black adds nothing to colours: only what can be seen through changes.

    Parameters
    ----------
    whole : ndarray, shape (H, W, 4), uint8
        Premultiplied, and written to.
    at : Rect
        Where the picture lies in it; nothing is said of what is around.
    shadow : ndarray, shape (H, W), uint8
        How much the shadow covers.
    """
    for rect in frame_strips(Rect(0, 0, shadow.shape[1], shadow.shape[0]), at):
        bare = whole[rect.cut()].view(np.uint32)[..., 0]
        np.left_shift(shadow[rect.cut()], np.uint32(24), out=bare, dtype=np.uint32)
    black_below(whole[at.cut()], shadow[at.cut()])
