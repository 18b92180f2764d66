"""A layer's picture in other colours: by numbers, by a power, by a table."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.kinds.colour import ColourNow
from ushering_adze.core.light.adjust import adjusted, adjustment
from ushering_adze.core.plane.pixels import Pixels, straight
from ushering_adze.core.show.output import Adjusted

Table = NDArray[np.float32]
"""A .cube's lattice, shape (n, n, n, 3): by blue, green, red; R, G, B of 0 to 1."""


def coloured(pixels: Pixels, colour: ColourNow, tables: Mapping[str, Table]) -> Pixels:
    """A picture in other colours.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 4), uint8
        BGRA, premultiplied.
    colour : ColourNow
        Brightness, contrast, saturation and gains as of sources; then gamma: code ** (1 / gamma); then the table.
    tables : mapping
        By the names of their files; a table that is not there changes nothing.

    Returns
    -------
    ndarray, shape (h, w, 4), uint8
        The very same if nothing is to be done.
    """
    brightness, contrast, saturation, gamma, red, green, blue = colour.numbers
    made = pixels
    if colour.flip != "none":
        made = np.asarray(cv2.flip(made, {"left-right": 1, "top-bottom": 0, "both": -1}[colour.flip]), np.uint8)
    matrix = adjustment(
        Adjusted(brightness=brightness, contrast=contrast, saturation=saturation, gain=(red, green, blue))
    )
    table = None if colour.table is None else tables.get(colour.table)
    if matrix is None and gamma == 1 and table is None:
        return made
    opaque = bool(made[..., 3].min() == 255)
    codes = made if opaque else straight(made)
    if matrix is not None:
        codes = adjusted(codes, matrix)
    if gamma != 1:
        codes = np.asarray(cv2.LUT(codes, _gamma_table(gamma)), np.uint8)
    if table is not None:
        codes = through(codes, table)
    if opaque:
        return codes
    alpha = made[..., 3]
    factor = cv2.merge([alpha, alpha, alpha, np.full_like(alpha, 255)])
    return np.asarray(cv2.multiply(codes, factor, scale=1 / 255), np.uint8)


@lru_cache(64)
def _gamma_table(gamma: float) -> Pixels:
    column = np.rint(255 * (np.arange(256) / 255) ** (1 / gamma)).astype(np.uint8)
    return np.dstack([np.stack([column] * 3, -1)[None], np.arange(256, dtype=np.uint8)[None]])


def through(codes: Pixels, table: Table) -> Pixels:
    """Codes by a lattice, between whose points one goes straight along each edge (trilinear).

    Parameters
    ----------
    codes : ndarray, shape (h, w, 4), uint8
        BGRA, straight; alpha is kept.
    table : ndarray, shape (n, n, n, 3), float32

    Returns
    -------
    ndarray, shape (h, w, 4), uint8

    References
    ----------
    Adobe, "Cube LUT Specification 1.0": red runs quickest (from memory).
    """
    n = table.shape[0]
    colours, back = np.unique(codes[..., :3].reshape(-1, 3), axis=0, return_inverse=True)
    at = colours[:, ::-1].astype(np.float32) * np.float32((n - 1) / 255)
    low = np.minimum(at.astype(np.int32), n - 2)
    part = at - low
    made = np.zeros((len(colours), 3), np.float32)
    for corner in range(8):
        step = np.array([corner & 1, corner >> 1 & 1, corner >> 2 & 1])
        weight = np.prod(np.where(step, part, 1 - part), axis=1)
        r, g, b = (low + step).T
        made += table[b, g, r] * weight[:, None]
    new = np.clip(np.rint(made[:, ::-1] * 255), 0, 255).astype(np.uint8)
    return np.dstack([new[back.ravel()].reshape((*codes.shape[:2], 3)), codes[..., 3]])
