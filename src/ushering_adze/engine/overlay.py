"""What is laid over the show while it is aligned: patterns on outputs, and outputs dimmed or without their blend."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Literal, NamedTuple

from ushering_adze.core.layout.align_data import outputs_of
from ushering_adze.core.light.lining_up import moving_line
from ushering_adze.core.light.showing import Shown, on_canvas, on_outputs
from ushering_adze.core.picture.frame import Pixels
from ushering_adze.core.show import Show

Where = Literal["surface", "output", "all"]


class Overlay(NamedTuple):
    """Laid over outputs; the show goes on under it, and is there again, exactly, once it is taken away.

    ``rasters`` are pictures in place of an output's own.  ``canvases`` are pictures in place of canvases, for some outputs: they go
    through the landing as the canvas would.  ``bare`` outputs have no weights and lifts.  ``dim`` are factors on codes.  ``moving``
    gives rasters by the time in seconds, and is asked for every frame.
    """

    rasters: Mapping[str, Pixels] = {}
    canvases: Mapping[str, Mapping[str, Pixels]] = {}
    bare: frozenset[str] = frozenset()
    dim: Mapping[str, float] = {}
    moving: Callable[[float], Mapping[str, Pixels]] | None = None

    def patterns(self, output: str) -> bool:
        """Whether an output shows a pattern in place of the show."""
        return output in self.rasters or output in self.canvases or self.moving is not None


def aligning_overlay(show: Show, surface: str, output: str, shown: Shown | None, where: Where, bare: bool, others: float) -> Overlay:
    """What is laid over outputs while a surface is aligned.

    Parameters
    ----------
    surface, output : str
        What is aligned, and which of its outputs is on view.
    shown : Shown, optional
        The pattern; None for the show itself.
    where : str
        On all outputs of the surface, on the one on view, or on all there are.
    bare : bool
        Without weights and lifts.
    others : float
        Factor on the codes of the surface's other outputs.
    """
    mine = outputs_of(show, [surface])
    dim = dict.fromkeys((id for id in mine if id != output), others) if others != 1 else {}
    without = frozenset(mine) if bare else frozenset()
    if shown is None:
        return Overlay(bare=without, dim=dim)
    surfaces = [s.id for s in show.surfaces if show.lit_by(s.id)] if where == "all" else [surface]
    wanted = {output} if where == "output" else set(outputs_of(show, surfaces))
    if shown.name == "line":
        sizes = {id: (show.output(id).timing.width, show.output(id).timing.height) for id in wanted}
        return Overlay(bare=without, dim=dim, moving=lambda t: {id: moving_line(w, h, t, shown.look) for id, (w, h) in sizes.items()})
    rasters: dict[str, Pixels] = {}
    canvases: dict[str, Mapping[str, Pixels]] = {}
    for id in surfaces:
        if shown.on == "output":
            rasters.update({o: p for o, p in on_outputs(show, id, shown).items() if o in wanted})
        else:
            canvases.update({o: p for o, p in on_canvas(show, id, shown).items() if o in wanted})
    return Overlay(rasters, canvases, without, dim)
