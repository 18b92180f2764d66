"""Keys: pictures get their alpha from their brightness, a colour, or another picture.

Everything is done on codes, as layers are laid over one another.
"""

from __future__ import annotations

from functools import lru_cache
from typing import cast

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.kinds.keying import ChromaKey, FillKey, LumaKey
from ushering_adze.core.plane.pixels import Pixels, straight
from ushering_adze.core.plane.strips import bgr_of, linear, strips
from ushering_adze.core.show import SourcePicture

LUMA = np.array([0.0722, 0.7152, 0.2126])
"""Of blue, green and red (ITU-R BT.709, item 3.2)."""
_LUMA_ROWS = np.tile([*LUMA, 0.0], (3, 1))
CHROMA = np.array(
    [[0.5, -0.5 * 0.7152 / 0.9278, -0.5 * 0.2126 / 0.9278], [-0.5 * 0.0722 / 0.7874, -0.5 * 0.7152 / 0.7874, 0.5]]
)
"""Cb and Cr of blue, green and red (ITU-R BT.709, item 3.3)."""


def luma_of(pixels: Pixels) -> NDArray[np.uint8]:
    """The luma codes of a picture, premultiplied like it; shape (h, w).

    Examples
    --------
    >>> int(luma_of(np.full((1, 1, 4), 77, np.uint8))[0, 0])
    77
    """
    found = np.empty(pixels.shape[:2], np.uint8)
    for strip in strips(*pixels.shape[:2]):
        found[strip] = cv2.extractChannel(linear(bgr_of(pixels[strip]), _LUMA_ROWS), 0)
    return found


def _ramp(at: float, soft: float) -> NDArray[np.float64]:
    """From 0 to 1 over ``soft`` about a code of 0 to 1, for each of 256 codes."""
    codes = np.arange(256) / 255
    if soft <= 0:
        return (codes >= at).astype(np.float64)
    return cast("NDArray[np.float64]", np.clip((codes - at) / soft + 0.5, 0, 1))


@lru_cache(64)
def _luma_table(key: LumaKey) -> NDArray[np.uint8]:
    low = _ramp(key.low, key.soft) if key.low > 0 else np.ones(256)
    high = _ramp(key.high, key.soft) if key.high < 1 else np.zeros(256)
    kept = low * (1 - high)
    return np.rint((1 - kept if key.turned else kept) * 255).astype(np.uint8)


def luma_keyed(
    pixels: Pixels,
    key: LumaKey,
    opaque: bool = False,
    into: Pixels | None = None,
    alpha: NDArray[np.uint8] | None = None,
) -> Pixels:
    """A picture that keeps what is within a range of brightness.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
        BGRA premultiplied.
    key : LumaKey
    opaque : bool
        Whether it is known to be opaque.
    into : ndarray, shape (h, w, 4), uint8, optional
        Where to put it.
    alpha : ndarray, shape (h, w), uint8, optional
        Where to put its mask: of an opaque picture, its alpha.

    Returns
    -------
    ndarray, shape (h, w, 4), uint8

    Examples
    --------
    >>> steps = np.repeat(np.array([0, 100, 255], np.uint8), 4).reshape(1, 3, 4)
    >>> steps[..., 3] = 255
    >>> luma_keyed(steps, LumaKey(low=0.2, soft=0))[0, :, 3].tolist()
    [0, 255, 255]
    """
    made, table = np.empty_like(pixels) if into is None else into, _luma_table(key)
    for strip in strips(*pixels.shape[:2]):
        here = pixels[strip]
        plain = here if opaque or int(cv2.extractChannel(here, 3).min()) == 255 else straight(here)
        mask = cv2.LUT(cv2.extractChannel(linear(bgr_of(plain), _LUMA_ROWS), 0), table)
        cv2.multiply(here, cv2.merge([mask] * 4), dst=made[strip], scale=1 / 255)
        if alpha is not None:
            alpha[strip] = mask
    return made


