"""A small picture of a canvas, whole, for who builds on it: as it is on program, on preview, or in a preset that is on
neither.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from ushering_adze.core.onair.stage import Stage, sources_of
from ushering_adze.core.onair.view import View, state_of
from ushering_adze.core.picture.dealing import deal_of
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import LayerState, State
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Canvas
from ushering_adze.engine.canvas import CanvasPainter
from ushering_adze.engine.pictures import PreviewPictures
from ushering_adze.engine.renderer import layers_of

LONGEST = 1024
"""Pixels of the longer side of its picture."""


class Looked(NamedTuple):
    """What a view shows: the state of each of its layers, and its picture."""

    view: View
    layers: dict[str, LayerState]
    pixels: Pixels


class Looking:
    """Makes the picture of a view, when one is wanted."""

    def __init__(self) -> None:
        self.view: View | None = None
        self._painter: CanvasPainter | None = None

    def sources(self, stage: Stage, now: float) -> set[str]:
        """The sources that are wanted for it."""
        view = self.view
        return set() if view is None else sources_of(self._of_canvas(stage, view, now))

    def picture(
        self, stage: Stage, now: float, frames: Callable[[State], dict[str, Frame]], previews: PreviewPictures
    ) -> Looked | None:
        """What the view shows at a moment; None if nothing is looked at, or its canvas is gone.  What is on preview,
        and just as large among the ``previews`` of surfaces, is painted once for both.
        """
        view = self.view
        canvas = None if view is None else next((c for c in stage.show.canvases if c.id == view.canvas), None)
        if view is None or canvas is None:
            return None
        state = self._of_canvas(stage, view, now)
        scale = min(1.0, LONGEST / max(canvas.width, canvas.height))
        shared = previews.painter(canvas, scale) if view.on == "preview" else None
        painter = self._painter_of(canvas, scale) if shared is None else shared
        painter.draw(layers_of(canvas, state), frames(state), deal=deal_of(stage.show, canvas.id))
        return Looked(view, {id: layer for (_, id), layer in state.items()}, painter.pixels.copy())

    @staticmethod
    def _of_canvas(stage: Stage, view: View, now: float) -> State:
        return {key: value for key, value in state_of(stage, view, now).items() if key[0] == view.canvas}

    def _painter_of(self, canvas: Canvas, scale: float) -> CanvasPainter:
        if self._painter is None or self._painter.canvas != canvas:
            self._painter = CanvasPainter(canvas, scale)
        return self._painter
