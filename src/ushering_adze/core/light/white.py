"""White points, uniformity and masks: factors on the light of an output."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.plane.remap import remapped
from ushering_adze.core.show.light import White
from ushering_adze.core.show.output import LightGrid, Mask

Floats = NDArray[np.float32]
BT709 = ((0.640, 0.330), (0.300, 0.600), (0.150, 0.060))
"""Primaries of Rec. ITU-R BT.709, CIE xy (checked against colour-science)."""


def _xyz(x: float, y: float) -> NDArray[np.float64]:
    return np.array([x / y, 1.0, (1 - x - y) / y])


def light_of_xyz(x: float, y: float, luminance: float) -> NDArray[np.float64]:
    """Red, green and blue light of BT.709's primaries that add to a colour of this CIE xy and luminance; equal ones
    make its white, D65.

    Parameters
    ----------
    x : float
        CIE 1931 x, or X, as the name says.
    y : float
        CIE 1931 y.
    luminance : float
        In cd/m².

    Returns
    -------
    ndarray, shape (3,)
        Each as the luminance that a white of as much red, green and blue has; below 0 outside the triangle of the
        primaries.

    References
    ----------
    ITU-R BT.709-6, item 1.3, primaries and white D65; the matrix by SMPTE RP 177 (from memory).

    Examples
    --------
    >>> light_of_xyz(0.3127, 0.3290, 500).round(6).tolist()
    [500.0, 500.0, 500.0]
    """
    primaries = np.array([_xyz(*p) for p in BT709]).T
    one = np.linalg.solve(primaries, _xyz(0.3127, 0.3290))
    return np.asarray(np.linalg.solve(primaries, _xyz(x, y)) / one * luminance)


def xyz_of_light(light: NDArray[np.float64]) -> NDArray[np.float64]:
    """CIE XYZ of red, green and blue light of BT.709's primaries; the inverse of `light_of_xyz`.

    Examples
    --------
    >>> x, y, z = xyz_of_light(light_of_xyz(0.32, 0.34, 250))
    >>> round(y, 6).item(), round(x / (x + y + z), 6).item(), round(y / (x + y + z), 6).item()
    (250.0, 0.32, 0.34)
    """
    primaries = np.array([_xyz(*p) for p in BT709]).T
    return np.asarray(primaries @ (np.linalg.solve(primaries, _xyz(0.3127, 0.3290)) * light))


def white_gains(white: White) -> tuple[float, float, float]:
    """Factors on red, green and blue light that turn a display's native white into another; the largest is 1.

    Raises
    ------
    ValueError
        If the white lies outside what the primaries can make.

    Examples
    --------
    >>> white_gains(White(x=0.3127, y=0.3290))
    (1.0, 1.0, 1.0)
    """
    primaries = np.array([_xyz(*p) for p in BT709]).T
    native = np.linalg.solve(primaries, _xyz(*white.native))
    gains = np.linalg.solve(primaries, _xyz(white.x, white.y)) / native
    if not np.isfinite(gains).all() or gains.min() <= 0:
        raise ValueError(
            f"a white at x {white.x:g}, y {white.y:g} lies outside the display's colours; choose one nearer to daylight"
        )
    red, green, blue = (gains / gains.max()).round(9).tolist()
    return red, green, blue


def kelvin_to_xy(kelvin: float) -> tuple[float, float]:
    """CIE xy of a correlated colour temperature: daylight from 4000 K on, below it the black body.

    Parameters
    ----------
    kelvin : float
        1667 to 25 000.

    Raises
    ------
    ValueError
        Outside that range.

    Notes
    -----
    Daylight: CIE 15:2004, equations 3.3 and 3.4.  Black body: the cubic approximation of Kim et al., US patent 7024034
    (2006), from memory.  Both are checked against colour-science.

    References
    ----------
    CIE 15:2004, section 3.1, the daylight locus (from memory).

    Examples
    --------
    >>> [round(v, 4) for v in kelvin_to_xy(6504)]
    [0.3127, 0.3291]
    """
    if not 1667 <= kelvin <= 25000:
        raise ValueError(f"{kelvin:g} K is no colour temperature this reaches; from 1667 to 25 000 K")
    t = 1000.0 / kelvin
    if kelvin >= 4000:
        a = (0.244063, 0.09911, 2.9678, -4.6070) if kelvin <= 7000 else (0.237040, 0.24748, 1.9018, -2.0064)
        x = a[0] + a[1] * t + a[2] * t * t + a[3] * t**3
        return x, -3.0 * x * x + 2.870 * x - 0.275
    x = -0.2661239 * t**3 - 0.2343589 * t * t + 0.8776956 * t + 0.179910
    b = (
        (-1.1063814, -1.34811020, 2.18555832, -0.20219683)
        if kelvin <= 2222
        else (-0.9549476, -1.37418593, 2.09137015, -0.16748867)
    )
    return x, b[0] * x**3 + b[1] * x * x + b[2] * x + b[3]


def grid_light(grid: LightGrid, width: int, height: int) -> Floats:
    """A light grid over a whole raster, shape (height, width, 3), blue first, float32: bilinear, its outer points on
    the outer pixels.

    Parameters
    ----------
    grid : LightGrid
        Points by row and column.
    width : int
        In pixels.
    height : int
        In pixels.

    Returns
    -------
    Floats
    """
    values = (
        np.array([grid.blue, grid.green, grid.red], np.float32).reshape(3, grid.rows, grid.columns).transpose(1, 2, 0)
    )
    u = np.linspace(0, grid.columns - 1, width, dtype=np.float32)
    v = np.linspace(0, grid.rows - 1, height, dtype=np.float32)
    at = np.meshgrid(u, v)
    return remapped(np.ascontiguousarray(values), *at)


def even_grid(columns: int, rows: int) -> LightGrid:
    """A light grid that changes nothing.

    Parameters
    ----------
    columns : int
        How many, from left to right.
    rows : int
        How many, from top to bottom.

    Returns
    -------
    LightGrid
    """
    ones = (1.0,) * (columns * rows)
    return LightGrid(columns=columns, rows=rows, red=ones, green=ones, blue=ones)


def brightness_of(grid: LightGrid) -> list[list[float]]:
    """The brightest colour's factor at each point of a light grid, row by row.

    Examples
    --------
    >>> brightness_of(even_grid(2, 2))
    [[1.0, 1.0], [1.0, 1.0]]
    """
    most = np.max([grid.red, grid.green, grid.blue], 0).reshape(grid.rows, grid.columns)
    return [[float(v) for v in row] for row in most]


def with_brightness(grid: LightGrid, rows: Sequence[Sequence[float]]) -> LightGrid:
    """A light grid with other brightness at its points; its colours keep their shares of one another, and dark points
    become grey.

    Parameters
    ----------
    grid : LightGrid
    rows : sequence of sequence of float
        As `brightness_of` gives them; 0 to 1.

    Examples
    --------
    >>> warm = LightGrid(columns=2, rows=2, red=(1, 1, 1, 1), green=(1, 1, 1, 1), blue=(0.5, 0.5, 0.5, 0.5))
    >>> with_brightness(warm, [[0.8, 1], [1, 1]]).blue[0], with_brightness(warm, [[0.8, 1], [1, 1]]).red[0]
    (0.4, 0.8)
    """
    colours = np.array([grid.red, grid.green, grid.blue], float)
    most = colours.max(0)
    shares = np.where(most > 0, colours / np.where(most > 0, most, 1), 1.0)
    red, green, blue = (tuple(float(v) for v in k) for k in shares * np.array(rows, float).ravel())
    return grid.model_copy(update={"red": red, "green": green, "blue": blue})


def mask_light(masks: Sequence[Mask], width: int, height: int) -> Floats | None:
    """How much light masks let through, shape (height, width), float32; None if no mask is on.

    A soft edge lies within the dark polygon, and within the lit one of a mask that keeps its inside.

    Parameters
    ----------
    masks : Sequence[Mask]
        What keeps light off.
    width : int
        In pixels.
    height : int
        In pixels.

    Returns
    -------
    Floats | None
    """
    light: Floats | None = None
    for mask in masks:
        if not mask.on:
            continue
        inside = np.zeros((height, width), np.uint8)
        points = np.round((np.array(mask.points) - 0.5) * 16).clip(-(1 << 24), 1 << 24).astype(np.int32)
        cv2.fillPoly(inside, [points], 1, shift=4)
        if mask.soft > 0:
            depth = cv2.distanceTransform(np.pad(inside, 1, mode="edge"), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[
                1:-1, 1:-1
            ]
            part = np.clip(depth / np.float32(mask.soft), 0, 1).astype(np.float32)
        else:
            part = inside.astype(np.float32)
        let = part if mask.keep else 1 - part
        light = let if light is None else light * let
    return light
