"""The last thing done to a picture before it leaves: its light is weighted and lifted, and what lies between two codes
is dithered.

Where weight and lift are the same all over, a table does it; elsewhere it is computed for each pixel.  Both dither with
the same ordered pattern of 4 × 4, so that the mean of any 4 × 4 pixels is what was meant, and no border is seen between
the two.
"""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import TILE, Rect, rects_of_tiles

Floats = NDArray[np.float32]
ONE, PART = 65535, 256
"""Parts of a factor, and of a code, in the whole numbers that pixels are worked in: 16 bits hold both."""
BAND = 16384
"""Pixels worked at a time: few enough to stay in a core's nearest memory."""
_BAYER = np.array([[0, 8, 2, 10], [12, 4, 14, 6], [3, 11, 1, 9], [15, 7, 13, 5]])
DITHER = ((_BAYER + 0.5) / 16 - 0.5).astype(np.float32)
"""Ordered dither, 4 × 4, in codes: B. E. Bayer, "An optimum method for two-level rendition of continuous-tone
pictures", 1973 (from memory).
"""


class Worked(NamedTuple):
    """A rectangle of the raster that is worked pixel by pixel, in whole numbers.

    ``factor`` on codes, as a share of ``peak`` in 65535 parts; and how much of each table of the finish's ``lifted``,
    likewise of 2, None where it is nothing; all uint16, shape (h, w, 4). ``dither`` is for a band of its rows, in 256
    parts of a code, with the half by which codes are rounded: uint16, shape (rows, w, 4).
    """

    at: Rect
    factor: NDArray[np.uint16]
    peak: float
    lift: tuple[NDArray[np.uint16] | None, ...]
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

    ``lifted`` is what full lift adds to each code, and what a small share of it does, in 256 parts of a code: uint16,
    shape (1, 256, 4) each.

    ``toned`` come last: parts of the display whose panels want other codes for the same light.  ``curve`` is what
    worked codes become on a display whose response was measured: for each whole code what is sent for it, and how much
    more for the next, in 256 parts of a code.
    """

    flats: tuple[Flat, ...]
    worked: tuple[Worked, ...]
    lifted: tuple[NDArray[np.uint16], ...]
    toned: tuple[Flat, ...] = ()
    curve: tuple[NDArray[np.uint16], NDArray[np.uint16]] | None = None


Phase = tuple[int, int, int]
"""Sign of the dither, and the place of the screen that lies at the raster's first pixel, modulo 4: pictures that
overlap dither against one another, so that their sum is no further from what is meant than by plain rounding."""


def _tile(phase: Phase) -> Floats:
    sign, x, y = phase
    return np.asarray(sign * np.roll(DITHER, (-y, -x), (0, 1)), np.float32)


@lru_cache(maxsize=256)
def _dither(width: int, x: int, y: int, phase: Phase) -> NDArray[np.uint16]:
    """The dither of a `Worked` whose first pixel is at these remainders of 4 on the raster, for a band of rows; alpha
    is only rounded.
    """
    tile = np.zeros((4, 4, 4), np.float32)
    tile[..., :3] = np.roll(_tile(phase), (-y, -x), (0, 1))[..., None]
    rows = max(4, BAND // (4 * width) * 4)
    return np.ascontiguousarray(
        np.tile(np.rint((tile + 0.5) * PART).astype(np.uint16), (rows // 4, -(-width // 4), 1))[:, :width]
    )


def dithered(values: NDArray[np.float32]) -> Pixels:
    """Codes with fractions, shape (h, w) or (h, w, c), as whole codes by ordered dither.

    Examples
    --------
    >>> dithered(np.full((4, 4), 7.25, np.float32)).mean().item()
    7.25
    """
    h, w = values.shape[:2]
    pattern = np.tile(DITHER, (-(-h // 4), -(-w // 4)))[:h, :w]
    return np.asarray(
        np.clip(np.rint(values + (pattern if values.ndim == 2 else pattern[..., None])), 0, 255), np.uint8
    )


def _tiles(values: Floats, least: float) -> NDArray[np.bool_]:
    """Which tiles hold any value above ``least``; ``values`` has one or three channels."""
    marked = values if values.ndim == 2 else cv2.max(cv2.max(values[..., 0], values[..., 1]), values[..., 2])
    h, w = marked.shape
    down, across = -(-h // TILE), -(-w // TILE)
    over = np.zeros((down * TILE, across * TILE), np.bool_)
    np.greater(marked, least, out=over[:h, :w])
    return np.asarray(over.reshape(down, TILE, across * TILE).any(1).reshape(down, across, TILE).any(2))


def lift_table(lift: NDArray[np.float64], gamma: float) -> Floats:
    """What a lift adds to each code, shape (1, 256, 4), blue first: light ``x`` becomes ``lift + (1 − lift)·x``, so
    that white stays white.

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


