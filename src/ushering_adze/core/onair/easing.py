"""Timing curves of W3C CSS Easing Functions Level 1."""

from __future__ import annotations

from functools import lru_cache

CURVES: dict[str, tuple[float, float, float, float]] = {
    "linear": (0.0, 0.0, 1.0, 1.0),
    "ease": (0.25, 0.1, 0.25, 1.0),
    "ease-in": (0.42, 0.0, 1.0, 1.0),
    "ease-out": (0.0, 0.0, 0.58, 1.0),
    "ease-in-out": (0.42, 0.0, 0.58, 1.0),
}


def cubic_bezier(x1: float, y1: float, x2: float, y2: float, x: float) -> float:
    """Height at ``x`` of the cubic Bézier curve from (0, 0) to (1, 1) with two control points.

    Parameters
    ----------
    x1, y1, x2, y2 : float
        Control points; ``x1`` and ``x2`` between 0 and 1.
    x : float
        Progress of time, clipped to 0 to 1.

    Returns
    -------
    float
        Progress of the value, found by bisection to better than 1e-9.

    References
    ----------
    W3C CSS Easing Functions Level 1, section 2.2.

    Examples
    --------
    >>> round(cubic_bezier(0.25, 0.1, 0.25, 1.0, 0.5), 4)
    0.8024
    """
    if x <= 0:
        return 0.0
    if x >= 1:
        return 1.0
    low, high = 0.0, 1.0
    for _ in range(48):
        t = (low + high) / 2
        at = ((1 - 3 * x2 + 3 * x1) * t + (3 * x2 - 6 * x1)) * t * t + 3 * x1 * t
        if at < x:
            low = t
        else:
            high = t
    t = (low + high) / 2
    return ((1 - 3 * y2 + 3 * y1) * t + (3 * y2 - 6 * y1)) * t * t + 3 * y1 * t


@lru_cache(maxsize=4096)
def ease(name: str, x: float) -> float:
    """Progress of the value for the named curve at progress ``x`` of time, both 0 to 1.

    Parameters
    ----------
    name : str
        What it is called.
    x : float
        Progress of time, 0 to 1.

    Returns
    -------
    float

    Examples
    --------
    >>> ease("linear", 0.3), round(ease("ease-in-out", 0.5), 9)
    (0.3, 0.5)
    """
    if name == "linear":
        return min(1.0, max(0.0, x))
    return cubic_bezier(*handles_of(name), x)


def handles_of(name: str) -> tuple[float, float, float, float]:
    """The control points of a curve, by its name, or written as ``bezier(x1, y1, x2, y2)``.

    Parameters
    ----------
    name : str

    Returns
    -------
    tuple of float

    Examples
    --------
    >>> handles_of("ease"), handles_of("bezier(0.1, 0, 0.9, 1)")
    ((0.25, 0.1, 0.25, 1.0), (0.1, 0.0, 0.9, 1.0))
    """
    if name in CURVES:
        return CURVES[name]
    x1, y1, x2, y2 = (float(v) for v in name.removeprefix("bezier(").removesuffix(")").split(","))
    return x1, y1, x2, y2
