"""Batches of LED cabinets: how one batch's codes are bent so that it looks like its neighbours, and what makes several
look alike.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.light.white import light_of_xyz, white_gains
from ushering_adze.core.show.led import Batch

Floats = NDArray[np.float64]


class Reading(NamedTuple):
    """What a meter reads on white: luminance in cd/m², and CIE 1931 x and y."""

    luminance: float
    x: float
    y: float


def batch_codes(batch: Batch, gamma: float) -> Floats:
    """The codes a batch is sent for each code it would be sent, with their fractions.

    Parameters
    ----------
    batch : Batch
    gamma : float
        Of the output: light that is meant = code ** gamma.

    Returns
    -------
    ndarray, shape (3, 256), float64
        Red, green, blue; 0 to 255.

    Examples
    --------
    >>> cell = {"column": 1, "row": 1}
    >>> batch_codes(Batch(name="B", cells=[cell]), 2.2)[0, [0, 100, 255]].round(6).tolist()
    [0.0, 100.0, 255.0]
    >>> batch_codes(Batch(name="B", cells=[cell], gain=(0.5, 1, 1)), 2.0)[0, 255].round(3).item()
    180.312
    """
    meant = (np.arange(256) / 255.0) ** gamma
    gain = np.array(batch.gain) * (np.array(white_gains(batch.white)) if batch.white is not None else 1.0)
    light = np.clip(meant * gain[:, None] + np.array(batch.offset)[:, None], 0, 1)
    return np.asarray(light ** (1 / (batch.gamma or gamma)) * 255)


def gamma_of(white: float, grey: float, code: int = 128) -> float:
    """The gamma of panels from their luminance on white and on a grey of this code, in cd/m².

    Parameters
    ----------
    white : float
        White point in CIE 1931 x, y.
    grey : float
        A grey.
    code : int, optional
        0 to 255.

    Returns
    -------
    float

    Raises
    ------
    ValueError
        If the grey is not darker than the white, or the gamma is none that panels have.

    Examples
    --------
    >>> round(gamma_of(1000, 1000 * (128 / 255) ** 2.3), 3)
    2.3
    """
    if not 0 < grey < white:
        raise ValueError(
            f"a grey of {grey:g} cd/m² is not between black and a white of {white:g}; read code {code} of 255"
        )
    found = float(np.log(grey / white) / np.log(code / 255))
    if not 0.5 <= found <= 5:
        raise ValueError(
            f"the grey would mean a gamma of {found:.2f}; read code {code} of 255, with nothing else on the wall"
        )
    return found


def matching_gains(
    readings: Sequence[Reading], white: tuple[float, float] | None = None
) -> list[tuple[float, float, float]]:
    """Factors on red, green and blue light of each batch by which all give the same white, as bright as all of them
    can.

    Parameters
    ----------
    readings : sequence of Reading
        One for each batch, on full white and uncorrected.
    white : tuple of float, optional
        CIE xy of the white that all shall have; that of the first reading if not given.

    Returns
    -------
    list of tuple of float
        None above 1, and at least one of them 1.

    Raises
    ------
    ValueError
        If a reading is dark, or its white or the one that is wanted lies outside what BT.709's primaries make.

    Notes
    -----
    A reading is taken apart into red, green and blue light by the primaries of Rec. ITU-R BT.709 (CIE 15: colours add).
    Panels of other primaries come out alike as well, because each colour is compared with itself only; just the white
    is then a little off.

    Examples
    --------
    >>> [tuple(round(v, 3) for v in g) for g in matching_gains([Reading(1000, 0.3127, 0.329), Reading(800, 0.3127,
    ...     0.329)])]
    [(0.8, 0.8, 0.8), (1.0, 1.0, 1.0)]
    """
    if not readings:
        return []
    for n, r in enumerate(readings, 1):
        if r.luminance <= 0:
            raise ValueError(f"reading {n} has a luminance of {r.luminance:g} cd/m²; read it on full white")
        if not (0 < r.x < 1 and 0 < r.y < 1):
            raise ValueError(f"reading {n} has x {r.x:g} and y {r.y:g}; they lie between 0 and 1")
    lights = np.array([light_of_xyz(r.x, r.y, r.luminance) for r in readings])
    x, y = white if white is not None else (readings[0].x, readings[0].y)
    wanted = light_of_xyz(x, y, 1.0)
    for what, value in (*((f"reading {n}", v) for n, v in enumerate(lights, 1)), ("the white that is wanted", wanted)):
        if value.min() <= 0:
            raise ValueError(f"{what} lies outside the display's colours; check its x and y")
    gains = wanted * (lights / wanted).min() / lights
    return [(float(r), float(g), float(b)) for r, g, b in np.minimum(gains, 1.0)]


def matched(
    batches: Sequence[Batch],
    readings: Sequence[Reading],
    greys: Sequence[float | None],
    white: tuple[float, float] | None = None,
) -> tuple[Batch, ...]:
    """Batches of one wall with the light and gamma that make them alike.

    Parameters
    ----------
    batches : sequence of Batch
    readings : sequence of Reading
        Of each on full white, uncorrected.
    greys : sequence of float or None
        Luminance of each on code 128 of 255, uncorrected; None where it was not read, and the gamma stays.
    white : tuple of float, optional
        CIE xy of the white that is wanted; that of the batch with the most cabinets if not given.

    Raises
    ------
    ValueError
        As for `matching_gains` and `gamma_of`.
    """
    if white is None:
        most = max(zip(readings, batches, strict=True), key=lambda pair: len(pair[1].cells))[0]
        white = most.x, most.y
    gammas = [
        b.gamma if g is None else gamma_of(r.luminance, g) for b, r, g in zip(batches, readings, greys, strict=True)
    ]
    gains = matching_gains(readings, white)
    return tuple(
        b.model_copy(update={"gain": tuple(round(v, 5) for v in gain), "gamma": gamma, "white": None, "on": True})
        for b, gain, gamma in zip(batches, gains, gammas, strict=True)
    )