def _flat_tables(
    factor: NDArray[np.float64], lifted: Floats | None, phase: Phase, sent: NDArray[np.float64] | None
) -> tuple[Pixels, ...]:
    codes = np.arange(256, dtype=np.float64)
    values = np.stack([(codes + (lifted[0, :, k] if lifted is not None else 0)) * factor[k] for k in range(3)])
    return dithered_tables(values if sent is None else np.interp(values, np.arange(257), sent), phase)


def _curve(sent: NDArray[np.float64]) -> tuple[NDArray[np.uint16], NDArray[np.uint16]]:
    """The curve of a `Finish`, alpha as it is."""
    parts = np.rint(sent * PART).astype(np.int64)
    rise = np.maximum(np.diff(parts), 0)
    alpha = np.arange(256) * PART
    return (
        np.stack([*[parts[:256]] * 3, alpha], -1)[None].astype(np.uint16),
        np.stack([*[rise] * 3, np.full(256, PART)], -1)[None].astype(np.uint16),
    )


def dithered_tables(values: NDArray[np.float64], phase: Phase) -> tuple[Pixels, ...]:
    """Tables of a `Flat` by which each code becomes another with a fraction; ``values`` of shape (3, 256), blue first.

    Parameters
    ----------
    values : ndarray
        The values.
    phase : Phase
        Where in the cycle, 0 to 1.

    Returns
    -------
    tuple[Pixels, ...]
    """
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


