"""Porter and Duff's operators on premultiplied codes, each with the nearest code as its result.

They are done by pixman where that is installed, which does in one pass what takes OpenCV four or five; otherwise by
OpenCV, with the same codes.  References: T. Porter and T. Duff, "Compositing digital images" (1984), section 4; the
division by 255 that rounds: J. Blinn, "Three wrongs make a right" (1995), both from memory.
"""

from __future__ import annotations

import ctypes
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.strips import strips

Coverage = NDArray[np.uint8]
"""How much each pixel is covered, in codes; shape (h, w)."""

_OVER, _OVER_REVERSE, _IN_REVERSE, _OUT_REVERSE = 3, 4, 6, 8
_BGRA, _ALPHA = 0x20028888, 0x08018000
_LARGEST = 0x7FFE
"""The most pixels a side that pixman works on."""


class _Pixman(NamedTuple):
    """What is used of pixman.  Only the work itself lets other threads run meanwhile: whoever lets go of the
    interpreter for a moment may wait long to have it back.
    """

    of_bits: Any
    unref: Any
    compose: Any


def _found() -> _Pixman | None:
    try:
        working, brief = ctypes.CDLL("libpixman-1.so.0"), ctypes.PyDLL("libpixman-1.so.0")
    except OSError:
        return None
    number, pointer = ctypes.c_int, ctypes.c_void_p
    of_bits, unref = brief.pixman_image_create_bits, brief.pixman_image_unref
    of_bits.restype, of_bits.argtypes = pointer, [number, number, number, pointer, number]
    unref.argtypes = [pointer]
    compose = working.pixman_image_composite32
    compose.restype, compose.argtypes = None, [number, pointer, pointer, pointer, *[number] * 8]
    return _Pixman(of_bits, unref, compose)


_pixman = _found()


class _Bits(NamedTuple):
    """Pixels as pixman knows them, and the array that holds them."""

    image: int
    held: NDArray[np.uint8]


def _bits(pixels: NDArray[np.uint8], written: bool = False) -> _Bits | None:
    """An array for pixman; None if it is to be written to and lies in memory in another order than pixman knows."""
    assert _pixman is not None
    high, wide = pixels.shape[:2]
    if max(high, wide) > _LARGEST:
        return None
    flat = pixels.ndim == 2
    deep, order = (1, (1,)) if flat else (4, (4, 1))
    if pixels.strides[1:] != order or pixels.strides[0] < wide * deep or pixels.strides[0] % 4:
        if written or not flat:
            return None
        padded = np.empty((high, (wide + 3) // 4 * 4), np.uint8)
        padded[:, :wide] = pixels
        pixels = padded[:, :wide]
    image = _pixman.of_bits(_ALPHA if flat else _BGRA, wide, high, pixels.ctypes.data, pixels.strides[0])
    return _Bits(image, pixels) if image else None


def _composed(operator: int, source: NDArray[np.uint8], target: Pixels) -> bool:
    """Whether pixman did it."""
    if _pixman is None or not target.size:
        return False
    above, below = _bits(source), _bits(target, written=True)
    if above is not None and below is not None:
        high, wide = target.shape[:2]
        _pixman.compose(operator, above.image, None, below.image, 0, 0, 0, 0, 0, 0, wide, high)
    for bits in (above, below):
        if bits is not None:
            _pixman.unref(bits.image)
    return above is not None and below is not None


def _alpha(coverage: NDArray[np.uint8]) -> Coverage:
    return coverage if coverage.ndim == 2 else np.asarray(cv2.extractChannel(coverage, 3), np.uint8)


def _times(pixels: Pixels, coverage: Any) -> Pixels:
    return np.asarray(cv2.multiply(pixels, cv2.merge([coverage] * 4), scale=1 / 255), np.uint8)


def _weighed(operator: int, target: Pixels, coverage: NDArray[np.uint8]) -> None:
    """Multiply a picture by what is covered, or by what is not."""
    if _composed(operator, coverage, target):
        return
    for part in strips(*coverage.shape[:2]):
        alpha = _alpha(coverage[part])
        target[part] = _times(target[part], alpha if operator == _IN_REVERSE else cv2.bitwise_not(alpha))


def over(target: Pixels, above: Pixels) -> None:
    """Lay a picture over another one, in place: ``target = above + target·(1 − α)``.

    Parameters
    ----------
    target, above : ndarray, shape (h, w, 4), uint8
        BGRA, premultiplied.

    Examples
    --------
    >>> grey, half = np.full((1, 1, 4), 101, np.uint8), np.full((1, 1, 4), 128, np.uint8)
    >>> over(grey, half)
    >>> grey[0, 0].tolist()
    [178, 178, 178, 178]
    """
    if _composed(_OVER, above, target):
        return
    for part in strips(*above.shape[:2]):
        here, below = above[part], target[part]
        alpha = cv2.extractChannel(here, 3)
        least, most, _, _ = cv2.minMaxLoc(alpha)
        if least == 255:
            np.copyto(below, here)
        elif most > 0 or here.any():
            below[:] = cv2.add(here, _times(below, cv2.bitwise_not(alpha)))


def black_below(target: Pixels, coverage: Coverage) -> None:
    """Put black that covers by so much below a picture, in place: ``α = α + coverage·(1 − α)``.

    Parameters
    ----------
    target : ndarray, shape (h, w, 4), uint8
        BGRA, premultiplied; its colours stay.
    coverage : ndarray, shape (h, w), uint8
    """
    if _composed(_OVER_REVERSE, coverage, target):
        return
    for part in strips(*coverage.shape):
        alpha = np.asarray(cv2.extractChannel(target[part], 3), np.uint8)
        seen = cv2.multiply(coverage[part], cv2.bitwise_not(alpha), scale=1 / 255)
        target[part][..., 3] = cv2.add(alpha, seen)


def keep(target: Pixels, coverage: NDArray[np.uint8]) -> None:
    """Keep of a picture what is covered, in place: ``target·coverage``.

    Parameters
    ----------
    target : ndarray, shape (h, w, 4), uint8
    coverage : ndarray, shape (h, w) or (h, w, 4), uint8
        Of four channels, the last counts.
    """
    _weighed(_IN_REVERSE, target, coverage)


def take_away(target: Pixels, coverage: NDArray[np.uint8]) -> None:
    """Keep of a picture what is not covered, in place: ``target·(1 − coverage)``.

    Parameters
    ----------
    target : ndarray, shape (h, w, 4), uint8
    coverage : ndarray, shape (h, w) or (h, w, 4), uint8
        Of four channels, the last counts.
    """
    _weighed(_OUT_REVERSE, target, coverage)
