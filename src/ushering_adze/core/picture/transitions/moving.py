"""What pictures that move in and out have in common: laying one over another at a place."""

from __future__ import annotations

import math

import numpy as np

from ushering_adze.core.plane.pixels import Pixels


def towards(angle: float, width: int, height: int, share: float) -> tuple[int, int]:
    """How far a picture has gone towards an angle, in whole pixels, when at 1 it has just left its box.

    Parameters
    ----------
    angle : float
        Degrees; 0 is to the right, 90 down.
    width, height : int
        Of the box.
    share : float
        0 to 1.
    """
    x, y = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    far = min(width / abs(x) if abs(x) > 1e-6 else math.inf, height / abs(y) if abs(y) > 1e-6 else math.inf)
    return round(x * far * share), round(y * far * share)


def laid(ground: Pixels, picture: Pixels, dx: int, dy: int) -> None:
    """Put a picture over another one, in place, so many pixels to the right and below; alpha and all."""
    height, width = ground.shape[:2]
    x0, y0, x1, y1 = max(0, dx), max(0, dy), min(width, width + dx), min(height, height + dy)
    if x1 > x0 and y1 > y0:
        np.copyto(ground[y0:y1, x0:x1], picture[y0 - dy : y1 - dy, x0 - dx : x1 - dx])