def finish_of(
    weight: Floats,
    lift: Floats | None,
    put: Rect,
    gamma: float,
    phase: Phase = (1, 0, 0),
    varied: NDArray[np.bool_] | None = None,
    sent: NDArray[np.float64] | None = None,
) -> Finish | None:
    """Compile the finish of a step.

    Parameters
    ----------
    weight : ndarray, shape (h, w) or (h, w, 3), float32
        Factors on light, blue first, over the rectangle ``put`` of the raster.
    lift : ndarray, shape (h, w, 3), float32, optional
        Light that lacks in black as a share of white, blue first; it is weighted like the picture.
    gamma : float
        Of the display: light = code ** gamma.
    phase : tuple of int
        Of the dither.
    varied : ndarray of bool, optional
        The tiles in which any weight may be other than 1, where that is known.
    sent : ndarray, shape (257,), optional
        Of `ushering_adze.core.light.adjust.sent_codes`.

    Returns
    -------
    Finish or None
        None if nothing is to be done.

    Notes
    -----
    A lift adds ``a·b(code) + c·d(code)`` to a code, with ``b`` of the largest lift and ``d`` of a twentieth of it.
    ``a`` and ``c`` are such that black is met exactly, and bright codes are, where a lift adds its own light and no
    more; in between it is off by a few hundredths of the lift.
    """
    h, w = weight.shape[:2]
    exponent = 1 / gamma
    most = lift.reshape(-1, 3).max(0).astype(np.float64) if lift is not None else np.zeros(3)
    lifted = lift_table(most, gamma) if most.max() > 1e-9 else None
    little = lift_table(most * SMALL, gamma) if lifted is not None else None
    base = _common(weight) if varied is None else np.ones(3)
    other = _tiles(np.asarray(cv2.absdiff(weight, _like(weight, base)), np.float32), 2e-6) if varied is None else varied
    lit = np.zeros_like(other) if lifted is None or lift is None else _tiles(lift, 1e-9)
    short = (
        np.ones_like(other)
        if lifted is None or lift is None
        else _tiles(np.asarray(cv2.subtract(_like(lift, most), lift), np.float32), float(most.max()) * 1e-3)
    )
    none, full = ~other & ~lit, ~other & ~short
    flats: list[Flat] = []
    if lifted is not None:
        flats += [
            Flat(r.moved(put.x, put.y), _flat_tables(base**exponent, lifted, phase, sent))
            for r in rects_of_tiles(full, w, h)
        ]
    if np.abs(base - 1).max() > 1e-6 or sent is not None:
        flats += [
            Flat(r.moved(put.x, put.y), _flat_tables(base**exponent, None, phase, sent))
            for r in rects_of_tiles(none, w, h)
        ]
    worked = []
    nearly = (
        np.zeros_like(other)
        if lift is None or lifted is None
        else ~_tiles(np.asarray(cv2.subtract(_like(lift, most * NEARLY), lift), np.float32), 0.0)
    )
    for r in (*rects_of_tiles(~none & ~full & nearly, w, h), *rects_of_tiles(~none & ~full & ~nearly, w, h)):
        at = r.moved(put.x, put.y)
        amounts: tuple[NDArray[np.uint16] | None, ...] = ()
        if lifted is not None and lift is not None:
            amounts = _amounts(
                np.ascontiguousarray(lift[r.cut()] / np.maximum(most, 1e-12).astype(np.float32)), exponent
            )
        factor = np.asarray(cv2.pow(np.ascontiguousarray(weight[r.cut()]), exponent), np.float32)
        peak = max(1.0, float(factor.max()))
        worked.append(Worked(at, _parts(factor, peak, 1.0), peak, amounts, _dither(at.w, at.x % 4, at.y % 4, phase)))
    if not flats and not worked:
        return None
    tables = tuple(np.rint(t * PART).astype(np.uint16) for t in (lifted, little) if t is not None)
    return Finish(tuple(flats), tuple(worked), tables, curve=None if sent is None else _curve(sent))


SMALL, NEARLY, MOST = 0.05, 0.9, 2.0
"""The share of a lift that its second table is of, that from which on the first alone will do, and the most of either
table.
"""


def _amounts(share: Floats, exponent: float) -> tuple[NDArray[np.uint16] | None, ...]:
    """How much of each of a finish's two lifts makes a share of the full one, shape (h, w, 3)."""
    black = np.asarray(cv2.pow(share, exponent), np.float32)
    if float(share.min()) > NEARLY:
        return _parts(black, MOST, 0.0), None
    little = np.float32(SMALL**exponent)
    second = (black - share) / (little - np.float32(SMALL))
    first = share - np.float32(SMALL) * second
    low = share < SMALL
    second, first = np.where(low, black / little, second), np.where(low, 0, np.maximum(first, 0))
    second, first = second.astype(np.float32), first.astype(np.float32)
    return _parts(first, MOST, 0.0) if first.any() else None, _parts(second, MOST, 0.0) if second.any() else None


def _like(picture: Floats, value: NDArray[np.float64]) -> Floats:
    """A picture of the same shape, of one value."""
    return np.broadcast_to(
        value.astype(np.float32) if picture.ndim == 3 else np.float32(value[0]), picture.shape
    ).copy()


