"""The last thing done to a picture before it leaves: its light is weighted and lifted, and what lies between two codes is dithered.

Where weight and lift are the same all over, a table does it; elsewhere it is computed for each pixel.  Both dither with the same
ordered pattern of 4 × 4, so that the mean of any 4 × 4 pixels is what was meant, and no border is seen between the two.
"""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.layout.rect import TILE, Rect, rects_of_tiles
from ushering_adze.core.picture.frame import Pixels

Floats = NDArray[np.float32]
ONE, PART = 65535, 256
"""Parts of a factor, and of a code, in the whole numbers that pixels are worked in: 16 bits hold both."""
BAND = 16384
"""Pixels worked at a time: few enough to stay in a core's nearest memory."""
_BAYER = np.array([[0, 8, 2, 10], [12, 4, 14, 6], [3, 11, 1, 9], [15, 7, 13, 5]])
DITHER = ((_BAYER + 0.5) / 16 - 0.5).astype(np.float32)
"""Ordered dither, 4 × 4, in codes: B. E. Bayer, "An optimum method for two-level rendition of continuous-tone pictures", 1973 (from memory)."""


class Worked(NamedTuple):
    """A rectangle of the raster that is worked pixel by pixel, in whole numbers.

    ``factor`` on codes, as a share of ``peak`` in 65535 parts, and how much of the lift, likewise of 1; both uint16, shape (h, w, 4).
    ``dither`` is for a band of its rows, in 256 parts of a code, with the half by which codes are rounded: uint16, shape (rows, w, 4).
    """

    at: Rect
    factor: NDArray[np.uint16]
    peak: float
    lift: NDArray[np.uint16] | None
    dither: NDArray[np.uint16]

    @property
    def factors(self) -> Floats:
        """Factors on codes, shape (h, w, 4)."""
        return self.factor * np.float32(self.peak / ONE)


class Flat(NamedTuple):
    """A rectangle of the raster that tables do: for each row of the dither one of shape (1, 256, 16)."""

    at: Rect
    tables: tuple[Pixels, ...]


class Finish(NamedTuple):
    """What is done to the part of a raster that a step wrote.

    ``lifted`` is what full lift adds to each code, in 256 parts of a code: uint16, shape (1, 256, 4).

    ``toned`` come last: parts of the display whose panels want other codes for the same light.
    """

    flats: tuple[Flat, ...]
    worked: tuple[Worked, ...]
    lifted: NDArray[np.uint16] | None
    toned: tuple[Flat, ...] = ()


Phase = tuple[int, int, int]
"""Sign of the dither, and the place of the screen that lies at the raster's first pixel, modulo 4: pictures that overlap dither against
one another, so that their sum is no further from what is meant than by plain rounding."""


def _tile(phase: Phase) -> Floats:
    sign, x, y = phase
    return np.asarray(sign * np.roll(DITHER, (-y, -x), (0, 1)), np.float32)


