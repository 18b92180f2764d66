"""States of layers as tests want them."""

from __future__ import annotations

from ushering_adze.core.picture.layers import LayerState, layer_state
from ushering_adze.core.show import Canvas, LayerSettings


def plain() -> LayerState:
    """A layer over all of a canvas that shows nothing, and to which nothing is done."""
    return layer_state(LayerSettings(), Canvas(id="c", name="C", width=100, height=100))