def _parts(values: Floats, peak: float, alpha: float) -> NDArray[np.uint16]:
    """One or three channels as four, in 65535 parts of ``peak``; the last is ``alpha`` all over."""
    parts = [
        np.asarray(cv2.addWeighted(v, ONE / peak, v, 0.0, 0.0, dtype=cv2.CV_16U), np.uint16)
        for v in (cv2.split(values) if values.ndim == 3 else [values])
    ]
    parts = parts if len(parts) == 3 else parts * 3
    return np.asarray(cv2.merge([*parts, np.full(values.shape[:2], round(alpha / peak * ONE), np.uint16)]), np.uint16)


def _common(weight: Floats) -> NDArray[np.float64]:
    """The weight of each channel that the middle of a picture has, if a tenth of it, looked at coarsely, has it too;
    else 1.
    """
    part = weight[::8, ::8] if weight.ndim == 3 else np.repeat(weight[::8, ::8, None], 3, 2)
    middle = part[part.shape[0] // 2, part.shape[1] // 2].astype(np.float64)
    same = (np.abs(part - middle.astype(np.float32)) < 2e-6).all(2).mean() > 0.1
    return middle if same and middle.min() > 0 else np.ones(3)


def _table(raster: Pixels, flat: Flat) -> None:
    x0, y0, x1, y1 = flat.at.x, flat.at.y, flat.at.right, flat.at.foot
    first = x0 % 4
    for r in range(4):
        rows = raster[y0 + (r - y0) % 4 : y1 : 4]
        if not len(rows):
            continue
        table = np.roll(flat.tables[r], -4 * first, axis=2) if first else flat.tables[r]
        n = (x1 - x0) // 4
        if n:
            part = np.ascontiguousarray(rows[:, x0 : x0 + 4 * n]).reshape(len(rows), n, 16)
            rows[:, x0 : x0 + 4 * n] = cv2.LUT(part, table).reshape(len(rows), 4 * n, 4)
        for c in range(4 * n, x1 - x0):
            k = (c % 4) * 4
            rows[:, x0 + c] = cv2.LUT(
                np.ascontiguousarray(rows[:, x0 + c : x0 + c + 1]), np.ascontiguousarray(table[..., k : k + 4])
            )[:, 0]


def _work(
    raster: Pixels,
    part: Worked,
    lifted: tuple[NDArray[np.uint16], ...],
    curve: tuple[NDArray[np.uint16], NDArray[np.uint16]] | None,
) -> None:
    """Code and its lift, times factor, and dither added, in 256 parts of a code; whole codes are what is left of it."""
    lit, rows = raster[part.at.cut()], len(part.dither)
    value = np.empty(part.dither.shape, np.uint16)
    for y in range(0, part.at.h, rows):
        codes = lit[y : y + rows]
        n = len(codes)
        now = value[:n]
        np.copyto(now, codes)
        if part.lift:
            np.left_shift(now, 8, out=now)
        for table, amount in zip(lifted, part.lift, strict=False):
            if amount is not None:
                added = cv2.LUT(np.ascontiguousarray(codes), table)
                cv2.add(now, cv2.multiply(added, amount[y : y + rows], scale=MOST / ONE), dst=now)
        cv2.multiply(now, part.factor[y : y + rows], dst=now, scale=part.peak * (1 if part.lift else PART) / ONE)
        if curve is not None:
            whole = np.right_shift(now, 8).astype(np.uint8)
            np.bitwise_and(now, 255, out=now)
            cv2.multiply(now, cv2.LUT(whole, curve[1]), dst=now, scale=1 / PART)
            cv2.add(now, cv2.LUT(whole, curve[0]), dst=now)
        cv2.add(now, part.dither[:n], dst=now)
        np.right_shift(now, 8, out=now)
        np.copyto(codes, now, casting="unsafe")


def run_finish(finish: Finish, raster: Pixels) -> None:
    """Weigh and lift the light of a raster, in place.

    Parameters
    ----------
    finish : Finish
        What is done to pixels last.
    raster : Pixels
        An output’s picture, shape (h, w, 4).
    """
    for part in finish.worked:
        _work(raster, part, finish.lifted, finish.curve)
    for flat in (*finish.flats, *finish.toned):
        _table(raster, flat)
