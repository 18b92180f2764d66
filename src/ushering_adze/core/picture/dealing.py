"""The pictures that a layer is dealt out as, each as a layer of its own."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ushering_adze.core.kinds.on_its_way import Shown, by_share, filled
from ushering_adze.core.kinds.spread import OWN
from ushering_adze.core.mapping.spreading import ITS_OWN, Dealt, dealt
from ushering_adze.core.picture.layers import LayerState
from ushering_adze.core.plane.boxes import Box
from ushering_adze.core.show import Show

Deal = Callable[[Any], tuple[Dealt, ...]]
"""What a spread makes of a layer's picture on one canvas."""


def in_its_box(spread: Any) -> tuple[Dealt, ...]:
    """Every layer in its own box: of a canvas that belongs to no show.

    Parameters
    ----------
    spread : object
        Not looked at.
    """
    return ITS_OWN


def deal_of(show: Show, canvas: str) -> Deal:
    """How layers of a canvas are dealt out in a show.

    Parameters
    ----------
    show : Show
    canvas : str

    Returns
    -------
    callable
    """
    return lambda spread: dealt(show, canvas, spread)


def in_place(state: LayerState, one: Dealt) -> LayerState:
    """A layer as one of the pictures that it is dealt out as: in that box, with that source.

    Parameters
    ----------
    state : LayerState
    one : Dealt

    Returns
    -------
    LayerState
        The very same if it lies in its own box.
    """
    if state.spread == OWN:
        return state
    picture = state.picture if one.source is None else Shown(one.source, by_share(state.picture)[0].fit)
    picture = picture if one.fit is None else filled(picture, one.fit)
    place: Box = state.place if one.box is None else one.box
    return state._replace(place=place, spread=OWN, picture=picture)
