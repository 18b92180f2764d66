"""Edge blending: how much of the light each projector gives at each point of the screen.

Light adds, codes do not: weights are computed for light, add to 1 at every point, and only then become factors on
codes.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ushering_adze.core.plane.rect import Rect, gathered
from ushering_adze.core.show.canvas import Curve, Edge, Edges


def ramp(u: ArrayLike, exponent: float = 2.0, curve: Curve = "power") -> NDArray[np.float64]:
    """The blend curve from 0 to 1 across an overlap, symmetric so that ``ramp(u) + ramp(1 - u) == 1``.

    Parameters
    ----------
    u : array_like
        Place across the overlap, 0 to 1.
    exponent : float
        Of the power curve: 1 is a straight line; larger is flatter at both ends.
    curve : {"power", "cosine", "straight"}
        The power curve, half a cosine wave, or a straight line.

    References
    ----------
    P. Bourke, "Edge blending using commodity projectors" (2004): ``f(x) = (2x)^p / 2`` for x < 0.5, else
    ``1 - (2(1 - x))^p / 2``; cited from memory.

    Examples
    --------
    >>> ramp([0, 0.25, 0.5, 1.0]).tolist()
    [0.0, 0.125, 0.5, 1.0]
    """
    x: NDArray[np.float64] = np.clip(np.asarray(u, np.float64), 0, 1)
    if curve == "straight":
        return x
    if curve == "cosine":
        return np.asarray(0.5 - 0.5 * np.cos(np.pi * x))
    return np.asarray(np.where(x < 0.5, 0.5 * (2 * x) ** exponent, 1 - 0.5 * (2 * (1 - x)) ** exponent))


class Overlaps(NamedTuple):
    """How many columns or rows of a picture are shared with a neighbour at each side, in pixels."""

    left: int
    top: int
    right: int
    bottom: int


def overlaps_of(rect: Rect, others: Sequence[Rect]) -> Overlaps:
    """Find from which sides of ``rect`` other pictures reach in, and how far.

    A neighbour reaches in from the left when it starts before ``rect`` and ends inside it, and shares rows with it.

    Parameters
    ----------
    rect : Rect
        In whole pixels.
    others : Sequence[Rect]
        The others.

    Returns
    -------
    Overlaps
    """
    left = top = right = bottom = 0
    for other in others:
        shared = rect.meet(other)
        if shared.empty or other == rect:
            continue
        beside = shared.w < min(rect.w, other.w)
        above = shared.h < min(rect.h, other.h)
        if beside and other.x < rect.x:
            left = max(left, shared.w)
        if beside and other.right > rect.right:
            right = max(right, shared.w)
        if above and other.y < rect.y:
            top = max(top, shared.h)
        if above and other.foot > rect.foot:
            bottom = max(bottom, shared.h)
    return Overlaps(left, top, right, bottom)


def _rise(size: int, first: int, last: int, exponent: float, curve: Curve) -> NDArray[np.float64]:
    at = np.arange(size) + 0.5
    rise = np.ones(size)
    if first:
        rise *= ramp(at / first, exponent, curve)
    if last:
        rise *= ramp((size - at) / last, exponent, curve)
    return rise


def _rises(
    rect: Rect, others: Sequence[Rect], exponent: float, curve: Curve
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    o = overlaps_of(rect, others)
    return _rise(rect.h, o.top, o.bottom, exponent, curve), _rise(rect.w, o.left, o.right, exponent, curve)


def blend_weights(rects: Sequence[Rect], exponent: float = 2.0, curve: Curve = "power") -> list[NDArray[np.float32]]:
    """Weights of light for pictures that overlap on one screen.

    Parameters
    ----------
    rects : sequence of Rect
        Where each projector's picture lies on the screen, in screen pixels, all at one scale.
    exponent, curve
        Shape of the ramp, see `ramp`.

    Returns
    -------
    list of ndarray
        One float32 array of shape (h, w) a picture.  At every point of the screen that any picture reaches, the weights
        of all the pictures there add to 1.

    Notes
    -----
    Each picture's own share is the product of its ramps from the edges that a neighbour reaches over; shares are
    divided by their sum, after R. Raskar et al., "Multi-projector displays using camera-based registration", IEEE
    Visualization 1999 (weights by distance to the edge, normalised; from memory).

    Examples
    --------
    >>> a, b = blend_weights([Rect(0, 0, 6, 1), Rect(2, 0, 6, 1)], exponent=1)
    >>> a[0].tolist()
    [1.0, 1.0, 0.875, 0.625, 0.375, 0.125]
    >>> float((a[0, 2:] + b[0, :4]).min())
    1.0
    """
    rises = [_rises(r, [*rects[:k], *rects[k + 1 :]], exponent, curve) for k, r in enumerate(rects)]

    def share(k: int, part: Rect) -> NDArray[np.float64]:
        (rows, columns), at = rises[k], part.moved(-rects[k].x, -rects[k].y)
        return np.outer(rows[at.y : at.foot], columns[at.x : at.right])

    weights: list[NDArray[np.float32]] = []
    for k, rect in enumerate(rects):
        weight = np.ones((rect.h, rect.w), np.float32)
        met = [(j, rect.meet(other)) for j, other in enumerate(rects) if j != k and not rect.meet(other).empty]
        for zone in gathered(shared for _, shared in met):
            own = share(k, zone)
            total, count = own.copy(), np.ones_like(own)
            for j, shared in met:
                part = shared.meet(zone)
                here = part.moved(-zone.x, -zone.y).cut()
                total[here] += share(j, part)
                count[here] += 1
            weight[zone.moved(-rect.x, -rect.y).cut()] = np.where(
                total > 1e-12, own / np.maximum(total, 1e-12), 1.0 / count
            )
        weights.append(weight)
    return weights


def edge_weights(width: int, height: int, edges: Edges) -> NDArray[np.float32]:
    """Weights of light for blends set by hand along the edges of a region, shape (height, width), float32.

    Each edge's light is 0 up to its start, rises by its curve to 1 at its width, and is bent by its gamma; the edges'
    shares are multiplied.

    Parameters
    ----------
    width : int
        In pixels.
    height : int
        In pixels.
    edges : Edges
        Which edges.

    Returns
    -------
    ndarray
    """

    def along(size: int, first: Edge | None, last: Edge | None) -> NDArray[np.float64]:
        at = np.arange(size) + 0.5
        light = np.ones(size)
        for edge, inwards in ((first, at), (last, size - at)):
            if edge is not None and edge.width > edge.start:
                light *= (
                    ramp((inwards - edge.start) / (edge.width - edge.start), edge.exponent, edge.curve) ** edge.gamma
                )
        return light

    return np.outer(along(height, edges.top, edges.bottom), along(width, edges.left, edges.right)).astype(np.float32)
