"""Pictures made without a clock: the same every time, for checks and for files."""

from __future__ import annotations

from pathlib import Path

from ushering_adze.core.picture.frame import Pixels
from ushering_adze.core.recall.motion import opening_motion, recall
from ushering_adze.core.show import Fault, Show, ShowError
from ushering_adze.engine.pool import SourcePool
from ushering_adze.engine.renderer import Renderer, sources_of


def rendered(show: Show, root: Path, preset: int, at: float | None = None) -> tuple[Renderer, dict[str, str]]:
    """Every output's picture some seconds after a preset is recalled on the opened show.

    Parameters
    ----------
    show : Show
    root : Path
        Folder of the show file.
    preset : int
        Number of the preset.
    at : float, optional
        Seconds after the recall; by default the moment when all has settled.

    Returns
    -------
    renderer : Renderer
        Holding canvases and output rasters.
    faults : dict
        Why each lost source is lost.

    Raises
    ------
    ShowError
        If there is no such preset.
    """
    wanted = show.preset(preset)
    if wanted is None:
        known = ", ".join(str(p.number) for p in show.presets) or "none yet"
        raise ShowError([Fault("", f"no preset number {preset}; there are: {known}")])
    motion = recall(show, opening_motion(show), wanted, 0.0)
    if at is None:
        at = max((t.seconds for t in motion.tracks.values()), default=0.0)
    state = motion.at(at)
    pool = SourcePool()
    try:
        pool.set_show(show.model_copy(update={"sources": tuple(s for s in show.sources if s.id in sources_of(state))}), root)
        renderer = Renderer(show, whole=True)
        renderer.draw(state, pool.exact(sources_of(state), at))
        return renderer, pool.faults()
    finally:
        pool.close()


def patterned(show: Show, name: str) -> Renderer:
    """Every output's picture with a test pattern on every canvas."""
    renderer = Renderer(show)
    renderer.draw_pattern(name)
    return renderer


def output_pictures(renderer: Renderer) -> dict[str, Pixels]:
    """The raster of each output by its id."""
    return {id: output.pixels for id, output in renderer.outputs.items()}
