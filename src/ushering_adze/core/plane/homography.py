"""Plane to plane maps from four corners."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray


def homography(source: ArrayLike, target: ArrayLike) -> NDArray[np.float64]:
    """The 3 × 3 matrix that takes four points to four others.

    Parameters
    ----------
    source, target : array_like, shape (4, 2)
        Points in pixels, no three of them on a line.

    Returns
    -------
    ndarray, shape (3, 3)
        ``H`` with ``H[2, 2] == 1``; ``target ~ H @ source`` in homogeneous coordinates.

    Raises
    ------
    ValueError
        If three of the points are on a line.

    References
    ----------
    R. Hartley and A. Zisserman, *Multiple View Geometry*, 2nd ed., section 4.1: the direct linear transformation,
    here in its inhomogeneous form, for exactly four points; section 4.4.4: points are brought to about 1 first.

    Examples
    --------
    >>> square = [(0, 0), (1, 0), (1, 1), (0, 1)]
    >>> np.allclose(homography(square, square), np.eye(3))
    True
    """
    s, t = np.asarray(source, float), np.asarray(target, float)
    if s.shape != (4, 2) or t.shape != (4, 2):
        raise ValueError("a homography needs four points on each side")
    if not (np.isfinite(s).all() and np.isfinite(t).all()):
        raise ValueError("a corner is not a number; move it")
    to_s, to_t = _to_one(s), _to_one(t)
    s, t = s * to_s[0, 0] + to_s[:2, 2], t * to_t[0, 0] + to_t[:2, 2]
    rows = np.zeros((8, 8))
    for k, ((x, y), (u, v)) in enumerate(zip(s, t, strict=True)):
        rows[2 * k] = [x, y, 1, 0, 0, 0, -u * x, -u * y]
        rows[2 * k + 1] = [0, 0, 0, x, y, 1, -v * x, -v * y]
    if _on_a_line(s) or _on_a_line(t):
        raise ValueError("three of the four corners lie on one line; move one of them")
    solved = np.append(np.linalg.solve(rows, t.reshape(8)), 1.0).reshape(3, 3)
    whole = np.linalg.inv(to_t) @ solved @ to_s
    return np.asarray(whole / whole[2, 2], np.float64)


def _on_a_line(points: NDArray[np.float64]) -> bool:
    """Whether three of four points of a size of about 1 lie on one line."""
    for k in range(4):
        a, b, c = np.delete(points, k, 0)
        if abs((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])) < 1e-9:
            return True
    return False


def _to_one(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """The scaling and shift that bring points about the origin, to a size of about 1."""
    middle = points.mean(0)
    scale = 1 / max(1e-12, float(np.abs(points - middle).max()))
    return np.array([[scale, 0, -middle[0] * scale], [0, scale, -middle[1] * scale], [0, 0, 1]])


def is_convex(corners: ArrayLike) -> bool:
    """Whether four corners in order make a quad that is convex and not crossed, and no three of them lie on a line.

    Examples
    --------
    >>> is_convex([(0, 0), (4, 0), (4, 3), (0, 3)]), is_convex([(0, 0), (4, 3), (4, 0), (0, 3)])
    (True, False)
    """
    p = np.asarray(corners, float)
    if not np.isfinite(p).all() or _on_a_line(p * _to_one(p)[0, 0] + _to_one(p)[:2, 2]):
        return False
    edge = np.roll(p, -1, 0) - p
    turn = edge[:, 0] * np.roll(edge[:, 1], -1) - edge[:, 1] * np.roll(edge[:, 0], -1)
    return bool((turn > 0).all() or (turn < 0).all())
