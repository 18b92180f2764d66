"""How even the light of a screen is, as the eye sees it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.rect import Rect

Floats = NDArray[np.float32]
BLOCK = 8
"""Side in screen pixels of the blocks whose means are compared: dither and rounding of single pixels are finer than the
eye.
"""


class Spread(NamedTuple):
    """Of luminance in cd/m²: smallest, largest and mean of blocks, and ripple, (largest − smallest) ÷ mean."""

    min: float
    max: float
    mean: float
    ripple: float


class Flatness(NamedTuple):
    """Of the whole screen, and of its overlaps; None where nothing overlaps."""

    screen: Spread
    overlaps: Spread | None

    def document(self) -> dict[str, Any]:
        """As a JSON document."""
        return {
            "screen": self.screen._asdict(),
            "overlaps": self.overlaps._asdict() if self.overlaps is not None else None,
        }


def spread_of(values: Floats) -> Spread:
    """The spread of some blocks' means."""
    low, high, mean = float(values.min()), float(values.max()), float(values.mean())
    return Spread(low, high, mean, (high - low) / mean if mean > 0 else 0.0)


def ripple_along(line: Floats, ends: int = 6) -> float | None:
    """(largest − smallest) ÷ mean of light along a line, its ends left out; None in the dark.

    Parameters
    ----------
    line : Floats
        Light along a line.
    ends : int, optional
        Where it ends.

    Returns
    -------
    float | None
    """
    inner = line[ends:-ends]
    mean = float(inner.mean())
    return float(inner.max() - inner.min()) / mean if mean > 0 else None


def blocks(light: Floats) -> Floats:
    """Means of the whole blocks of a picture."""
    h, w = light.shape[0] // BLOCK * BLOCK, light.shape[1] // BLOCK * BLOCK
    return np.asarray(cv2.resize(light[:h, :w], (w // BLOCK, h // BLOCK), interpolation=cv2.INTER_AREA), np.float32)


def flatness_of(light: Floats, overlaps: Sequence[Rect], edge: int = BLOCK) -> Flatness:
    """How even a screen's light is.

    Parameters
    ----------
    light : ndarray, shape (h, w), float32
        Luminance, a value for each pixel of the screen.
    overlaps : sequence of Rect
        Where pictures overlap.
    edge : int
        Pixels left out along the screen's border, where a pixel is lit in part.

    Examples
    --------
    >>> flatness_of(np.full((64, 64), 100, np.float32), []).screen.ripple
    0.0
    """
    inner = Rect(edge, edge, light.shape[1] - 2 * edge, light.shape[0] - 2 * edge)
    parts = [blocks(light[part.cut()]).ravel() for o in overlaps if min(*(part := o.meet(inner))[2:]) >= BLOCK]
    return Flatness(spread_of(blocks(light[inner.cut()])), spread_of(np.concatenate(parts)) if parts else None)


def along(light: Floats, a: tuple[float, float], b: tuple[float, float], count: int = 400, wide: int = 5) -> Floats:
    """Light along a line across a screen, from ``a`` to ``b`` in pixels of the picture, as means over a band ``wide``
    pixels across.

    Parameters
    ----------
    light : Floats
        Linear light of a picture.
    a : tuple[float, float]
        Where the line begins, x and y in pixels.
    b : tuple[float, float]
        Where it ends.
    count : int, optional
        How many samples.
    wide : int, optional
        Width in pixels.

    Returns
    -------
    ndarray, shape (count, …), float32
        As many components as ``light`` has.
    """
    t = np.linspace(0, 1, count)
    dx, dy = b[0] - a[0], b[1] - a[1]
    long = max(1e-6, float(np.hypot(dx, dy)))
    off = np.arange(wide) - (wide - 1) / 2
    x = a[0] + t[None] * dx - off[:, None] * dy / long - 0.5
    y = a[1] + t[None] * dy + off[:, None] * dx / long - 0.5
    seen = cv2.remap(
        light, x.astype(np.float32), y.astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    return np.asarray(seen.mean(0), np.float32)
