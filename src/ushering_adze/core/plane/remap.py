"""Pictures taken through maps, of any size."""

from __future__ import annotations

from typing import Any, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
MOST = 32766
"""Pixels along a side of a picture that OpenCV takes places from, or fills with them."""
_A = TypeVar("_A", bound=NDArray[Any])


def remapped(source: _A, u: Floats, v: Floats, kind: int = cv2.INTER_LINEAR, target: _A | None = None) -> _A:
    """A picture whose pixels are those of another at places; what lies past its edge shows the edge.

    Parameters
    ----------
    source : ndarray, shape (h, w) or (h, w, channels)
    u, v : ndarray, float32, of one shape
        Column and row of each pixel's place in the source, in pixel centres.
    kind : int
        OpenCV's code of an interpolation.
    target : ndarray, optional
        Where to put it.

    Notes
    -----
    OpenCV's limit of 32 767 px is met by parts that each read, and fill, no more.
    """
    if target is None:
        target = np.empty((*u.shape, *source.shape[2:]), source.dtype)  # type: ignore[assignment]
    assert target is not None
    h, w = u.shape
    if max(h, w, *source.shape[:2]) <= MOST:
        cv2.remap(source, u, v, kind, dst=target, borderMode=cv2.BORDER_REPLICATE)
        return target
    (x0, x1), (y0, y1) = _read(u, source.shape[1]), _read(v, source.shape[0])
    if max(h, w, x1 - x0, y1 - y0) <= MOST or max(h, w) == 1:
        part = source[y0:y1, x0:x1]
        cv2.remap(part, u - np.float32(x0), v - np.float32(y0), kind, dst=target, borderMode=cv2.BORDER_REPLICATE)
        return target
    sides = (np.s_[: h // 2], np.s_[h // 2 :]) if h > w else (np.s_[:, : w // 2], np.s_[:, w // 2 :])
    for side in sides:
        part = np.ascontiguousarray(target[side])
        target[side] = remapped(source, np.ascontiguousarray(u[side]), np.ascontiguousarray(v[side]), kind, part)
    return target


def _read(places: Floats, size: int) -> tuple[int, int]:
    """The columns, or rows, of a source that places and their surroundings lie in; one at least."""
    low, high = (int(np.clip(f(places), 0, size)) for f in (np.min, np.max))
    return min(size - 1, max(0, low - 3)), max(1, min(size, high + 4))
