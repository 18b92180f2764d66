"""Sources put together from parts that come by themselves, each of the same moment."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise

import cv2
import numpy as np

from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.key import fill_keyed
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import FillKey, Parts
from ushering_adze.io.media.live import Held
from ushering_adze.io.media.still import serials


def in_step(held: Mapping[str, Sequence[Held]]) -> dict[str, Frame]:
    """Of each part the picture of the newest moment that all of them have.

    Parts whose pictures carry no time stamps are taken by when they came.

    Parameters
    ----------
    held : mapping
        The pictures that each part has kept, the oldest first.

    Returns
    -------
    dict of Frame
        Empty while there is no such moment.
    """
    there = {id: pictures for id, pictures in held.items() if pictures}
    if not there:
        return {}
    stamped = all(p[-1].stamp is not None for p in there.values())

    def moment(picture: Held) -> float:
        return picture.stamp if stamped and picture.stamp is not None else picture.born

    steps = [b - a for p in there.values() for a, b in pairwise(map(moment, p)) if b > a]
    slack = min(steps, default=0.0) / 2
    until = min(moment(p[-1]) for p in there.values()) + slack
    found = {id: next((p for p in reversed(pictures) if moment(p) <= until), None) for id, pictures in there.items()}
    taken = [p for p in found.values() if p is not None]
    if len(taken) < len(there) or (stamped and max(map(moment, taken)) - min(map(moment, taken)) > slack):
        return {}
    return {id: p.frame for id, p in found.items() if p is not None}


def put_together(source: Parts, frames: Sequence[Frame | None], keys: Sequence[Frame | None]) -> Frame | None:
    """One picture of all parts, in their grid; what is missing is clear.

    Parameters
    ----------
    source : Parts
    frames : sequence of Frame or None
        Row by row.
    keys : sequence of Frame or None
        Of the parts; empty if they have none.

    Returns
    -------
    Frame or None
        None if there is no part at all.
    """
    first = next((f for f in frames if f is not None), None)
    if first is None:
        return None
    h, w = first.pixels.shape[:2]
    step_x, step_y = max(1, w - source.overlap_px), max(1, h - source.overlap_down_px)
    whole = np.zeros((step_y * (source.rows - 1) + h, step_x * (source.columns - 1) + w, 4), np.uint8)
    opaque = not source.keys
    for n, frame in enumerate(frames):
        if frame is None:
            opaque = False
            continue
        pixels: Pixels = frame.pixels
        if source.keys:
            key = keys[n]
            pixels = fill_keyed(
                pixels, np.zeros((1, 1, 4), np.uint8) if key is None else key.pixels, FillKey(source=source.keys[n])
            )
        if pixels.shape[:2] != (h, w):
            pixels = np.asarray(cv2.resize(pixels, (w, h), interpolation=cv2.INTER_AREA), np.uint8)
        row, column = divmod(n, source.columns)
        whole[row * step_y : row * step_y + h, column * step_x : column * step_x + w] = pixels
        opaque = opaque and frame.opaque
    born = min((f.born for f in frames if f is not None and f.born), default=0.0)
    return Frame(whole, next(serials), opaque)._replace(born=born)
