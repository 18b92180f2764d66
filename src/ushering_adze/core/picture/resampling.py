"""Resampling: a part of a picture at another size, without a pixel of it skipped."""

from __future__ import annotations

from math import ceil, floor, log, sqrt
from typing import NamedTuple

import cv2
import numpy as np

from ushering_adze.core.plane.boxes import Box
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect


class Cut(NamedTuple):
    """Which pixels of a source go where on the canvas; they are resampled when the sizes differ."""

    take: Rect
    put: Rect


def resample(pixels: Pixels, cut: Cut, reuse: Pixels | None = None) -> Pixels:
    """The cut's pixels at the size at which they are put: a view when sizes agree, area average when shrinking, else
    linear.

    ``reuse`` may be an array of the right size that is no longer needed; fresh memory is dear at thirty frames a
    second.

    Parameters
    ----------
    pixels : Pixels
        BGRA, premultiplied, shape (h, w, 4).
    cut : Cut
        Whether all arrives at once.
    reuse : Pixels | None, optional
        What may be used again.

    Returns
    -------
    Pixels
    """
    taken = pixels[cut.take.cut()]
    if (cut.put.w, cut.put.h) == (cut.take.w, cut.take.h):
        return taken
    return resized(taken, cut.put.w, cut.put.h, reuse)


