"""Turns and flips of landings: where a part of a region comes to lie, and the picture itself.

A region is first flipped (left and right exchanged), then turned clockwise by quarters.  The eight outcomes are all
symmetries of a rectangle: a flip from top to bottom is a flip and a half turn.
"""

from __future__ import annotations

from typing import Any, TypeVar

import cv2
from numpy.typing import NDArray

from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show.canvas import RectLanding

_CODES = {90: cv2.ROTATE_90_CLOCKWISE, 180: cv2.ROTATE_180, 270: cv2.ROTATE_90_COUNTERCLOCKWISE}
_A = TypeVar("_A", bound=NDArray[Any])


def oriented(pixels: _A, flip: bool, turn: int) -> _A:
    """A picture flipped and turned; ``np.rot90(pixels[:, ::-1] if flip else pixels, -turn // 90)``, but fast.

    Parameters
    ----------
    pixels : ndarray, shape (h, w) or (h, w, channels)
    flip : bool
    turn : {0, 90, 180, 270}
        Degrees clockwise.

    Returns
    -------
    ndarray
        Shape (h, w, …), or (w, h, …) for quarter turns; the same array if there is nothing to do.
    """
    made: Any = cv2.flip(pixels, 1) if flip else pixels
    return cv2.rotate(made, _CODES[turn]) if turn else made  # type: ignore[no-any-return]


def unoriented(pixels: _A, flip: bool, turn: int) -> _A:
    """The picture that `oriented` made this one of.

    Parameters
    ----------
    pixels : _A
        BGRA, premultiplied, shape (h, w, 4).
    flip : bool
        Whether left and right change places, before it is turned.
    turn : int
        Degrees clockwise: 0, 90, 180 or 270.

    Returns
    -------
    _A
    """
    made: Any = cv2.rotate(pixels, _CODES[360 - turn]) if turn else pixels
    return cv2.flip(made, 1) if flip else made  # type: ignore[no-any-return]


def turned_rect(part: Rect, width: int, height: int, flip: bool, turn: int) -> Rect:
    """Where a part of a ``width`` × ``height`` picture lies after the picture was flipped and turned.

    Parameters
    ----------
    part : Rect
        Of the region, in its pixels.
    width : int
        In pixels.
    height : int
        In pixels.
    flip : bool
        Whether left and right change places, before it is turned.
    turn : int
        Degrees clockwise: 0, 90, 180 or 270.

    Returns
    -------
    Rect

    Examples
    --------
    >>> turned_rect(Rect(0, 0, 2, 1), 10, 6, False, 90)
    Rect(x=5, y=0, w=1, h=2)
    >>> turned_rect(Rect(0, 0, 2, 1), 10, 6, True, 0)
    Rect(x=8, y=0, w=2, h=1)
    """
    x, y, w, h = part
    if flip:
        x = width - x - w
    if turn == 90:
        return Rect(height - y - h, x, h, w)
    if turn == 180:
        return Rect(width - x - w, height - y - h, w, h)
    if turn == 270:
        return Rect(y, width - x - w, h, w)
    return Rect(x, y, w, h)


def unturned_rect(part: Rect, width: int, height: int, flip: bool, turn: int) -> Rect:
    """The part of the ``width`` × ``height`` picture that lies at ``part`` once it is flipped and turned: undoes
    `turned_rect`.

    Parameters
    ----------
    part : Rect
        Of the raster.
    width : int
        In pixels.
    height : int
        In pixels.
    flip : bool
        Whether left and right change places, before it is turned.
    turn : int
        Degrees clockwise: 0, 90, 180 or 270.

    Returns
    -------
    Rect

    Examples
    --------
    >>> unturned_rect(Rect(5, 0, 1, 2), 10, 6, False, 90)
    Rect(x=0, y=0, w=2, h=1)
    """
    wide, high = (height, width) if turn in (90, 270) else (width, height)
    x, y, w, h = turned_rect(part, wide, high, False, (360 - turn) % 360)
    return Rect(width - x - w if flip else x, y, w, h)


def landing_corners(landing: RectLanding) -> tuple[tuple[float, float], ...]:
    """Raster places of a region's top left, top right, bottom right, bottom left corner."""
    x, y, w, h = landing.x, landing.y, landing.w, landing.h
    around = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
    k = landing.turn // 90
    placed = around[k:] + around[:k]
    return tuple(
        (float(a), float(b)) for a, b in ([placed[1], placed[0], placed[3], placed[2]] if landing.flip else placed)
    )


def placed_on_raster(landing: RectLanding, region: Rect, x: float, y: float) -> tuple[int, int]:
    """The raster pixel that shows the canvas pixel at ``x``, ``y`` of a region.

    Parameters
    ----------
    landing : RectLanding
        Where and how it lies on its raster.
    region : Rect
        Which region.
    x : float
        Column, in pixels from the left.
    y : float
        Row, in pixels from the top.

    Returns
    -------
    tuple[int, int]

    Examples
    --------
    >>> placed_on_raster(RectLanding(x=100, y=0, w=6, h=10, turn=90), Rect(50, 20, 10, 6), 50, 20)
    (105, 0)
    """
    across, down = landing.native
    u = int((x - region.x) * across // region.w)
    v = int((y - region.y) * down // region.h)
    at = turned_rect(Rect(u, v, 1, 1), across, down, landing.flip, landing.turn)
    return landing.x + at.x, landing.y + at.y


def placed_on_canvas(landing: RectLanding, region: Rect, x: float, y: float) -> tuple[int, int]:
    """The canvas pixel that the raster pixel at ``x``, ``y`` of a landing shows; undoes `placed_on_raster` where
    nothing is scaled.

    Parameters
    ----------
    landing : RectLanding
        Where and how it lies on its raster.
    region : Rect
        Which region.
    x : float
        Column, in pixels from the left.
    y : float
        Row, in pixels from the top.

    Returns
    -------
    tuple[int, int]
    """
    across, down = landing.native
    at = unturned_rect(Rect(int(x) - landing.x, int(y) - landing.y, 1, 1), across, down, landing.flip, landing.turn)
    return region.x + int((at.x + 0.5) * region.w // across), region.y + int((at.y + 0.5) * region.h // down)