@lru_cache(maxsize=256)
def _dither(width: int, x: int, y: int, phase: Phase) -> NDArray[np.uint16]:
    """The dither of a `Worked` whose first pixel is at these remainders of 4 on the raster, for a band of rows; alpha is only rounded."""
    tile = np.zeros((4, 4, 4), np.float32)
    tile[..., :3] = np.roll(_tile(phase), (-y, -x), (0, 1))[..., None]
    rows = max(4, BAND // (4 * width) * 4)
    return np.ascontiguousarray(np.tile(np.rint((tile + 0.5) * PART).astype(np.uint16), (rows // 4, -(-width // 4), 1))[:, :width])


def dithered(values: NDArray[np.float32]) -> Pixels:
    """Codes with fractions, shape (h, w) or (h, w, c), as whole codes by ordered dither.

    Examples
    --------
    >>> dithered(np.full((4, 4), 7.25, np.float32)).mean().item()
    7.25
    """
    h, w = values.shape[:2]
    pattern = np.tile(DITHER, (-(-h // 4), -(-w // 4)))[:h, :w]
    return np.asarray(np.clip(np.rint(values + (pattern if values.ndim == 2 else pattern[..., None])), 0, 255), np.uint8)


def _tiles(values: Floats, least: float) -> NDArray[np.bool_]:
    """Which tiles hold any value above ``least``; ``values`` has one or three channels."""
    marked = values if values.ndim == 2 else cv2.max(cv2.max(values[..., 0], values[..., 1]), values[..., 2])
    h, w = marked.shape
    down, across = -(-h // TILE), -(-w // TILE)
    over = np.zeros((down * TILE, across * TILE), np.bool_)
    np.greater(marked, least, out=over[:h, :w])
    return np.asarray(over.reshape(down, TILE, across * TILE).any(1).reshape(down, across, TILE).any(2))


def lift_table(lift: NDArray[np.float64], gamma: float) -> Floats:
    """What a lift adds to each code, shape (1, 256, 4), blue first: light ``x`` becomes ``lift + (1 − lift)·x``, so that white stays white.

    Parameters
    ----------
    lift : ndarray, shape (3,)
        Light added in black as a share of white, blue first.
    """
    code = np.arange(256) / 255.0
    light = code**gamma
    table = np.zeros((1, 256, 4), np.float32)
    for k in range(3):
        table[0, :, k] = ((lift[k] + (1 - lift[k]) * light) ** (1 / gamma) - code) * 255
    return table


def _flat_tables(factor: NDArray[np.float64], lifted: Floats | None, phase: Phase) -> tuple[Pixels, ...]:
    codes = np.arange(256, dtype=np.float64)
    return dithered_tables(np.stack([codes * factor[k] + (lifted[0, :, k] if lifted is not None else 0) for k in range(3)]), phase)


def dithered_tables(values: NDArray[np.float64], phase: Phase) -> tuple[Pixels, ...]:
    """Tables of a `Flat` by which each code becomes another with a fraction; ``values`` of shape (3, 256), blue first."""
    rows = []
    tile = _tile(phase)
    for r in range(4):
        table = np.empty((1, 256, 16), np.uint8)
        for c in range(4):
            for k in range(3):
                table[0, :, c * 4 + k] = np.clip(np.rint(values[k] + tile[r, c]), 0, 255)
            table[0, :, c * 4 + 3] = np.arange(256)
        rows.append(table)
    return tuple(rows)


def finish_of(weight: Floats, lift: Floats | None, put: Rect, gamma: float, phase: Phase = (1, 0, 0),
              varied: NDArray[np.bool_] | None = None) -> Finish | None:
    """Compile the finish of a step.

    Parameters
    ----------
    weight : ndarray, shape (h, w) or (h, w, 3), float32
        Factors on light, blue first, over the rectangle ``put`` of the raster.
    lift : ndarray, shape (h, w, 3), float32, optional
        Light added in black as a share of white, blue first.
    gamma : float
        Of the display: light = code ** gamma.
    phase : tuple of int
        Of the dither.
    varied : ndarray of bool, optional
        The tiles in which any weight may be other than 1, where that is known.

    Returns
    -------
    Finish or None
        None if nothing is to be done.

    Notes
    -----
    A lift adds ``m·b(code)`` to a code, with ``b`` of the largest lift and ``m`` so that black is met exactly.  In between, where the
    lift is smaller than the largest, this is brighter than meant by less than a quarter of the lift.
    """
    h, w = weight.shape[:2]
    exponent = 1 / gamma
    most = lift.reshape(-1, 3).max(0).astype(np.float64) if lift is not None else np.zeros(3)
    lifted = lift_table(most, gamma) if most.max() > 1e-9 else None
    base = _common(weight) if varied is None else np.ones(3)
    other = _tiles(np.asarray(cv2.absdiff(weight, _like(weight, base)), np.float32), 2e-6) if varied is None else varied
    lit = np.zeros_like(other) if lifted is None or lift is None else _tiles(lift, 1e-9)
    short = np.ones_like(other) if lifted is None or lift is None else _tiles(
        np.asarray(cv2.subtract(_like(lift, most), lift), np.float32), float(most.max()) * 1e-3)
    none, full = ~other & ~lit, ~other & ~short
    flats: list[Flat] = []
    if lifted is not None:
        flats += [Flat(r.moved(put.x, put.y), _flat_tables(base**exponent, lifted, phase)) for r in rects_of_tiles(full, w, h)]
    if np.abs(base - 1).max() > 1e-6:
        flats += [Flat(r.moved(put.x, put.y), _flat_tables(base**exponent, None, phase)) for r in rects_of_tiles(none, w, h)]
    worked = []
    for r in rects_of_tiles(~none & ~full, w, h):
        at = r.moved(put.x, put.y)
        amount = None
        if lifted is not None and lift is not None:
            share = lift[r.cut()] / np.maximum(most, 1e-12).astype(np.float32)
            amount = _parts(np.asarray(cv2.pow(np.ascontiguousarray(share), exponent), np.float32), 1.0, 0.0)
        factor = np.asarray(cv2.pow(np.ascontiguousarray(weight[r.cut()]), exponent), np.float32)
        peak = max(1.0, float(factor.max()))
        worked.append(Worked(at, _parts(factor, peak, 1.0), peak, amount, _dither(at.w, at.x % 4, at.y % 4, phase)))
    if not flats and not worked:
        return None
    return Finish(tuple(flats), tuple(worked), None if lifted is None else np.rint(lifted * PART).astype(np.uint16))


def _like(picture: Floats, value: NDArray[np.float64]) -> Floats:
    """A picture of the same shape, of one value."""
    return np.broadcast_to(value.astype(np.float32) if picture.ndim == 3 else np.float32(value[0]), picture.shape).copy()


def _parts(values: Floats, peak: float, alpha: float) -> NDArray[np.uint16]:
    """One or three channels as four, in 65535 parts of ``peak``; the last is ``alpha`` all over."""
    parts = [np.asarray(cv2.addWeighted(v, ONE / peak, v, 0.0, 0.0, dtype=cv2.CV_16U), np.uint16)
             for v in (cv2.split(values) if values.ndim == 3 else [values])]
    parts = parts if len(parts) == 3 else parts * 3
    return np.asarray(cv2.merge([*parts, np.full(values.shape[:2], round(alpha / peak * ONE), np.uint16)]), np.uint16)


def _common(weight: Floats) -> NDArray[np.float64]:
    """The weight of each channel that the middle of a picture has, if a tenth of it, looked at coarsely, has it too; else 1."""
    part = weight[::8, ::8] if weight.ndim == 3 else np.repeat(weight[::8, ::8, None], 3, 2)
    middle = part[part.shape[0] // 2, part.shape[1] // 2].astype(np.float64)
    same = (np.abs(part - middle.astype(np.float32)) < 2e-6).all(2).mean() > 0.1
    return middle if same and middle.min() > 0 else np.ones(3)


def _table(raster: Pixels, flat: Flat) -> None:
    x0, y0, x1, y1 = flat.at.x, flat.at.y, flat.at.right, flat.at.foot
    first = x0 % 4
    for r in range(4):
        rows = raster[y0 + (r - y0) % 4:y1:4]
        if not len(rows):
            continue
        table = np.roll(flat.tables[r], -4 * first, axis=2) if first else flat.tables[r]
        n = (x1 - x0) // 4
        if n:
            part = np.ascontiguousarray(rows[:, x0:x0 + 4 * n]).reshape(len(rows), n, 16)
            rows[:, x0:x0 + 4 * n] = cv2.LUT(part, table).reshape(len(rows), 4 * n, 4)
        for c in range(4 * n, x1 - x0):
            k = (c % 4) * 4
            rows[:, x0 + c] = cv2.LUT(np.ascontiguousarray(rows[:, x0 + c:x0 + c + 1]), np.ascontiguousarray(table[..., k:k + 4]))[:, 0]


def _work(raster: Pixels, part: Worked, lifted: NDArray[np.uint16] | None) -> None:
    """Code times factor, and lift and dither added, in 256 parts of a code; whole codes are what is left of it."""
    lit, rows = raster[part.at.cut()], len(part.dither)
    value = np.empty(part.dither.shape, np.uint16)
    for y in range(0, part.at.h, rows):
        codes = lit[y:y + rows]
        n = len(codes)
        now = value[:n]
        np.copyto(now, codes)
        cv2.multiply(now, part.factor[y:y + rows], dst=now, scale=part.peak * PART / ONE)
        if part.lift is not None and lifted is not None:
            added = cv2.LUT(np.ascontiguousarray(codes), lifted)
            cv2.add(now, cv2.multiply(added, part.lift[y:y + rows], scale=1 / ONE), dst=now)
        cv2.add(now, part.dither[:n], dst=now)
        np.right_shift(now, 8, out=now)
        np.copyto(codes, now, casting="unsafe")


def run_finish(finish: Finish, raster: Pixels) -> None:
    """Weigh and lift the light of a raster, in place."""
    for part in finish.worked:
        _work(raster, part, finish.lifted)
    for flat in (*finish.flats, *finish.toned):
        _table(raster, flat)