def _half(pixels: Pixels) -> Pixels:
    return np.asarray(
        cv2.resize(pixels, (pixels.shape[1] // 2, pixels.shape[0] // 2), interpolation=cv2.INTER_AREA), np.uint8
    )


def halvings(size: int, wanted: int) -> int:
    """How often a side is halved before it is at less than twice the wanted size.

    Parameters
    ----------
    size : int
        Pixels of one side as they are.
    wanted : int
        What is wanted.

    Returns
    -------
    int

    References
    ----------
    L. Williams, "Pyramidal parametrics" (1983): a mean of four for each halving (from memory).

    Examples
    --------
    >>> halvings(1920, 960), halvings(1919, 960), halvings(4112, 256)
    (1, 0, 4)
    """
    return max(0, (size // max(1, wanted)).bit_length() - 1)


def _mean(pixels: Pixels, axis: int) -> Pixels:
    return np.asarray(np.rint(pixels.mean(axis, keepdims=True, dtype=np.float32)), np.uint8)


def _joined(block: Pixels, rest: Pixels, whole: int, behind: int) -> Pixels:
    """A block of so many pixels and what is behind it, as one."""
    return np.asarray(
        np.rint((block.astype(np.float32) * whole + rest * np.float32(behind)) / (whole + behind)), np.uint8
    )


def reduced(pixels: Pixels, across: int, down: int, left: int = 0, top: int = 0) -> Pixels:
    """A picture halved so often across and down, by the mean of whole blocks.  What is left behind the last whole
    block is part of that: a block of its own would lie so near the edge that linear samples nearly pass over it.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
    across, down : int
        Halvings on each side.
    left, top : int
        Pixels that the first blocks are short of; they are filled up with the picture's edge, as is a block that is the
        only one.

    References
    ----------
    L. Williams, "Pyramidal parametrics" (1983) (from memory).

    Examples
    --------
    >>> reduced(np.arange(16, dtype=np.uint8).reshape(1, 4, 4), 1, 0)[0].tolist()
    [[2, 3, 4, 5], [10, 11, 12, 13]]
    """
    h, w = pixels.shape[:2]
    behind = (left + w) % (1 << across)
    if behind and left + w > 1 << across:
        made = reduced(pixels[:, : w - behind], across, down, left, top)
        rest = reduced(_mean(pixels[:, w - behind :], 1), 0, down, 0, top)
        made[:, -1:] = _joined(made[:, -1:], rest, 1 << across, behind)
        return made
    behind = (top + h) % (1 << down)
    if behind and top + h > 1 << down:
        made = reduced(pixels[: h - behind], across, down, left, top)
        rest = reduced(_mean(pixels[h - behind :], 0), across, 0, left, 0)
        made[-1:] = _joined(made[-1:], rest, 1 << down, behind)
        return made
    right, foot = -(left + w) % (1 << across), -(top + h) % (1 << down)
    if left or top or right or foot:
        pixels = np.asarray(cv2.copyMakeBorder(pixels, top, foot, left, right, cv2.BORDER_REPLICATE), np.uint8)
    while across or down:
        h, w = pixels.shape[0] >> (down > 0), pixels.shape[1] >> (across > 0)
        # Linear at exactly a half is the mean of two, and on one side alone much quicker.
        how = cv2.INTER_AREA if across and down else cv2.INTER_LINEAR
        pixels = np.asarray(cv2.resize(pixels, (w, h), interpolation=how), np.uint8)
        across, down = max(0, across - 1), max(0, down - 1)
    return pixels


FAR_APART = 1.5
"""By how much a side becomes smaller before linear samples lie too far apart."""


def softened(pixels: Pixels, across: float, down: float) -> Pixels:
    """A picture ready to be made so many times smaller across and down by linear samples, less than twice.

    From one and a half times on samples lie so far apart that a column between two of them nearly vanishes; each then
    lends its neighbours a share first, up to a quarter where it becomes twice smaller, so that none has less than two
    thirds of its due.

    Parameters
    ----------
    pixels : Pixels
        BGRA, premultiplied, shape (h, w, 4).
    across : float
        From the left, in pixels.
    down : float
        From the top, in pixels.

    Returns
    -------
    Pixels

    Examples
    --------
    >>> softened(np.full((1, 3, 4), 9, np.uint8), 1.2, 1.0).shape
    (1, 3, 4)
    """
    sigmas = []
    for times in (across, down):
        lent = 0.25 * ((times - 1.25) / 0.75) ** 2 if times > FAR_APART else 0.0
        sigmas.append(sqrt(-0.5 / log(lent / (1 - 2 * lent))) if lent else 0.0)
    if not any(sigmas):
        return pixels
    size = (3 if sigmas[0] else 1, 3 if sigmas[1] else 1)
    return np.asarray(
        cv2.GaussianBlur(pixels, size, sigmas[0] or 1.0, sigmaY=sigmas[1] or 1.0, borderType=cv2.BORDER_REPLICATE),
        np.uint8,
    )


def resized(pixels: Pixels, width: int, height: int, reuse: Pixels | None = None) -> Pixels:
    """Resample a whole picture to another size.

    Up to twice smaller, and larger, is linear; a side that becomes more than twice smaller is averaged by whole blocks
    of pixels first, so that no source pixel is skipped.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
    width, height : int
        Wanted size, at least 1.
    reuse : ndarray, optional
        Where to put the result if size and rows allow it.

    Examples
    --------
    >>> resized(np.arange(64, dtype=np.uint8).reshape(4, 4, 4), 2, 2)[0, 0].tolist()
    [10, 11, 12, 13]
    """
    h, w = (float(n) for n in pixels.shape[:2])
    kx, ky = halvings(pixels.shape[1], width), halvings(pixels.shape[0], height)
    if kx or ky:  # what is behind the last block is part of it, and the true extent kept for the last step
        pixels = reduced(pixels, kx, ky)
        w, h = w / (1 << kx), h / (1 << ky)
    if pixels.shape[:2] == (height, width) == (h, w):
        return pixels
    pixels = softened(pixels, w / width, h / height)
    if pixels.shape[:2] == (h, w):
        return np.asarray(cv2.resize(pixels, (width, height), dst=reuse, interpolation=cv2.INTER_LINEAR), np.uint8)
    inverse = np.array([[w / width, 0, 0.5 * w / width - 0.5], [0, h / height, 0.5 * h / height - 0.5]])
    return np.asarray(
        cv2.warpAffine(
            pixels,
            inverse,
            (width, height),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        ),
        np.uint8,
    )


def looked_at(pixels: Pixels, width: int, height: int) -> Pixels:
    """A picture at another size, for who looks at it and not for the show: halved while it is at least twice as large,
    then by linear samples, without what `resized` does against the little aliasing that leaves.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
    width, height : int
        Wanted size, at least 1.

    Examples
    --------
    >>> looked_at(np.arange(64, dtype=np.uint8).reshape(4, 4, 4), 2, 2)[0, 0].tolist()
    [10, 11, 12, 13]
    """
    kx, ky = halvings(pixels.shape[1], width), halvings(pixels.shape[0], height)
    if kx or ky:
        pixels = reduced(pixels, kx, ky)
    if pixels.shape[:2] == (height, width):
        return pixels
    return np.asarray(cv2.resize(pixels, (width, height), interpolation=cv2.INTER_LINEAR), np.uint8)


def halved(pixels: Pixels, width: int, height: int) -> Pixels:
    """A picture averaged by whole blocks of 2 × 2, as often as that leaves it at least ``width`` × ``height`` pixels
    and its sides are even.

    Averaging by area is much quicker so than in one step; what is left to do is less than a half, unless a side is odd.

    Parameters
    ----------
    pixels : Pixels
        BGRA, premultiplied, shape (h, w, 4).
    width : int
        In pixels.
    height : int
        In pixels.

    Returns
    -------
    Pixels
    """
    while (
        pixels.shape[1] >= 2 * width
        and pixels.shape[0] >= 2 * height
        and not (pixels.shape[0] % 2 or pixels.shape[1] % 2)
    ):
        pixels = _half(pixels)
    return pixels


def _span(start: float, length: int, scale: float, block: int, size: int) -> tuple[int, int]:
    """First and last source pixel, by whole blocks, that ``length`` pixels from ``start`` on are made from; two blocks
    more on each side.
    """
    first = floor(start * scale / block) - 2
    last = ceil((start + length) * scale / block) + 2
    return max(0, first * block), min(size, last * block)


def resample_part(pixels: Pixels, cut: Cut, part: Rect) -> Pixels:
    """Those pixels of a resampled cut that lie within a part of where it is put; what lies outside is not computed.

    Parameters
    ----------
    pixels : ndarray, shape (H, W, 4), uint8
    cut : Cut
        Its two rectangles are not empty.
    part : Rect
        Within ``cut.put``.

    Returns
    -------
    ndarray, shape (part.h, part.w, 4), uint8
        Within one code of that part of what `resample` makes.

    Examples
    --------
    >>> made = resample_part(np.full((2, 2, 4), 9, np.uint8), Cut(Rect(0, 0, 2, 2), Rect(-10**6, 0, 2 * 10**6, 4)),
    ...     Rect(0, 0, 3, 2))
    >>> made.shape, int(made[0, 0, 0])
    ((2, 3, 4), 9)
    """
    take, put = cut
    if (put.w, put.h) == (take.w, take.h):
        dx, dy = part.x - put.x, part.y - put.y
        return pixels[Rect(take.x + dx, take.y + dy, part.w, part.h).cut()]
    return resample_into(pixels, take, (put.x, put.y, put.w, put.h), part)


def resample_into(pixels: Pixels, take: Rect, put: Box, part: Rect) -> Pixels:
    """Those pixels within a part of the plane of a picture that is put in a box, to a fraction of a pixel.

    Parameters
    ----------
    pixels : ndarray, shape (H, W, 4), uint8
    take : Rect
        What of them is put; not empty.
    put : tuple of float
        ``(x, y, w, h)``: where.
    part : Rect
        What is made; past the box, the picture's edge goes on.

    Returns
    -------
    ndarray, shape (part.h, part.w, 4), uint8

    Examples
    --------
    >>> ramp = np.arange(0, 256, 4, dtype=np.uint8)[None, :, None] * np.ones((2, 1, 4), np.uint8)
    >>> resample_into(ramp, Rect(0, 0, 64, 2), (-0.5, 0.0, 64.0, 2.0), Rect(0, 0, 3, 2))[0, :, 0].tolist()
    [2, 6, 10]
    """
    dx, dy = part.x - put[0], part.y - put[1]
    wide, high = max(1, round(put[2])), max(1, round(put[3]))
    kx, ky = halvings(take.w, wide), halvings(take.h, high)
    x0, x1 = _span(dx, part.w, take.w / put[2], 1 << kx, take.w)
    y0, y1 = _span(dy, part.h, take.h / put[3], 1 << ky, take.h)
    used = reduced(pixels[take.y + y0 : take.y + y1, take.x + x0 : take.x + x1], kx, ky)
    sx, sy = take.w / put[2] / (1 << kx), take.h / put[3] / (1 << ky)
    used = softened(used, sx, sy)
    inverse = np.array(
        [[sx, 0, (dx + 0.5) * sx - 0.5 - x0 / (1 << kx)], [0, sy, (dy + 0.5) * sy - 0.5 - y0 / (1 << ky)]]
    )
    return np.asarray(
        cv2.warpAffine(
            used,
            inverse,
            (part.w, part.h),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        ),
        np.uint8,
    )
