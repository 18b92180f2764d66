"""Dressed pictures, made once: one that is neither another nor asked for in another way is not made again."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np

from ushering_adze.core.kinds.on_its_way import Shown
from ushering_adze.core.picture.compose import Piece, Sheet
from ushering_adze.core.picture.dressed import Dresser, Laid
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import LayerState, sources_of_layer
from ushering_adze.core.picture.mixing import mix_of, noticeable
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect

ALL = 0.9999
"""A weight that is as good as 1."""


class Asked(NamedTuple):
    """What is asked for: all that the dressed picture depends on, where it is to be, and how much of it there is."""

    stamp: object
    box: Rect
    weight: float


def serials_of(state: LayerState, frames: Mapping[str, Frame]) -> tuple[int, ...]:
    """The numbers of the pictures in a layer, source by source; 0 for one that is not there."""
    return tuple(frames[s].serial if s in frames else 0 for s in sources_of_layer(state))


def asked_of(state: LayerState, box: Rect, frames: Mapping[str, Frame], beside: object) -> Asked:
    """What a layer asks for.

    A picture that comes from nothing, or goes to it, is the same one all the while: only its weight changes.  So is
    one that is moved by whole pixels, or that fades.

    Parameters
    ----------
    state : LayerState
    box : Rect
        Its box in whole pixels of the canvas.
    frames : mapping
        By source.
    beside : object
        Whatever else it depends on.

    Returns
    -------
    Asked
    """
    mix = noticeable(mix_of(state.picture))
    there = [s for s in mix if not isinstance(s.picture, Shown) or s.picture.source in frames]
    alone = there[0] if len(there) == 1 and isinstance(there[0].picture, Shown) else None
    picture = state.picture if alone is None else alone.picture
    look = state._replace(picture=picture, place=(0.0, 0.0, 0.0, 0.0), opacity=1.0, blend="normal")
    weight = 1.0 if alone is None or alone.weight >= ALL else alone.weight
    return Asked((look, box.w, box.h, serials_of(state, frames), beside), box, weight)


class Weighed(NamedTuple):
    """A dressed picture, and with which weight it is laid."""

    laid: Laid
    weight: float


def sheet_of(made: Weighed, state: LayerState) -> Sheet:
    """A dressed picture, ready to be laid on its canvas."""
    laid, weight = made
    return Sheet((Piece(laid.pixels, laid.at, weight, False),), laid.at, laid.at, (0, 0, 0), state.opacity, state.blend)


class _Kept(NamedTuple):
    asked: Asked
    made: Weighed
    whole: bool


class DressedOnce:
    """Who dresses the pictures of one layer, and what was made last."""

    def __init__(self) -> None:
        self.dresser = Dresser()
        self._kept: _Kept | None = None

    def again(self, asked: Asked) -> Weighed | None:
        """What was made for the same, where it is to be now; None if that has to be made."""
        kept = self._kept
        if kept is None or kept.asked.stamp != asked.stamp or not (kept.whole or kept.asked == asked):
            return None
        was, now = kept.asked.box, asked.box
        laid = kept.made.laid._replace(at=kept.made.laid.at.moved(now.x - was.x, now.y - was.y))
        return Weighed(laid, asked.weight if kept.whole else kept.made.weight)

    def keep(self, asked: Asked, made: Weighed, flat: Pixels, whole: bool) -> None:
        """Keep what was made.

        Parameters
        ----------
        asked : Asked
        made : Weighed
        flat : ndarray
            What it was made from: memory that will be written to, so what lies in it is not kept.
        whole : bool
            Whether it was made of one opaque picture that fills its box: then weight and place do not matter.
        """
        self._kept = None if np.may_share_memory(made.laid.pixels, flat) else _Kept(asked, made, whole)

    def forget(self) -> None:
        """Keep nothing."""
        self._kept = None