@lru_cache(64)
def _chroma_rows(key: ChromaKey) -> NDArray[np.float64]:
    """Three affine sums of blue, green and red: the mask by how much of the colour is in a pixel, in codes, with what
    lies across the colour to its one side, and to its other; and nothing.  The greater of the two is the mask.

    In the plane of Cb and Cr the colour is a vector s.  Of a pixel c, the share along it is d = c·s / s·s: 1 where it
    is the colour, 0 where it is grey, and 1 − a where grey shines through the colour by a: so the mask is linear in a.
    """
    red, green, blue = rgb_of(key.colour)
    s = CHROMA @ np.array([blue, green, red], float)
    size = float(s @ s)
    along = (s @ CHROMA) / max(size, 1e-9)
    across = (np.array([-s[1], s[0]]) @ CHROMA) / max(size, 1e-9)
    # The mask is (1 − d − tolerance) / soft; its ends at 0 and 255 are cut by the codes themselves.
    mask = np.array([*(-255 * along / key.soft), 255 * (1 - key.tolerance) / key.soft])
    side = np.array([*(127 * across), 0.0])
    return np.stack([mask + side, mask - side, np.zeros(4)])


def _mask_of(bgr: Pixels, rows: NDArray[np.float64]) -> NDArray[np.uint8]:
    """The mask of a strip."""
    left, right, _ = cv2.split(linear(bgr, rows))
    return np.asarray(cv2.max(left, right, dst=left), np.uint8)


def chroma_mask(pixels: Pixels, key: ChromaKey) -> NDArray[np.uint8]:
    """The mask that a colour leaves of a picture: 0 where it is the colour, 255 where it is not.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
        BGRA, opaque.
    key : ChromaKey

    Returns
    -------
    ndarray, shape (h, w), uint8

    References
    ----------
    ITU-R BT.709-6, item 3 (Cb, Cr).  The mask is the share of the screen's chroma in a pixel, less what lies across
    it: A. R. Smith and J. F. Blinn, "Blue screen matting" (SIGGRAPH 1996), section 4 for the solution where the
    foreground is grey (from memory).
    """
    mask = np.empty(pixels.shape[:2], np.uint8)
    rows = _chroma_rows(key)
    for strip in strips(*pixels.shape[:2]):
        mask[strip] = _mask_of(bgr_of(pixels[strip]), rows)
    if key.choke:
        size = 2 * abs(key.choke) + 1
        kernel = np.ones((size, size), np.uint8)
        return np.asarray(cv2.erode(mask, kernel) if key.choke > 0 else cv2.dilate(mask, kernel), np.uint8)
    return mask


def chroma_keyed(pixels: Pixels, key: ChromaKey) -> Pixels:
    """A picture without a colour that it was filmed before, and without that colour's tint.

    What shines through is taken out as it was put in: ``c − (1 − a)·s``, so that over another ground the picture is as
    if filmed there.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
        BGRA premultiplied; only its colour counts.
    key : ChromaKey

    Returns
    -------
    ndarray, shape (h, w, 4), uint8
    """
    whole = chroma_mask(pixels, key) if key.choke else None
    made = np.empty_like(pixels)
    red, green, blue = rgb_of(key.colour)
    screen = np.array([blue, green, red], float)
    # (255 − mask)·s, by a table for each channel.
    shades = np.rint(np.clip((1 - np.arange(256) / 255)[:, None] * screen * key.despill, 0, 255)).astype(np.uint8)
    rows = _chroma_rows(key)
    strong = int(np.argmax(screen))
    for strip in strips(*pixels.shape[:2]):
        bgr = bgr_of(pixels[strip])
        mask = _mask_of(bgr, rows) if whole is None else whole[strip]
        if key.despill <= 0:
            ground = cv2.merge([mask] * 4)
            cv2.min(cv2.multiply(pixels[strip], ground, scale=1 / 255), ground, dst=made[strip])
            continue
        channels = [np.asarray(c, np.uint8) for c in cv2.split(bgr)]
        for n, channel in enumerate(channels):
            if screen[n]:
                cv2.subtract(channel, cv2.LUT(mask, shades[:, n]), dst=channel)
        channels[strong] = _limited(channels, strong, key.despill)
        cv2.merge([*(cv2.min(c, mask, dst=c) for c in channels), mask], dst=made[strip])
    return made


