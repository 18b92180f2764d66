"""What is laid over the show while it is aligned: patterns on outputs, and outputs dimmed or without their blend."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import NamedTuple

from ushering_adze.core.light.lining_up import moving_line
from ushering_adze.core.light.showing import on_canvas, on_outputs
from ushering_adze.core.mapping.align_data import outputs_of
from ushering_adze.core.onair.laid import pattern_shown
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Show
from ushering_adze.core.show.laid import Laid


class Overlay(NamedTuple):
    """Laid over outputs; the show goes on under it, and is there again, exactly, once it is taken away.

    ``rasters`` are pictures in place of an output's own.  ``canvases`` are pictures in place of canvases, for some
    outputs: they go through the landing as the canvas would.  ``bare`` outputs have no weights and lifts.  ``dim`` are
    factors on codes.  ``moving`` gives rasters by the time in seconds, and is asked for every frame.
    """

    rasters: Mapping[str, Pixels] = {}
    canvases: Mapping[str, Mapping[str, Pixels]] = {}
    bare: frozenset[str] = frozenset()
    dim: Mapping[str, float] = {}
    moving: Callable[[float], Mapping[str, Pixels]] | None = None

    def patterns(self, output: str) -> bool:
        """Whether an output shows a pattern in place of the show."""
        return output in self.rasters or output in self.canvases or self.moving is not None


def overlay_of(show: Show, laid: Laid | None) -> Overlay:
    """The pictures of what is laid over outputs.

    Parameters
    ----------
    show : Show
    laid : Laid, optional
        None for nothing.
    """
    if laid is None:
        return Overlay()
    surface, output, others = laid.surface, laid.output, laid.others
    shown = None if laid.pattern is None else pattern_shown(laid.pattern)
    mine = outputs_of(show, [surface])
    dim = dict.fromkeys((id for id in mine if id != output), others) if others != 1 else {}
    without = frozenset(mine) if laid.bare else frozenset()
    if shown is None:
        return Overlay(bare=without, dim=dim)
    surfaces = [s.id for s in show.surfaces if show.lit_by(s.id)] if laid.where == "all" else [surface]
    wanted = {output} if laid.where == "output" else set(outputs_of(show, surfaces))
    if shown.name == "line":
        sizes = {id: (show.output(id).timing.width, show.output(id).timing.height) for id in wanted}
        return Overlay(
            bare=without,
            dim=dim,
            moving=lambda t: {id: moving_line(w, h, t, shown.look) for id, (w, h) in sizes.items()},
        )
    rasters: dict[str, Pixels] = {}
    canvases: dict[str, Mapping[str, Pixels]] = {}
    for id in surfaces:
        if shown.on == "output":
            rasters.update({o: p for o, p in on_outputs(show, id, shown).items() if o in wanted})
        else:
            canvases.update({o: p for o, p in on_canvas(show, id, shown).items() if o in wanted})
    return Overlay(rasters, canvases, without, dim)