def _limited(channels: list[Pixels], strong: int, amount: float) -> Pixels:
    """A channel that is no more than the greater of the other two, by an amount."""
    one, other = (c for n, c in enumerate(channels) if n != strong)
    limited = cv2.min(channels[strong], cv2.max(one, other))
    if amount < 1:
        limited = cv2.addWeighted(channels[strong], 1 - amount, limited, amount, 0)
    return np.asarray(limited, np.uint8)


def fill_keyed(fill: Pixels, key_picture: Pixels, key: FillKey) -> Pixels:
    """A fill with the alpha of another picture, which is brought to its size.

    ``α`` is the key's luma, or its alpha; a fill that is not shaped is multiplied by it: ``round(f·α/255)``.

    Parameters
    ----------
    fill : ndarray, shape (h, w, 4), uint8
        BGRA; its own alpha does not count.
    key_picture : ndarray, shape (h', w', 4), uint8
    key : FillKey

    Returns
    -------
    ndarray, shape (h, w, 4), uint8

    Examples
    --------
    >>> white, half = np.full((1, 1, 4), 255, np.uint8), np.full((1, 1, 4), 128, np.uint8)
    >>> fill_keyed(white, half, FillKey(source="k"))[0, 0].tolist()
    [128, 128, 128, 128]
    """
    alpha = luma_of(key_picture) if key.of == "luma" else np.asarray(cv2.extractChannel(key_picture, 3), np.uint8)
    if alpha.shape != fill.shape[:2]:
        alpha = np.asarray(cv2.resize(alpha, (fill.shape[1], fill.shape[0]), interpolation=cv2.INTER_LINEAR), np.uint8)
    if key.turned:
        alpha = np.asarray(cv2.bitwise_not(alpha), np.uint8)
    ground = cv2.merge([alpha] * 4)
    if key.shaped:
        made = np.asarray(cv2.min(fill, ground), np.uint8)
    else:
        made = np.asarray(cv2.multiply(fill, ground, scale=1 / 255), np.uint8)
    made[..., 3] = alpha
    return made


def colour_at(pixels: Pixels, settings: SourcePicture, across: float, down: float) -> str:
    """The colour of a source's picture, as it comes, at a place of that picture as it is shown.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
        As it comes.
    settings : SourcePicture
        Its cut and flip.
    across, down : float
        0 to 1, from the left and from the top of what is shown.

    Returns
    -------
    str
        ``#RRGGBB``, the median of 5 × 5 pixels.

    Examples
    --------
    >>> green = np.full((9, 9, 4), (60, 168, 31, 255), np.uint8)
    >>> colour_at(green, SourcePicture(), 0.5, 0.5)
    '#1FA83C'
    """
    if settings.flip in ("left-right", "both"):
        across = 1 - across
    if settings.flip in ("top-bottom", "both"):
        down = 1 - down
    h, w = pixels.shape[:2]
    x = int(min(w - 1, max(0, (settings.left + across * (1 - settings.left - settings.right)) * w)))
    y = int(min(h - 1, max(0, (settings.top + down * (1 - settings.top - settings.bottom)) * h)))
    near = pixels[max(0, y - 2) : y + 3, max(0, x - 2) : x + 3, :3].reshape(-1, 3)
    blue, green, red = (int(v) for v in np.median(near, 0))
    return f"#{red:02X}{green:02X}{blue:02X}"


def mask_of(pixels: Pixels) -> Pixels:
    """The alpha of a picture as an opaque grey picture, to be looked at.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8

    Returns
    -------
    ndarray, shape (h, w, 4), uint8
    """
    alpha = cv2.extractChannel(pixels, 3)
    return np.asarray(cv2.merge([alpha, alpha, alpha, np.full_like(alpha, 255)]), np.uint8)
